"""One file a step."""
