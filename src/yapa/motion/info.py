"""Who moved and how a run went: bodies, their shapes, and remarks on what the simulation could not do well."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from yapa.motion.arrays import Array


@dataclass(frozen=True)
class ShapeInfo:
    """A shape as it collides: kind, sizes, pose about the centre of mass in the body's axes, clearance.

    ``size``: radius; full edges; radius and length; the unit normal. A hull has vertices and face loops.
    """

    kind: str
    size: tuple[float, ...]
    position: tuple[float, float, float]
    orientation: tuple[float, float, float, float]
    contact_margin: float = 0.0
    vertices: Array | None = None
    loops: tuple[tuple[int, ...], ...] = ()


@dataclass(frozen=True)
class BodyInfo:
    """What is known of a body: its mass is None where nobody told, or where no force moves it.

    ``inertia`` [kg m²] are its principal moments, ``axes`` the principal axes as a quaternion in its own.
    """

    name: str
    is_movable: bool
    kind: str
    half_extents: tuple[float, float, float]
    bounding_radius: float
    mass: float | None = None
    position: tuple[float, float, float] = (0.0, 0.0, 0.0)
    orientation: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    is_kinematic: bool = False
    inertia: tuple[float, float, float] | None = None
    axes: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 0.0)
    gravity_multiplier: float = 1.0
    shapes: tuple[ShapeInfo, ...] = ()


@dataclass(frozen=True)
class CameraView:
    """What a camera sees: its place [m] and the inward normals of the faces of its view (left, right, bottom, top, behind)."""

    position: tuple[float, float, float]
    normals: tuple[tuple[float, float, float], ...]


class Severity(StrEnum):
    """How much a finding or a remark matters: trouble stops what was meant, or may have changed outcomes; a note did not."""

    TROUBLE = "trouble"
    NOTE = "note"

    __repr__ = str.__repr__


@dataclass(frozen=True)
class Remark:
    """What a simulation could not do well, told wherever its motion is looked at.

    ``about`` the bodies, what is seen (``symptom``) and why (``cause``); a "trouble" may have changed outcomes, a "note" did not.
    """

    kind: str
    about: str
    symptom: str
    cause: str
    severity: Severity = Severity.TROUBLE

    def __str__(self) -> str:
        return f"{self.about}: {self.symptom}. {self.cause[:1].upper()}{self.cause[1:]}."
