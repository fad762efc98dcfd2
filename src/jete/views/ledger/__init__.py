"""The ledger: where the gap of a lap comes from, corner by corner."""
