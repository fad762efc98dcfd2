"""What is told: which marks moved, what that cost, how sure it is."""
