"""Plain validated data: the case. It knows no numerics and no screen."""

from yapa.case.changed_numbers import with_numbers
from yapa.case.evidence import Samples, Target, Track
from yapa.case.model import Case
from yapa.case.parameters import check_values, get_number, has_number, numbers
from yapa.case.profiles import PRESETS, OverlapCorrection, Precise, Sleep, Stepped
from yapa.case.quantities import label_of, quantity_of
from yapa.case.scene import (
    Air,
    Body,
    Box,
    Capsule,
    Cylinder,
    Direction,
    Fields,
    Hull,
    Keyframe,
    LaunchAngles,
    NaturalRoll,
    Pair,
    Pairing,
    Plane,
    Sphere,
    Surface,
)
from yapa.case.takes import Take
from yapa.case.unknowns import Estimate, Trial, Unknown

__all__ = [
    "PRESETS",
    "Air",
    "Body",
    "Box",
    "Capsule",
    "Case",
    "Cylinder",
    "Direction",
    "Estimate",
    "Fields",
    "Hull",
    "Keyframe",
    "LaunchAngles",
    "NaturalRoll",
    "OverlapCorrection",
    "Pair",
    "Pairing",
    "Plane",
    "Precise",
    "Samples",
    "Sleep",
    "Sphere",
    "Stepped",
    "Surface",
    "Take",
    "Target",
    "Track",
    "Trial",
    "Unknown",
    "check_values",
    "get_number",
    "has_number",
    "label_of",
    "numbers",
    "quantity_of",
    "with_numbers",
]
