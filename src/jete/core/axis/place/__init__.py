"""The place of every sample on the road: by positions, by bends, and how sure."""
