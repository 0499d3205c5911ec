"""Names, units and numbers of a table's cells."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.formats.tracks.column_names import split_name
from yapa.formats.tracks.columns import find_first, guess
from yapa.formats.tracks.decimals import find_decimal, is_number, number
from yapa.formats.tracks.importer import import_track, read_table
from yapa.formats.tracks.table import Table
from yapa.formats.units import UNITS, Kind


@pytest.mark.parametrize(("cell", "name", "unit"), [
    ("x", "x", None), ("x [mm]", "x", "mm"), ("x (cm)", "x", "cm"), ("t/s", "t", "s"), ("time_ms", "time", "ms"),
    ("Pos X [m]", "pos_x", "m"),
    ("angle in deg", "angle", "deg"), ("theta [°]", "theta", "°"), ("height, mm", "height", "mm"), ("x_px", "x", "px"),
    ("Time (seconds)", "time", "seconds"), ("X (pixels)", "x", "pixels"), ("note [kg]", "note", "kg"),
    ('"y [m]"', "y", "m"), ("speed", "speed", None),
])
def test_a_header_cell_is_a_name_and_a_unit(cell, name, unit):
    assert split_name(cell) == (name, unit)


@given(st.floats(-1e6, 1e6))
def test_a_number_reads_back_with_either_mark(value):
    text = f"{value:.6f}"
    assert number(text) == pytest.approx(value, abs=1e-6)
    assert number(text.replace(".", ","), ",") == pytest.approx(value, abs=1e-6)
    assert is_number(text)
    assert is_number(text.replace(".", ","))


@pytest.mark.parametrize("cell", ["", " ", "x", "1.2.3", "--", "12 mm"])
def test_what_is_no_number_is_none(cell):
    assert np.isnan(number(cell))
    assert not is_number(cell)


def test_a_minus_sign_of_a_typesetter_is_a_minus():
    assert number("\u22121.5") == -1.5


@pytest.mark.parametrize("words", [0, 1, 2, 5])
def test_the_numbers_begin_below_the_words(words):
    rows = [["some", "words"]] * words + [["0.1", "0.2"], ["0.2", "0.3"], ["0.3", "0.4"]]
    assert find_first(Table(rows, list(range(len(rows))))) == words


@pytest.mark.parametrize(("cells", "mark"), [
    ("0,1 2,5", ","), ("0.1 2.5", "."), ("1 2", "."), ("1.234,5 0,1", ","), ("1,234.5 2", "."), ("1,234 999.5", "."),
    ("1.234.567 2", ","), ("1,234,567 2", "."), ("0,123 1,456", ","), ("-0,123", ","), ("1.234 2.345", "."), ("1,234 12", None),
    ("1,5 2.5", None), ("1,234.5 1.234,5", None),
])
def test_the_decimal_mark_of_a_file_is_told_by_all_its_cells_or_not_at_all(cells, mark):
    assert find_decimal(cells.split())[0] == mark


@pytest.mark.parametrize(("cell", "mark", "value"), [
    ("1,234.5", ".", 1234.5), ("1.234,5", ",", 1234.5), ("1'234.5", ".", 1234.5), ("1 234,5", ",", 1234.5), ("12.5", ",", None),
    ("1,23", ".", None), ("1_000", ".", None), ("1e-3", ".", 1e-3), ("1,5e-3", ",", 1.5e-3), (".5", ".", 0.5), (",5", ",", 0.5),
    ("5.", ".", 5.0), ("1.234", ",", 1234.0),
])
def test_a_number_with_marks_between_thousands_is_read_whole_or_not_at_all(cell, mark, value):
    assert number(cell, mark) == value if value is not None else np.isnan(number(cell, mark))


@pytest.mark.parametrize(("unit", "factor"), [(u.symbol, u.factor) for u in UNITS.values() if u.kind is Kind.LENGTH])
@pytest.mark.parametrize(("clock", "seconds"), [(u.symbol, u.factor) for u in UNITS.values() if u.kind is Kind.TIME])
def test_every_unit_is_turned_into_metres_and_seconds(unit, factor, clock, seconds, tmp_path):
    path = tmp_path / "track.txt"
    rows = [f"{k * 0.01 / seconds!r};{(1 + k) / factor!r}" for k in range(8)]
    path.write_text("\n".join([f"time [{clock}];x [{unit}]", *rows]))
    samples = import_track(path, pixel_size=1.0).samples if unit == "px" else import_track(path).samples
    assert np.allclose(samples.t, 0.01 * np.arange(8))
    assert np.allclose(samples.x, 1 + np.arange(8))


@pytest.mark.parametrize(("up", "columns", "places"), [
    ("z", "x;y;z", (1.0, 2.0, 3.0)), ("y", "x;y;z", (1.0, -3.0, 2.0)),
])
def test_axes_stay_right_handed_whichever_stands_upright(up, columns, places, tmp_path):
    path = tmp_path / "track.txt"
    path.write_text(f"time;{columns}\n" + "\n".join(f"{k};1;2;3" for k in range(6)))
    samples = import_track(path, up=up).samples
    assert (samples.x[0], samples.y[0], samples.z[0]) == places


def test_a_comment_may_say_rate_and_scale(tmp_path):
    path = tmp_path / "track.txt"
    path.write_text("# frame rate: 50\n# scale 0.004 m/px\nframe;x_px;y_px\n" + "\n".join(f"{k};{k};{k}" for k in range(6)))
    found = guess(read_table(path))
    how, why = found.how, found.why
    assert (how.rate, how.pixel_size, how.y_down) == (50.0, 0.004, True)
    assert any("50" in reason for reason in why)
    samples = import_track(path).samples
    assert samples.t[1] == pytest.approx(0.02)
    assert samples.z[5] == pytest.approx(-0.02)
