"""The road, and where on it a lap is.

In: a reference lap and other laps. Out: curvature, corners, and for each sample of a lap its place on the reference's axis.

Formula: place = u + e(u), e' = κ n / (1 − κ n) + c.
"""
