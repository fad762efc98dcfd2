"""Films: frames by their exact times, and small copies of large ones.

In: a path. Out: pictures as arrays, seconds from the film's beginning. PyAV is imported when
the first film is opened; without it everything but films works.
"""
