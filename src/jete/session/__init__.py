"""What is open and what is looked at: frozen state and pure operations, no Qt."""
