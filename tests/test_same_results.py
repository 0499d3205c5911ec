"""What counts as a different result of two checkouts."""

from __future__ import annotations

import pytest
from tools.same_results import differences, in_present_spelling, unlike, without_times


def estimate(value=0.5, std=0.01, determined=True):
    return {"value": value, "std": std, "determined": determined}


def told(**change):
    fit = {"stopped": "converged", "simulations": 100, "values": {"e": estimate()}} | change
    return {"motion": b"abc", "simulate ends with": 0, "told.json": {"a": [1.0]}, "outcomes.json": {"apex": 1.0}, "fit.json": fit}


def test_the_same_is_the_same():
    assert list(differences(told(), told())) == []
    within = told(simulations=109, values={"e": estimate(0.5001)})
    assert list(differences(told(), within)) == []


@pytest.mark.parametrize(("change", "word"), [
    ({"motion": b"abd"}, "other bytes"),
    ({"simulate ends with": 2}, "0 before, 2 now"),
    ({"told.json": {"a": [1.0 + 1e-15]}}, "simulate.a[0]"),
    ({"outcomes.json": {"apex": 1.0 + 1e-11}}, "outcomes.apex"),
    ({"outcomes.json": {"apex": None}}, "outcomes.apex"),
    ({"fit.json": told(stopped="not converged")["fit.json"]}, "converged before"),
    ({"fit.json": told(simulations=111)["fit.json"]}, "111 now"),
    ({"fit.json": told(values={"e": estimate(0.5003)})["fit.json"]}, "e 0.5"),
    ({"fit.json": told(values={"e": estimate(determined=False)})["fit.json"]}, "determined before"),
    ({"fit.json": told(values={"mu": estimate()})["fit.json"]}, "mu now"),
])
def test_what_differs_is_told(change, word):
    found = list(differences(told(), told() | change))
    assert len(found) == 1
    assert word in found[0]


def test_an_outcome_may_differ_in_its_last_digits_and_a_time_always():
    assert list(unlike({"a": 1.0}, {"a": 1.0 + 1e-13}, 1e-12)) == []
    assert list(unlike([1, 2], [1], 1e-12)) == [("", [1, 2], [1])]
    assert without_times({"seconds": 1.2, "rows": [{"took": 1, "value": 2}]}) == {"rows": [{"value": 2}]}


def test_paths_of_format_1_are_compared_in_their_present_spelling():
    old = {"values": {"bodies.b.spin.y": {"path": "tracks.t.offset"}}, "words": ["a spin of 3"]}
    assert in_present_spelling(old) == {
        "values": {"bodies.b.angular_velocity.y": {"path": "tracks.t.time_offset"}}, "words": ["a spin of 3"]}
