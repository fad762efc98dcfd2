"""A lap gone through again: where both laps are at a time, what comes next, what the driver sees.

In: a comparison and its lines from above. Out: places, stops and points of a picture.

Formula: one clock; a pinhole camera at the driver's eye.
"""
