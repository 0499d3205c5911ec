"""Paper and ink: colours, type and the style sheet, light and dark of one family.

Measured is orange and dotted, simulated teal and solid, pinned violet and faint; trouble is brick.
"""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QGuiApplication


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

    def color(self, role: str, alpha: float = 1.0) -> QColor:
        """A role's colour with an opacity."""
        c = QColor(getattr(self, role))
        c.setAlphaF(alpha)
        return c


LIGHT = Theme("#FAF7F0", "#FFFFFF", "#F4EFE5", "#22303C", "#69747F", "#DDD6C8", "#C96A0A", "#10766C", "#7A68A6",
              "#9C3B2E", "#EFE8D9", "#CFC4AE")
DARK = Theme("#1E2226", "#272C31", "#23282C", "#ECE6DA", "#9AA3AA", "#3C434A", "#F0A04B", "#4CC0B0", "#AE9EDB",
             "#E08573", "#5C564A", "#7D7564")

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


def font(size: float = 10.0, bold: bool = False) -> QFont:
    """The one typeface, with tabular figures."""
    f = QFont("DejaVu Sans")
    f.setPointSizeF(size * 0.78)
    f.setBold(bold)
    return f


def style_sheet(t: Theme) -> str:
    """The application's style sheet. A label has the colour of its ``role``, so that a change of theme reaches it."""
    roles = "\n".join(f'QLabel[role="{role}"] {{ color: {getattr(t, role)}; }}' for role in TEXT_ROLES)
    return f"""
    QWidget {{ background: {t.ground}; color: {t.ink}; }}
    QLabel, QCheckBox, QRadioButton {{ background: transparent; }}
    {roles}
    QFrame#card {{ background: {t.card}; border: 1px solid {t.hairline}; border-radius: 6px; }}
    QFrame#card QWidget {{ background: transparent; }}
    QFrame#chosen {{ background: {t.card}; border: 2px solid {t.ink}; border-radius: 6px; }}
    QFrame#chosen QWidget {{ background: transparent; }}
    QFrame#pinned {{ background: {t.card}; border: 2px solid {t.pinned}; border-radius: 6px; }}
    QFrame#pinned QWidget {{ background: transparent; }}
    QFrame#bar {{ border: 0; border-bottom: 1px solid {t.hairline}; }}
    QFrame#foot {{ border: 0; border-top: 1px solid {t.hairline}; }}
    QPushButton {{ background: {t.card}; border: 1px solid {t.hairline}; border-radius: 4px; padding: 4px 10px; }}
    QPushButton:hover, QPushButton:focus {{ border-color: {t.ink}; }}
    QPushButton:disabled {{ color: {t.soft}; }}
    QPushButton#fit {{ background: {t.simulated}; color: {t.card}; border: 0; border-radius: 12px; padding: 5px 20px;
        font-weight: bold; min-height: 16px; }}
    QPushButton#fit:focus {{ border: 2px solid {t.ink}; padding: 3px 18px; }}
    QPushButton#fit:disabled {{ background: {t.hairline}; color: {t.soft}; }}
    QPushButton#stop {{ background: {t.trouble}; color: {t.card}; border: 0; border-radius: 12px; padding: 5px 20px;
        font-weight: bold; min-height: 16px; }}
    QComboBox::drop-down {{ border: 0; width: 18px; }}
    QComboBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {t.card}; border-right: 4px solid {t.card};
        border-top: 5px solid {t.ink}; margin-right: 4px; }}
    QCheckBox::indicator {{ width: 11px; height: 11px; border: 1px solid {t.soft}; border-radius: 3px;
        background: {t.card}; }}
    QCheckBox::indicator:checked {{ background: {t.ink}; border-color: {t.ink}; }}
    QCheckBox::indicator:focus {{ border: 2px solid {t.simulated}; }}
    QStatusBar {{ border-top: 1px solid {t.hairline}; }}
    QStatusBar::item {{ border: 0; }}
    QPushButton#quiet {{ border: 0; background: transparent; color: {t.simulated}; text-align: left; padding: 2px 4px; }}
    QPushButton#quiet:hover, QPushButton#quiet:focus {{ text-decoration: underline; }}
    QPushButton#small {{ border: 0; background: transparent; color: {t.soft}; padding: 0 2px; }}
    QPushButton#small:hover, QPushButton#small:focus {{ color: {t.ink}; text-decoration: underline; }}
    QLineEdit, QDoubleSpinBox, QSpinBox, QComboBox, QPlainTextEdit {{ background: {t.card};
        border: 1px solid {t.hairline}; border-radius: 4px; padding: 2px 4px; selection-background-color: {t.simulated}; }}
    QSpinBox::up-button, QSpinBox::down-button {{ border: 0; width: 16px; background: transparent; }}
    QSpinBox::up-arrow {{ width: 0; height: 0; border-left: 4px solid {t.card}; border-right: 4px solid {t.card};
        border-bottom: 5px solid {t.ink}; }}
    QSpinBox::down-arrow {{ width: 0; height: 0; border-left: 4px solid {t.card}; border-right: 4px solid {t.card};
        border-top: 5px solid {t.ink}; }}
    QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus, QComboBox:focus {{ border-color: {t.ink}; }}
    QLineEdit#value {{ border: 1px solid transparent; background: transparent; font-weight: bold; }}
    QLineEdit#value:hover, QLineEdit#value:focus {{ border-color: {t.hairline}; background: {t.card}; }}
    QLineEdit#range {{ border: 1px solid transparent; background: transparent; color: {t.soft}; padding: 0; }}
    QLineEdit#range:hover, QLineEdit#range:focus {{ border-color: {t.hairline}; }}
    QMenu {{ background: {t.card}; border: 1px solid {t.hairline}; }}
    QMenu::item {{ padding: 4px 24px 4px 12px; }}
    QMenu::item:selected {{ background: {t.ink}; color: {t.card}; }}
    QMenuBar {{ background: {t.ground}; }}
    QMenuBar::item:selected {{ background: {t.hairline}; }}
    QToolTip {{ background: {t.card}; color: {t.ink}; border: 1px solid {t.hairline}; padding: 4px; }}
    QScrollArea {{ border: 0; }}
    QScrollBar:vertical {{ width: 8px; background: transparent; }}
    QScrollBar:horizontal {{ height: 8px; background: transparent; }}
    QScrollBar::handle {{ background: {t.hairline}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QTableWidget {{ background: {t.card}; border: 1px solid {t.hairline}; border-radius: 6px; gridline-color: {t.card}; }}
    QHeaderView::section {{ background: {t.card}; color: {t.soft}; border: 0; padding: 2px; }}
    QProgressBar {{ border: 1px solid {t.hairline}; border-radius: 4px; background: {t.card}; height: 8px; }}
    QProgressBar::chunk {{ background: {t.simulated}; border-radius: 4px; }}
    """
