"""What positions say of a lap: their errors, their drift, and the path through them."""
