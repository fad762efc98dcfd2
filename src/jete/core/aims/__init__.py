"""What to try in the next run, and what came of it."""
