"""One motion written as thousands of tables: eight languages, many units, dialects, encodings and containers.

The word lists are this generator's own; what a file means is known, so that a reading can be right, refused, or wrong.
``documented`` says whether every word, unit and container stands in ``docs/evidence.md``.
"""

from __future__ import annotations

import random
import zipfile
from dataclasses import dataclass, field
from pathlib import Path
from xml.sax.saxutils import escape

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

T = np.arange(40) / 50.0 + 0.02
X = 0.25 + 1.375 * T
Z = 1.9 + 2.1 * T - 4.9 * T**2

TIME_WORDS = {
    "en": ("time", "t", "Time", "elapsed"), "de": ("Zeit", "Zeitpunkt", "t"), "fr": ("temps", "Temps"), "es": ("tiempo", "Tiempo"),
    "it": ("tempo", "Tempo"), "pt": ("tempo", "t"), "nl": ("tijd", "Tijd"), "pl": ("czas", "Czas"),
}
X_WORDS = {
    "en": ("x", "X", "pos_x", "x position", "horizontal", "x-coordinate"), "de": ("x", "x-Koordinate", "Position x", "Lage x"),
    "fr": ("x", "position x", "coordonnée x"), "es": ("x", "posición x", "coordenada x"),
    "it": ("x", "posizione x", "coordinata x"),
    "pt": ("x", "posição x", "coordenada x"), "nl": ("x", "positie x", "coördinaat x"), "pl": ("x", "pozycja x", "współrzędna x"),
}
Z_WORDS = {
    "en": ("z", "height", "pos_z", "altitude", "z position"), "de": ("z", "Höhe", "Position z"),
    "fr": ("z", "hauteur", "position z"),
    "es": ("z", "altura", "posición z"), "it": ("z", "altezza", "posizione z"), "pt": ("z", "altura", "posição z"),
    "nl": ("z", "hoogte", "positie z"), "pl": ("z", "wysokość", "pozycja z"),
}
ODD_TIME = ("moment", "Uhr", "chrono", "stamp2", "Messung", "godzina pomiaru")
ODD_PLACE = ("Weg", "déplacement", "Abszisse", "recorrido", "spostamento", "afstand", "droga", "u", "lane", "rise")
LENGTHS = {
    "m": (1.0, ("m", "metre", "meters", "Meter", "mètres", "metros", "metri", "metry")),
    "cm": (0.01, ("cm", "centimetres", "Zentimeter", "centimètres", "centímetros", "centimetri")),
    "mm": (1e-3, ("mm", "millimetre", "Millimeter", "millimètres", "milímetros", "millimetri", "MM")),
    "dm": (0.1, ("dm", "Dezimeter", "decimetro")), "km": (1e3, ("km", "kilometres", "Kilometer")),
    "um": (1e-6, ("µm", "μm", "um", "microns", "Mikrometer")), "nm": (1e-9, ("nm", "nanometres")),
    "in": (0.0254, ("in", "inch", "inches", "Zoll", "pouces", "pulgadas", "pollici")),
    "ft": (0.3048, ("ft", "feet", "Fuß", "pieds", "pies")), "yd": (0.9144, ("yd", "yards")),
}
ODD_LENGTHS = {"fathom": 1.8288, "Elle": 0.6, "league": 4828.0, "Å": 1e-10, "pt": 0.000352778, "Spanne": 0.2, "au": 1.5e11,
               "hand": 0.1016, "Mm": 1e6, "pm": 1e-12}
TIMES = {
    "s": (1.0, ("s", "sec", "seconds", "Sekunden", "secondes", "segundos", "secondi", "sekundy", "seconden")),
    "ms": (1e-3, ("ms", "milliseconds", "Millisekunden", "millisecondes", "milisegundos")), "us": (1e-6, ("µs", "μs", "us")),
    "ns": (1e-9, ("ns", "nanoseconds")), "min": (60.0, ("min", "minutes", "Minuten", "minutos")),
    "h": (3600.0, ("h", "hours", "Stunden", "heures", "horas", "ore", "uur")),
}
ODD_TIMES = {"jiffy": 0.01, "fortnight": 1209600.0, "ticks": 1e-7, "Takte": 0.5, "frames25": 0.04, "days": 86400.0, "ks": 1e3}
UNIT_FORMS = ("{n} [{u}]", "{n} ({u})", "{n}/{u}", "{n} in {u}", "{n}, {u}", "row", "tail")
EXTRA = {"confidence": 0.93, "Temperatur": 21.5, "vitesse": 1.2, "quality": 4.0, "score": 0.5, "vx": 1.5}
CONTAINERS = ("csv", "semicolon", "tab", "spaces", "utf-16", "latin-1", "xlsx", "parquet")


@dataclass
class Sheet:
    """A table on the disk, and what it means."""

    path: Path
    documented: bool
    options: list[str] = field(default_factory=list)
    """What must be said of it on the command line, once asked"""
    words: str = ""


def _digits(values: np.ndarray, chance: random.Random, style: str) -> list[str]:
    """Numbers as text, exact to nine digits."""
    out = []
    for v in values:
        text = f"{v:.12g}"
        if "e" in text:
            text = f"{v:.6e}" if style == "point" else f"{v:.15f}"
        if "." not in text and "e" not in text:
            text += ".0"
        if style == "thousands":
            head, _, tail = text.partition(".")
            text = f"{int(head):,}.{tail}" if head.lstrip("-").isdigit() else text
        if style == "comma":
            text = text.replace(".", ",")
        if style == "comma thousands":
            head, _, tail = text.partition(".")
            text = f"{int(head):,}".replace(",", ".") + "," + tail if head.lstrip("-").isdigit() else text.replace(".", ",")
        out.append(text)
    return out


def _xlsx(path: Path, rows: list[list[str | float]]) -> None:
    """The least of a workbook: one sheet, inline text and numbers."""
    def cell(k: int, j: int, value: str | float) -> str:
        at = f"{chr(65 + j)}{k + 1}"
        if isinstance(value, float):
            return f'<c r="{at}"><v>{value!r}</v></c>'
        return f'<c r="{at}" t="inlineStr"><is><t>{escape(value)}</t></is></c>'

    body = "".join(f'<row r="{k + 1}">{"".join(cell(k, j, v) for j, v in enumerate(row))}</row>' for k, row in enumerate(rows))
    head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
    schemas = "http://schemas.openxmlformats.org"
    main, rel = f"{schemas}/spreadsheetml/2006/main", f"{schemas}/package/2006/relationships"
    kinds = "application/vnd.openxmlformats"
    office, sheets = f"{schemas}/officeDocument/2006/relationships", f"{kinds}-officedocument.spreadsheetml"
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{schemas}/package/2006/content-types">'
        f'<Default Extension="rels" ContentType="{kinds}-package.relationships+xml"/>'
        f'<Override PartName="/xl/workbook.xml" ContentType="{sheets}.sheet.main+xml"/>'
        f'<Override PartName="/xl/worksheets/sheet1.xml" ContentType="{sheets}.worksheet+xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{rel}"><Relationship Id="r1" Type="{office}/officeDocument" '
        'Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets>'
        '<sheet name="Sheet1" sheetId="1" r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{rel}"><Relationship Id="r1" '
        f'Type="{office}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
        "xl/worksheets/sheet1.xml": f'<worksheet xmlns="{main}"><sheetData>{body}</sheetData></worksheet>',
    }
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, text in parts.items():
            packed.writestr(name, head + text)


def sheet(seed: int, folder: Path) -> Sheet:
    """One of the many ways to write the motion."""
    chance = random.Random(seed)
    language = chance.choice(list(TIME_WORDS))
    container = chance.choice(CONTAINERS)
    documented, options = True, []
    names = [chance.choice(TIME_WORDS[language]), chance.choice(X_WORDS[language]), chance.choice(Z_WORDS[language])]
    one = chance.choice(list(LENGTHS))
    units = [chance.choice(list(TIMES)), one, one if chance.random() < 0.7 else chance.choice(list(LENGTHS))]
    words = [chance.choice(TIMES[units[0]][1]), *(chance.choice(LENGTHS[u][1]) for u in units[1:])]
    factors = [TIMES[units[0]][0], *(LENGTHS[u][0] for u in units[1:])]
    form = chance.choice(UNIT_FORMS)
    roles = ["time", "x", "z"]
    if (odd := chance.random()) < 0.12:  # a unit that nobody knows
        k = chance.choice((0, 1, 2))
        words[k], factors[k] = chance.choice(list((ODD_TIMES if k == 0 else ODD_LENGTHS).items()))
        documented = False
    elif odd < 0.22:  # a name that nobody knows
        k = chance.choice((0, 1, 2))
        names[k] = chance.choice(ODD_TIME if k == 0 else ODD_PLACE)
        options += ["--column", f"{roles[k]}={k + 1}"]
        documented = False
    if form == "tail" and (not words[0].isascii() or not documented or any(len(w) > 9 or " " in n for w, n in zip(words, names,
                                                                                                       strict=True))):
        form = "{n} [{u}]"
    if "," in form and container not in ("semicolon", "tab", "xlsx", "parquet", "utf-16"):
        form = "{n} [{u}]"
    if container == "spaces":
        form = "{n}[{u}]"
        names = [n.replace(" ", "_") for n in names]
        words = [w.replace(" ", "") for w in words]
    if container == "latin-1" and any(ord(c) > 255 for c in "".join([*names, *words])):
        container = "semicolon"
    values = [T / factors[0], X / factors[1], Z / factors[2]]
    header = [form.format(n=n, u=u) if form not in ("row", "tail") else n if form == "row" else f"{n}_{u}" for n, u in
              zip(names, words, strict=True)]
    extra = chance.random() < 0.3
    if extra:
        name = chance.choice(list(EXTRA))
        header.append(name)
        values.append(np.full(len(T), EXTRA[name]))
    path = folder / f"sheet-{seed}.{ {'xlsx': 'xlsx', 'parquet': 'parquet'}.get(container, 'txt')}"
    if container == "parquet":
        if form == "row":
            header = [f"{n} [{u}]" for n, u in zip(names, words, strict=True)] + header[3:]
        pq.write_table(pa.table(dict(zip(header, values, strict=True))), path)
    elif container == "xlsx":
        rows: list[list[str | float]] = [list(header)]
        if form == "row":
            rows.append([*words, ""] if extra else list(words))
        rows += [[float(v) for v in row] for row in zip(*values, strict=True)]
        _xlsx(path, rows)
    else:
        mark = {"csv": ",", "spaces": " ", "tab": "\t", "utf-16": "\t"}.get(container, ";")
        styles = ["point"] if mark in (",", " ") else ["point", "comma", "comma thousands", "thousands"]
        style = chance.choice(styles)
        columns = [_digits(v, chance, style) for v in values]
        lines = [mark.join(header)]
        if form == "row":
            lines.append(mark.join([*words, ""] if extra else words))
        lines += [mark.join(row) for row in zip(*columns, strict=True)]
        if chance.random() < 0.2:
            lines.insert(0, chance.choice(("# plate 3", "% second take", "// lane")))
        encoding = {"utf-16": "utf-16", "latin-1": "latin-1"}.get(container, "utf-8")
        path.write_bytes((chance.choice(("\n", "\r\n")).join(lines) + "\n").encode(encoding))
    said = f"{seed}: {container}, {form}, {header}, {words}"
    return Sheet(path, documented, options, said)


def is_right(t: object, x: object, z: object) -> bool:
    """Whether a reading gives the motion, to a part in a million of its size."""
    try:
        got = [np.array(column, dtype=float) for column in (t, x, z)]
    except TypeError:
        return False
    begins = got[0] - got[0][0]
    return len(begins) == len(T) and all(
        np.abs(a - b).max() <= 2e-6 * max(1.0, np.abs(b).max()) for a, b in ((begins, T - T[0]), (got[1], X), (got[2], Z)))
