"""The play head: which time of the clip is shown."""

from __future__ import annotations

from collections.abc import Callable

from yapa.case import Case
from yapa.session.signals import Signals

MAX_FRAME_RATE = 120.0
"""Frames a second that stepping goes by, at most."""
SHORTEST = 0.01
"""s that the time axis shows at least"""


class Playback:
    """A time [s] within the clip of the case that is open."""

    def __init__(self, signals: Signals, case: Callable[[], Case | None]) -> None:
        self._signals, self._case = signals, case
        self.time = 0.0
        self._span: tuple[float, float] | None = None

    @property
    def span(self) -> tuple[float, float]:
        """The stretch of the clip that the time axis shows [s]; all of it where none was chosen."""
        case = self._case()
        end = case.duration if case is not None else 0.0
        if self._span is None or self._span[0] >= end:
            return 0.0, end
        return self._span[0], min(self._span[1], end)

    def zoom(self, at: float, factor: float) -> None:
        """Show a shorter or longer stretch, a time of it staying where it is.

        Parameters
        ----------
        at : the time that stays [s]
        factor : below one: nearer
        """
        case, (start, end) = self._case(), self.span
        if case is None or end <= start:
            return
        wide = min(case.duration, max(SHORTEST, (end - start) * factor))
        begin = min(max(0.0, at - (at - start) * wide / (end - start)), case.duration - wide)
        self._show(None if wide >= case.duration * (1 - 1e-9) else (begin, begin + wide))

    def shift(self, seconds: float) -> None:
        """Show the stretch after this one, or before, within the clip.

        Parameters
        ----------
        seconds : how far [s]
        """
        case, (start, end) = self._case(), self.span
        if case is not None and self._span is not None:
            begin = min(max(0.0, start + seconds), case.duration - (end - start))
            self._show((begin, begin + end - start))

    def show_all(self) -> None:
        """Show the whole clip on the time axis."""
        self._show(None)

    def _show(self, span: tuple[float, float] | None) -> None:
        self._span = span
        self._signals.span_changed.emit()

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
