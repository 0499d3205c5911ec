"""A drag of an outcome: the hand asks, the free numbers follow off the interface thread, every curve with them.

Only the newest wish waits while one is being followed. Letting go is one edit: the target it wrote and the numbers it found. Esc
puts everything back as it was.
"""

from __future__ import annotations

import logging
from typing import TYPE_CHECKING

from yapa.case import Case, Target, with_numbers
from yapa.errors import YapaError
from yapa.fitting.targets.drag import MAX_RUNS, Pull, Pulled
from yapa.session.comparison import Comparison
from yapa.session.edits import Edit
from yapa.session.handles import Handle, rounded_value
from yapa.session.jobs import Job

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
    """

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self.handle: Handle | None = None
        self.wanted = 0.0
        self.frame: Pulled | None = None
        self._pull: Pull | None = None
        self._case: Case | None = None
        self._busy = False
        self._letting_go = False
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
        case = self._desk.case
        if case is None or self.pulling or self._desk.fits.running:
            return False
        if all(u.fixed for u in case.unknowns):
            self._desk.error.emit(f"{handle.name} cannot follow: every number is locked; free one that may change")
            return False
        self.handle, self._case, self._pull = handle, case, None
        self.wanted, self.frame, self._letting_go = handle.target.value, None, False
        self._desk.pull_began.emit(handle)
        return True

    def to(self, value: float) -> None:
        """Ask for a value; the newest wins.

        Parameters
        ----------
        value : its value
        """
        if self.pulling and not self._letting_go:
            self.wanted = value
            self._follow()

    def let_go(self) -> None:
        """Keep what was pulled as one edit, once the last wish was followed."""
        if self.pulling:
            self._letting_go = True
            if not self._busy:
                self._keep()

    def put_back(self) -> None:
        """Give up: everything as before."""
        if self.pulling:
            self._over()
            self._desk.preview.set({})

    def _follow(self) -> None:
        if self._busy or self.handle is None or self._case is None:
            return
        self._busy = True
        case, handle, wanted, pull = self._case, self.handle, self.wanted, self._pull

        def work(job: Job) -> tuple[Pull, Pulled, Comparison]:
            used = pull or Pull(case, [handle.target])
            frame = used.to(wanted)
            return used, frame, self._desk.preview.evaluate(case, frame.values, job.cancel)

        self._desk.preview.run(f"pulling {handle.name}", work, lambda found, error: self._on_frame(handle, wanted, found, error))

    def _on_frame(self, handle: Handle, wanted: float, found: tuple[Pull, Pulled, Comparison] | None,
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
        self._pull, self.frame, comparison = found
        self._desk.preview.show(dict(self.frame.values), comparison)
        self._desk.pull_followed.emit(self.frame)
        unfinished = not self.frame.reached and self.frame.simulations >= MAX_RUNS
        if self.wanted != wanted or (unfinished and not self._letting_go):
            self._follow()
        elif self._letting_go:
            self._keep()

    def _keep(self) -> None:
        handle, frame, case = self.handle, self.frame, self._case
        self._over()
        if handle is None or frame is None or case is None:
            return
        wanted = self.wanted

        def change(c: Case) -> Case:
            after = with_numbers(c, {p: float(v) for p, v in frame.values.items()})
            return after.model_copy(update={"targets": with_wish(c, handle.target, wanted)})

        self._desk.make_by_hand(Edit(f"pull {handle.name}", change))

    def _over(self) -> None:
        self.handle = self._pull = None
        self._letting_go = False
        self._desk.pull_ended.emit()

    def _on_case(self) -> None:
        if self.pulling and self._desk.case is not self._case:
            self._over()


def with_wish(case: Case, wish: Target, value: float) -> tuple[Target, ...]:
    """Return the targets of a case with this one at a value, in place of the one that asks for the same outcome; with the digits
    that its
    tolerance can tell.

    Parameters
    ----------
    case : the case
    wish : the target with its new value
    value : its value
    """
    def same(t: Target) -> bool:
        alone = len(case.dynamic_bodies()) == 1
        return t.outcome == wish.outcome and t.index == wish.index and (t.body == wish.body or (t.body is None and alone))

    old = next((t for t in case.targets if same(t)), None)
    if old is None:
        return (*case.targets, wish.model_copy(update={"value": rounded_value(value, wish.tolerance)}))
    kept = wish.model_copy(update={"value": rounded_value(value, old.tolerance), "tolerance": old.tolerance, "weight": old.weight})
    return tuple(kept if t is old else t for t in case.targets)
