"""What a fit says: digits that its uncertainty allows, sentences that are honest, JSON without NaN."""

from __future__ import annotations

import json

import pytest

from yapa import api
from yapa.case.estimate_text import digits, sentence, spread_text
from yapa.case.unknowns import Estimate
from yapa.fitting import FitResult

PATH = "pairs.rind+pad.restitution"


@pytest.mark.parametrize(("value", "std", "text"), [
    (0.78691, 0.0002, "0.78691"), (0.78691, 0.02, "0.787"), (12.3456, 3.0, "12.3"), (123.456, 40.0, "123"), (0.5, None, "0.5"),
    (-0.000072, 0.00017, "-0.00007")])
def test_a_value_has_two_digits_of_its_uncertainty(value, std, text):
    assert digits(value, std) == text


@pytest.mark.parametrize(("std", "text"), [
    (0.00023, "0.00023"), (0.019, "0.019"), (1.5e-6, "1.5e-06"), (7.0e-5, "7.0e-05"), (0.5, "0.50")])
def test_a_very_small_spread_is_written_with_a_power_of_ten(std, text):
    assert spread_text(std) == text


def test_a_sentence_for_what_was_found():
    assert sentence(PATH, Estimate(value=0.7869, std=0.0023)) == "restitution · rind on pad 0.7869 ± 0.0023"
    assert sentence("bodies.orange.velocity.x", Estimate(value=1.23456, std=0.01)).endswith("1.235 ± 0.010 m/s")


def test_a_sentence_for_what_cannot_be_told_has_its_bounds_and_never_its_value():
    told = sentence("pairs.rind+pad.friction", Estimate(value=0.77, low=0.02, determined=False, reason="every contact grips"))
    assert "cannot be told: at least 0.02" in told
    assert "0.77" not in told
    both = sentence("pairs.rind+pad.friction", Estimate(value=0.77, low=0.02, high=0.9, determined=False, reason="r"))
    assert "at least 0.02 and at most 0.9" in both
    none = sentence("bodies.orange.mass", Estimate(value=1.0, determined=False, reason="mass does not change this motion"))
    assert "cannot be told (mass does not change this motion)" in none


def test_a_result_is_json_with_null_for_what_is_not_known():
    result = FitResult({PATH: Estimate(value=0.5, low=0.1, determined=False, reason="why")}, None, 12, 0.123456, "cancelled")
    back = json.loads(json.dumps(result.as_dict(), allow_nan=False))
    assert back["values"][PATH] == {"value": 0.5, "std": None, "low": 0.1, "high": None, "determined": False, "reason": "why"}
    assert back["misfit"] is None
    assert back["stopped"] == "cancelled"
    assert back["seconds"] == 0.1235
    assert result.values == {PATH: 0.5}
    assert len(result.sentences()) == 1


def test_a_result_is_told_in_a_line_a_page_and_a_table():
    from yapa.demo import DATA

    result = api.fit(api.load(DATA / "orange-drop.yapa"))
    assert repr(result).startswith("<FitResult converged, misfit 1: restitution · rind on pad 0.74")
    assert "\n" not in repr(result)
    page = result.summary()
    assert page.splitlines()[0].startswith("converged; misfit 1.00")
    assert "  drag coefficient · orange" in page
    assert result._repr_html_().count("<tr>") == 4
