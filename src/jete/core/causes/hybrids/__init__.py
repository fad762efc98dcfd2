"""Speed profiles with some causes of one lap and the others of the other, kept possible."""
