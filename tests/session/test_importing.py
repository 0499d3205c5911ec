"""The import form without a screen."""

from __future__ import annotations

import pytest

from yapa.errors import InputError
from yapa.session.importing import ImportForm, Questions, read_any


@pytest.fixture
def form(tmp_path):
    path = tmp_path / "lane.txt"
    rows = [f"{k};{2 * k};{900 - 3 * k};24.1" for k in range(20)]
    path.write_text("\n".join(["Frame;along [px];height [palms];Temperatur [°C]", *rows]))
    with pytest.raises(Questions) as asked:
        read_any(path)
    return ImportForm(path, asked.value)


def test_what_a_file_does_not_say_is_asked_until_nothing_is_open(form):
    with pytest.raises(InputError):
        form.tracks()
    for k, role in enumerate(("frame", "x", "z")):
        form.give(k, role)
    assert form.columns[2].unit is None
    assert "m" in form.columns[2].units()
    assert any("height" in words for words in form.open())
    form.columns[2].unit = "cm"
    form.columns[1].unit = "cm"
    form.rate, form.decimal = 120.0, "."
    assert form.open() == []
    overrides = form.overrides()
    assert overrides.units["z"] == "cm"
    form.whose = {"": "crate"}
    (read,) = form.tracks()
    assert read.samples.z[0] == pytest.approx(9.0)
    assert read.samples.t[1] == pytest.approx(1 / 120)


def test_a_role_is_of_one_column(form):
    form.give(1, "x")
    form.give(2, "x")
    assert [column.role for column in form.columns[:3]].count("x") == 1


def test_a_track_that_is_hardly_in_metres_is_doubted_until_its_unit_is_named(tmp_path):
    path = tmp_path / "picture.csv"
    path.write_text("t,x,z\n" + "".join(f"{k / 50},{100 + k},{900 - 8 * k}\n" for k in range(30)))
    form = ImportForm.of_file(path)
    form.whose = {"": "body"}
    assert "the places span 232 m" in form.doubt(form.preview())
    for column in form.columns[1:]:
        column.unit = "mm"
    assert form.doubt(form.preview()) == ""
