"""What every number of a case is bounded by: the same in files, API values, the window and the ranges of unknowns.

Contacts are found to 1e-14 m and doubles hold 16 digits, so lengths, places and times are kept to where both still mean
something; the reasons stand beside each bound and in ``docs/case-format.md``.
"""

from __future__ import annotations

MIN_LENGTH = 1e-6
"""m: a hundred million times what contacts are found to"""
MAX_LENGTH = 1e5
"""m: a body of this size still has its surface to 1e-11 m"""
MAX_POSITION = 1e6
"""m, of each coordinate: places are still exact to 1e-10 m"""
MAX_VERTICES = 60
"""of a hull: two faces of as many corners are still clipped in the room there is"""
MIN_MASS = 1e-9
"""kg: with the greatest mass a ratio of 1e18, beyond which a sum of two momenta loses the smaller"""
MAX_MASS = 1e9
"""kg"""
MAX_SPEED = 1e5
"""m/s, of each component: a flight of the longest clip stays where places have digits left"""
MAX_SPIN = 1e5
"""rad/s, of each component: a turn in 63 µs, still many of the shortest steps"""
MAX_GRAVITY = 1e4
"""m/s²: a thousand times the earth's"""
MIN_STEP = 1e-6
"""s: a shorter step moves what rests by less than contacts are found to"""
MAX_STEPS = 10_000_000
"""outer steps of a run: minutes to hours of computing, and the number still tells steps apart in a float"""
MAX_SAMPLES = 4_000_000
"""samples of all moving bodies of a run: 500 MB of states"""
MIN_DURATION = 1e-9
"""s: a run of no time at all (0) shows the start; a shorter one cannot be told from it"""
MAX_DURATION = 3600.0
"""s"""
INERTIA_SLACK = 1e-9
"""share by which the largest moment of inertia may exceed the sum of the others (rounding)"""
MAX_COEFFICIENT = 1e6
"""of friction, restitution, resistance, drag, damping [1/s] and the gravity multiplier: beyond it they are as good as infinite"""
MIN_DENSITY = 1e-6
"""kg/m³: thinner than any gas on earth"""
MAX_DENSITY = 1e9
"""kg/m³: a hundred thousand times lead"""
MAX_TILT = 1e4
"""rad, of each component of a rotation vector"""
MIN_NOISE = 1e-9
"""m and rad: as exact as anything is measured"""
MAX_NOISE = 1e9
"""m and rad: wider than anything that may be measured here"""
MIN_SCALE = 1e-6
"""of a track: a micrometre where the file says a metre"""
MAX_SCALE = 1e6
"""of a track"""
MAX_ANGLE = 1e8
"""rad, measured and unwrapped: the longest clip at the greatest spin"""
MAX_WANTED = 1e12
"""of a wanted or measured quantity, and its inverse of a tolerance and a weight: squares of misses stay numbers"""
MAX_NUMBER = 1e30
"""of what has no bound of its own (a force, a moment of inertia, a delay): its cube is still a number"""
