"""How well the fit does, against truths made by a generator of its own: ``python -m benchmarks.fit``."""
