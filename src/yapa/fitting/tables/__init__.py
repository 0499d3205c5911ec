"""Tables of trials: one row a trial, each run alone, all fitted together."""
