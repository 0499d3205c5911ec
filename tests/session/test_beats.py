"""Contacts as events: which are shown, how they are matched, how loud they are."""

from __future__ import annotations

import math

import pytest

from yapa.case import Body, Case, Plane, Sphere
from yapa.engine import simulate
from yapa.session.beats import BEAT_SPEED, QUIETEST, Beat, ContactChoice, beats_of, clicks, nearest_beat, no_hits, pairs_of


@pytest.fixture(scope="module")
def two_fall():
    """Two balls that fall side by side, the lemon from twice the height."""
    def ball(x, z):
        return Body(shapes=(Sphere(kind="sphere", radius=0.05, surface="rind"),), position=(x, 0.0, z), mass=0.1)

    floor = Body(motion="static", shapes=(Plane(kind="plane"),))
    return simulate(Case(title="two", bodies={"floor": floor, "orange": ball(0.0, 0.55), "lemon": ball(1.0, 1.05)},
                         surfaces={"rind": {"restitution": 0.5}}, duration=2.0))


def test_pairs_stand_in_the_order_in_which_they_meet(two_fall):
    assert [set(pair) for pair in pairs_of(two_fall)] == [{"orange", "floor"}, {"lemon", "floor"}]


def test_what_lies_hits_nothing_and_touches_all_the_same():
    floor = Body(motion="static", shapes=(Plane(kind="plane"),))
    lemon = Body(shapes=(Sphere(kind="sphere", radius=0.05),), position=(0.0, 0.0, 0.05), mass=0.1)
    lies = Case(bodies={"floor": floor, "lemon": lemon}, duration=0.5)
    assert no_hits(simulate(lies)) == "nothing hits in this clip: what touches stays"
    above = lies.model_copy(update={"bodies": {"floor": floor, "lemon": lemon.model_copy(update={"position": (0.0, 0.0, 50.0)})}})
    assert no_hits(simulate(above)) == "nothing touches in this clip"


def test_soft_contacts_and_pairs_are_left_out(two_fall):
    every = beats_of(two_fall, {})
    assert {b.body for b in every} == {"orange", "lemon"}
    assert all(b.simulated_speed > BEAT_SPEED for b in every)
    hard = beats_of(two_fall, {}, ContactChoice(least=2.0))
    assert {b.number for b in hard} == {1, 2}  # sqrt(2 g 0.5) = 3.13, sqrt(2 g 1) = 4.43, and half of that once more
    assert len(hard) == 3
    alone = beats_of(two_fall, {}, ContactChoice(left_out=frozenset({frozenset({"floor", "lemon"})})))
    assert alone == [b for b in every if b.body == "orange"]
    assert alone[0].partner == "floor"


def test_the_beat_beside_a_time_tells_its_moment():
    late = Beat("orange", 3, 1.395, 1.436, 2.0, 1.9, "mat")
    assert nearest_beat([late], 1.43, 0.02) == (late, 1.436)
    assert nearest_beat([late], 1.39, 0.02) == (late, 1.395)
    assert nearest_beat([late], 1.5, 0.02) is None
    assert nearest_beat([], 1.5, 0.02) is None
    assert late.words.splitlines() == ["contact 3 of orange with mat", "measured at 1.395 s, 2.00 m/s",
                                       "simulated at 1.436 s, 1.90 m/s", "+41 ms"]
    assert "simulated" not in Beat("orange", 4, 1.5, None, 1.0, 0.0).words


def test_harder_contacts_are_louder_and_each_touch_is_heard_once(two_fall):
    first = math.sqrt(2 * 0.5 / 9.80665)
    assert clicks(two_fall, 0.0, first - 1e-3, ContactChoice()) == []
    (orange,) = clicks(two_fall, first - 1e-3, first + 1e-3, ContactChoice())
    (lemon,) = clicks(two_fall, math.sqrt(2) * first - 1e-3, math.sqrt(2) * first + 1e-3, ContactChoice())
    assert lemon == 1.0
    assert orange == pytest.approx(2**-0.25, rel=1e-6)  # impulse as the root of the height
    assert clicks(two_fall, 0.0, 2.0, ContactChoice(left_out=frozenset({frozenset({"lemon", "floor"})})))[0] == 1.0
    every = clicks(two_fall, 0.0, 2.0, ContactChoice(least=0.0))
    assert min(every) >= QUIETEST
    assert len(every) < len(two_fall.contacts)  # the last ones follow each other within 30 ms


def test_the_choice_of_contacts_is_followed_and_begins_anew_with_another_case(desk, ear):
    heard = []
    desk.contacts_chosen.connect(lambda: heard.append(len(desk.preview.beats)))
    every = len(desk.preview.beats)
    desk.preview.choose_contacts(ContactChoice(least=2.0))
    assert 0 < heard[0] < every
    desk.open_case(desk.case)
    assert desk.preview.contact_choice == ContactChoice()
