"""What is heard while the motion plays: a click at each contact that is chosen; off at first."""

from __future__ import annotations

from yapa.desktop.app.qt_bridge import Session
from yapa.desktop.app.sound import Speaker
from yapa.session.beats import clicks


class Clicks:
    """The clicks of one bench.

    Parameters
    ----------
    session : what plays
    speaker : where they are heard
    """

    def __init__(self, session: Session, speaker: Speaker | None = None) -> None:
        self._session = session
        self.speaker = speaker or Speaker()

    @property
    def on(self) -> bool:
        """Whether contacts are heard."""
        return self.speaker.on

    def hear(self, on: bool) -> None:
        """Hear contacts from now on, or not any more.

        Raises
        ------
        OSError
            If the sound device cannot be had.
        """
        if on and not self.speaker.on:
            self.speaker.open()
        elif not on:
            self.speaker.close()

    def played(self, start: float, end: float) -> None:
        """A stretch of the clip was played [s]."""
        comparison = self._session.preview.comparison
        if self.on and comparison is not None:
            for loudness in clicks(comparison.motion, start, end, self._session.preview.contact_choice):
                self.speaker.click(loudness)
