"""The numbers: pure functions over NumPy arrays and small frozen dataclasses.

No Qt, no files, no database.  Start reading in :mod:`jete.core.compare`.
"""
