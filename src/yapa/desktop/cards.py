"""Cards: unknowns on the right; bodies, tracks and targets on the left."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from yapa.case import Body, Estimate, Target, Unknown, label_of, quantity_of
from yapa.desktop.knob import Knob, fitting, short
from yapa.desktop.theme import font, theme
from yapa.fitting.goals import outside
from yapa.fitting.result import TargetReport, digits, spread_text
from yapa.outcomes import CATALOGUE, TrackData


def button(text: str, tip: str, name: str = "", kind: str = "quiet") -> QPushButton:
    """A button of a kind of the style sheet."""
    b = QPushButton(text)
    b.setObjectName(kind)
    b.setToolTip(tip)
    b.setAccessibleName(name or text)
    b.setFont(font(10))
    return b


def scrolled() -> tuple[QScrollArea, QVBoxLayout]:
    """A list that scrolls up and down, and the column its cards go into."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    inner = QWidget()
    column = QVBoxLayout(inner)
    column.setContentsMargins(0, 0, 8, 0)
    area.setWidget(inner)
    return area, column


def label(text: str, size: float = 10, bold: bool = False, role: str = "ink", wrap: bool = False) -> QLabel:
    """A label in a role's colour."""
    out = QLabel(text)
    out.setFont(font(size, bold))
    out.setProperty("role", role)
    out.setWordWrap(wrap)
    return out


def set_role(widget: QWidget, role: str) -> None:
    """Give a widget the colour of another role of the style sheet, in whichever theme is in use."""
    if widget.property("role") != role:
        widget.setProperty("role", role)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


class Card(QFrame):
    """A white card with a column inside."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(10, 4, 10, 4)
        self.column.setSpacing(0)


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
        path = unknown.path
        quantity = quantity_of(path)
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
        self.value.setToolTip(f"Type a value{' in ' + quantity.unit if quantity.unit else ''} and press Enter")
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
        unit = label(quantity.unit, 9, role="soft")
        unit.setFixedWidth(34)
        line.addWidget(unit)
        self.column.addLayout(line)
        foot = QHBoxLayout()
        foot.setSpacing(4)
        self._ends = []
        for k, end in enumerate((unknown.low, unknown.high)):
            edit = QLineEdit(f"{end:.4g}")
            edit.setObjectName("range")
            edit.setFont(font(9))
            edit.setFixedWidth(52)
            edit.setAccessibleName(f"{'upper' if k else 'lower'} end of the range of {label_of(path)}")
            edit.setToolTip("The end of its range: the fit stays inside. Type another and press Enter")
            edit.editingFinished.connect(self._ranged)
            self._ends.append(edit)
        self.note = label("", 9, role="soft")
        self.lock = button("free" if not unknown.locked else "locked", "", f"lock {label_of(path)}", "small")
        self.lock.setToolTip("Locked: the fit leaves it alone. Click to change")
        self.lock.clicked.connect(lambda: self.locked.emit(path, not unknown.locked))
        away = button("✕", "Take this card away; the number keeps its value", f"remove {label_of(path)}", "small")
        away.clicked.connect(lambda: self.removed.emit(path))
        foot.addWidget(self._ends[0])
        foot.addWidget(self.note, 1)
        foot.addWidget(self._ends[1])
        foot.addWidget(self.lock)
        foot.addWidget(away)
        self.column.addLayout(foot)
        if unknown.locked:
            set_role(title, "soft")

    def show_value(self, value: float, estimate: Estimate | None) -> None:
        """Stand at a value, with what a fit said of it."""
        self.knob.show_value(value, estimate)
        if not self.value.hasFocus():
            std = estimate.std if estimate is not None and estimate.determined else None
            text = digits(value, std) if std else short(value)
            self.value.setText(text if len(text) <= 8 else fitting(value))
            self.value.setCursorPosition(0)
        if estimate is None:
            self.note.setText("")
            self.note.setToolTip("")
        elif estimate.determined and estimate.std is not None:
            self.note.setText(f"± {spread_text(estimate.std)}")
        else:
            told = f"at least {estimate.low:.2g}" if estimate.low is not None else "cannot be told"
            self.note.setText(told)
            self.note.setToolTip(estimate.reason or "")

    def _turned(self, value: float) -> None:
        self.value.setText(short(value))
        self.note.setText("")
        self.turned.emit(self.unknown.path, value)

    def _typed(self) -> None:
        if not self.value.isModified():
            return
        self.value.setModified(False)
        try:
            value = float(self.value.text().replace(",", "."))
        except ValueError:
            self.value.setText(short(self.knob.number()))
            return
        self.released.emit(self.unknown.path, value)

    def _ranged(self) -> None:
        if not any(e.isModified() for e in self._ends):
            return
        for e in self._ends:
            e.setModified(False)
        try:
            low, high = (float(e.text().replace(",", ".")) for e in self._ends)
        except ValueError:
            self._ends[0].setText(f"{self.unknown.low:.4g}")
            self._ends[1].setText(f"{self.unknown.high:.4g}")
            return
        self.ranged.emit(self.unknown.path, low, high)


class _Sketch(QWidget):
    """A body's outline in paper tones."""

    def __init__(self, body: Body) -> None:
        super().__init__()
        self._kind = body.shapes[0].kind
        self.setFixedSize(QSize(24, 24))

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(QPen(t.color("ink"), 1.2))
        p.setBrush(t.color("paper_a"))
        if self._kind == "sphere":
            p.drawEllipse(QPointF(12, 12), 9, 9)
            p.setPen(QPen(t.color("soft"), 1))
            for a, b in ((3, 12), (12, 3)):
                p.drawLine(QPointF(a, b), QPointF(24 - a, 24 - b))
        elif self._kind == "box":
            p.drawRect(4, 6, 16, 12)
        elif self._kind == "capsule":
            p.drawRoundedRect(3, 7, 18, 10, 5, 5)
        elif self._kind == "cylinder":
            p.drawRect(6, 5, 12, 14)
            p.drawEllipse(QPointF(12, 5), 6, 2.5)
        elif self._kind == "hull":
            p.drawPolygon([QPointF(x, y) for x, y in ((4, 14), (9, 4), (18, 6), (21, 15), (13, 20))])
        else:
            p.drawLine(2, 9, 22, 9)
            p.setPen(QPen(t.color("soft"), 1))
            for x in (6, 12, 18):
                p.drawLine(x, 11, x - 5, 17)
        p.end()


class BodyCard(Card):
    """A body; click to see and edit its numbers."""

    clicked = Signal(str)

    def __init__(self, name: str, body: Body) -> None:
        super().__init__()
        self._name = name
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"body {name}")
        self.setToolTip("Click to see, edit, free or lock its numbers")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(_Sketch(body))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(name, 11, True))
        mass = f" · {body.mass:.3g} kg" if body.motion == "dynamic" else ""
        if body.density is not None:
            mass = f" · {body.density:.4g} kg/m³"
        words.addWidget(label(f"{body.motion}{mass} · {body.shapes[0].surface}", 9, role="soft"))
        row.addLayout(words, 1)
        self.column.addLayout(row)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit(self._name)

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.clicked.emit(self._name)
        else:
            super().keyPressEvent(event)


class _Curve(QWidget):
    """A small dotted curve of a track."""

    def __init__(self, data: TrackData) -> None:
        super().__init__()
        self.setFixedHeight(30)
        column = 2 if data.shown[2] else (0 if data.shown[0] else 1)
        good = np.isfinite(data.x[:, column])
        step = max(1, int(good.sum()) // 90)
        self._t, self._y = data.t[good][::step], data.x[good, column][::step]

    def paintEvent(self, event: QPaintEvent) -> None:
        t = theme()
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        x = 2 + (self._t - self._t[0]) / max(np.ptp(self._t), 1e-9) * (self.width() - 4)
        y = self.height() - 4 - (self._y - self._y.min()) / max(np.ptp(self._y), 1e-9) * (self.height() - 8)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.color("measured"))
        for a, b in zip(x, y, strict=True):
            p.drawEllipse(QPointF(a, b), 1.1, 1.1)
        p.end()


class TrackCard(Card):
    """A track of a body."""

    removed = Signal(str)

    def __init__(self, data: TrackData, outliers: int = 0) -> None:
        super().__init__()
        head = QHBoxLayout()
        head.addWidget(label(data.name, 11, True), 1)
        away = button("✕", "Take this track away", f"remove {data.name}", "small")
        away.clicked.connect(lambda: self.removed.emit(data.name))
        head.addWidget(away)
        self.column.addLayout(head)
        sigma = f"σ {data.sigma * 1000:.2g} mm" + ("" if data.sigma_given else ", estimated")
        self.column.addWidget(label(f"{len(data.t)} samples · {data.rate:.0f} fps · {sigma}", 9, role="soft"))
        self.column.addWidget(_Curve(data))


class TargetCard(Card):
    """A wanted outcome beside what happens now."""

    removed = Signal(int)
    edited = Signal(int)

    def __init__(self, index: int, target: Target) -> None:
        super().__init__()
        self._index, self._target = index, target
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"target {target.label}")
        self.setToolTip(f"{CATALOGUE[target.outcome].meaning.capitalize()}. Click to change it")
        head = QHBoxLayout()
        head.addWidget(label(target.label, 11, True))
        wanted = label(target.wanted, 10, role="measured", wrap=True)
        wanted.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        head.addWidget(wanted, 1)
        away = button("✕", "Take this target away", f"remove {target.label}", "small")
        away.clicked.connect(lambda: self.removed.emit(index))
        head.addWidget(away)
        self.column.addLayout(head)
        self.now = label("", 9, role="soft")
        self.column.addWidget(self.now)

    def show_report(self, report: TargetReport) -> None:
        """Now, and met or missed."""
        unit = CATALOGUE[self._target.outcome].unit
        if report.now is None:
            text, role = f"missed: {report.missing}", "trouble"
        else:
            text = f"now {report.now:.4g} {unit}, ".replace(" ,", ",")
            off = outside(self._target, report.now)
            text += "met" if report.met else ("but it should not" if report.miss is None else f"missed by {abs(off):.3g} {unit}")
            role = "simulated" if report.met else "trouble"
        self.now.setText(text)
        set_role(self.now, role)
        self.now.setWordWrap(True)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.edited.emit(self._index)

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.edited.emit(self._index)
        else:
            super().keyPressEvent(event)


def curve_polygon(curve: tuple[tuple[float, float], ...], x: float, y: float, w: float, h: float) -> QPolygonF:
    """A small curve laid into a rectangle."""
    if len(curve) < 2:
        return QPolygonF()
    a = np.array(curve)
    u = (a[:, 0] - a[0, 0]) / max(np.ptp(a[:, 0]), 1e-9)
    v = (a[:, 1] - a[:, 1].min()) / max(np.ptp(a[:, 1]), 1e-9)
    return QPolygonF([QPointF(x + w * p, y + h * (1 - q)) for p, q in zip(u, v, strict=True)])
