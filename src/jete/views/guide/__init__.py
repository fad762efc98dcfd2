"""The Guide page: one card a corner, measured and in own words."""
