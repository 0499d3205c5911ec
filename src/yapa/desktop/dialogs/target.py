"""The form of a wanted outcome."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QLineEdit,
    QSpinBox,
    QWidget,
)

from yapa.case import Target
from yapa.case.arguments import ARGUMENTS
from yapa.case.outcome_specs import CONDITIONS
from yapa.case.outcome_text import FORMULA
from yapa.desktop.widgets.card import label
from yapa.desktop.widgets.choice import Choice
from yapa.desktop.widgets.form_dialog import FormDialog, number_from
from yapa.errors import YapaError, bad_input
from yapa.session.amounts import amount_of, usual_tolerance
from yapa.session.outcomes import CATALOGUE, parse_target


def amount_from(edit: QLineEdit, what: str, unit: str) -> float:
    """The amount in a field: in SI units, or with a unit of its own.

    Raises
    ------
    InputError
        If it is none.
    """
    try:
        return number_from(edit, what)
    except YapaError:
        if not unit or not edit.text().strip():
            raise
        return amount_of(edit.text(), unit)


class TargetDialog(FormDialog):
    """What should happen: an outcome, a value and a tolerance."""

    def __init__(self, parent: QWidget | None, bodies: list[str], target: Target | None = None, title: str = "What should happen",
                 done: str = "Done") -> None:
        super().__init__(title, parent, done)
        self.target: Target | None = None
        whose = target.body if target is not None else None
        if target is not None and target.each is not None:
            whose = f"{target.each} of {target.body}"
        if whose is not None and whose not in bodies:
            bodies = [*bodies, whose]
        self.outcome = Choice()
        self.outcome.addItems(list(CATALOGUE))
        self.outcome.setAccessibleName("outcome")
        self.outcome.setToolTip("The number that should come out")
        self.index = QSpinBox()
        self.index.setRange(1, 99)
        self.index.setAccessibleName("number")
        self.body = Choice()
        self.body.addItems(bodies)
        self.body.setAccessibleName("body")
        self.form.addRow("Outcome", self.outcome)
        self.meaning = label("", 9, role="soft", wrap=True)
        self.form.addRow("", self.meaning)
        self.form.addRow("Number", self.index)
        if len(bodies) > 1:
            self.form.addRow("Body", self.body)
        self.arguments = self.field("Told", "", "What the outcome needs to know: a partner, a time, a point, a zone")
        self.condition = Choice()
        self.condition.addItems(list(CONDITIONS))
        self.condition.setAccessibleName("condition")
        self.condition.setToolTip("Whether it should equal a value, stay in a range or on one side of it, happen, or never happen")
        self.form.addRow("Wanted", self.condition)
        self.value = self.field("Value", "", "What it should be, such as 0.3 or 30 cm")
        self.upper = self.field("Up to", "", "The upper end of the range")
        self.tolerance = self.field("Tolerance", "", "How far off still counts as met (left empty: 2% of the value); for a bound, "
                                                     "how softly it holds")
        self.outcome.currentTextChanged.connect(self._chosen)
        self.condition.currentTextChanged.connect(self._conditioned)
        if target is not None:
            self.outcome.setCurrentText(target.outcome)
            self.index.setValue(target.index or 1)
            self.condition.setCurrentText(target.condition)
            self.value.setText(f"{target.value:g}")
            self.upper.setText("" if target.upper is None else f"{target.upper:g}")
            self.tolerance.setText(f"{target.tolerance:g}")
            whole = target.model_copy(update={"body": None, "each": None, "index": None})
            self.arguments.setText(whole.label.removeprefix(target.outcome).strip())
            self.arguments.setCursorPosition(0)
            if whose is not None:
                self.body.setCurrentText(whose)
        self._chosen(self.outcome.currentText())
        self._conditioned(self.condition.currentText())

    def _chosen(self, name: str) -> None:
        outcome = CATALOGUE[name]
        self.index.setEnabled(outcome.indexed)
        self.meaning.setText(f"{outcome.meaning}{f', in {outcome.unit}' if outcome.unit else ''}")
        asking = outcome.spec
        wants = [ARGUMENTS[name].placeholder for name in (*asking.required, *asking.optional) if name != "index"]
        self.arguments.setEnabled(bool(wants))
        self.form.setRowVisible(self.arguments, bool(wants))
        self.form.setRowVisible(self.index, outcome.indexed)
        if self.body.count() > 1:
            self.form.setRowVisible(self.body, name != FORMULA)
        self.arguments.setPlaceholderText(" or ".join(wants))

    def _conditioned(self, condition: str) -> None:
        self.value.setEnabled(condition not in ("happens", "never"))
        self.upper.setEnabled(condition == "within")
        self.tolerance.setEnabled(condition in ("equal", "at least", "at most"))
        self.tolerance.setPlaceholderText("2% of the value" if condition == "equal" else "")
        for edit in (self.value, self.upper, self.tolerance):
            self.form.setRowVisible(edit, edit.isEnabled())

    def take(self) -> None:
        """Make the target, by its text form."""
        outcome, condition = CATALOGUE[self.outcome.currentText()], self.condition.currentText()
        formula = outcome.name == FORMULA  # its terms name their bodies
        words = ["" if formula or self.body.count() < 2 else self.body.currentText(), "" if formula else outcome.name]
        words += [str(self.index.value()) if outcome.indexed else "",
                  self.arguments.text().strip() if self.arguments.isEnabled() else ""]
        unit = outcome.unit
        if condition == "equal":
            value = amount_from(self.value, "value", unit)
            told = self.tolerance.text().strip()
            tolerance = amount_from(self.tolerance, "tolerance", unit) if told else usual_tolerance(value)
            if tolerance <= 0:
                raise bad_input("tolerance", f"{tolerance:g}", "a number above zero")
            words.append(f"= {value!r} ± {tolerance!r}")
        elif condition == "within":
            words.append(f"within {amount_from(self.value, 'value', unit)!r} to {amount_from(self.upper, 'up to', unit)!r}")
        elif condition in ("at least", "at most"):
            soft = f" ± {amount_from(self.tolerance, 'tolerance', unit)!r}" if self.tolerance.text().strip() else ""
            words.append(f"{condition} {amount_from(self.value, 'value', unit)!r}{soft}")
        else:
            words.append(condition)
        self.target = parse_target(" ".join(word for word in words if word))

