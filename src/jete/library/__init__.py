"""Runs, laps, circuits and notes on disk: a database, and channel data as Parquet beside it."""
