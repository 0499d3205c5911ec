"""The card of a wanted outcome."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout

from yapa.case import Target
from yapa.desktop.widgets.card import CardButton, button, label, set_role
from yapa.session.comparison import TargetReport, deviation
from yapa.session.outcomes import CATALOGUE


class TargetCard(CardButton):
    """A wanted outcome beside what happens now."""

    removed = Signal(int)

    def __init__(self, index: int, target: Target) -> None:
        super().__init__(index, f"target {target.label}", f"{CATALOGUE[target.outcome].meaning.capitalize()}. Click to change it")
        self._target = target
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
        unit = self._target.unit
        if report.now is None:
            text, role = f"missed: {report.missing}", "trouble"
        else:
            text = f"now {report.now:.4g} {unit}, ".replace(" ,", ",")
            off = deviation(self._target, report.now)
            text += "met" if report.met else ("but it should not" if report.miss is None else f"missed by {abs(off):.3g} {unit}")
            role = "simulated" if report.met else "trouble"
        self.now.setText(text)
        set_role(self.now, role)
        self.now.setWordWrap(True)
