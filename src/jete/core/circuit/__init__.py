"""What belongs to a circuit, whoever drives there.

In: laps of a circuit. Out: whether they are of one, and the list of its corners on any lap.

Formula: one circuit where no piece of over 60 m lies more than 15 m beside.
"""
