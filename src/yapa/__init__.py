"""Yapa calibrates rigid-body simulations: it finds the numbers and says how sure it is."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"
__all__ = ["Case", "ImportOverrides", "Setup", "ball", "calibrate", "copies", "crate", "fit", "floor", "lane", "load", "measure",
           "new_case", "open_bin", "save", "simulate", "wall"]

if TYPE_CHECKING:
    from yapa.api import (
        Case,
        ImportOverrides,
        Setup,
        ball,
        calibrate,
        copies,
        crate,
        fit,
        floor,
        lane,
        load,
        new_case,
        open_bin,
        save,
        simulate,
        wall,
    )
    from yapa.api import measure_motion as measure


def __getattr__(name: str) -> Any:
    """Import on first use, so that `yapa --help` does not load the compiler."""
    if name not in __all__:
        raise AttributeError(name)
    from yapa import api

    return getattr(api, "measure_motion" if name == "measure" else name)


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
