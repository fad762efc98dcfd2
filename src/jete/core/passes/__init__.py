"""Many passes of one corner: what each was, what goes with time, and which of two ways is faster.

In: laps of one circuit. Out: passes as numbers, comparable over runs, days and drivers.

Formula: times between fixed borders; slopes within runs; trimmed means (Yuen 1974).
"""
