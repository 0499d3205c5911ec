"""A drag of an outcome: the hand asks, the free numbers follow off the interface thread, every curve with them.

Only the newest wish waits while one is being followed. Letting go is one edit: the target it wrote and the numbers it found. Esc
puts everything back as it was.
"""

from __future__ import annotations

import logging
from typing import Any

from PySide6.QtCore import QObject, Signal

from yapa.case import Case, Target, with_numbers
from yapa.desktop.session import Session
from yapa.errors import YapaError
from yapa.fitting.pull import Pull, Pulled
from yapa.report.handles import Handle, told_value

log = logging.getLogger("yapa.desktop")


class Puller(QObject):
    """At most one drag at a time."""

    began = Signal(object)
    followed = Signal(object)
    ended = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.handle: Handle | None = None
        self.wanted = 0.0
        self.frame: Pulled | None = None
        self._pull: Pull | None = None
        self._case: Case | None = None
        self._busy = False
        self._letting_go = False
        session.case_changed.connect(self._on_case)

    @property
    def pulling(self) -> bool:
        """Whether something is under the hand."""
        return self.handle is not None

    def begin(self, handle: Handle) -> bool:
        """Take hold of an outcome."""
        case = self._session.case
        if case is None or self.pulling or self._session.fitting:
            return False
        if all(u.locked for u in case.unknowns):
            self._session.trouble.emit(f"{handle.name} cannot follow: every number is locked; free one that may change")
            return False
        self.handle, self._case, self._pull = handle, case, None
        self.wanted, self.frame, self._letting_go = handle.target.value, None, False
        self.began.emit(handle)
        return True

    def to(self, value: float) -> None:
        """Ask for a value; the newest wins."""
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
            self._session.set_live({})
            self._session.ask_look()

    # -- inside --------------------------------------------------------------------------------

    def _follow(self) -> None:
        if self._busy or self.handle is None or self._case is None:
            return
        self._busy = True
        case, handle, wanted, pull = self._case, self.handle, self.wanted, self._pull

        def job() -> tuple[Pull, Pulled, Any]:
            used = pull or Pull(case, [handle.target])
            frame = used.to(wanted)
            return used, frame, self._session.picture_at(case, frame.values)

        self._session.on_look_thread(job, lambda found, error: self._took(handle, wanted, found, error))

    def _took(self, handle: Handle, wanted: float, found: tuple[Pull, Pulled, Any] | None, error: BaseException | None) -> None:
        self._busy = False
        if handle is not self.handle:
            return
        if error is not None or found is None:
            if not isinstance(error, YapaError):
                log.error("a pull failed", exc_info=error)
            self._session.trouble.emit(str(error))
            self.put_back()
            return
        self._pull, self.frame, picture = found
        self._session.show_live(dict(self.frame.values), picture)
        self.followed.emit(self.frame)
        unfinished = not self.frame.reached and self.frame.simulations >= 16
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

        def make(c: Case) -> Case:
            after = with_numbers(c, {p: float(v) for p, v in frame.values.items()})
            return after.model_copy(update={"targets": with_wish(c, handle.target, wanted)})

        self._session.set_by_hand(make, f"pull {handle.name}")

    def _over(self) -> None:
        self.handle = self._pull = None
        self._letting_go = False
        self.ended.emit()

    def _on_case(self) -> None:
        if self.pulling and self._session.case is not self._case:
            self._over()


def with_wish(case: Case, wish: Target, value: float) -> tuple[Target, ...]:
    """The targets of a case with this one at a value, in place of the one that asks for the same outcome; with the digits that its
    tolerance can tell."""
    def same(t: Target) -> bool:
        alone = len(case.movers()) == 1
        return t.outcome == wish.outcome and t.index == wish.index and (t.body == wish.body or (t.body is None and alone))

    old = next((t for t in case.targets if same(t)), None)
    if old is None:
        return (*case.targets, wish.model_copy(update={"value": told_value(value, wish.tolerance)}))
    kept = wish.model_copy(update={"value": told_value(value, old.tolerance), "tolerance": old.tolerance, "weight": old.weight})
    return tuple(kept if t is old else t for t in case.targets)
