"""Time, speed and distance of a log, and its laps.

In: a Log. Out: laps from line to line, and how the vehicle moved in each.

Formula: s(t) = ∫ v dt, levelled by the odometer.
"""
