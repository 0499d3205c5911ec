"""The play head: which time of the clip is shown."""

from __future__ import annotations

from collections.abc import Callable

from yapa.case import Case
from yapa.session.signals import Signals

MAX_FRAME_RATE = 120.0
"""Frames a second that stepping goes by, at most."""


class Playback:
    """A time [s] within the clip of the case that is open."""

    def __init__(self, signals: Signals, case: Callable[[], Case | None]) -> None:
        self._signals, self._case = signals, case
        self.time = 0.0

    def go_to(self, time: float) -> None:
        """Show another time, kept within the clip.

        Parameters
        ----------
        time : [s]
        """
        case = self._case()
        end = case.duration if case is not None else 0.0
        self.time = min(max(0.0, time), end)
        self._signals.playhead_moved.emit(self.time)

    def step(self, frames: int) -> None:
        """Go so many frames on, or back.

        Parameters
        ----------
        frames : how many, below zero backwards
        """
        case = self._case()
        if case is not None:
            self.go_to(self.time + frames / min(case.output_rate, MAX_FRAME_RATE))
