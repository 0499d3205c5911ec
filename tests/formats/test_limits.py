"""Files that hold too much, or hide something: refused in words before they cost anything.

Memory and aborts are tried in a child.
"""

from __future__ import annotations

import subprocess
import sys
import zipfile

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.hard.sheets import _xlsx
from yapa.errors import InputError
from yapa.formats.tracks import table as tables
from yapa.formats.tracks.any_file import read_any
from yapa.formats.tracks.decimals import number, numbers_of
from yapa.formats.tracks.importer import ImportOverrides, import_track

ROOM = 1_000_000_000
_CHILD = f"""
import resource, sys, time
from pathlib import Path
from yapa.errors import InputError
from yapa.formats.tracks.any_file import read_any
size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
resource.setrlimit(resource.RLIMIT_AS, (size + {ROOM}, size + {ROOM}))
begun = time.process_time()
try:
    found = read_any(Path(sys.argv[1]))
    print("read", len(found.samples.t))
except InputError as error:
    print("refused", error)
print(time.process_time() - begun)
"""


def in_a_child(path):
    """What a process with a limit of memory says of a file, and its processor time."""
    done = subprocess.run([sys.executable, "-c", _CHILD, str(path)], capture_output=True, text=True, timeout=200, check=False)
    assert done.returncode == 0, done.stderr[-800:]
    words, seconds = done.stdout.strip().rsplit("\n", 1)
    return words, float(seconds)


def rows(count):
    return [["time [s]", "x [m]", "z [m]"], *[[k / 10, float(k), 1.0] for k in range(count)]]


def test_a_cell_far_from_the_others_is_refused_and_aborts_nothing(tmp_path):
    path = tmp_path / "far.xlsx"
    _xlsx(path, rows(20))
    with zipfile.ZipFile(path) as packed:
        parts = {name: packed.read(name) for name in packed.namelist()}
    sheet = "xl/worksheets/sheet1.xml"
    far = b'<row r="1048576"><c r="XFD1048576"><v>1</v></c></row></sheetData>'
    parts[sheet] = parts[sheet].replace(b"</sheetData>", far)
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in parts.items():
            packed.writestr(name, data)
    assert path.stat().st_size < 4000
    words, _ = in_a_child(path)
    assert words.startswith("refused")
    assert "far from the table" in words


def test_a_sheet_among_several_is_chosen_by_name_and_a_broken_one_is_told(tmp_path):
    path = tmp_path / "one.xlsx"
    _xlsx(path, rows(20))
    assert len(read_any(path).samples.t) == 20
    with pytest.raises(InputError, match="no sheet 'Other'"):
        import_track(path, overrides=ImportOverrides(fields={"sheet": "Other"}))
    path.write_bytes(path.read_bytes()[:300])
    with pytest.raises(InputError, match="spreadsheet"):
        read_any(path)


@pytest.mark.parametrize("head", ["t,x,z\n", "time;x;z\n"])
def test_more_rows_than_are_read_are_refused_at_once(tmp_path, head):
    path = tmp_path / "long.csv"
    row = head.replace("t,x", "1,1").replace("time;x", "1;1").replace("z", "1")
    path.write_text(head + row * 3_000_000)
    words, _ = in_a_child(path)
    assert words.startswith("refused")
    assert "rows" in words


def test_one_endless_line_is_refused(tmp_path):
    path = tmp_path / "line.csv"
    path.write_text("t,x,z\n" + "1," * 20_000_000 + "\n")
    words, _ = in_a_child(path)
    assert "found 20000001 cells" in words
    (tmp_path / "line.txt").write_text("time;x;z\n" + "1;" * 20_000_000 + "\n")
    assert "a line of 40 million letters" in in_a_child(tmp_path / "line.txt")[0]


@pytest.mark.parametrize(("cell", "said"), [("9" * 5000, ""), ("1e400", "finite"), ("-1e300", "-1e+06"), ("1_000", "a number")])
def test_numbers_nobody_measured_are_refused_in_few_words(tmp_path, cell, said):
    for head, mark in (("t,x,z", ","), ("time;x;z", ";")):
        path = tmp_path / "odd.csv"
        path.write_text(head + "\n" + "\n".join(mark.join((str(k), cell if k == 3 else "1", "2")) for k in range(9)))
        with pytest.raises(InputError) as told:
            read_any(path)
        assert len(str(told.value).encode()) <= 2048
        assert said in str(told.value) or mark == ";"


def test_a_frame_rate_of_hundreds_of_digits_is_no_rate(tmp_path):
    path = tmp_path / "odd.txt"
    path.write_text("# fps: " + "9" * 400 + "\nframe;x;z\n" + "\n".join(f"{k};1;2" for k in range(9)))
    with pytest.raises(InputError, match="frames a second"):
        read_any(path)


@pytest.mark.parametrize(("mark", "style"), [(".", "{:.6f}"), (",", "{:.6f}"), (".", "{:,.3f}"), (",", "{:,.3f}")])
@given(values=st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=30))
def test_a_column_is_read_as_its_cells_are(mark, style, values):
    swap = str.maketrans(",.", ".,")
    cells = [style.format(v).translate(swap) if mark == "," else style.format(v) for v in values]
    whole = numbers_of(cells, mark)
    assert np.array_equal(whole, [number(cell, mark) for cell in cells])
    assert np.allclose(whole, values, atol=1e-3)


def test_a_million_rows_of_any_dialect_are_within_the_bounds():
    tables.refuse_many("a table", 1_000_001, 4)
    with pytest.raises(InputError):
        tables.refuse_many("a table", 1_000_001, 6)
