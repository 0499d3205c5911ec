"""Yapa calibrates rigid-body simulations: it finds the numbers and says how sure it is."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"
__all__ = ["Said", "Setup", "calibrate", "fit", "load", "measure", "save", "simulate"]

if TYPE_CHECKING:
    from yapa.api import calibrate, fit, load, save, simulate
    from yapa.api import measure_motion as measure
    from yapa.fitting import Setup
    from yapa.formats.importing import Said


def __getattr__(name: str) -> Any:
    """Import on first use, so that `yapa --help` does not load the compiler."""
    if name not in __all__:
        raise AttributeError(name)
    from yapa import api, fitting

    if name == "Setup":
        return fitting.Setup
    if name == "Said":
        return api.Said
    return api.measure_motion if name == "measure" else getattr(api, name)
