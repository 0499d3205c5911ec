"""The card of an unknown: its value, its slider, its range, whether it is locked, and what a fit said of it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit

from yapa.case import Estimate, Unknown, label_of, quantity_of
from yapa.case.estimate_text import bounds_text, digits, spread_text
from yapa.case.units import as_shown
from yapa.desktop.app.theme import font, px
from yapa.desktop.bench.unknowns.leverage_bar import LeverageBar
from yapa.desktop.widgets.card import Card, ElidedLabel, button, label
from yapa.desktop.widgets.form_dialog import number_from
from yapa.desktop.widgets.number_text import fitting, short
from yapa.desktop.widgets.parameter_slider import Knob
from yapa.errors import YapaError


class UnknownCard(Card):
    """One unknown: value, slider, range, lock, whisker."""

    turned = Signal(str, float)
    pressed = Signal(str, float)
    """a number that is held, and one step of it"""
    released = Signal(str, float)
    locked = Signal(str, bool)
    ranged = Signal(str, float, float)
    removed = Signal(str)
    refused = Signal(object)
    """what was typed is no number: the error that says so"""

    def __init__(self, unknown: Unknown) -> None:
        super().__init__()
        self.unknown = unknown
        self._stands_at: tuple[float, Estimate | None] | None = None
        path = unknown.path
        quantity = quantity_of(path)
        self._scale, symbol = as_shown(1.0, quantity.unit)
        name, _, whose = label_of(path).partition(" · ")
        self.setToolTip(f"{label_of(path)}: {quantity.meaning}")
        self.column.setContentsMargins(8, 2, 6, 2)
        self._title = label(name, 10.5, True, role="soft" if unknown.fixed else "ink")
        self.column.addLayout(self._head(whose, symbol))
        self.column.addLayout(self._line())
        foot = QHBoxLayout()
        foot.setSpacing(6)
        self.bars = LeverageBar(label_of(path))
        foot.addWidget(self.bars, 1)
        self.note = ElidedLabel("", 9, role="soft")
        self.note.setAlignment(Qt.AlignmentFlag.AlignRight)
        foot.addWidget(self.note, 2)
        self.lock = button("free" if not unknown.fixed else "locked", "", f"lock {label_of(path)}", "small")
        self.lock.setFont(font(9))
        self.lock.setToolTip("Locked: the fit leaves it alone. Click to change")
        self.lock.clicked.connect(lambda: self.locked.emit(path, not unknown.fixed))
        foot.addWidget(self.lock)
        away = button("✕", "Take this card away; the number keeps its value", f"remove {label_of(path)}", "small")
        away.setFont(font(9))
        away.clicked.connect(lambda: self.removed.emit(path))
        foot.addWidget(away)
        self.column.addLayout(foot)

    def _head(self, whose: str, symbol: str) -> QHBoxLayout:
        """Its name, whose it is, its value and unit."""
        path = self.unknown.path
        head = QHBoxLayout()
        head.setSpacing(4)
        head.addWidget(self._title)
        head.addWidget(ElidedLabel(whose, 9, role="soft"), 1)
        self.value = QLineEdit()
        self.value.setObjectName("value")
        self.value.setFont(font(10.5, True))
        self.value.setFixedWidth(px(70))
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.setAccessibleName(f"value of {label_of(path)}")
        self.value.setToolTip(f"Type a value{' in ' + symbol if symbol else ''} and press Enter")
        self.value.editingFinished.connect(self._typed)
        head.addWidget(self.value)
        unit = label(symbol, 9, role="soft")
        unit.setFixedWidth(px(32))
        head.addWidget(unit)
        return head

    def _line(self) -> QHBoxLayout:
        """The slider between the ends of its range."""
        unknown, path = self.unknown, self.unknown.path
        line = QHBoxLayout()
        line.setSpacing(2)
        self.knob = Knob(unknown)
        self.knob.setAccessibleName(f"slider of {label_of(path)}")
        self.knob.setToolTip(f"Turn it: every curve follows. {quantity_of(path).meaning.capitalize()}")
        self.knob.turned.connect(self._turned)
        self.knob.released.connect(lambda v: self.released.emit(path, v))
        self.knob.pressed.connect(lambda step: self.pressed.emit(path, step))
        self._ends = []
        for k, end in enumerate((unknown.low, unknown.high)):
            edit = QLineEdit(f"{self._scale * end:.4g}")
            edit.setObjectName("range")
            edit.setFont(font(9))
            edit.setFixedWidth(px(44))
            edit.setAlignment(Qt.AlignmentFlag.AlignLeft if k else Qt.AlignmentFlag.AlignRight)
            edit.setAccessibleName(f"{'upper' if k else 'lower'} end of the range of {label_of(path)}")
            edit.setToolTip("The end of its range: the fit stays inside. Type another and press Enter")
            edit.editingFinished.connect(self._ranged)
            self._ends.append(edit)
        line.addWidget(self._ends[0])
        line.addWidget(self.knob, 1)
        line.addWidget(self._ends[1])
        return line

    def show_value(self, value: float, estimate: Estimate | None) -> None:
        """Stand at a value, with what a fit said of it."""
        if (value, estimate) == self._stands_at and not self.value.isModified():
            return
        self._stands_at = None if self.value.hasFocus() else (value, estimate)
        self.knob.show_value(value, estimate)
        if not self.value.hasFocus():
            std = estimate.std if estimate is not None and estimate.determined else None
            shown = self._scale * value
            text = digits(shown, self._scale * std) if std else short(shown)
            self.value.setText(text if len(text) <= 8 else fitting(shown))
            self.value.setCursorPosition(0)
        self.note.setText(self._said(estimate))
        why = estimate.reason if estimate is not None and not estimate.determined else None
        self.note.setToolTip(why or "")

    def _said(self, estimate: Estimate | None) -> str:
        """How sure it is, or why that cannot be said."""
        if estimate is None:
            return ""
        if estimate.determined:
            return f"± {spread_text(self._scale * estimate.std)}" if estimate.std is not None else ""
        told = bounds_text(self.unknown.path, estimate) or "cannot be told"
        return f"{told}: {estimate.reason}" if estimate.reason else told

    def _turned(self, value: float) -> None:
        self._stands_at = None
        self.value.setText(short(self._scale * value))
        self.note.setText("")
        self.turned.emit(self.unknown.path, value)

    def _typed(self) -> None:
        if not self.value.isModified():
            return
        self.value.setModified(False)
        self._stands_at = None
        try:
            value = number_from(self.value, label_of(self.unknown.path)) / self._scale
        except YapaError as error:
            self.value.setText(short(self._scale * self.knob.number()))
            self.refused.emit(error)
            return
        self.released.emit(self.unknown.path, value)

    def _ranged(self) -> None:
        if not any(e.isModified() for e in self._ends):
            return
        for e in self._ends:
            e.setModified(False)
        try:
            low, high = (number_from(e, f"range of {label_of(self.unknown.path)}") / self._scale for e in self._ends)
        except YapaError as error:
            self._ends[0].setText(f"{self._scale * self.unknown.low:.4g}")
            self._ends[1].setText(f"{self._scale * self.unknown.high:.4g}")
            self.refused.emit(error)
            return
        self.ranged.emit(self.unknown.path, low, high)
