"""The one time axis that beat strip and traces share."""

from __future__ import annotations

from math import ceil

from PySide6.QtCore import Qt
from PySide6.QtGui import QWheelEvent

from yapa.desktop.app.theme import px
from yapa.session.building.rays import nice_step
from yapa.session.playback import Playback

LEFT = px(64)
"""Pixels from a widget's left edge to time zero."""
RIGHT = 16


NEARER = 0.8
"""of the stretch: what one click of the wheel leaves"""
MARKS = 8
"""about so many numbers stand on the axis"""


Span = tuple[float, float]
"""the stretch of the clip that is shown [s]"""


def marks(span: Span) -> list[float]:
    """Round times of a stretch at which a number stands."""
    start, end = span
    if end <= start:
        return [start]
    step = nice_step((end - start) / MARKS)
    return [k * step for k in range(ceil(start / step - 1e-9), int(end / step + 1e-9) + 1)]


def to_pixel(t: float, span: Span, width: int) -> float:
    """Where a time stands."""
    return LEFT + (width - LEFT - RIGHT) * (t - span[0]) / max(span[1] - span[0], 1e-9)


def to_time(x: float, span: Span, width: int) -> float:
    """The time at a pixel, within the stretch."""
    t = span[0] + (x - LEFT) * (span[1] - span[0]) / max(width - LEFT - RIGHT, 1)
    return min(span[1], max(span[0], t))


def turn_wheel(playback: Playback, event: QWheelEvent, width: int) -> None:
    """The wheel over a time axis: nearer and farther at the pointer; with Shift, or sideways, along."""
    turns = event.angleDelta()
    start, end = playback.span
    if turns.x() or event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        playback.shift(-(turns.x() or turns.y()) / 120 * 0.15 * (end - start))
    else:
        playback.zoom(to_time(event.position().x(), playback.span, width), NEARER ** (turns.y() / 120))
    event.accept()
