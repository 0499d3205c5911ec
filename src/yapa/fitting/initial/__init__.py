"""A first guess, read from the tracks in closed form, one small file for each situation."""

from yapa.fitting.initial.compose import Start, TrackFeatures, first_guess, read_tracks

__all__ = ["Start", "TrackFeatures", "first_guess", "read_tracks"]
