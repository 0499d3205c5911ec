"""What a desk announces. A window connects to these; nothing here knows a screen."""

from __future__ import annotations

from psygnal import Signal

from yapa.errors import YapaError
from yapa.session.jobs import in_words


class Signals:
    """The signals of one desk, shared by its parts."""

    case_changed = Signal()
    history_changed = Signal()
    comparison_changed = Signal(object)
    """A new :class:`Comparison` at the values under the hand, or at those of the case."""
    steps_changed = Signal()
    """Motions one step aside of a number are known, or not shown any more."""
    contacts_chosen = Signal()
    """Other contacts are shown on the time axis, and heard."""
    chance_changed = Signal()
    """From when on chance decides is known for what is shown."""
    leverage_changed = Signal()
    """How much the evidence says of each number is known anew."""
    findings_changed = Signal()
    """What may be wrong is known anew."""
    import_previewed = Signal()
    """What would be brought in from a file is another."""
    notes_changed = Signal()
    """What is noted by hand has changed: taps of the stopwatch."""
    advice_changed = Signal()
    """What would tell the numbers that a fit left open is known."""
    remedies_changed = Signal()
    """Other numbers are known that would meet a missed target."""
    playhead_moved = Signal(float)
    span_changed = Signal()
    """The time axis shows another stretch of the clip."""
    selection_changed = Signal()
    """Other bodies are selected."""
    beside_changed = Signal(object)
    """The :class:`Comparison` of the trial laid beside, None where none is."""
    fit_started = Signal()
    fit_progressed = Signal(object)
    fit_ended = Signal(object)
    """A :class:`FitResult`; None where the fit failed or its document is gone."""
    jobs_changed = Signal()
    """What is under way has begun, moved on or ended."""
    error = Signal(str)
    fault = Signal(object)
    """A :class:`Fault` of the program itself."""
    message = Signal(str)
    changed_on_disk = Signal(object)
    """A path at which something else stands than what was read."""
    outside_files = Signal(object)
    """An :class:`OutsideQuestion`."""
    pull_began = Signal(object)
    """The :class:`Handle` that was taken."""
    pull_followed = Signal(object)
    """A :class:`Pulled`: the newest frame of the drag."""
    pull_offered = Signal()
    """Numbers are offered to be freed, so that an outcome can follow; or none any more."""
    pull_ended = Signal()

    def show_error(self, error: Exception) -> None:
        """Say what went wrong, unless it is a stop that was asked for or a fault, which ``fault`` announces.

        Parameters
        ----------
        error : what was raised
        """
        if isinstance(error, YapaError | MemoryError):  # a fault is announced where it is heard
            self.error.emit(in_words(error))


def names_of_signals() -> list[str]:
    """Return every signal of a desk by its name."""
    return [name for name, member in vars(Signals).items() if isinstance(member, Signal)]
