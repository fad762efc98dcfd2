"""The traces of both laps over the reference's distance."""
