"""Solutions of what is wanted, as the window searches for them."""

from __future__ import annotations

from yapa.fitting import Progress
from yapa.fitting.targets.search import solve
from yapa.fitting.targets.solutions import Solution, Solutions

__all__ = ["Progress", "Solution", "Solutions", "solve"]
