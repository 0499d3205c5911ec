"""A drag of an outcome: the hand asks, the free numbers follow off the interface thread, every curve with them.

Targets that are met when the drag begins stay met. Only the newest wish waits while one is being followed. Letting go is one edit:
the target it wrote and the numbers it found, with no more digits than the targets can tell. Where what is held leaves no room, the
drag stays open: one may let go of what holds, keep it as it is, or put everything back. Esc puts everything back as it was.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping
from typing import TYPE_CHECKING

from yapa.case import Case, Target, with_numbers
from yapa.errors import YapaError
from yapa.fitting.targets.drag import MAX_RUNS, Pull, Pulled
from yapa.fitting.targets.rounding import rounded_values
from yapa.session import edits
from yapa.session.comparison import Comparison
from yapa.session.edits import Edit
from yapa.session.handles import Handle, rounded_value
from yapa.session.jobs import Job
from yapa.session.leverage import greatest

if TYPE_CHECKING:
    from yapa.session.desk import Desk

log = logging.getLogger("yapa.session")


class Drag:
    """At most one drag at a time.

    Attributes
    ----------
    handle : what is under the hand; None where nothing is
    wanted : the value that was asked for last [unit of the outcome]
    frame : the newest frame that was found
    stuck : whether the hand is off, and what is held left no room
    let_loose : names of met targets that are not held any more
    offers : paths of the numbers that would move an outcome most, where nothing is free
    """

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self.handle: Handle | None = None
        self.wanted = 0.0
        self.frame: Pulled | None = None
        self.stuck = False
        self.let_loose: set[str] = set()
        self.offers: list[str] = []
        self._pull: Pull | None = None
        self._case: Case | None = None
        self._held: list[Target] = []
        self._busy = False
        self._letting_go = False
        self._anyway = False
        desk.case_changed.connect(self._on_case)

    @property
    def pulling(self) -> bool:
        """Whether something is under the hand."""
        return self.handle is not None

    def begin(self, handle: Handle) -> bool:
        """Take hold of an outcome.

        Parameters
        ----------
        handle : the outcome that is pulled

        Returns
        -------
        Whether it can be pulled.
        """
        case, comparison = self._desk.case, self._desk.preview.comparison
        if case is None or self.pulling or self._desk.fits.running:
            return False
        if all(u.fixed for u in case.unknowns):
            self._offer(case, handle)
            return False
        self._set_offers([])
        self.handle, self._case, self._pull = handle, case, None
        self.wanted, self.frame, self._letting_go = handle.target.value, None, False
        self.stuck = self._anyway = False
        self.let_loose = set()
        met = [report.target for report in comparison.targets if report.met] if comparison is not None else []
        self._held = [t for t in met if not _same(case, t, handle.target)]
        self._desk.pull_began.emit(handle)
        return True

    def to(self, value: float) -> None:
        """Ask for a value; the newest wins.

        Parameters
        ----------
        value : its value
        """
        if self.pulling and not self._letting_go and self.handle is not None:
            self.wanted, self.stuck = max(self.handle.least, value), False
            self._follow()

    def let_go(self) -> None:
        """Keep what was pulled as one edit, once the last wish was followed; where what is held left no room, wait to be told."""
        if self.pulling:
            self._letting_go = True
            if not self._busy:
                self._keep()

    def keep(self) -> None:
        """Keep it as far as it came."""
        self._anyway = True
        self.let_go()

    def loosen(self, name: str) -> None:
        """Do not hold a met target any more, and go on.

        Parameters
        ----------
        name : of a target that holds
        """
        if self.pulling and name not in self.let_loose:
            self.let_loose.add(name)
            self._pull, self.stuck = None, False
            self._follow()

    def put_back(self) -> None:
        """Give up: everything as before."""
        if self.pulling:
            self._over()
            self._desk.preview.set({})

    def free(self, path: str) -> bool:
        """Free one of the numbers that were offered, so that an outcome can follow.

        Parameters
        ----------
        path : path of the number

        Returns
        -------
        Whether it was freed.
        """
        self._set_offers([])
        case = self._desk.case
        known = case is not None and any(u.path == path for u in case.unknowns)
        return self._desk.make(edits.lock(path, False) if known else edits.free(path))

    def _offer(self, case: Case, handle: Handle) -> None:
        """Nothing is free: the numbers that move the outcome most are looked for."""
        self._desk.error.emit(f"{handle.name} cannot follow: every number is locked; free one that may change")

        def use(found: list[str]) -> None:
            if self._desk.case is case:
                self._set_offers(found)

        self._desk.search(f"looking what moves {handle.name}", lambda job: greatest(case, handle.target), use,
                          self._desk.show_error)

    def _set_offers(self, found: list[str]) -> None:
        if found != self.offers:
            self.offers = found
            self._desk.pull_offered.emit()

    def _follow(self) -> None:
        if self._busy or self.handle is None or self._case is None:
            return
        self._busy = True
        case, handle, wanted, pull = self._case, self.handle, self.wanted, self._pull
        hold = [t for t in self._held if t.label not in self.let_loose]

        def work(job: Job) -> tuple[Pull, Pulled, Comparison]:
            used = pull or Pull(case, [handle.target], hold=hold)
            frame = used.to(wanted)
            return used, frame, self._desk.preview.evaluate(case, frame.values, job.cancel)

        loose = set(self.let_loose)
        self._desk.preview.run(f"pulling {handle.name}", work,
                               lambda found, error: self._on_frame(handle, wanted, loose, found, error))

    def _on_frame(self, handle: Handle, wanted: float, loose: set[str], found: tuple[Pull, Pulled, Comparison] | None,
                  error: Exception | None) -> None:
        self._busy = False
        if handle is not self.handle:
            return
        if error is not None or found is None:
            if not isinstance(error, YapaError):
                log.error("a pull failed", exc_info=error)
            self._desk.error.emit(str(error))
            self.put_back()
            return
        pull, self.frame, comparison = found
        self._pull = pull if loose == self.let_loose else None
        self._desk.preview.show(dict(self.frame.values), comparison)
        self._desk.pull_followed.emit(self.frame)
        unfinished = not self.frame.reached and self.frame.simulations >= MAX_RUNS
        if self.wanted != wanted or self._pull is None or (unfinished and not self._letting_go):
            self._follow()
        elif self._letting_go:
            self._keep()

    def _keep(self) -> None:
        handle, frame, case = self.handle, self.frame, self._case
        if handle is None or frame is None or case is None:
            self._over()
            return
        if frame.held_by and not self._anyway:
            self.stuck, self._letting_go = True, False
            self._desk.pull_followed.emit(frame)
            return
        wanted = frame.now[0] if frame.held_by else self.wanted
        asked = [t for t in case.targets if not _same(case, t, handle.target)]
        self._busy = True

        def work(job: Job) -> dict[str, float]:
            return rounded_values(case, frame.values, [*asked, handle.target], job.cancel)

        self._desk.preview.run(f"rounding what {handle.name} moved", work,
                               lambda found, error: self._write(handle, wanted, frame.values if found is None else found))

    def _write(self, handle: Handle, wanted: float, values: Mapping[str, float]) -> None:
        self._busy = False
        if handle is not self.handle:
            return
        self._over()

        def change(c: Case) -> Case:
            after = with_numbers(c, {p: float(v) for p, v in values.items()})
            return after.model_copy(update={"targets": with_wish(c, handle.target, wanted)})

        self._desk.make_by_hand(Edit(f"pull {handle.name}", change))

    def _over(self) -> None:
        self.handle = self._pull = None
        self._letting_go = self.stuck = self._anyway = False
        self._desk.pull_ended.emit()

    def _on_case(self) -> None:
        self._set_offers([])
        if self.pulling and self._desk.case is not self._case:
            self._over()


def _same(case: Case, t: Target, wish: Target) -> bool:
    """Whether a target asks for the same outcome of the same body."""
    alone = len(case.dynamic_bodies()) == 1
    about = (t.outcome, t.index, t.time) == (wish.outcome, wish.index, wish.time)
    return about and (t.body == wish.body or (t.body is None and alone))


def with_wish(case: Case, wish: Target, value: float) -> tuple[Target, ...]:
    """Return the targets of a case with this one at a value, in place of the one that asks for the same outcome; with the digits
    that its tolerance can tell.

    Parameters
    ----------
    case : the case
    wish : the target with its new value
    value : its value
    """
    old = next((t for t in case.targets if _same(case, t, wish)), None)
    if old is None:
        return (*case.targets, wish.model_copy(update={"value": rounded_value(value, wish.tolerance)}))
    kept = wish.model_copy(update={"value": rounded_value(value, old.tolerance), "tolerance": old.tolerance, "weight": old.weight})
    return tuple(kept if t is old else t for t in case.targets)
