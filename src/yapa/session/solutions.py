"""Solutions of what is wanted, as the window searches for them."""

from __future__ import annotations

from yapa.fitting import Progress
from yapa.fitting.targets.solutions import Solution, Solutions
from yapa.fitting.targets.solve import solve

__all__ = ["Progress", "Solution", "Solutions", "solve"]
