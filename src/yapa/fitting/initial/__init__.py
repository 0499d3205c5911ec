"""A first guess, read from the tracks in closed form, one small file for each situation."""

from yapa.fitting.initial.compose import Readings, Start, first_guess, read_tracks

__all__ = ["Readings", "Start", "first_guess", "read_tracks"]
