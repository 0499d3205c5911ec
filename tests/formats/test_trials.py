"""Tables of trials from files, and in words."""

from __future__ import annotations

import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.errors import InputError
from yapa.formats.case_file import OutsideError
from yapa.formats.table_options import with_table
from yapa.formats.trials import read_trials

TEXT = "drop height (cm),ball,rebound [mm]\n50,red,250\n100,blue,\n150,red,740\n"


@pytest.fixture
def table(tmp_path):
    def write(text=TEXT, name="trials.csv"):
        file = tmp_path / name
        file.write_text(text)
        return file
    return write


def case():
    return scene({"ball": ball(0.04, position=(0, 0, 1.04), mass=0.2), "floor": floor()}, duration=1.6, restitution=0.6)


def test_names_units_words_and_empty_cells_are_read(table):
    found = read_trials(table())
    assert found.columns == {"drop height": (50.0, 100.0, 150.0), "ball": ("red", "blue", "red"), "rebound": (250.0, None, 740.0)}
    assert found.units == {"drop height": "cm", "rebound": "mm"}


@pytest.mark.parametrize(("text", "first"), [
    ("a;b\n1,5;2\n2,5;3\n", (1.5, 2.5)), ("# a comment\na\tb\n1.5\t2\n2.5\t3\n", (1.5, 2.5)),
    ("a,b\n1.5,2\nNA,3\n2,1\n", (1.5, None, 2.0)),
])
def test_delimiters_decimal_commas_and_gaps_are_understood(table, text, first):
    assert read_trials(table(text)).columns["a"] == first


@pytest.mark.parametrize(("text", "words"), [
    ("1,2\n3,4\n5,6\n", "first row without names"), ("a,a\n1,2\n3,4\n", "two columns named 'a'"), ("a,b\n1,2\n", "1 rows"),
    ("a,b\n1,2,3\n3,4,5\n", "3 cells"), ("a\n" + "1\n" * 2001, "2001 rows"),
])
def test_a_table_that_is_none_says_why(table, text, words):
    with pytest.raises(InputError, match=words):
        read_trials(table(text))


def test_a_table_in_words_goes_into_the_case(table):
    whole, notices = with_table(case(), table(), ['bodies.ball.position.z="drop height" + 4 cm'], ["apex 1 + zero=rebound ± 2 mm"],
                                ["zero=-2..2 cm"], ["ball: surfaces.both.restitution"][:0])
    assert "3 rows" in notices[0]
    assert whole.table.measured[0].sigma == "2 mm"
    assert whole.constants["zero"].unit == "m"
    assert (whole.unknowns[-1].low, whole.unknowns[-1].high) == pytest.approx((-0.02, 0.02))


@pytest.mark.parametrize(("column", "measured", "constants", "words"), [
    ("bodies.ball.position.z", "apex 1=rebound", (), "both sides of ="),
    ("bodies.ball.position.q=ball", "apex 1=rebound", (), "position.q"),
    ("bodies.ball.position.z=hight", "apex 1=rebound", (), "no column named 'hight'"),
    ("bodies.ball.mass=rebound", "apex 1", (), "="),
    ("bodies.ball.mass=rebound", "apex 1=rebound", ("zero",), "no constant"),
    ("bodies.ball.mass=rebound", "apex 1=rebound", ("z=2..1",), "rises"),
])
def test_words_that_do_not_fit_are_refused(table, column, measured, constants, words):
    with pytest.raises(InputError, match=words):
        with_table(case(), table(), [column], [measured], constants)


def test_a_file_beside_the_case_is_read_again_and_stays_a_file(table, tmp_path):
    whole, _ = with_table(case(), table(), ['bodies.ball.position.z="drop height"'], ["apex 1=rebound"])
    api.save(whole.model_copy(update={"table": whole.table.model_copy(update={"file": "trials.csv"})}), tmp_path / "one.yapa")
    assert '"columns"' not in (tmp_path / "one.yapa").read_text()
    again = api.load(tmp_path / "one.yapa")
    assert again.table.columns == whole.table.columns
    assert again.table.units == whole.table.units
    (tmp_path / "sub").mkdir()
    api.save(again, tmp_path / "sub" / "two.yapa")  # the file is not beside it: the rows go into the case
    assert api.load(tmp_path / "sub" / "two.yapa").table.columns == whole.table.columns
    text = (tmp_path / "one.yapa").read_text().replace('"trials.csv"', '"../trials.csv"')
    (tmp_path / "sub" / "three.yapa").write_text(text)
    with pytest.raises(OutsideError):
        api.load(tmp_path / "sub" / "three.yapa")
    (tmp_path / "trials.csv").write_text("no table")
    with pytest.raises(InputError, match="the table of"):
        api.load(tmp_path / "one.yapa")


def test_a_case_without_a_table_is_written_as_before(tmp_path):
    api.save(case(), tmp_path / "plain.yapa")
    text = (tmp_path / "plain.yapa").read_text()
    assert not any(f'"{key}"' in text for key in ("table", "constants", "groups"))
