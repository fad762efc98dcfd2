"""The slowest pace at which places on the road are told apart."""

from __future__ import annotations

# Jogging.  Slower, a vehicle stands, spins or is pushed: what is divided by its speed (curvature
# from a yaw rate, an error of place in seconds) would grow without bound.  No bend that is raced
# is slower; a higher value would flatten hairpins.
SLOWEST_MPS = 4.0
