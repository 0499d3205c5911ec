"""Wishes as a person writes them."""

from __future__ import annotations

import pytest

from yapa.errors import InputError
from yapa.session.wishes_text import LEAST, USUAL, amount_of, parse_wishes


@pytest.mark.parametrize(("text", "value", "tolerance"), [
    ("apex 3 = 30 cm", 0.3, USUAL * 0.3), ("apex 3 = 0,3 ± 0,01", 0.3, 0.01), ("apex 3 = 300 mm ± 1 cm", 0.3, 0.01),
    ("landing 1 = 0.01", 0.01, LEAST), ("impact angle 1 = 30 ° ± 1", 0.5235987755982988, 0.017453292519943295),
    ("rest time = 2.1 s", 2.1, USUAL * 2.1)])
def test_values_have_any_unit_and_a_usual_tolerance(text, value, tolerance):
    (target,) = parse_wishes(text)
    assert (target.value, target.tolerance) == (pytest.approx(value), pytest.approx(tolerance))


def test_several_wishes_stand_in_a_line_and_what_cannot_be_read_is_told():
    found = parse_wishes("apex 1 = 50 cm; rest time within 2 to 2.5 s\npeak speed at most 3 m/s;")
    assert [t.condition for t in found] == ["equal", "within", "at most"]
    assert found[2].value == 3.0
    assert parse_wishes(" ; ") == []
    with pytest.raises(InputError, match="not a target"):
        parse_wishes("bounce a lot")


def test_an_amount_is_in_the_unit_that_is_shown_unless_it_has_its_own():
    assert amount_of("0.42", "m") == 0.42
    assert amount_of(" 42 cm ", "m") == pytest.approx(0.42)
    assert amount_of("30", "rad") == pytest.approx(0.5235987755982988)
    assert amount_of("0.5 rad", "rad") == 0.5
    for text in ("high", "3 s"):
        with pytest.raises(InputError, match="value"):
            amount_of(text, "m")
