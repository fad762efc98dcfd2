"""The speed over a corner as each lap drove it, between its marks."""
