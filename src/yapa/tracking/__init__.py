"""Measured tracks read as motions: noise, changes of velocity, flights, contacts."""
