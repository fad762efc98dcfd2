"""What the driver did at each corner.

In: a lap on the axis and the corners. Out: brake point to full throttle, windows and phases, habits.

Formula: a mark is where a pedal leaves the level that it comes from, between two samples.
"""
