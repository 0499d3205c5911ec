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
    title: str, radius: float | None, size: Vec3 | None, mass: float, height: float, apexes: Sequence[float],
    rest: float | None, tolerance: float = 0.01, rest_tolerance: float = 0.05, wishes: Sequence[Target] = (),
) -> Case:
    """Return a drop from ``height`` [m] (of the lowest point) with targets for its apexes [m] and rest time [s].

    Parameters
    ----------
    title : of the case
    radius : [m]
    size : edges [m]
    mass : [kg]
    height : [m]
    apexes : rises after each bounce [m]
    rest : wanted rest time [s]
    tolerance : its tolerance
    rest_tolerance : its tolerance [s]
    wishes : what else should happen

    Raises
    ------
    InputError
        If nothing is wanted, or a number makes no sense.
    """
    problems = []
    if (radius is None) == (size is None):
        problems.append(InputIssue("shape", "none or both", "a sphere's radius or a box's edges"))
    if not apexes and rest is None and not wishes:
        problems.append(InputIssue("outcomes", "nothing wanted", "one outcome or more, such as apex 2 = 30 cm"))
    for name, value in (("height", height), ("mass", mass), ("tolerance", tolerance), *(("apex", a) for a in apexes)):
        if not value > 0:
            problems.append(InputIssue(name, f"{value:g}", "a number above zero"))
    for k, (a, b) in enumerate(zip([height, *apexes], apexes, strict=False), start=1):
        if b >= a:
            problems.append(InputIssue(f"apex {k}", f"{b:g} m", f"less than the {a:g} m it falls from before"))
    if problems:
        raise InputError(problems)
    with in_words("this set-up"):
        if radius is not None:
            shape: Sphere | Box = Sphere(kind="sphere", radius=radius, surface="body")
            reach = radius
        else:
            assert size is not None
            shape, reach = Box(kind="box", size=size, surface="body"), size[2] / 2
        targets = [Target(outcome="apex", index=k, value=a, tolerance=tolerance) for k, a in enumerate(apexes, start=1)]
        if rest is not None:
            targets.append(Target(outcome="rest time", value=rest, tolerance=rest_tolerance))
        targets += [wish if wish.body is not None else wish.model_copy(update={"body": "body"}) for wish in wishes]
        top = height + reach
        return Case(
            title=title, duration=max(3.0, 1.5 * (rest or 0.0)), surfaces={"body": Surface(), "support": Surface()},
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
