"""The Corner page: one corner large."""
