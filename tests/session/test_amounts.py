"""Amounts as a person types them."""

from __future__ import annotations

import pytest

from yapa.errors import InputError
from yapa.session.amounts import LEAST, USUAL, amount_of, usual_tolerance


def test_a_value_has_a_usual_tolerance():
    assert usual_tolerance(-2.1) == pytest.approx(USUAL * 2.1)
    assert usual_tolerance(0.01) == LEAST


def test_an_amount_is_in_the_unit_that_is_shown_unless_it_has_its_own():
    assert amount_of("0.42", "m") == 0.42
    assert amount_of(" 42 cm ", "m") == pytest.approx(0.42)
    assert amount_of("0,42", "m") == 0.42
    assert amount_of("30", "rad") == pytest.approx(0.5235987755982988)
    assert amount_of("30 °", "rad") == pytest.approx(0.5235987755982988)
    assert amount_of("0.5 rad", "rad") == 0.5
    for text in ("high", "3 s"):
        with pytest.raises(InputError, match="value"):
            amount_of(text, "m")
