"""One line under the stage: the fit that runs, a trial compared, what the last fit taught, and how much there is to look at."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import px, theme
from yapa.desktop.widgets.card import ElidedLabel, button
from yapa.motion import Severity
from yapa.session.fit_job import Explanation, Progress
from yapa.session.trial_difference import ranges_of, trial_difference
from yapa.session.verdict import learned, runner_up_words

HEIGHT, LOW = 34, 18
"""pixels while a case is tuned, and while it is built"""
MAX_SCORES = 240
"""scores of a fit that its curve keeps"""


class ScoreCurve(QWidget):
    """How the best score of a running fit falls, on a logarithmic scale."""

    def __init__(self) -> None:
        super().__init__()
        self.scores: list[float] = []
        self.setFixedSize(px(110), px(HEIGHT - 8))
        self.setAccessibleName("score of the fit")
        self.setToolTip("The best score so far, from when the fit began")

    def add(self, score: float) -> None:
        """One more report."""
        self.scores = [*self.scores, max(min([score, *self.scores[-1:]]), 1e-6)][-MAX_SCORES:]
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if len(self.scores) < 2:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        place = QRectF(self.rect()).adjusted(2, 3, -2, -3)
        top, low = max(self.scores), min(self.scores)
        if top == low:
            top = low * 1.01
        points = []
        for k, score in enumerate(self.scores):
            down = 1.0 - math.log(score / low) / math.log(top / low)
            points.append(QPointF(place.left() + place.width() * k / (len(self.scores) - 1), place.top() + place.height() * down))
        p.setPen(QPen(theme().color("simulated"), 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPolyline(QPolygonF(points))
        p.end()


class Sentence(QFrame):
    """The line; what is under way comes first."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._phase = ""
        self.tuning = True
        self.setObjectName("foot")
        self.setFixedHeight(px(HEIGHT))
        row = self._row = QHBoxLayout(self)
        row.setSpacing(10)
        self.words = ElidedLabel("", 10)
        self.words.setAccessibleName("what the fit says")
        row.addWidget(self.words, 1)
        self.curve = ScoreCurve()
        row.addWidget(self.curve)
        self.explain = self._button(row, "Free it", "Make the number that explains what is left over an unknown, at what was found",
                                    "free it", self._free_what_explains)
        self.runner_up = self._button(row, "Runner-up", "Look at another answer that fits about as well; again goes back",
                                      "runner-up", self._look_at_runner_up)
        self.runner_up.setCheckable(True)
        self.take = self._button(row, "Take it", "Set the numbers of the runner-up, as one step", "take the runner-up",
                                 lambda: session.fits.take_runner_up())
        self.copy = self._button(row, "Copy values", "Numbers, units, intervals and the conditions they hold under (Ctrl+Shift+C)",
                                 "copy values", lambda: self.window().run_command("Copy values"))  # type: ignore[attr-defined]
        self.look = self._button(row, "", "What may be wrong, why, and what would mend it (Y)", "things to look at",
                                 lambda: self.window().run_command("What may be wrong…"))  # type: ignore[attr-defined]
        session.case_changed.connect(self.say)
        session.comparison_changed.connect(lambda _c: self.say())
        session.beside_changed.connect(lambda _c: self.say())
        session.fit_started.connect(self._begin)
        session.fit_progressed.connect(self._progress)
        session.fit_ended.connect(lambda _result: self.say())
        session.findings_changed.connect(self.say)
        session.advice_changed.connect(self.say)
        self.say()

    def _button(self, row: QHBoxLayout, text: str, tip: str, name: str, act) -> QPushButton:  # type: ignore[no-untyped-def]
        b = button(text, tip, name)
        b.clicked.connect(lambda _on=False: act())
        row.addWidget(b)
        return b

    def show_tuning(self, tuning: bool) -> None:
        """What the fit says belongs to tuning; while a scene is built the line is low and tells what to look at."""
        self.tuning = tuning
        self.setFixedHeight(px(HEIGHT if tuning else LOW))
        self._row.setContentsMargins(16, 2 if tuning else 0, 16, 2 if tuning else 0)
        self.say()

    # -- a fit ---------------------------------------------------------------------------------------

    def _begin(self) -> None:
        self.curve.scores = []
        self._phase = "reading the evidence"
        self.runner_up.setChecked(False)
        self.say()

    def _progress(self, p: Progress) -> None:
        self._phase = f"{p.phase} · {p.simulations} simulations"
        if p.misfit is not None:
            self._phase += f" · best so far {p.misfit:.4g}"
            self.curve.add(p.misfit)
        self.say()

    def _free_what_explains(self) -> None:
        """One edit: the error of the model that the last fit named."""
        case = self._session.case
        if case is None:
            return
        for explanation in self._explained():
            self._session.edit(explanation.edit(case), f"free the {explanation.kind}")

    def _look_at_runner_up(self) -> None:
        self._session.fits.look_at_runner_up(self.runner_up.isChecked())

    # -- what is said --------------------------------------------------------------------------------

    def say(self) -> None:
        """What is under way, else what is compared, else what was learned, else what to look at."""
        fits = self._session.fits
        running, answer = fits.running, fits.runner_up
        trial = None if self._session.preview.values else self._session.newest_fit()
        looking = answer is not None and self.runner_up.isChecked()
        self.curve.setVisible(running)
        explained = self._explained()
        self.explain.setVisible(bool(explained))
        if explained:
            self.explain.setText(f"Free the {explained[0].kind}" if explained[0].path else f"Set the {explained[0].kind}")
        if answer is None:
            self.runner_up.setChecked(False)
        self.runner_up.setVisible(answer is not None and self.tuning)
        self.take.setVisible(looking)
        self.copy.setVisible(trial is not None and self.tuning and not running)
        self._say_findings()
        self.words.setText(self._what(running, looking))

    def _what(self, running: bool, looking: bool) -> str:
        session = self._session
        preview, fits = session.preview, session.fits
        if running:
            return self._phase
        if looking and fits.runner_up is not None and fits.result is not None:
            return runner_up_words(fits.runner_up, fits.result)
        if preview.other is not None and preview.comparison is not None and session.case is not None:
            ranges = ranges_of(session.case)
            return f"{preview.other_name} beside now: {trial_difference(preview.other, preview.comparison, ranges).words}"
        trial = None if preview.values else session.newest_fit()
        if trial is not None and self.tuning:
            named = [f"{words[:1].upper()}{words[1:]}." for words in map(str, self._explained())]
            return " ".join([*named, learned(trial.estimates, session.advice.found), *self._more(named)]).strip()
        found = session.findings.found
        if found:
            return f"{found[0].about_in_words}: {found[0].symptom}; {found[0].cause}"
        if session.case is not None and any(t.estimates for t in session.case.trials) and not preview.values and self.tuning:
            return "The numbers were changed by hand since; press F to fit them again"
        return ""

    def _explained(self) -> list[Explanation]:
        """The error of the model that the last fit named, while the case stands at what it found."""
        result = self._session.fits.result
        standing = self._session.newest_fit() is not None and not self._session.preview.values and not self._session.fits.running
        return result.explained[:1] if result is not None and standing else []

    def _more(self, named: list[str]) -> list[str]:
        """What the last fit said of its residuals, where it still holds."""
        result, trial = self._session.fits.result, self._session.newest_fit()
        if result is None or trial is None or result.values != {p: e.value for p, e in trial.estimates.items()}:
            return []
        told = [label for path, e in trial.estimates.items() if not e.determined for label in (e.reason or path,)]
        more = [f"{f[:1].upper()}{f[1:]}." for f in result.findings if not any(words in f for words in told)]
        return [words for words in more if words not in named]

    def _say_findings(self) -> None:
        found = self._session.findings.found
        troubles = sum(f.severity is Severity.TROUBLE for f in found)
        self.look.setVisible(bool(found))
        self.look.setText(f"{len(found)} thing{'' if len(found) == 1 else 's'} to look at" + (
            f", {troubles} trouble{'' if troubles == 1 else 's'}" if troubles else ""))
