"""How a library of an earlier version becomes one of this version."""
