"""Jete compares logged laps by distance and says where the time goes, and why."""

import os

__version__ = "0.1.0"

# All matrices here are small: a second thread of the linear algebra only waits for its turn, on a busy machine for longer than
# the work takes. It reads this when NumPy is first imported; who wants otherwise sets it.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
