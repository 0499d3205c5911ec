"""All readings together: later ones win where two speak of the same unknown."""

from __future__ import annotations

import numpy as np

from yapa.fitting.guess.bounce import guess_bounces, guess_drag
from yapa.fitting.guess.collision import guess_collisions
from yapa.fitting.guess.launch import guess_launch
from yapa.fitting.guess.seen import Guess, gravity_of, look
from yapa.fitting.guess.support import guess_support
from yapa.fitting.problem import Problem
from yapa.outcomes.arcs import fit_arcs


def first_guess(problem: Problem) -> dict[str, float]:
    """Path → value for every unknown a track speaks of; nothing is simulated."""
    guess = Guess(problem)
    tracks = look(problem)
    for seen in tracks:
        guess_launch(guess, seen)
        cuts = [c.time for c in seen.motion.contacts]
        if not seen.motion.phases:
            arcs = fit_arcs(seen.data, cuts, gravity_of(problem), [False] * (len(cuts) + 1))
            k = next((arc.k for arc in arcs if arc is not None), 0.0)
            guess_drag(guess, seen, k)
        guess_bounces(guess, seen)
        guess_support(guess, seen)
    guess_collisions(guess, tracks)
    return {path: value for path, value in guess.values.items() if np.isfinite(value)}
