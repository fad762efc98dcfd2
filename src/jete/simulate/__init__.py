"""A small vehicle, driver and logger: demo data, and known truth for the tests."""
