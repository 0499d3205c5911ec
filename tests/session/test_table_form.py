"""Bringing a table of trials in: columns matched, units, dots against what was set, and the edit."""

from __future__ import annotations

import pytest

from tests.session.conftest import E, bouncing
from yapa.errors import InputError
from yapa.fitting import fit
from yapa.session.table_form import MEASURED, NOT_USED, SETS, TableColumn, TableForm, remove_table, table_words

Z = "bodies.orange.position.z"


@pytest.fixture
def form(tmp_path):
    path = tmp_path / "rebounds.csv"
    rows = [f"{h},{0.36 * h:.2f},{k}" for k, h in enumerate((40, 60, 80, 100, 120, 140))]
    path.write_text("\n".join(["drop height (cm),rebound (cm),who", *rows]))
    case = bouncing()
    return TableForm.of_file(path, case.model_copy(update={"tracks": (), "unknowns": tuple(
        u for u in case.unknowns if u.path == E)}))


def test_names_of_columns_suggest_what_they_are(form):
    assert [(c.use, c.what) for c in form.columns] == [(SETS, Z), (MEASURED, "apex 1"), (NOT_USED, "")]
    assert isinstance(form.columns[0], TableColumn)
    assert form.columns[0].arithmetic == '"drop height"'
    assert form.open() == []
    assert Z in form.settings()
    assert E not in form.settings()  # that is to be found
    assert {"apex 1", "apex 3", "rest time"} <= set(form.outcomes())


def test_dots_are_what_was_measured_against_what_was_set(form):
    form.columns[0].arithmetic = '"drop height" + 3.7 cm'
    across, up, points = form.dots()
    assert up == "apex 1"
    assert "start" in across or "position" in across
    assert points[0] == pytest.approx((0.437, 0.144))
    form.columns[0].use = NOT_USED
    assert form.dots()[0] == "row"
    form.columns[1].arithmetic = "rebound +"
    assert form.dots()[2] == []


def test_what_is_open_is_told_and_what_cannot_be_is_refused(form):
    form.columns[1].use = NOT_USED
    assert form.open() == ["choose the column that was measured, and what it measured"]
    form.columns[1].use, form.columns[1].what = MEASURED, ""
    assert form.open() == ["choose what rebound measured"]
    with pytest.raises(InputError):
        form.edit()
    form.columns[1].what = "apex 1"
    form.columns[2].use, form.columns[2].what = SETS, Z
    with pytest.raises(InputError, match="two columns that set"):
        form.table()


def test_the_table_is_brought_in_fitted_and_taken_out(form):
    form.columns[0].arithmetic = '"drop height" + 3.7 cm'
    case = form.edit().change(form.case)
    assert table_words(case.table).startswith("6 rows · apex 1 by ")
    result = fit(case)
    assert result.values[E] == pytest.approx(0.6, abs=0.02)
    assert remove_table().change(case).table is None
