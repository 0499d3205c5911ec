"""A hull whose points leave a hollow, deep or behind a thin wall: a convex hull fills it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from yapa.case.model import Case
from yapa.findings.base import Finding
from yapa.findings.registry import case_check
from yapa.motion import Array

if TYPE_CHECKING:
    from scipy.spatial import ConvexHull

Mask = npt.NDArray[np.bool_]


DEEP = 0.05
"""of the size: a point deeper inside the hull of the others is a hollow"""
SKIN = 1e-3
"""of the size: a point less deep lies on the hull"""
SECOND_SKIN = 0.2
"""of the points: so many lie at one depth where a wall has an inner face"""
INNER_VOLUME = 0.2
"""of the hull: so much the inner face encloses at least"""


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Points deep inside the hull of the others, or many at one small depth: the inner face of a thin wall."""
    for name, body in case.bodies.items():
        for shape in body.shapes:
            if shape.kind == "hull":
                why = _hollow(np.array(shape.points))
                if why is not None:
                    yield Finding("hollow filled", name, "things will rest on a lid that is not seen",
                                  f"{why}, which fills the hollow; build it of several shapes")


def _hollow(points: Array) -> str | None:
    from scipy.spatial import ConvexHull, QhullError  # takes longer to import than a case to read

    hull, size = ConvexHull(points), float(np.ptp(points, axis=0).max())
    depths = np.array([-float((hull.equations[:, :3] @ point + hull.equations[:, 3]).max()) for point in points])
    if depths.max() > DEEP * size:
        return f"a point lies {depths.max():.3g} m inside the convex hull of the others"
    inner = depths > SKIN * size
    if inner.sum() < max(4, SECOND_SKIN * len(points)):
        return None
    wall = float(np.median(depths[inner]))
    between = (depths > SKIN * size) & (depths < 0.5 * wall)  # a wall has none; a measured, rough surface has many
    if between.sum() > 0.1 * inner.sum():
        return None
    try:
        enclosed = float(ConvexHull(points[inner | (depths <= SKIN * size) & _off_the_corners(hull, len(points))]).volume)
    except QhullError:  # flat
        return None
    return f"a second face lies {wall:.3g} m inside the convex hull" if enclosed > INNER_VOLUME * hull.volume else None


def _off_the_corners(hull: ConvexHull, count: int) -> Mask:
    out = np.ones(count, dtype=bool)
    out[hull.vertices] = False
    return out
