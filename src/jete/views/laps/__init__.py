"""The Laps page: open logs, their laps, and the choice of reference and lap."""
