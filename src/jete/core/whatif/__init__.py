"""What a change of one corner would do to the lap time: vehicle and grip learnt from a run, and the difference replayed."""
