"""What leaves the program: JSON of the contract and tables for people."""
