"""Units as a person likes them: shown so, typed in any, kept for the next time."""

from __future__ import annotations

import pytest

from yapa.session.building.fields import text_of, unit_shown, values_from
from yapa.session.liked_units import CHOICES, NAMES, LikedUnits

RADIUS, SPEED, TILT = "bodies.orange.radius", "bodies.orange.velocity.x", "bodies.orange.tilt.y"


def test_numbers_are_shown_and_read_in_the_liked_unit(desk):
    liked = {"m": "cm", "m/s": "km/h", "rad": "rad"}
    radius = desk.case.bodies["orange"].shapes[0].radius
    assert float(text_of(desk.case, [RADIUS], liked)) == pytest.approx(100 * radius)
    assert [unit_shown(p, liked) for p in (RADIUS, SPEED, TILT)] == ["cm", "km/h", "rad"]
    assert values_from(desk.case, [RADIUS], "5", liked)[RADIUS] == pytest.approx(0.05)
    assert values_from(desk.case, [RADIUS], "0.04 m", liked)[RADIUS] == pytest.approx(0.04)
    assert values_from(desk.case, [RADIUS], "+1", liked)[RADIUS] == pytest.approx(radius + 0.01)
    assert values_from(desk.case, [SPEED], "36", liked)[SPEED] == pytest.approx(10.0)
    assert values_from(desk.case, [TILT], "0.5", liked)[TILT] == pytest.approx(0.5)


def test_every_choice_is_a_unit_that_can_be_typed_back(desk):
    paths = {"m": RADIUS, "m/s": SPEED, "kg": "bodies.orange.mass", "rad": TILT}
    assert set(paths) == set(CHOICES) == set(NAMES)
    for unit, path in paths.items():
        for shown in CHOICES[unit]:
            text = text_of(desk.case, [path], {unit: shown})
            now = values_from(desk.case, [path], text, {unit: shown})[path]
            assert now == pytest.approx(values_from(desk.case, [path], text_of(desk.case, [path]))[path], rel=1e-5)


def test_what_is_liked_is_kept_and_what_is_no_unit_is_not(tmp_path):
    units = LikedUnits(tmp_path)
    units.choose("m", "mm")
    assert LikedUnits(tmp_path).liked == {"m": "mm"}
    (tmp_path / "units.json").write_text('{"m": "furlong", "kg": "g"}')
    assert LikedUnits(tmp_path).liked == {"kg": "g"}
    (tmp_path / "units.json").write_text("not json")
    assert LikedUnits(tmp_path).liked == {}
    assert LikedUnits(None).liked == {}
