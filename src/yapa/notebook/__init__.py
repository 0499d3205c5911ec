"""Results as data frames, labelled arrays and plots, for notebooks; each needs a package of the extra ``yapa[notebook]``."""
