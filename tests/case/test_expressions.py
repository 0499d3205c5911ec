"""Arithmetic in words: what it gives, in which dimension, and what is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.case.expressions import parse_expression
from yapa.case.outcome_text import bodies_in, parse_formula, parse_reference, unit_of_formula
from yapa.case.units import Dimension, si_unit
from yapa.errors import InputError

numbers = st.floats(0.1, 100.0).map(lambda v: float(f"{v:.4g}"))


@st.composite
def arithmetic(draw, depth=3):
    """A text in the grammar, and its value with a = 2, b = 3."""
    if depth == 0 or draw(st.booleans()):
        kind = draw(st.sampled_from(["number", "a", "b"]))
        if kind == "number":
            value = draw(numbers)
            return f"{value!r}", value
        return kind, {"a": 2.0, "b": 3.0}[kind]
    left, x = draw(arithmetic(depth=depth - 1))
    right, y = draw(arithmetic(depth=depth - 1))
    sign = draw(st.sampled_from("+-*/"))
    value = {"+": x + y, "-": x - y, "*": x * y, "/": x / y if y else math.inf}[sign]
    return f"({left} {sign} {right})", value


@given(arithmetic())
def test_it_gives_what_arithmetic_gives(made):
    text, value = made
    found = float(parse_expression(text).value({"a": 2.0, "b": 3.0}))
    assert found == pytest.approx(value, rel=1e-12) or not math.isfinite(value)


@pytest.mark.parametrize(("text", "value"), [
    ("-a^2", -4.0), ("2 ^ -1", 0.5), ("10 - 4 - 3", 3.0), ("8 / 4 / 2", 1.0), ("2 + 3 * 4", 14.0), ("min(a, b, 1)", 1.0),
    ("max(a, 2 * b)", 6.0), ("sqrt(a * 8)", 4.0), ("hypot(3, 4)", 5.0), ("abs(-a)", 2.0), ("sin(30 deg)", 0.5), ("2 cm", 0.02),
    ("1.5e-3 km", 1.5), ('"drop height" / 2', 5.0), ("atan(1) * 4", math.pi),
])
def test_signs_bind_as_usual_and_units_are_si(text, value):
    assert parse_expression(text).value({"a": 2.0, "b": 3.0, "drop height": 10.0}) == pytest.approx(value, rel=1e-12)


def test_arrays_go_through_at_once():
    values = parse_expression("2 * a - b").value({"a": np.arange(3.0), "b": np.ones(3)})
    assert values.tolist() == [-1.0, 1.0, 3.0]


@pytest.mark.parametrize(("text", "dimension"), [
    ("height cm", Dimension(1.0)), ("height cm + 0.02", Dimension(1.0)), ("speed m/s * t s", Dimension(1.0)), ("a", None),
    ("2 * 3", None), ("sqrt(2 m)", Dimension(0.5)), ("(2 m)^2 / 3 s", Dimension(2.0, 0.0, -1.0)), ("sin(a)", Dimension()),
    ("max(2 m, a)", Dimension(1.0)), ("tilt deg", Dimension()), ("a * 2 m", None),
])
def test_the_dimension_follows(text, dimension):
    assert parse_expression(text).dimension({}) == dimension


@pytest.mark.parametrize(("text", "words"), [
    ("a b c", "cannot go on"), ("height cm +", "ends|cannot go on"), ("", "ends too soon"), ("(a", "ends|cannot go on"),
    ("foo(2)", "cannot go on"), ("a; import os", "cannot go on"), ("__import__('os')", "cannot go on"), ("2 parsecsx", "unit"),
    ("a cm + a mm", "two units"), ("a" * 500, "letters"), ("1 €", "cannot go on"),
])
def test_what_cannot_be_read_is_refused_with_the_place(text, words):
    with pytest.raises(InputError, match=words):
        parse_expression(text)


def test_adding_different_things_is_refused():
    with pytest.raises(InputError, match="adds or compares m and s"):
        parse_expression("a cm + b s").dimension({})


@pytest.mark.parametrize(("unit", "factor", "text"), [
    ("cm", 0.01, "m"), ("mph", 0.44704, "m/s"), ("km/h", 1 / 3.6, "m/s"), ("g/cm**3", 1000.0, "kg/m³"),
    ("lbf", 4.4482216152605, "kg·m/s²"),
    ("deg/s", 0.017453292519943295, "1/s"), ("yd", 0.9144, "m"), ("%", 0.01, ""),
])
def test_units_are_known_or_looked_up(unit, factor, text):
    found = si_unit(unit)
    assert found.factor == pytest.approx(factor, rel=1e-6)
    assert str(found.dimension) == text


@pytest.mark.parametrize("unit", ["lemons", "K", "degC", "A", "m*", "$"])
def test_a_unit_of_something_else_is_refused(unit):
    with pytest.raises(InputError, match="unit"):
        si_unit(unit)


def test_a_formula_names_its_outcomes_and_bodies():
    formula = parse_formula("(orange landing x 1 - lemon travel) / 2 + gap")
    assert formula.names == ("orange landing x 1", "lemon travel", "gap")
    assert bodies_in("orange hit with crate - lemon rest time") == ["orange", "crate", "lemon"]
    assert unit_of_formula("apex 2 / apex 1") == ""
    assert unit_of_formula("slide distance + reaction_time * peak speed") == "m"


def test_an_outcome_in_words_is_one_or_arithmetic():
    assert parse_reference("orange apex 2").index == 2
    assert parse_reference("speed at 0.5 s").time == 0.5
    assert parse_reference("apex 2 / apex 1").outcome == "formula"
    for wrong in ("nothing", "2 * 3", "apex"):
        with pytest.raises(InputError, match="outcome"):
            parse_reference(wrong)
