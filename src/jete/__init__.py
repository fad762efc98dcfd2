"""Jete compares logged laps by distance and says where the time goes, and why."""

__version__ = "0.1.0"
