"""The lap guide: how a lap is driven, corner by corner, as numbers with their spread.

In: a lap on its own axis, and the passes of the best few laps. Out: one card a corner.

Formula: the value of the lap; the spread from the least to the greatest of the good laps' marks.
"""
