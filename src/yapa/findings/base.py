"""What a check says: a symptom, its cause in words with the numbers that prove it, and an edit that mends it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import with_numbers
from yapa.case.scene import Body, Direction
from yapa.motion import Motion


@dataclass(frozen=True)
class Mend:
    """An edit of the case."""

    label: str
    apply: Callable[[Case], Case]


@dataclass(frozen=True)
class Finding:
    """One thing worth knowing.

    Attributes
    ----------
    kind : name of the check, the same for every case
    about : the body, surface, pair or path it is about
    symptom, cause : what is seen; why, with numbers
    weight : "trouble" stops what was meant, "note" is a deliberate oddity or a hint
    """

    kind: str
    about: str
    symptom: str
    cause: str
    weight: str = "trouble"
    mend: Mend | None = None

    @property
    def key(self) -> str:
        """What a dismissal names."""
        return f"{self.kind}: {self.about}"

    def __str__(self) -> str:
        tail = f" Mend: {self.mend.label}." if self.mend else ""
        return f"{self.about}: {self.symptom}. {self.cause}.{tail}"


BeforeCheck = Callable[[Case], Iterable[Finding]]
AfterCheck = Callable[[Case, Motion], Iterable[Finding]]


def set_number(path: str, value: float) -> Callable[[Case], Case]:
    """An edit that writes one number."""
    return lambda case: with_numbers(case, {path: value})


def set_body(name: str, **changes: object) -> Callable[[Case], Case]:
    """An edit that changes a body."""
    return lambda case: case.model_copy(update={"bodies": {**case.bodies, name: case.bodies[name].model_copy(update=changes)}})


def movers(case: Case) -> dict[str, Body]:
    """Bodies that forces move."""
    return {name: body for name, body in case.bodies.items() if body.motion == "dynamic"}


def speed_of(body: Body) -> float:
    """Launch speed [m/s]."""
    if isinstance(body.velocity, Direction):
        return abs(float(body.velocity.speed))
    return float(np.linalg.norm(body.velocity))


def pull_on(case: Case, body: Body) -> float:
    """Gravity on a body [m/s²], along -z."""
    return case.fields.gravity * body.gravity_multiplier


def set_duration(seconds: float) -> Callable[[Case], Case]:
    """An edit that makes the clip longer or shorter."""
    return lambda case: case.model_copy(update={"duration": min(seconds, 3600.0)})
