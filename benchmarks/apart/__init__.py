"""Recordings made apart from Yapa, and what the fit makes of them."""
