"""What counts as a contact, as a bounce and as rest: each threshold once, for outcomes and for the logs of the engine.

The engine's host writes those it needs into the configuration of a run; compiled code has no numbers of its own for them.
"""

from __future__ import annotations

MIN_CONTACT_SPEED = 1e-6
"""m/s: a slower approach is no contact of its own; it passes on an impact between bodies that already touch"""
MIN_IMPACT_SPEED = 0.01
"""m/s: a slower approach is no impact that is counted, and none that the soft and the fixed-step regime log"""
MIN_BOUNCE_RISE = 0.005
"""m: a rebound that rises less is no bounce"""
MIN_BOUNCE_SLOPE = 0.1
"""how far, from -1 to 1, the contact normal must point up for a rebound to rise"""
REST_SPEED = 0.005
"""m/s: a body with a lower speed, and a lower angular speed times its bounding radius, is at rest"""
