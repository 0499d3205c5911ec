"""Building a scene by hand: what there is to put in, where it stands, and the edits a hand makes."""
