"""What a check says: a symptom, its cause in words with the numbers that prove it, and an edit that mends it."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from yapa.case.changed_numbers import with_numbers
from yapa.case.model import Case
from yapa.case.quantities import QUANTITIES, kind_of, label_of
from yapa.case.scene import Body, Surface
from yapa.motion.info import Severity

_JOINED = re.compile(r"(, | and )")
"""between the things that a merged note is about"""


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
    mend, also : the edit that mends it, and others that would
    severity : "trouble" stops what was meant, "note" is a deliberate oddity or a hint
    """

    kind: str
    about: str
    symptom: str
    cause: str
    severity: Severity = Severity.TROUBLE
    mend: Mend | None = None
    also: tuple[Mend, ...] = ()

    @property
    def key(self) -> str:
        """What a dismissal names."""
        return f"{self.kind}: {self.about}"

    @property
    def about_in_words(self) -> str:
        """What it is about, with paths of numbers in words."""
        parts = _JOINED.split(self.about)
        return "".join(label_of(part) if kind_of(part) in QUANTITIES else part for part in parts)

    def __str__(self) -> str:
        tail = f" Mend: {self.mend.label}." if self.mend else ""
        return f"{self.about}: {self.symptom}; {self.cause}.{tail}"




def set_number(path: str, value: float) -> Callable[[Case], Case]:
    """Return an edit that writes one number.

    Parameters
    ----------
    path : path of the number
    value : its value
    """
    return lambda case: with_numbers(case, {path: value})


def set_surface(name: str, **changes: float) -> Callable[[Case], Case]:
    """Return an edit that changes numbers of a surface; one that the case has not written down is written.

    Parameters
    ----------
    name : name of the surface
    changes : field → its new value
    """
    def apply(case: Case) -> Case:
        surface = case.surfaces.get(name, Surface()).model_copy(update=changes)
        return case.model_copy(update={"surfaces": {**case.surfaces, name: surface}})

    return apply


def set_body(name: str, **changes: object) -> Callable[[Case], Case]:
    """Return an edit that changes a body.

    Parameters
    ----------
    changes : fields of the body and their new values
    name : its name
    """
    return lambda case: case.model_copy(update={"bodies": {**case.bodies, name: case.bodies[name].model_copy(update=changes)}})


def movers(case: Case) -> dict[str, Body]:
    """Return bodies that forces move.

    Parameters
    ----------
    case : the case
    """
    return {name: body for name, body in case.bodies.items() if body.motion == "dynamic"}


def speed_of(body: Body) -> float:
    """Return launch speed [m/s].

    Parameters
    ----------
    body : the body
    """
    if not isinstance(body.velocity, tuple):
        return abs(float(body.velocity.speed))
    return float(np.linalg.norm(body.velocity))


def pull_on(case: Case, body: Body) -> float:
    """Return gravity on a body [m/s²], along -z.

    Parameters
    ----------
    case : the case
    body : the body
    """
    return case.fields.gravity * body.gravity_multiplier


def set_duration(seconds: float) -> Callable[[Case], Case]:
    """Return an edit that makes the clip longer or shorter.

    Parameters
    ----------
    seconds : [s]
    """
    return lambda case: case.model_copy(update={"duration": min(seconds, 3600.0)})
