"""Names, units and numbers of a table's cells."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.formats.importing import import_track
from yapa.formats.roles import LENGTHS, TIMES, find_decimal, find_first, guess, is_number, number, split_name
from yapa.formats.tables import Table, read_table


@pytest.mark.parametrize(("cell", "name", "unit"), [
    ("x", "x", None), ("x [mm]", "x", "mm"), ("x (cm)", "x", "cm"), ("t/s", "t", "s"), ("time_ms", "time", "ms"),
    ("Pos X [m]", "pos_x", "m"),
    ("angle in deg", "angle", "deg"), ("theta [°]", "theta", "°"), ("height, mm", "height", "mm"), ("x_px", "x", "px"),
    ("Time (seconds)", "time", "s"), ("X (pixels)", "x", "px"), ("note [kg]", "note", None),
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


def test_a_decimal_comma_is_found_by_what_it_makes_of_the_cells():
    assert find_decimal(Table([["0,1", "2,5"], ["0,2", "2,6"]], [1, 2]), 0) == ","
    assert find_decimal(Table([["0.1", "2.5"], ["0.2", "2.6"]], [1, 2]), 0) == "."
    assert find_decimal(Table([["1", "2"], ["2", "3"]], [1, 2]), 0) == "."


@pytest.mark.parametrize(("unit", "factor"), list(LENGTHS.items()))
@pytest.mark.parametrize(("clock", "seconds"), list(TIMES.items()))
def test_every_unit_is_turned_into_metres_and_seconds(unit, factor, clock, seconds, tmp_path):
    path = tmp_path / "track.txt"
    rows = [f"{k * 0.1 / seconds!r};{(1 + k) / factor!r}" for k in range(8)]
    path.write_text("\n".join([f"time [{clock}];x [{unit}]", *rows]))
    samples = import_track(path, scale=1.0).samples if unit == "px" else import_track(path).samples
    assert np.allclose(samples.t, 0.1 * np.arange(8))
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
    how, why = guess(read_table(path))
    assert (how.rate, how.scale, how.y_down) == (50.0, 0.004, True)
    assert any("50" in reason for reason in why)
    samples = import_track(path).samples
    assert samples.t[1] == pytest.approx(0.02)
    assert samples.z[5] == pytest.approx(-0.02)
