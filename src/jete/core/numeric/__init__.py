"""Mathematics that knows nothing of vehicles.

In: arrays. Out: splines by banded solves, monotone cubics, shares of causes, the choice of causes.

Formula: minimise |W (y − B c)|² + λ |D c|² over the coefficients c of a spline.
"""
