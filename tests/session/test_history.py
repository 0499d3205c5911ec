"""Undo and redo."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yapa.session.history import MAX_STEPS, History


def test_steps_go_back_and_forth_and_a_new_one_forgets_what_could_be_redone():
    history = History("a")
    history.push("b", "to b")
    history.push("c", "to c")
    assert (history.undo_text, history.redo_text) == ("to c", None)
    assert history.undo()
    assert (history.state, history.undo_text, history.redo_text) == ("b", "to b", "to c")
    history.push("d", "to d")
    assert not history.redo()
    assert history.steps == 2
    assert history.undo()
    assert history.undo()
    assert not history.undo()
    assert history.state == "a"


def test_clean_is_the_state_that_was_saved_and_is_lost_with_it():
    history = History(0)
    history.push(1, "one")
    history.mark_clean()
    history.undo()
    assert not history.is_clean
    history.redo()
    assert history.is_clean
    history.undo()
    history.push(2, "two")
    assert not history.is_clean
    history.undo()
    assert not history.is_clean


def test_a_thousand_steps_are_kept_and_their_number_is_bounded():
    history = History(0)
    for k in range(1, MAX_STEPS + 500):
        history.push(k, "on")
    assert history.steps == MAX_STEPS >= 1000
    while history.undo():
        pass
    assert history.state == 499
    assert not history.is_clean


def test_amending_changes_states_from_one_on_and_makes_no_step():
    a, b, c = ["a"], ["b"], ["c"]
    history = History(a)
    history.push(b, "b")
    history.push(c, "c")
    assert history.amend(lambda s: [*s, "known"], lambda s: s is b)
    assert history.steps == 2
    assert history.state == ["c", "known"]
    history.undo()
    assert history.state == ["b", "known"]
    history.undo()
    assert history.state is a
    assert not history.amend(lambda s: [*s, "known"], lambda s: s == ["gone"])  # a state that is no more


@given(st.lists(st.sampled_from(["push", "undo", "redo", "save"]), max_size=60))
def test_it_is_a_list_and_a_place_in_it(moves):
    history, states, at, clean = History(0), [0], 0, 0
    for k, move in enumerate(moves, start=1):
        if move == "push":
            clean = None if clean is not None and clean > at else clean
            states = [*states[: at + 1], k]
            at += 1
            history.push(k, "")
        elif move == "undo":
            assert history.undo() == (at > 0)
            at = max(at - 1, 0)
        elif move == "redo":
            assert history.redo() == (at < len(states) - 1)
            at = min(at + 1, len(states) - 1)
        else:
            history.mark_clean()
            clean = at
        assert history.state == states[at]
        assert history.is_clean == (clean == at)
