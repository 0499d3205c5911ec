"""A case from wanted outcomes: what *New from outcomes* makes. A body is dropped and should bounce so."""

from __future__ import annotations

from collections.abc import Sequence

from yapa.case.base import Vec3
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.scene import Body, Box, Pair, Plane, Sphere, Surface
from yapa.case.unknowns import Unknown
from yapa.case.validation import in_words
from yapa.errors import InputError, InputIssue


def from_outcomes(
    title: str, radius: float | None, size: Vec3 | None, mass: float, height: float, wanted: Sequence[Target],
) -> Case:
    """Return a drop from ``height`` [m] (of the lowest point) with what should happen.

    Parameters
    ----------
    title : of the case
    radius : [m]
    size : edges [m]
    mass : [kg]
    height : [m]
    wanted : outcomes; one that names no body is of what is dropped

    Raises
    ------
    InputError
        If nothing is wanted, or a number makes no sense.
    """
    problems = []
    if (radius is None) == (size is None):
        problems.append(InputIssue("shape", "none or both", "a sphere's radius or a box's edges"))
    if not wanted:
        problems.append(InputIssue("outcomes", "nothing wanted", "one outcome or more, such as apex 2 = 30 cm"))
    apexes = {t.index or 1: t.value for t in wanted if t.outcome == "apex" and t.condition == "equal"}
    for name, value in (("height", height), ("mass", mass), *((f"apex {k}", a) for k, a in apexes.items())):
        if not value > 0:
            problems.append(InputIssue(name, f"{value:g}", "a number above zero"))
    before = height
    for k, apex in sorted(apexes.items()):
        if apex >= before:
            problems.append(InputIssue(f"apex {k}", f"{apex:g} m", f"less than the {before:g} m it falls from before"))
        before = apex
    if problems:
        raise InputError(problems)
    rest = max((t.value for t in wanted if t.outcome == "rest time"), default=0.0)
    with in_words("this set-up"):
        if radius is not None:
            shape: Sphere | Box = Sphere(kind="sphere", radius=radius, surface="body")
            reach = radius
        else:
            assert size is not None
            shape, reach = Box(kind="box", size=size, surface="body"), size[2] / 2
        targets = [t if t.body is not None else t.model_copy(update={"body": "body"}) for t in wanted]
        top = height + reach
        return Case(
            title=title, duration=max(3.0, 1.5 * rest), surfaces={"body": Surface(), "support": Surface()},
            pairs=(Pair(surfaces=("body", "support"), restitution=0.5, friction=0.5),),
            bodies={"body": Body(shapes=(shape,), mass=mass, position=(0.0, 0.0, top)),
                    "support": Body(motion="static", shapes=(Plane(kind="plane", surface="support"),))},
            targets=tuple(targets),
            unknowns=(
                Unknown(path="pairs.body+support.restitution", low=0.05, high=0.98),
                Unknown(path="bodies.body.position.z", low=0.5 * top, high=1.5 * top, fixed=len(targets) < 2),
                Unknown(path="bodies.body.drag_coefficient", low=0.0, high=2.0, fixed=len(targets) < 3),
            ),
        )
