"""Targets in words and back: what is written is what is read."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.case import Target
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.case.target_text import parse_target, target_text
from yapa.errors import InputError

numbers = st.floats(-1e3, 1e3).map(lambda v: float(f"{v:.6g}"))
positive = st.floats(1e-3, 1e3).map(lambda v: float(f"{v:.6g}"))


def told(outcome, draw):
    """What an outcome must be told, drawn."""
    needs = set(OUTCOME_SPECS[outcome].needs)
    out = {}
    if "index" in needs:
        out["index"] = draw(st.integers(1, 9))
    if "partner" in needs:
        out["partner"] = "crate"
    if "at" in needs:
        out["at"] = draw(positive)
    if "point" in needs:
        out["point"] = (draw(numbers), draw(numbers), draw(numbers))
    if "zone" in needs:
        low = [draw(numbers) for _ in range(3)]
        out["zone"] = (tuple(low), tuple(v + draw(positive) for v in low))
    if "points" in needs:
        out["points"] = tuple((draw(numbers), draw(numbers), draw(numbers)) for _ in range(draw(st.integers(1, 3))))
    return out


@st.composite
def targets(draw):
    outcome = draw(st.sampled_from(sorted(OUTCOME_SPECS)))
    condition = draw(st.sampled_from(["equal", "within", "at least", "at most", "happens", "never"]))
    made = {"outcome": outcome, "condition": condition, "body": draw(st.sampled_from([None, "orange"])), **told(outcome, draw)}
    if condition in ("equal", "at least", "at most"):
        made |= {"value": draw(numbers), "tolerance": draw(positive)}
    if condition == "within":
        made |= {"value": (low := draw(numbers)), "upper": low + draw(positive)}
    return made


@given(targets())
def test_what_is_written_is_what_is_read(made):
    try:
        target = Target(**made)
    except ValueError:
        return  # such an outcome cannot be asked for so
    again = parse_target(target_text(target))
    assert again.outcome == target.outcome
    assert again.condition == target.condition
    assert again.body == target.body
    for name in ("index", "partner"):
        assert getattr(again, name) == getattr(target, name)
    for name in ("value", "tolerance", "upper", "at"):
        one, two = getattr(again, name), getattr(target, name)
        if target.condition in ("happens", "never") or one is None or (name == "tolerance" and target.condition == "within"):
            continue
        assert one == pytest.approx(two, rel=1e-5, abs=1e-9)


@pytest.mark.parametrize("text", ["", "apex", "apex 2 =", "apex 2 = 0.4", "apex two = 0.4 ± 0.1 m", "apex 2 = 0.4 ± -0.1 m",
                                  "apex 2 = 0.4 ± 0.1 kg", "nonsense 3 happens", "x" * 2000])
def test_what_is_no_target_is_refused_with_what_to_write(text):
    with pytest.raises(InputError) as refused:
        parse_target(text)
    assert len(str(refused.value)) > 20
