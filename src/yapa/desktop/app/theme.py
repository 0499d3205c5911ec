"""Paper and ink: colours, type and the style sheet, light and dark of one family.

Measured is orange and dotted, simulated teal and solid, pinned violet and faint; trouble is brick.
"""

from __future__ import annotations

import os
from dataclasses import asdict, dataclass
from functools import cache

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QGuiApplication

from yapa.desktop.app.style import STYLE


@dataclass(frozen=True)
class Theme:
    """Colours by their role, as #RRGGBB."""

    ground: str
    card: str
    stage: str
    ink: str
    soft: str
    hairline: str
    measured: str
    simulated: str
    pinned: str
    trouble: str
    paper_a: str
    paper_b: str
    papers: tuple[tuple[str, str], ...]
    """Tones of what moves: light and dark, one after the other."""

    def color(self, role: str, alpha: float = 1.0) -> QColor:
        """A role's colour with an opacity."""
        c = QColor(getattr(self, role))
        c.setAlphaF(alpha)
        return c


LIGHT = Theme("#FAF7F0", "#FFFFFF", "#F4EFE5", "#22303C", "#69747F", "#DDD6C8", "#C96A0A", "#10766C", "#7A68A6",
              "#9C3B2E", "#EFE8D9", "#CFC4AE",
              (("#F1E9D8", "#D3C6AC"), ("#E9DFD3", "#C9B5A2"), ("#E4E6DA", "#BFC5AE"),
               ("#ECDFD8", "#D0B4A8"), ("#E2E4E6", "#BAC1C7")))
DARK = Theme("#1E2226", "#272C31", "#23282C", "#ECE6DA", "#9AA3AA", "#3C434A", "#F0A04B", "#4CC0B0", "#AE9EDB",
             "#E08573", "#5C564A", "#7D7564",
             (("#625B4D", "#857C69"), ("#63584F", "#86766A"), ("#585D4F", "#777F6B"),
              ("#64564F", "#87736A"), ("#565B60", "#757C83")))

TEXT_ROLES = ("ink", "soft", "measured", "simulated", "pinned", "trouble")

_current = LIGHT


def theme() -> Theme:
    """The theme in use."""
    return _current


def choose_theme() -> Theme:
    """Follow the desktop's light or dark setting."""
    global _current
    scheme = QGuiApplication.styleHints().colorScheme()
    _current = DARK if scheme == Qt.ColorScheme.Dark else LIGHT
    return _current


@cache
def type_scale() -> float:
    """How much larger the type is than usual; ``YAPA_TYPE`` says it at the start."""
    try:
        return min(2.5, max(0.7, float(os.environ.get("YAPA_TYPE", "1"))))
    except ValueError:
        return 1.0


def px(pixels: float) -> int:
    """Pixels of what holds type, as large as the type is."""
    return round(pixels * type_scale())


def font(size: float = 10.0, bold: bool = False) -> QFont:
    """The one typeface, with tabular figures."""
    f = QFont("DejaVu Sans")
    f.setPointSizeF(size * 0.78 * type_scale())
    f.setBold(bold)
    return f


def style_sheet(t: Theme) -> str:
    """The application's style sheet. A label has the colour of its ``role``, so that a change of theme reaches it."""
    roles = "\n".join(f'QLabel[role="{role}"] {{ color: {getattr(t, role)}; }}' for role in TEXT_ROLES)
    return STYLE.substitute(asdict(t), roles=roles)
