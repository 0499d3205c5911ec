"""Targets in words and back: what is written is what is read."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.case import Target
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.errors import InputError
from yapa.formats.target_text import parse_target, target_text

numbers = st.floats(-1e3, 1e3).map(lambda v: float(f"{v:.6g}"))
positive = st.floats(1e-3, 1e3).map(lambda v: float(f"{v:.6g}"))


places = st.tuples(numbers, numbers, numbers)
DRAWN_ARGUMENTS = {
    "index": st.integers(1, 9), "partner": st.sampled_from(["crate", "cut lemon"]), "time": positive, "point": places,
    "region": st.tuples(places, st.tuples(positive, positive, positive)).map(
        lambda both: (both[0], tuple(a + b for a, b in zip(*both, strict=True)))),
    "formula": st.sampled_from(["apex 2 / apex 1", "lemon travel - travel", "2 * (speed at 0.5 s)^2",
                                "hit with crate - bounce time 1"]),
    "sequence": st.sampled_from([("ground", "wall"), ("back wall", "floor", "post")]), "side": st.sampled_from(["+x", "-z"]),
    "span": positive, "crossing": st.sampled_from(["speed stays below 5 %", "height above 0.4 m", "tilt below 0.2 rad"]),
    "camera": st.sampled_from(["gate", "side gate 2"]),
    "waypoints": st.lists(places, min_size=1, max_size=3).map(tuple),
}
"""Values of every argument that an outcome may have."""


def arguments(outcome, draw):
    """Arguments of an outcome, drawn: those required, some that are optional, one of those of which one is needed."""
    spec = OUTCOME_SPECS[outcome]
    wanted = {*spec.required, *(name for name in spec.optional if name not in spec.one_of and draw(st.booleans()))}
    if spec.one_of:
        wanted.add(draw(st.sampled_from(spec.one_of)))
    return {name: draw(DRAWN_ARGUMENTS[name]) for name in sorted(wanted)}


@st.composite
def targets(draw):
    outcome = draw(st.sampled_from(sorted(OUTCOME_SPECS)))
    condition = draw(st.sampled_from(["equal", "within", "at least", "at most", "happens", "never"]))
    made = {"outcome": outcome, "condition": condition,
            "body": None if outcome == "formula" else draw(st.sampled_from([None, "orange"])), **arguments(outcome, draw)}
    if condition in ("equal", "at least", "at most"):
        made |= {"value": draw(numbers), "tolerance": draw(positive)}
    if condition == "within":
        made |= {"value": (low := draw(numbers)), "upper": low + draw(positive)}
    return made


@given(targets())
def test_what_is_written_is_what_is_read(made):
    target = Target(**made)
    again = parse_target(target_text(target))
    assert again.outcome == target.outcome
    assert again.condition == target.condition
    assert again.body == target.body
    for name in DRAWN_ARGUMENTS:
        assert again.argument(name) == target.argument(name)
    for name in ("value", "tolerance", "upper"):
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
