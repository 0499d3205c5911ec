"""The card of an unknown: its value, its slider, its range, whether it is locked, and what a fit said of it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit

from yapa.case import Estimate, Unknown, label_of, quantity_of
from yapa.case.estimate_text import digits, spread_text
from yapa.case.units import as_shown
from yapa.desktop.app.theme import font
from yapa.desktop.widgets.card import Card, button, label, set_role
from yapa.desktop.widgets.number_text import fitting, short
from yapa.desktop.widgets.parameter_slider import Knob


class UnknownCard(Card):
    """One unknown: value, slider, range, lock, whisker."""

    turned = Signal(str, float)
    released = Signal(str, float)
    locked = Signal(str, bool)
    ranged = Signal(str, float, float)
    removed = Signal(str)

    def __init__(self, unknown: Unknown) -> None:
        super().__init__()
        self.unknown = unknown
        self._stands_at: tuple[float, Estimate | None] | None = None
        path = unknown.path
        quantity = quantity_of(path)
        self._scale, symbol = as_shown(1.0, quantity.unit)
        name, _, whose = label_of(path).partition(" · ")
        self.setToolTip(f"{label_of(path)}: {quantity.meaning}")
        head = QHBoxLayout()
        head.setSpacing(4)
        title = label(name, 11, True)
        head.addWidget(title)
        head.addWidget(label(whose, 10, role="soft"), 1)
        self.value = QLineEdit()
        self.value.setObjectName("value")
        self.value.setFont(font(11, True))
        self.value.setFixedWidth(74)
        self.value.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.value.setAccessibleName(f"value of {label_of(path)}")
        self.value.setToolTip(f"Type a value{' in ' + symbol if symbol else ''} and press Enter")
        self.value.editingFinished.connect(self._typed)
        self.column.addLayout(head)
        line = QHBoxLayout()
        line.setSpacing(4)
        self.knob = Knob(unknown)
        self.knob.setAccessibleName(f"slider of {label_of(path)}")
        self.knob.setToolTip(f"Turn it: every curve follows. {quantity.meaning.capitalize()}")
        self.knob.setEnabled(True)
        self.knob.turned.connect(self._turned)
        self.knob.released.connect(lambda v: self.released.emit(path, v))
        line.addWidget(self.knob, 1)
        line.addWidget(self.value)
        unit = label(symbol, 9, role="soft")
        unit.setFixedWidth(34)
        line.addWidget(unit)
        self.column.addLayout(line)
        self._add_foot()
        if unknown.fixed:
            set_role(title, "soft")

    def _add_foot(self) -> None:
        """The range, what a fit said, and what can be done with the number."""
        unknown, path = self.unknown, self.unknown.path
        foot = QHBoxLayout()
        foot.setSpacing(4)
        self._ends = []
        for k, end in enumerate((unknown.low, unknown.high)):
            edit = QLineEdit(f"{self._scale * end:.4g}")
            edit.setObjectName("range")
            edit.setFont(font(9))
            edit.setFixedWidth(52)
            edit.setAccessibleName(f"{'upper' if k else 'lower'} end of the range of {label_of(path)}")
            edit.setToolTip("The end of its range: the fit stays inside. Type another and press Enter")
            edit.editingFinished.connect(self._ranged)
            self._ends.append(edit)
        self.note = label("", 9, role="soft")
        self.lock = button("free" if not unknown.fixed else "locked", "", f"lock {label_of(path)}", "small")
        self.lock.setToolTip("Locked: the fit leaves it alone. Click to change")
        self.lock.clicked.connect(lambda: self.locked.emit(path, not unknown.fixed))
        away = button("✕", "Take this card away; the number keeps its value", f"remove {label_of(path)}", "small")
        away.clicked.connect(lambda: self.removed.emit(path))
        foot.addWidget(self._ends[0])
        foot.addWidget(self.note, 1)
        foot.addWidget(self._ends[1])
        foot.addWidget(self.lock)
        foot.addWidget(away)
        self.column.addLayout(foot)

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
        if estimate is None:
            self.note.setText("")
            self.note.setToolTip("")
        elif estimate.determined and estimate.std is not None:
            self.note.setText(f"± {spread_text(self._scale * estimate.std)}")
        else:
            ends = [f"{word} {self._scale * end:.2g}" for word, end in (("at least", estimate.low), ("at most", estimate.high))
                    if end is not None]
            text = ", ".join(ends) or "cannot be told"
            self.note.setText(text)
            self.note.setToolTip(estimate.reason or "")

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
            value = float(self.value.text().replace(",", ".")) / self._scale
        except ValueError:
            self.value.setText(short(self._scale * self.knob.number()))
            return
        self.released.emit(self.unknown.path, value)

    def _ranged(self) -> None:
        if not any(e.isModified() for e in self._ends):
            return
        for e in self._ends:
            e.setModified(False)
        try:
            low, high = (float(e.text().replace(",", ".")) / self._scale for e in self._ends)
        except ValueError:
            self._ends[0].setText(f"{self._scale * self.unknown.low:.4g}")
            self._ends[1].setText(f"{self._scale * self.unknown.high:.4g}")
            return
        self.ranged.emit(self.unknown.path, low, high)
