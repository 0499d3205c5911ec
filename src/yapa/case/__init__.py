"""Plain validated data: the case. It knows no numerics and no screen."""

from yapa.case.evidence import Samples, Target, Track
from yapa.case.model import Case
from yapa.case.paths import check_values, get_number, has_number, numbers, with_numbers
from yapa.case.profiles import PRESETS, Precise, Repair, Rest, Stepped
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
    Key,
    NaturalRoll,
    Pair,
    Pairing,
    Plane,
    Sphere,
    Surface,
)
from yapa.case.store import case_text, parse_case, read_case, schema_text, write_case
from yapa.case.takes import Take, case_of
from yapa.case.unknowns import Estimate, Trial, Unknown

__all__ = [
    "PRESETS", "Air", "Body", "Box", "Capsule", "Case", "Cylinder", "Direction", "Estimate", "Fields", "Hull", "Key",
    "NaturalRoll", "Pair", "Pairing", "Plane", "Precise", "Repair", "Rest", "Samples", "Sphere", "Stepped", "Surface",
    "Take", "Target", "Track", "Trial", "Unknown", "case_of", "case_text", "check_values", "get_number", "has_number",
    "label_of", "numbers", "parse_case", "quantity_of", "read_case", "schema_text", "with_numbers", "write_case",
]
