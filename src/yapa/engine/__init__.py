"""Arrays into motion. Knows no files, no evidence, no screen."""

from yapa.engine.batch import simulate_many
from yapa.engine.simulate import program_for, sample_times, sampling, simulate

ENGINE_VERSION = "13"

__all__ = ["ENGINE_VERSION", "program_for", "sample_times", "sampling", "simulate", "simulate_many"]
