"""A hull whose points leave a hollow: a convex hull fills it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.spatial import ConvexHull

from yapa.case.model import Case
from yapa.findings.base import Finding


def check(case: Case) -> Iterator[Finding]:
    """Points deep inside the hull of the others: what they shaped is gone."""
    for name, body in case.bodies.items():
        for shape in body.shapes:
            if shape.kind != "hull":
                continue
            points = np.array(shape.points)
            hull = ConvexHull(points)
            inside = sorted(set(range(len(points))) - set(hull.vertices.tolist()))
            depth = max((-float((hull.equations[:, :3] @ points[i] + hull.equations[:, 3]).max()) for i in inside), default=0.0)
            size = float(np.ptp(points, axis=0).max())
            if depth > 0.05 * size:
                yield Finding(
                    "hollow filled",
                    name,
                    "things will rest on a lid that is not seen",
                    f"a point lies {depth:.3g} m inside the convex hull of the others, which fills the hollow; "
                    "build it of several shapes",
                )
