"""The commands of the window: one row each gives the menu entry, the key, the tooltip and the entry of the finder.

A command that opens a dialog names its module in ``dialogs``; that module is imported when it is first asked for and has a function
``open_dialog(window)``.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yapa.desktop.app.main_window import MainWindow

Act = Callable[["MainWindow"], object]


@dataclass(frozen=True)
class Command:
    """One thing that can be done.

    Attributes
    ----------
    menu, text : where it stands, and how it is called
    key : its key, in Qt's words; one without "+" is not heard while a person types
    tip : what it does, in a sentence
    act : does it
    apart : whether a line stands above it in its menu
    """

    menu: str
    text: str
    key: str
    tip: str
    act: Act
    apart: bool = False

    @property
    def while_typing(self) -> bool:
        """Whether its key is heard while a person types."""
        return "+" in self.key or self.key in ("Esc", "F1", "F2", "F6")


def dialog(name: str) -> Act:
    """Opens the dialog of a module of ``yapa.desktop.dialogs``."""
    return lambda window: import_module(f"yapa.desktop.dialogs.{name}").open_dialog(window)


COMMANDS: tuple[Command, ...] = (
    Command("Case", "New from a track…", "Ctrl+N", "A case made from a measured motion", dialog("new_from_track")),
    Command("Case", "New from outcomes…", "Ctrl+Shift+N", "A case made from what should happen", dialog("new_from_outcomes")),
    Command("Case", "New scene", "Ctrl+Alt+N", "An empty scene, to be put together by hand", lambda w: w.files.new_scene()),
    Command("Case", "Open…", "Ctrl+O", "Open a case file", lambda w: w.files.browse()),
    Command("Case", "Open again…", "Ctrl+Shift+O", "The cases that were opened or saved last", lambda w: w.files.show_recent()),
    Command("Case", "Save", "Ctrl+S", "Save the case where it was opened", lambda w: w.files.save()),
    Command("Case", "Save as…", "Ctrl+Shift+S", "Save the case under another name", lambda w: w.files.save_as()),
    Command("Case", "Hand over…", "Ctrl+E", "Write values, the motion or its contacts to a file for another program",
            dialog("export")),
    Command("Case", "Start page", "Ctrl+Home", "The demo cases and new cases; this case stays open", lambda w: w.show_page("start"),
            apart=True),
    Command("Case", "Back to the case", "Ctrl+B", "From the start page to the case that is open", lambda w: w.show_case()),
    Command("Case", "Quit", "Ctrl+Q", "Close the window; unsaved work is asked about", lambda w: w.close()),
    Command("Edit", "Undo", "Ctrl+Z", "Take the last step back", lambda w: w.session.undo()),
    Command("Edit", "Redo", "Ctrl+Shift+Z", "Do again what was taken back", lambda w: w.session.redo()),
    Command("Edit", "Bring a track…", "Ctrl+I", "Import a track as evidence of a body", dialog("bring_track")),
    Command("Edit", "Bring a table of trials…", "Ctrl+Alt+I", "Import trials, one a row: what was set and what was measured",
            dialog("bring_table")),
    Command("Edit", "Mark here", "M", "Click where the body was at the play head's time; again ends it",
            lambda w: w.bench.note("mark")),
    Command("Edit", "Tap the stopwatch", "B", "Note the play head's time: a contact, or the rest; while it plays tap along",
            lambda w: w.session.notes.tap()),
    Command("Edit", "Draw a path", "D", "Draw the way a body went, with its timing; again ends it", lambda w: w.bench.note("draw")),
    Command("Edit", "Note by hand…", "N", "Evidence without a recording: heights, a stopwatch, marks", dialog("manual_evidence")),
    Command("Edit", "Say what should happen…", "T", "Ask for an outcome, with a tolerance",
            lambda w: w.bench.evidence.ask_target()),
    Command("Edit", "Every number and choice…", "Ctrl+Shift+E", "All that stands in the case, one list, changed where it stands",
            dialog("everything")),
    Command("Edit", "Copy values", "Ctrl+Shift+C", "Numbers, units, intervals and the conditions they hold under, as text",
            lambda w: w.bench.unknowns.copy_values()),
    Command("Scene", "Duplicate", "Ctrl+K", "A copy of what is selected beside it, at rest",
            lambda w: w.session.builder.duplicate()),
    Command("Scene", "Duplicate with its launch", "Ctrl+Shift+K", "A copy beside it that starts as it does",
            lambda w: w.session.builder.duplicate(launch=True)),
    Command("Scene", "Copies…", "Ctrl+Alt+K", "Copies of the selected body in a row or a grid, or scattered", dialog("copies")),
    Command("Scene", "Stack", "Ctrl+Up", "Stand each selected body on the one that was selected before it",
            lambda w: w.session.builder.arrange("stack")),
    Command("Scene", "Line up along x", "Ctrl+Alt+X", "Give the selected bodies the place of the first along x",
            lambda w: w.session.builder.arrange("line up", "x")),
    Command("Scene", "Line up along y", "Ctrl+Alt+Y", "Give the selected bodies the place of the first along y",
            lambda w: w.session.builder.arrange("line up", "y")),
    Command("Scene", "Line up along z", "Ctrl+Alt+Z", "Give the selected bodies the place of the first along z",
            lambda w: w.session.builder.arrange("line up", "z")),
    Command("Scene", "Set evenly along x", "Ctrl+Alt+E", "Set the selected bodies evenly apart along x, the outermost staying",
            lambda w: w.session.builder.arrange("evenly", "x")),
    Command("Scene", "Mirror across x", "Ctrl+Alt+M", "Mirror the selected bodies at the plane x = 0, with their launch and spin",
            lambda w: w.session.builder.arrange("mirror", "x")),
    Command("Scene", "Rename", "F2", "Another name: of the trial that has the keys, else of the selected body or the scene",
            lambda w: w.bench.rename()),
    Command("Scene", "Take out", "Ctrl+Del", "Take what is selected out, with what refers to it",
            lambda w: w.session.builder.take_out()),
    Command("Scene", "Join into one body", "Ctrl+J", "Make the selected bodies one; the first gives its name and its launch",
            lambda w: w.session.builder.join(), apart=True),
    Command("Scene", "Take apart", "Ctrl+Shift+J", "Make every shape of the selected body a body of its own",
            lambda w: w.session.builder.take_apart()),
    Command("Scene", "Group", "Ctrl+G", "Give the selected bodies a common name, to be selected and asked for together",
            lambda w: w.session.builder.group()),
    Command("Scene", "Ungroup", "Ctrl+Shift+G", "Take the common name of the selected bodies away; they stay",
            lambda w: w.session.builder.ungroup()),
    Command("Scene", "Copy physics to others…", "Ctrl+Shift+P",
            "Give the mass, the skin, the damping or the launch of the first selected body to the others", dialog("copy_physics")),
    Command("Scene", "Aim", "Ctrl+Alt+A", "Click a point: the selected body is thrown so that it passes there",
            lambda w: w.bench.stage.hand.aim(), apart=True),
    Command("Scene", "Lengthen the clip", "Ctrl+Alt+L", "Make the clip twice as long", lambda w: w.session.builder.lengthen()),
    Command("Scene", "Keep in place", "Ctrl+L", "Keep what is selected from being moved by the hand, or let it be moved again",
            lambda w: w.session.builder.keep_or_free()),
    Command("Scene", "Hide", "Ctrl+H", "Leave what is selected out of the picture; the motion stays the same",
            lambda w: w.session.builder.hide(True)),
    Command("Scene", "Show everything", "Ctrl+Shift+H", "Show what was hidden again", lambda w: w.session.builder.hide(False)),
    Command("Look", "Build", "Ctrl+1", "Put the scene together by hand", lambda w: w.show_work("build")),
    Command("Look", "Tune", "Ctrl+2", "Evidence, unknowns, the fit", lambda w: w.show_work("tune")),
    Command("Look", "From the front", "1", "See the scene from the front: x to the right, z up",
            lambda w: w.bench.stage.look_from(0, 0), apart=True),
    Command("Look", "From the right", "2", "See the scene from the right", lambda w: w.bench.stage.look_from(1.5708, 0)),
    Command("Look", "From above", "3", "See the scene from above", lambda w: w.bench.stage.look_from(0, 1.5)),
    Command("Look", "At an angle", "4", "See the scene turned and from a little above",
            lambda w: w.bench.stage.look_from(-0.5, 0.5)),
    Command("Look", "Through the camera", "5", "See the scene through its camera, or through the next one",
            lambda w: w.bench.stage.look_through_camera()),
    Command("Look", "Put a camera here", "Ctrl+5", "Put a camera of the scene where you look from; targets can ask for its picture",
            lambda w: w.bench.stage.shot.put()),
    Command("Look", "Pictures or what collides", "V", "See bodies as pictures, as the shapes that collide, or both",
            lambda w: w.bench.stage.extras.cycle()),
    Command("Look", "Show on the stage…", "Ctrl+Shift+V", "Velocities, axes, centres of mass, contact normals, impulses, facing",
            dialog("shown")),
    Command("Look", "Contacts shown and heard…", "Ctrl+Alt+B",
            "Which contacts stand on the time axis, and are heard where sound works", dialog("contacts")),
    Command("Look", "Whole scene", "W", "See all of the scene", lambda w: w.bench.stage.show_whole_scene()),
    Command("Look", "Larger type", "Ctrl++", "Larger type, from the next start on", lambda w: w.choose_type(1)),
    Command("Look", "Smaller type", "Ctrl+-", "Smaller type, from the next start on", lambda w: w.choose_type(-1)),
    Command("Look", "Next part of the window", "F6", "Give the keys to the next part, from left to right",
            lambda w: w.bench.next_part(1), apart=True),
    Command("Look", "Part before", "Shift+F6", "Give the keys to the part of the window before this one",
            lambda w: w.bench.next_part(-1)),
    Command("Try", "Fit", "F", "Find the free numbers from the evidence", lambda w: w.session.fits.start()),
    Command("Try", "Stop", "Esc", "Stop the fit and keep its best, or stop what is read or searched", lambda w: w.session.stop()),
    Command("Try", "Play or pause", "Space", "Play the motion from the play head", lambda w: w.bench.top.toggle()),
    Command("Try", "To start", "Home", "Put the play head at the start", lambda w: w.session.playback.go_to(0.0)),
    Command("Try", "Step back", ",", "One frame back", lambda w: w.session.playback.step(-1)),
    Command("Try", "Step on", ".", "One frame on", lambda w: w.session.playback.step(1)),
    Command("Try", "What may be wrong…", "Y", "Why something does not happen, and what would mend it", dialog("findings"),
            apart=True),
    Command("Try", "Outcomes…", "O", "Every outcome, simulated beside measured", dialog("outcomes")),
    Command("Try", "Other ways…", "A", "Every different way to what should happen, the smallest change first", dialog("solutions")),
    Command("Try", "Take the next handle", "H", "Choose the next outcome to pull by the keyboard",
            lambda w: w.bench.stage.next_handle()),
    Command("Try", "Compare with nothing", "Ctrl+D", "Show no trial beside the present motion",
            lambda w: w.session.preview.lay_beside(None)),
    Command("Try", "Find a command", "Ctrl+Space", "Every command, every thing of the stock and every field of the card, by a word",
            lambda w: w.finder.open(), apart=True),
    Command("Try", "Help", "F1", "How to use what has the keys, and every key there is", dialog("help")),
)
