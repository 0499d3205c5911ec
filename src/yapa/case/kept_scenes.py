"""Scenes that trials were made in: each kept once, by a hash of all that is in it but the values that a trial has itself."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from yapa.case.base import Model, Name
from yapa.case.constants import Constant, ConstantName
from yapa.case.profiles import Precise, Profile
from yapa.case.quantities import quantity_of
from yapa.case.scene import Body, Camera, Fields, Pair, Pairing, Surface

if TYPE_CHECKING:
    from yapa.case.model import Case

LETTERS = 16
"""of a key: of the hash in hexadecimal"""
BLANK = 0.5
"""what stands in a scene for a value that a trial has itself, or the nearest that may stand there, SI units"""


class KeptScene(Model):
    """What of a case is its scene: what is there, what happens where it meets, how it is stepped and how long."""

    fields: Fields = Fields()
    surfaces: dict[Name, Surface] = {}
    pairing: Pairing = Pairing()
    pairs: tuple[Pair, ...] = ()
    bodies: dict[Name, Body]
    groups: dict[Name, tuple[Name, ...]] = {}
    cameras: dict[Name, Camera] = {}
    constants: dict[ConstantName, Constant] = {}
    collision_exclusions: tuple[tuple[Name, Name], ...] = ()
    profile: Profile = Precise()
    duration: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 2.0
    output_rate: Annotated[float, Field(ge=1, le=10000, allow_inf_nan=False)] = 240.0
    seed: Annotated[int, Field(ge=0, lt=2**63)] = 0


def scene_of(case: Case) -> KeptScene:
    """Return the scene of a case.

    Parameters
    ----------
    case : the case
    """
    return KeptScene.model_construct(**{name: getattr(case, name) for name in KeptScene.model_fields})


def scene_key(case: Case, paths: Iterable[str]) -> str:
    """Return the key of a case's scene for a trial that has these numbers itself.

    Parameters
    ----------
    case : the case
    paths : paths of the numbers
    """
    from yapa.case.changed_numbers import with_numbers
    from yapa.case.parameters import has_number

    blank = {path: min(max(BLANK, quantity_of(path).least), quantity_of(path).most) for path in paths if has_number(case, path)}
    text = scene_of(with_numbers(case, blank)).model_dump_json()
    return hashlib.sha256(text.encode()).hexdigest()[:LETTERS]


def with_scene(case: Case, scene: KeptScene) -> Case:
    """Return a case with another scene; evidence, unknowns and trials stay.

    Parameters
    ----------
    case : the case
    scene : the scene
    """
    changes: Mapping[str, Any] = {name: getattr(scene, name) for name in KeptScene.model_fields}
    return case.model_copy(update=changes)


def without_idle_scenes(case: Case) -> Case:
    """Return a case without the scenes that no trial of it was made in.

    Parameters
    ----------
    case : the case
    """
    used = {trial.scene for trial in case.trials}
    return case.model_copy(update={"scenes": {key: scene for key, scene in case.scenes.items() if key in used}})
