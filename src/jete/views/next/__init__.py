"""The page Next run."""
