"""The bar above the bench: title, play, time, headline, Fit."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
)

from yapa.case import Case
from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.theme import font, px
from yapa.desktop.widgets.card import ElidedLabel, button, label
from yapa.session.comparison import Comparison
from yapa.session.document import same_but_ledger
from yapa.session.fit_job import FitResult, Progress

SPEEDS = {"1×": 1.0, "½×": 0.5, "¼×": 0.25, "1/10×": 0.1}


class TopBar(QFrame):
    """Title, play, time, headline, Fit."""

    page = Signal(str)
    """Another page of the bench is asked for."""
    played = Signal(float, float)
    """A stretch of the clip was played [s]."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("bar")
        self.setFixedHeight(px(44))
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(8)
        self.title = ElidedLabel("", 14, True)
        row.addWidget(self.title, 6)
        self.kept = label("", 9, role="soft")
        row.addWidget(self.kept)
        row.addStretch(1)
        self.pages: dict[str, QPushButton] = {}
        for name, text, tip in (("build", "Build", "Put the scene together by hand (Ctrl+1)"),
                                ("tune", "Tune", "Evidence, unknowns, the fit (Ctrl+2)")):
            b = QPushButton(text)
            b.setObjectName("page")
            b.setCheckable(True)
            b.setFont(font(10, True))
            b.setAccessibleName(f"page {text}")
            b.setToolTip(tip)
            b.clicked.connect(lambda _on=False, n=name: self.page.emit(n))
            row.addWidget(b)
            self.pages[name] = b
        row.addSpacing(12)
        self.back = button("to start", "Put the play head at the start (Home)", "to start", "")
        self.back.clicked.connect(lambda: session.playback.go_to(0.0))
        self.play = button("Play", "Play the motion from the play head (Space)", "play", "")
        self.play.setFixedWidth(px(64))
        self.play.clicked.connect(self.toggle)
        self.speed = QComboBox()
        self.speed.addItems(list(SPEEDS))
        self.speed.setFont(font(10))
        self.speed.setAccessibleName("playing speed")
        self.speed.setToolTip("How fast it plays")
        self.clock = label("t = 0.00 s", 11)
        self.clock.setFixedWidth(px(84))
        for w in (self.back, self.play, self.speed, self.clock):
            row.addWidget(w)
        words = QVBoxLayout()
        words.setSpacing(0)
        self.headline = ElidedLabel("", 12, True)
        self.detail = ElidedLabel("", 10, role="soft")
        for w in (self.headline, self.detail):
            w.setAlignment(Qt.AlignmentFlag.AlignRight)
            words.addWidget(w)
        self.headline.setAccessibleName("headline")
        row.addLayout(words, 4)
        self.fit = QPushButton("Fit")
        self.fit.setObjectName("fit")
        self.fit.setFont(font(12, True))
        self.fit.setFixedWidth(px(96))
        self.fit.setToolTip("Find the free numbers from the evidence (F). While it runs: stop and keep the best (Esc)")
        self.fit.clicked.connect(self._fit_or_stop)
        row.addWidget(self.fit)
        self._playing: Case | None = None
        self._timer = QTimer(self, interval=33)
        self._timer.timeout.connect(self._tick)
        session.playhead_moved.connect(lambda t: self.clock.setText(f"t = {t:.2f} s"))
        session.comparison_changed.connect(self._on_comparison)
        session.case_changed.connect(self._on_case)
        session.fit_started.connect(self._on_start)
        session.fit_progressed.connect(self._on_progress)
        session.fit_ended.connect(self._on_end)
        session.history_changed.connect(self._on_case)

    def mark(self, name: str) -> None:
        """Show which page of the bench is seen."""
        for page, b in self.pages.items():
            b.setChecked(page == name)

    def _on_case(self) -> None:
        case = self._session.case
        if self._timer.isActive() and case is not None and self._playing is not None and not same_but_ledger(self._playing, case):
            self._playing = case
            self._session.playback.go_to(0.0)  # what plays has changed
        if case is not None:
            self.title.setText(case.title)
            saved = self._session.path is not None and self._session.is_clean
            self.kept.setText("saved" if saved else "not saved" if self._session.path is None else "changed")
            self.fit.setEnabled(any(not u.fixed for u in case.unknowns) and case.has_evidence)

    def _on_comparison(self, picture: Comparison) -> None:
        if not self._session.fits.running:
            self.headline.setText(picture.headline)
            self.detail.setText(picture.detail)

    def _on_start(self) -> None:
        self.fit.setText("Stop")
        self._restyle("stop")
        self.headline.setText("fitting")
        self.detail.setText("reading the track")

    def _on_progress(self, p: Progress) -> None:
        self.headline.setText("fitting" if p.misfit is None else f"misfit {p.misfit:.3g}")
        self.detail.setText(f"{p.phase} · {p.simulations} simulations")

    def _on_end(self, result: FitResult | None) -> None:
        self.fit.setText("Fit")
        self._restyle("fit")
        if self._session.preview.comparison is not None:
            self._on_comparison(self._session.preview.comparison)

    def _restyle(self, name: str) -> None:
        self.fit.setObjectName(name)
        self.fit.style().unpolish(self.fit)
        self.fit.style().polish(self.fit)

    def _fit_or_stop(self) -> None:
        if self._session.fits.running:
            self._session.fits.stop()
        else:
            self._session.fits.start()

    @property
    def factor(self) -> float:
        """How fast it plays: 1 is as it happens."""
        return SPEEDS[self.speed.currentText()]

    def toggle(self) -> None:
        """Play or pause."""
        case = self._session.case
        if case is None:
            return
        if self._timer.isActive():
            self._timer.stop()
            self.play.setText("Play")
            return
        if self._session.playback.time >= case.duration - 1e-6:
            self._session.playback.go_to(0.0)
        self._playing = case
        self._timer.start()
        self.play.setText("Pause")

    def _tick(self) -> None:
        case = self._session.case
        if case is None:
            return
        step = 0.033 * self.factor
        start = self._session.playback.time
        self._session.playback.go_to(start + step)
        self.played.emit(start, self._session.playback.time)
        if self._session.playback.time >= case.duration - 1e-6:
            self.toggle()
