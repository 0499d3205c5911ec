"""Everything that can happen during a fit, and between its end and its being heard, in random orders.

A model beside the desk knows what a person did: the open document is never another's, no edit is lost, no job hangs. The fit is one
that ends when it is let go; what lanes deliver waits until it is heard.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path

from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from tests.hard.levels import amount
from tests.session.conftest import E, Ear, HeldFit, bouncing, saved
from yapa.case import get_number
from yapa.formats.case_json import read_case, write_case
from yapa.session.desk import Desk
from yapa.session.edits import set_range
from yapa.session.recovery import Kept, Recovery


@dataclass
class Seen:
    """What a person sees of a state: the numbers they set, the range of the unknown, how often it was fitted."""

    gravity: float
    restitution: float
    high: float
    fits: int


@dataclass
class Mine:
    """The document a person believes to have open."""

    title: str
    states: list[Seen]
    at: int = 0
    path: Path | None = None

    @property
    def now(self) -> Seen:
        return self.states[self.at]

    def step(self, **changes: object) -> None:
        self.states = [*self.states[: self.at + 1], Seen(**{**self.now.__dict__, **changes})]
        self.at += 1


@dataclass
class Begun:
    """A fit that was begun: for which document, and what it began with."""

    document: Mine
    start: Seen
    value: float = 0.0
    held: HeldFit = field(default_factory=HeldFit)


class Races(RuleBasedStateMachine):
    """One desk, one person, and a clock that only moves when it is told to."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.home = Path(self.folder.name)
        self.ear = Ear()
        self.fits: list[HeldFit] = []
        self.desk = Desk(self.ear, Recovery(self.home / "state"), self._fit, pause=0.005)
        self.begun: Begun | None = None
        self.opened = 0
        self.mine = self._opening()
        self.desk.open_case(bouncing(self.mine.title))

    def _fit(self, case, progress, cancel):
        held = next(h for h in self.fits if h.case is case)
        return held(case, progress, cancel)

    def _opening(self) -> Mine:
        self.opened += 1
        case = bouncing()
        unknown = next(u for u in case.unknowns if u.path == E)
        first = Seen(get_number(case, "gravity"), get_number(case, E), unknown.high, 0)
        return Mine(f"document {self.opened}", [first])

    def _leave(self) -> None:
        self.begun = None  # a fit of a document that is gone is nobody's

    # -- what a person does ----------------------------------------------------------------------

    @rule(value=st.floats(1.0, 20.0))
    def edit_a_number_that_is_not_fitted(self, value: float) -> None:
        assert self.desk.set_number("gravity", value)
        if value != self.mine.now.gravity:
            self.mine.step(gravity=value)

    @rule(value=st.floats(0.31, 0.9))
    def edit_the_fitted_number(self, value: float) -> None:
        assert self.desk.set_number(E, value)
        if value != self.mine.now.restitution:
            self.mine.step(restitution=value)

    @rule(high=st.floats(0.91, 1.4))
    def edit_the_unknown(self, high: float) -> None:
        assert self.desk.make(set_range(E, 0.3, high))
        self.mine.step(high=high)

    @rule()
    def undo(self) -> None:
        self.desk.undo()
        self.mine.at = max(self.mine.at - 1, 0)

    @rule()
    def redo(self) -> None:
        self.desk.redo()
        self.mine.at = min(self.mine.at + 1, len(self.mine.states) - 1)

    @rule()
    def begin_a_new_case(self) -> None:
        self._leave()
        self.mine = self._opening()
        self.desk.open_case(bouncing(self.mine.title))

    @rule()
    def open_a_file(self) -> None:
        mine = self._opening()
        mine.path = self.home / f"{mine.title}.yapa"
        write_case(bouncing(mine.title), mine.path)
        self.desk.opener.load(mine.path)
        self.ear.until(lambda: self.desk.case.title == mine.title)
        if self.begun is not None and self.begun.document is self.mine and self.desk.fits.running:
            raise AssertionError("the fit of another document is still shown")
        self._leave()
        self.mine = mine

    @rule()
    def recover_lost_work(self) -> None:
        mine = self._opening()
        lost = Recovery(self.home / "state")
        lost.write(Kept(bouncing(mine.title), None))
        lost._lock.free(remove=False)
        self._leave()
        self.desk.opener.recover(lost.file)
        self.ear.until(lambda: self.desk.case.title == mine.title)
        self.mine = mine

    @rule()
    def save(self) -> None:
        path = self.mine.path or self.home / f"{self.mine.title}.yapa"
        before, clean = self.mine.now, saved(self.desk, self.ear, path)
        self.mine.path = path
        if self.begun is not None and not self.desk.fits.running:  # its end was heard meanwhile
            self._merged(self.begun)
        assert clean == (self.mine.now is before)
        kept = read_case(path)
        assert kept.title == self.mine.title
        assert get_number(kept, "gravity") == before.gravity
        assert get_number(kept, E) == before.restitution

    # -- fits ------------------------------------------------------------------------------------

    @rule(value=st.floats(0.35, 0.89))
    def fit(self, value: float) -> None:
        running = self.begun is not None
        held = HeldFit()
        held.case, held.value = self.desk.case, value
        self.fits.append(held)
        assert self.desk.fits.start() is not running
        if not running:
            self.begun = Begun(self.mine, self.mine.now, value, held)

    @precondition(lambda self: self.begun is not None)
    @rule()
    def the_fit_ends_and_nobody_has_heard_of_it(self) -> None:
        self.begun.held.gate.set()
        self.desk.fits.job.over.wait(0.02)

    @precondition(lambda self: self.begun is not None)
    @rule()
    def the_fit_is_heard_to_end(self) -> None:
        begun = self.begun
        begun.held.gate.set()
        self.ear.until(lambda: not self.desk.fits.running)
        self._merged(begun)

    @precondition(lambda self: self.begun is not None)
    @rule()
    def the_fit_is_stopped(self) -> None:
        begun = self.begun
        self.desk.fits.stop()
        self.ear.until(lambda: not self.desk.fits.running)
        self._merged(begun)

    @rule()
    def hear(self) -> None:
        self.ear.hear()
        if self.begun is not None and not self.desk.fits.running:
            self._merged(self.begun)

    def _merged(self, begun: Begun) -> None:
        """What the end of a fit makes of the document it was begun for."""
        self.begun = None
        now = begun.document.now
        same = (now.restitution, now.high) == (begun.start.restitution, begun.start.high)
        changes = {"restitution": begun.value} if same else {}
        begun.document.step(fits=now.fits + 1, **changes)

    # -- what is always so -----------------------------------------------------------------------

    @invariant()
    def the_open_document_is_the_persons(self) -> None:
        if self.begun is not None and not self.desk.fits.running:  # a rule that waited has heard its end
            self._merged(self.begun)
        case, now = self.desk.case, self.mine.now
        assert case.title == self.mine.title
        assert self.desk.path == self.mine.path
        assert get_number(case, "gravity") == now.gravity
        assert get_number(case, E) == now.restitution
        assert next(u.high for u in case.unknowns if u.path == E) == now.high
        assert sum(t.source in ("fit", "stopped fit") for t in case.trials) == now.fits
        assert self.desk.document.history.steps == len(self.mine.states) - 1

    def teardown(self) -> None:
        for held in self.fits:
            held.gate.set()
        self.ear.until(lambda: self.desk.jobs.idle, 120)  # no job hangs
        if self.begun is not None and not self.desk.fits.running:
            self._merged(self.begun)
        self.the_open_document_is_the_persons()
        self.desk.close()
        self.folder.cleanup()


TestRaces = Races.TestCase
TestRaces.settings = settings(
    max_examples=amount(short=25, long=200), stateful_step_count=14, deadline=None, suppress_health_check=list(HealthCheck))
