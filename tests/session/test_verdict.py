"""What a fit taught, in a sentence; what would tell the rest; the runner-up."""

from __future__ import annotations

from tests.session.conftest import bouncing
from yapa.case import Estimate, get_number, with_numbers
from yapa.demo import DATA
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.result import Answer, FitResult
from yapa.formats.case_file import load_case
from yapa.session import ledger
from yapa.session.fit_job import find_numbers
from yapa.session.verdict import AdviceLook, advice_on, learned, runner_up_words

E, MU = "pairs.rind+pad.restitution", "pairs.rind+pad.friction"
KNOWN = Estimate(value=0.631, std=0.0012, low=0.6286, high=0.6334)
OPEN = Estimate(value=0.5, determined=False, low=0.21, reason="every contact grips")


def test_what_is_known_what_is_not_and_what_would_tell_it():
    assert learned({E: KNOWN}) == "Restitution 0.6310 ± 0.0012 is known."
    words = learned({E: KNOWN, MU: OPEN}, {MU: "a launch that slips"})
    assert words == ("Restitution 0.6310 ± 0.0012 is known. Friction is at least 0.21: every contact grips; to tell it: "
                     "a launch that slips.")
    assert learned({}) == ""
    assert "cannot be told" in learned({MU: OPEN.model_copy(update={"low": None})})


def test_the_first_numbers_are_named_and_the_others_counted():
    many = {f"bodies.b{k}.mass": KNOWN for k in range(5)}
    assert learned(many).endswith("and 2 more are known.")
    assert "mass · b0" in learned(many).lower()  # two have the same name: whose it is stands beside


def test_the_runner_up_says_how_it_differs():
    result = FitResult(estimates={E: KNOWN}, misfit=1.0, simulations=1, seconds=0.1, stopped="converged")
    words = runner_up_words(Answer({E: 0.7}, 2.5), result)
    assert words == "runner-up: restitution 0.7 in place of 0.631; half the squared misfit is +2.5"
    assert "much the same" in runner_up_words(Answer({E: 0.6311}, 0.1), result)


def test_what_would_tell_a_friction_that_every_contact_hides():
    case = load_case(DATA / "orange-drop.yapa")[0]
    assert advice_on(case, Cancel()) == {}  # no fit yet
    case = with_numbers(case, {E: 0.79})
    trial = ledger.as_set_up(case).model_copy(update={"estimates": {E: Estimate(value=0.79, determined=False, reason="?")}})
    found = advice_on(case.model_copy(update={"trials": (trial,)}), Cancel())
    assert E in found


def test_the_runner_up_is_looked_at_and_taken_in_one_step(desk, ear):
    other = Answer({E: 0.7}, 0.4)

    def fit(case, progress, cancel):
        return FitResult(estimates={E: KNOWN}, misfit=1.0, simulations=3, seconds=0.1, stopped="converged", also=[other])

    desk.fits.fit = fit
    desk.fits.start()
    ear.until(lambda: desk.jobs.idle)
    assert desk.fits.runner_up is other
    desk.fits.look_at_runner_up(True)
    ear.until(lambda: desk.jobs.idle)
    assert desk.preview.comparison.values[E] == 0.7
    assert get_number(desk.case, E) == KNOWN.value
    desk.fits.look_at_runner_up(False)
    steps = desk.document.history.steps
    assert desk.fits.take_runner_up()
    assert get_number(desk.case, E) == 0.7
    assert desk.document.history.steps == steps + 1
    assert desk.fits.runner_up is None
    assert not desk.fits.take_runner_up()


def test_advice_is_looked_for_only_where_a_fit_left_something_open(desk, ear):
    heard = []
    desk.advice_changed.connect(lambda: heard.append(1))
    assert isinstance(desk.advice, AdviceLook)
    assert not desk.advice.has_something_to_find(bouncing())
    assert callable(find_numbers)
    trial = ledger.as_set_up(desk.case).model_copy(update={"estimates": {E: OPEN.model_copy(update={"value": desk.case[E]})}})
    case = desk.case.model_copy(update={"trials": (trial,)})
    assert desk.advice.has_something_to_find(case)
    desk.edit(case, "fit")
    ear.until(lambda: desk.jobs.idle)
    desk.advice.look()
    ear.until(lambda: desk.jobs.idle)
    assert heard == [1]
    assert E in desk.advice.found
