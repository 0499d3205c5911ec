"""What is done to the bodies that are selected: copied, taken out, arranged, joined, grouped, renamed. Each is one step."""

from __future__ import annotations

from yapa.session.building import arranging, assembling, scene_edits
from yapa.session.building.placing import with_body
from yapa.session.building.selection import Selection
from yapa.session.building.taking_out import referring


class Arranger(Selection):
    """Edits of the selected bodies."""

    def duplicate(self, *, launch: bool = False) -> None:
        """Stand a copy of every selected body beside it, and select the copies.

        Parameters
        ----------
        launch : whether copies start as the bodies do
        """
        case, names = self.case, list(self.selected)
        if case is None or not names:
            return
        copies: list[str] = []
        taken = case
        for name in names:
            copies.append(scene_edits.free_name(taken, name))
            taken = with_body(taken, copies[-1], case.bodies[name])
        edits = [scene_edits.duplicate(name, copy, launch=launch) for name, copy in zip(names, copies, strict=True)]
        if self._desk.make_by_hand(scene_edits.together(f"duplicate {', '.join(names)}", edits)):
            self.select(copies)

    def take_out(self) -> None:
        """Take the selected bodies out, with what refers to them; that is said."""
        case, names = self.case, list(self.selected)
        if case is None or not names:
            return
        with_them = referring(case, names)
        if self._desk.make_by_hand(scene_edits.take_out(names)):
            self._desk.message.emit(f"took out {', '.join(names)}" + (f", and with it {', '.join(with_them)}" if with_them else ""))
            self.keep_up()

    def arrange(self, way: str, axis: str = "x") -> bool:
        """Arrange the selected bodies: "stack", "line up", "evenly" or "mirror".

        Parameters
        ----------
        way : how
        axis : along which, or across which

        Returns
        -------
        Whether anything was done.
        """
        names = list(self.selected)
        least = {"mirror": 1, "evenly": 3}.get(way, 2)
        if self.case is None:
            return False
        if len(names) < least:
            self._desk.error.emit(f"{way}: found {len(names)} bodies selected; expected {least} or more: Shift+click adds one")
            return False
        ways = {"stack": lambda: arranging.on_top(names), "line up": lambda: arranging.line_up(names, axis),
                "evenly": lambda: arranging.distribute(names, axis), "mirror": lambda: arranging.mirror(names, axis)}
        return self._desk.make_by_hand(ways[way]())

    def join(self) -> bool:
        """Make the selected bodies one, with the name of the first; what refers to the others goes, and that is said.

        Returns
        -------
        Whether it was done.
        """
        case, names = self.case, list(self.selected)
        if case is None:
            return False
        with_them = referring(case, names[1:])
        if not self._desk.make_by_hand(assembling.join(names)):
            return False
        self.select(names[:1])
        gone = f"; gone with it: {', '.join(with_them)}" if with_them else ""
        self._desk.message.emit(f"{', '.join(names)} are one body{gone}")
        return True

    def take_apart(self) -> bool:
        """Make every shape of the selected body a body of its own.

        Returns
        -------
        Whether it was done.
        """
        case, name = self.case, self.body
        if case is None:
            return False
        if name is None:
            self._desk.error.emit(f"take apart: found {len(self.selected)} bodies selected; expected one")
            return False
        if not self._desk.make_by_hand(assembling.take_apart(name)):
            return False
        self.select([name, *(other for other in self.case.bodies if other not in case.bodies)] if self.case else [])
        return True

    def group(self) -> bool:
        """Give the selected bodies a common name.

        Returns
        -------
        Whether they have it.
        """
        case, names = self.case, list(self.selected)
        if case is None:
            return False
        if len(names) < 2:
            self._desk.error.emit(f"group: found {len(names)} bodies selected; expected two or more: Shift+click adds one")
            return False
        return self._desk.make(assembling.group(names, scene_edits.free_name(case, "group")))

    def ungroup(self) -> bool:
        """Take the common name of the selected bodies away.

        Returns
        -------
        Whether they had one.
        """
        case = self.case
        if case is None:
            return False
        called = [name for name, members in case.groups.items() if set(members) <= set(self.selected)]
        if not called:
            self._desk.error.emit("ungroup: found no group whose bodies are all selected; click a group in the list")
            return False
        return self._desk.make(scene_edits.together(f"ungroup {', '.join(called)}", [assembling.ungroup(name) for name in called]))

    def rename(self, new: str) -> bool:
        """Give the selected body another name, wherever it stands.

        Parameters
        ----------
        new : its new name

        Returns
        -------
        Whether it has it.
        """
        old = self.body
        if old is None or new.strip() in ("", old):
            return False
        if not self._desk.make(scene_edits.rename_body(old, new.strip())):
            return False
        self.select([new.strip()])
        return True
