"""What it cost, and why.

In: both laps' marks in a window. Out: seconds by cause, how sure they are, and what stays unexplained.

Formula: on each stretch of a window loss = ∫ (1/v_lap − 1/v_ref) ds = Σ shares of the causes + the rest.
"""
