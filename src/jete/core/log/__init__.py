"""Samples as they were logged, and what was mended.

In: columns of numbers. Out: a Log of channels with their own time stamps, in SI units, and a list of repairs.

Formula: inside value = logged value × factor of its unit.
"""
