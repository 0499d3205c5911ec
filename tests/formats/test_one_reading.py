"""A file says the same by every way in: read as it is, looked into by the form of the window, and inspected."""

from __future__ import annotations

import random

import pytest

from yapa.errors import InputError
from yapa.formats.tracks.any_file import read_any
from yapa.formats.tracks.columns import Questions
from yapa.formats.tracks.importer import ImportOverrides, import_track, inspect_file

COUNT = 150


def odd_table(seed):
    """A table of comma-separated columns that is plain but for what a stranger's program adds."""
    rng = random.Random(seed)
    names = rng.choice((["t", "x", "z"], ["t", "z"], ["t", "x", "y", "z"], ["t", "x", "z", "angle"], ["x", "t", "z"]))
    head = [n.upper() if rng.random() < 0.1 else n for n in names]
    rows = [[f"{0.02 * k + 0.001 * c:.4f}" if n != "t" else f"{k / 50:.3f}" for c, n in enumerate(names)] for k in range(12)]
    what = rng.choice(("nothing", "units", "bracket units", "comment", "blank lines", "quotes", "spaces", "gap", "repeat", "tail",
                       "crlf", "mark", "empty row", "plus", "exponent", "words"))
    if what == "units":
        rows.insert(0, ["ms" if n == "t" else "rad" if n == "angle" else "mm" for n in names])
        rows[1:] = [[f"{float(v) * 1000:.2f}" if n != "angle" else v for n, v in zip(names, row, strict=True)] for row in rows[1:]]
    elif what == "bracket units":
        rows.insert(0, ["[s]" if n == "t" else "[rad]" if n == "angle" else "[m]" for n in names])
    elif what in ("gap", "words"):
        rows[5][names.index("z")] = {"gap": "", "words": "lost"}[what]
    elif what == "repeat":
        rows[5] = rows[4]
    elif what == "quotes":
        rows = [[f'"{v}"' for v in row] for row in rows]
    elif what == "spaces":
        rows = [[f" {v} " for v in row] for row in rows]
    elif what == "empty row":
        rows.insert(6, [""] * len(names))
    elif what == "plus":
        rows[3] = [f"+{v}" for v in rows[3]]
    elif what == "exponent":
        rows[3] = [f"{float(v):.3e}" for v in rows[3]]
    end = "\r\n" if what == "crlf" else "\n"
    text = end.join(",".join(row) for row in [head, *rows]) + end
    if what == "comment":
        text = "# filmed on a tripod\n" + text
    elif what == "blank lines":
        text = "\n" + text.replace("\n", "\n\n", 2)
    elif what == "tail":
        text += "\nend of file\n"
    elif what == "mark":
        text = "\ufeff" + text
    return what, text


def outcome(read):
    """What a way in makes of a file: its samples, or that it refuses or asks."""
    try:
        s = read()
    except (InputError, Questions):
        return "refused"
    columns = {n: c for n in ("t", "x", "y", "z", "angle") if (c := getattr(s, n)) is not None and any(v != 0.0 for v in c)}
    return {n: [None if v is None else round(v, 9) for v in c] for n, c in columns.items()}


@pytest.mark.parametrize("seed", range(COUNT))
def test_a_file_says_the_same_by_every_way_in(tmp_path, seed):
    what, text = odd_table(seed)
    path = tmp_path / "track.csv"
    path.write_bytes(text.encode())
    as_it_is = outcome(lambda: read_any(path).samples)

    def form():
        table, found = inspect_file(path)
        how = ImportOverrides().settle(table, found)
        return import_track(path, how, None).samples

    assert outcome(form) == as_it_is, f"{what}:\n{text[:200]}"
