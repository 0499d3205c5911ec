"""Undo and redo over immutable states: every step keeps the state it made, and shares what it did not change."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

State = TypeVar("State")
MAX_STEPS = 5000
"""Steps that are kept; older ones are forgotten one by one."""


class History(Generic[State]):
    """States that a document has been in, and which of them it is in now."""

    def __init__(self, state: State) -> None:
        self._states = [state]
        self._texts = [""]
        self._marks = [0]
        self._now = 0
        self._newest = 0
        self._clean: int | None = 0

    @property
    def state(self) -> State:
        """The present state."""
        return self._states[self._now]

    @property
    def is_clean(self) -> bool:
        """Whether the present state is the one that was saved."""
        return self._clean == self.mark

    @property
    def mark(self) -> int:
        """The present state's own number: no other state of this history ever has it, and amending leaves it."""
        return self._marks[self._now]

    @property
    def steps(self) -> int:
        """Steps that can be undone or redone."""
        return len(self._states) - 1

    @property
    def undo_text(self) -> str | None:
        """What undo would take back, None where there is nothing."""
        return self._texts[self._now] if self._now else None

    @property
    def redo_text(self) -> str | None:
        """What redo would do again, None where there is nothing."""
        return self._texts[self._now + 1] if self._now < self.steps else None

    def push(self, state: State, text: str) -> None:
        """Go on to a new state; what could be redone is forgotten.

        Parameters
        ----------
        state : the new state
        text : the text
        """
        del self._states[self._now + 1 :], self._texts[self._now + 1 :], self._marks[self._now + 1 :]
        self._newest += 1
        self._states.append(state)
        self._texts.append(text)
        self._marks.append(self._newest)
        self._now += 1
        while self.steps > MAX_STEPS:
            del self._states[0], self._texts[1], self._marks[0]
            self._now -= 1

    def undo(self) -> bool:
        """Go back one step; False where there is none.

        Returns
        -------
        Whether there was a step.
        """
        if self._now == 0:
            return False
        self._now -= 1
        return True

    def redo(self) -> bool:
        """Go forward one step; False where there is none.

        Returns
        -------
        Whether there was a step.
        """
        if self._now == self.steps:
            return False
        self._now += 1
        return True

    def mark_clean(self, mark: int | None = None) -> None:
        """The state of this mark is saved; the present one, where none is given.

        Parameters
        ----------
        mark : of the state
        """
        self._clean = self.mark if mark is None else mark

    def mark_changed(self) -> None:
        """No state is saved."""
        self._clean = None

    def amend(self, change: Callable[[State], State], since: Callable[[State], bool] = lambda _state: True) -> bool:
        """Change states in place, without a step: what comes to be known of a state later. False where none changed.

        Parameters
        ----------
        change : makes the new state of an old one
        since : true of the first state that may change; where it is true of none, nothing changes

        Returns
        -------
        Whether any state changed.
        """
        first = next((k for k, state in enumerate(self._states) if since(state)), len(self._states))
        before = self._states[first:]
        after = [change(state) for state in before]
        self._states[first:] = after
        return any(a is not b for a, b in zip(after, before, strict=True))
