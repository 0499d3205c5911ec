"""A first guess, read from the tracks in closed form, one small file for each situation."""

from yapa.fitting.guess.compose import first_guess

__all__ = ["first_guess"]
