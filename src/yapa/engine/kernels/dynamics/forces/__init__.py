"""Forces on bodies, a module for each.

Gravity, the damping of a profile, and drag in a wind have schemes of their own in every regime: closed forms in flight, an implicit
step in soft contact, a clamped one in fixed steps. Any further force is a module with an ``acceleration``, listed in ``registry``.
"""
