"""A corner from above, as several pages show it: what is drawn, and how metres become pixels."""
