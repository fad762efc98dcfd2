"""The window and its pages; no view knows another."""
