"""What is noted about runs and laps besides what was logged: sheets, carrying notes over, looking for them, the trend of a run.

In: what people type, and lap times. Out: frozen data; no storage, no interface.
"""
