"""Units as they stand in headers: symbols and written-out words of several languages. A unit that is not here is refused.

Symbols are read as they are written, in capitals where all of the header is (``MM``), never by half (``Mm``, ``Nm``). The list is
that of ``docs/evidence.md``.
"""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from enum import StrEnum

import numpy as np


class Kind(StrEnum):
    """What a unit measures."""

    LENGTH = "length"
    TIME = "time"
    ANGLE = "angle"


@dataclass(frozen=True)
class Unit:
    """A unit: its symbol, what it measures, and how much of m, s or rad it is."""

    symbol: str
    kind: Kind
    factor: float
    words: str = ""


_ALL = (
    Unit("m", Kind.LENGTH, 1.0, "meter meters metre metres metro metros metri metr metry metrow"),
    Unit("dm", Kind.LENGTH, 0.1, "decimeter decimeters decimetre decimetres dezimeter decimetro decimetros decimetri decymetr"),
    Unit("cm", Kind.LENGTH, 0.01, "centimeter centimeters centimetre centimetres zentimeter centimetro centimetros centimetri "
         "centymetr centymetry"),
    Unit("mm", Kind.LENGTH, 1e-3, "millimeter millimeters millimetre millimetres milimetro milimetros millimetro millimetri "
         "milimetr milimetry"),
    Unit("um", Kind.LENGTH, 1e-6, "micrometer micrometers micrometre micrometres mikrometer micrometro micrometros micrometri "
         "micron microns mikrometr"),
    Unit("nm", Kind.LENGTH, 1e-9, "nanometer nanometers nanometre nanometres nanometro nanometros nanometri nanometr"),
    Unit("km", Kind.LENGTH, 1e3, "kilometer kilometers kilometre kilometres kilometro kilometros quilometro quilometros chilometri "
         "kilometr"),
    Unit("in", Kind.LENGTH, 0.0254, "inch inches zoll pouce pouces pulgada pulgadas pollice pollici polegada polegadas duim"),
    Unit("ft", Kind.LENGTH, 0.3048, "foot feet fuss pied pieds pie pies piede piedi voet"),
    Unit("yd", Kind.LENGTH, 0.9144, "yard yards yarda yardas"),
    Unit("mi", Kind.LENGTH, 1609.344, "mile miles"),
    Unit("px", Kind.LENGTH, 1.0, "pixel pixels pix pixeles"),
    Unit("s", Kind.TIME, 1.0, "sec secs second seconds sek sekunde sekunden seconde secondes seconden seg segundo segundos secondo "
         "secondi sekunda sekundy sekund"),
    Unit("ms", Kind.TIME, 1e-3, "msec msecs millisecond milliseconds millisekunde millisekunden milliseconde millisecondes "
         "milliseconden milisegundo milisegundos millissegundo millissegundos millisecondo millisecondi milisekunda milisekundy"),
    Unit("us", Kind.TIME, 1e-6, "usec microsecond microseconds mikrosekunde mikrosekunden microseconde microsecondes microseconden "
         "microsegundo microsegundos microsecondo microsecondi mikrosekunda mikrosekundy"),
    Unit("ns", Kind.TIME, 1e-9, "nsec nanosecond nanoseconds nanosekunde nanosekunden nanoseconde nanosecondes nanosegundo "
         "nanosegundos nanosecondi"),
    Unit("min", Kind.TIME, 60.0, "mins minute minutes minuten minuut minuto minutos minuti minuta minuty minut"),
    Unit("h", Kind.TIME, 3600.0, "hr hrs hour hours stunde stunden heure heures hora horas ora ore uur uren "
         "godzina godziny godzin"),
    Unit("rad", Kind.ANGLE, 1.0, "rads radian radians radiant radianten radianes radiano radianos radianti radiany"),
    Unit("mrad", Kind.ANGLE, 1e-3, "milliradian milliradians"),
    Unit("deg", Kind.ANGLE, np.pi / 180, "degs degree degrees degre degres grado grados gradi grau graus graad graden stopien "
         "stopnie stopni"),
    Unit("rev", Kind.ANGLE, 2 * np.pi, "revs revolution revolutions turn turns umdrehung umdrehungen tour tours vuelta vueltas "
         "giro giri"),
)
UNITS: dict[str, Unit] = {unit.symbol: unit for unit in _ALL}
_WORDS = {word: unit.symbol for unit in _ALL for word in unit.words.split()}
_SIGNS = {"°": "deg", "″": "in", '"': "in", "′": "ft"}
_NEVER_IN_CAPITALS = {"NM", "MI"}
"""Nautical miles and abbreviations of other things."""


def plain(text: str) -> str:
    """Return lower-case letters without accents; Greek mu, and the sign for micro, as u.

    Parameters
    ----------
    text : the text
    """
    text = unicodedata.normalize("NFKC", text.strip()).replace("\N{GREEK SMALL LETTER MU}", "u")
    text = text.lower().replace("ł", "l").replace("ß", "ss").replace("ø", "o").replace("æ", "ae")
    return "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))


def find_unit(text: str) -> str | None:
    """Return the symbol of a unit from its symbol or word, None where it is none that is known.

    Parameters
    ----------
    text : the text
    """
    text = text.strip().strip("[](){}").strip()
    if text in _SIGNS:
        return _SIGNS[text]
    text = text.rstrip(".")
    symbol = unicodedata.normalize("NFKC", text).replace("\N{GREEK SMALL LETTER MU}", "u")
    if symbol in UNITS:
        return symbol
    if symbol.isupper() and symbol not in _NEVER_IN_CAPITALS and symbol.lower() in UNITS:
        return symbol.lower()
    return _WORDS.get(plain(text))


def symbols(kind: Kind) -> list[str]:
    """Return the symbols of one kind.

    Parameters
    ----------
    kind : of what kind it is
    """
    return [unit.symbol for unit in _ALL if unit.kind is kind]
