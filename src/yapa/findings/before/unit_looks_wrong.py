"""A number that looks a hundred or a thousand times off."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.findings.base import Finding, movers
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Sizes in centimetres or millimetres, gravity in cm/s², densities that no matter has, spins in degrees."""
    if case.fields.gravity > 300:
        yield Finding(
            "unit looks wrong", "gravity", "everything falls like a stone", f"{case.fields.gravity:g} m/s²; 9.81 m/s² is 981 cm/s²"
        )
    sizes = {n: _size(b) for n, b in movers(case).items()}
    for name, body in movers(case).items():
        size = sizes[name]
        if size > 20:
            yield Finding(
                "unit looks wrong",
                name,
                "it looks slow, as if it were huge",
                f"it is {size:.3g} m large; were centimetres or millimetres meant?",
            )
        volume = size**3
        if body.density is None and body.mass / volume > 50_000:
            yield Finding(
                "unit looks wrong",
                name,
                "it is heavier than any matter",
                f"{body.mass:g} kg in about {volume:.2g} m³; were grams meant?",
            )
        if body.density is None and body.mass / volume < 0.05 and size < 20:
            yield Finding("unit looks wrong", name, "it is lighter than air", f"{body.mass:g} kg in about {volume:.2g} m³")
        if isinstance(body.angular_velocity, tuple) and float(np.linalg.norm(body.angular_velocity)) > 1500:
            yield Finding(
                "unit looks wrong",
                name,
                "it spins too fast to see",
                f"{float(np.linalg.norm(body.angular_velocity)):.4g} rad/s; were degrees a second meant?",
            )


def _size(body) -> float:  # type: ignore[no-untyped-def]
    shape = body.shapes[0]
    return float(max(shape.reach(axis) + shape.reach(-axis) for axis in np.eye(3)))
