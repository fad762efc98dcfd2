"""Readers of log files: one file per format, each gives a core ``Log``."""
