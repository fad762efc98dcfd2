"""The Walk page: the lap gone through again, from above and from the seat."""
