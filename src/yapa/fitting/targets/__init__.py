"""Meeting wanted outcomes: search, the drag of one, the correction of a step."""
