"""Sizes and tolerances that several kernels share."""

from yapa.case.bounds import MAX_VERTICES

MAX_CONTACTS = 16
"""An island with more contacts than this is carried softly."""
MAX_CORNERS = (MAX_CONTACTS, 5, 4)
"""Of each face where two meet: as many as leave no more contacts than that."""
FEW_CORNERS = 4
"""Held of each face as long as three of them press: then the others cannot dip."""
MOTOR = -1
"""The pair of a contact row that drives a pushed body along its path with limited force."""
SLOTS = 8
"""Points remembered of a pair."""
ENTRY = 3
"""Numbers of an entry of a table of addresses: address, rows, columns."""
CORNERS = MAX_VERTICES + 4
"""Room for the vertices of a shape, and for a face while it is clipped."""
POLYGON_ROWS = 4 * CORNERS + 4
"""In which faces are clipped: the vertices of both shapes, two polygons, and two lines."""
MAX_HITS = 64
"""Told of one of many runs; one that has more is told by its whole motion."""
TOUCH = 1e-9
"""m: a gap below this is touching."""
STILL = 1e-7
"""m/s: a normal speed below this is held, not hit."""
NO_SLIP = 1e-7
"""m/s: slip below this counts as none."""
NO_CREEP, NO_SPEED = 1e-13, 1e-10
"""m and m/s: an island that changes by less in every one of several steps is at rest, and is left alone."""
