"""The whole document: scene, evidence, unknowns, profile, trials."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from yapa.case.base import Model, Name
from yapa.case.bounds import MAX_DURATION, MAX_SAMPLES, MAX_STEPS, MIN_DURATION
from yapa.case.changed_numbers import with_numbers
from yapa.case.constants import Constant, ConstantName
from yapa.case.curves import Curve
from yapa.case.evidence import Target, Track
from yapa.case.kept_scenes import KeptScene
from yapa.case.outcome_specs import OUTCOME_SPECS
from yapa.case.outcome_text import is_reference, parse_formula, parse_reference
from yapa.case.parameters import get_number, has_number, out_of_bounds
from yapa.case.profiles import Precise, Profile
from yapa.case.scene import Body, Camera, Fields, NaturalRoll, Pair, Pairing, Surface
from yapa.case.takes import Take
from yapa.case.trial_table import TrialTable
from yapa.case.unknowns import Trial, Unknown
from yapa.errors import bad_input

FORMAT_VERSION = 2
"""of the case file"""


class Case(Model):
    """One case. Immutable: an edit makes a new case that shares what did not change.

    Attributes
    ----------
    bodies, groups, cameras, surfaces, pairs, pairing, collision_exclusions : what is there, and what happens where it meets
    fields, profile, duration, output_rate, seed : gravity and air, how the solver steps, how long, how often it is sampled [1/s]
    tracks, curves, targets, table, takes, constants : the evidence
    unknowns, trials, scenes : numbers that a fit may change, sets of values kept, and the scenes that those were made in
    title, notes, ignored_findings : for people

    Notes
    -----
    SI units. The parts are those of the case file, ``docs/case-format.md``. ``case[path]`` is a number, ``case.with_({path:
    number})`` the
    case with another.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-drop.yapa")
    >>> case["bodies.orange.mass"], case.with_({"bodies.orange.mass": 0.2})["bodies.orange.mass"]
    (0.182, 0.2)
    """

    format: Literal["yapa"] = "yapa"
    version: Literal[2] = 2
    title: Annotated[str, Field(max_length=120)] = "untitled"
    notes: str = ""
    fields: Fields = Fields()
    surfaces: dict[Name, Surface] = {}
    pairing: Pairing = Pairing()
    pairs: tuple[Pair, ...] = ()
    bodies: dict[Name, Body]
    groups: dict[Name, tuple[Name, ...]] = {}
    cameras: dict[Name, Camera] = {}
    constants: dict[ConstantName, Constant] = {}
    collision_exclusions: tuple[tuple[Name, Name], ...] = ()
    profile: Profile = Precise()
    duration: Annotated[float, Field(ge=0, le=MAX_DURATION, allow_inf_nan=False)] = 2.0
    output_rate: Annotated[float, Field(ge=1, le=10000, allow_inf_nan=False)] = 240.0
    seed: Annotated[int, Field(ge=0, lt=2**63)] = 0
    tracks: tuple[Track, ...] = ()
    targets: tuple[Target, ...] = ()
    curves: tuple[Curve, ...] = ()
    table: TrialTable | None = None
    takes: tuple[Take, ...] = ()
    unknowns: tuple[Unknown, ...] = ()
    trials: tuple[Trial, ...] = ()
    scenes: dict[str, KeptScene] = {}
    ignored_findings: tuple[str, ...] = ()

    def _too_long(self) -> list[str]:
        """What makes a run of this case longer than one can be."""
        if 0 < self.duration < MIN_DURATION:
            return [f"duration: {self.duration:g} s; a run takes {MIN_DURATION:g} s or more, or none (0)"]
        out = []
        end = max([self.duration, *(t.samples.t[-1] + max(t.time_offset, 0.0) for t in self.tracks if t.samples is not None)])
        if end > MAX_DURATION:
            out.append(f"tracks: one lasts until {end:g} s; {MAX_DURATION:g} s is the longest")
        steps = end / self.profile.step
        if steps > MAX_STEPS:
            out.append(f"duration: {end:g} s is {steps:.3g} steps of {self.profile.step:g} s; {MAX_STEPS:,} are the most")
        samples = self.duration * self.output_rate * max(len(self.dynamic_bodies()), 1)
        if samples > MAX_SAMPLES:
            out.append(f"output_rate: {samples:.3g} samples of moving bodies; {MAX_SAMPLES:,} are the most")
        return out

    @model_validator(mode="after")
    def _references(self) -> Case:
        """Every name that something refers to is there, and what may stand once stands once."""
        wrong = [*self._wrong_bodies(), *self._wrong_pairs(), *self._wrong_evidence(), *self._wrong_unknowns(), *self._wrong_ties(),
                 *self._wrong_takes(), *self._wrong_table(), *self._too_long()]
        if wrong:
            raise ValueError("\n".join(wrong))
        return self

    def _wrong_bodies(self) -> Iterator[str]:
        surfaces = {*self.surfaces, "default"}
        for name, body in self.bodies.items():
            for shape in body.shapes:
                if shape.surface not in surfaces:
                    yield from _absent(f"bodies.{name}.shapes", shape.surface, surfaces, "surface")
            if body.placed_under is not None:
                yield from _absent(f"bodies.{name}.placed_under", body.placed_under, self.bodies, "body")
            if isinstance(body.angular_velocity, NaturalRoll):
                yield from _absent(f"bodies.{name}.angular_velocity.rolling_on", body.angular_velocity.rolling_on, self.bodies,
                                   "body")
        for name, members in self.groups.items():
            if name in self.bodies:
                yield f"groups.{name}: a body has that name too"
            if len(set(members)) < max(len(members), 1):
                yield f"groups.{name}: a group names one body or more, each once"
            for member in members:
                yield from _absent(f"groups.{name}", member, self.bodies, "body")
        groups = {body.group for body in self.bodies.values()}
        if len(groups) > 50:
            yield f"bodies: {len(groups)} collision groups; 50 are the most"
        for i, both in enumerate(self.collision_exclusions):
            for name in both:
                yield from _absent(f"collision_exclusions.{i}", name, groups, "group")

    def _wrong_pairs(self) -> Iterator[str]:
        surfaces = {*self.surfaces, "default"}
        seen: set[frozenset[str]] = set()
        for i, pair in enumerate(self.pairs):
            for name in pair.surfaces:
                yield from _absent(f"pairs.{i}.surfaces", name, surfaces, "surface")
            if frozenset(pair.surfaces) in seen:
                yield f"pairs.{i}: the pair {pair.key} stands twice"
            seen.add(frozenset(pair.surfaces))

    def _wrong_evidence(self) -> Iterator[str]:
        for i, track in enumerate(self.tracks):
            yield from _absent(f"tracks.{i}.body", track.body, self.bodies, "body")
        if len({track.name for track in self.tracks}) < len(self.tracks):
            yield "tracks: two tracks have the same name"
        for i, curve in enumerate(self.curves):
            yield from _absent(f"curves.{i}.body", curve.body, self.bodies, "body")
        if len({curve.name for curve in self.curves}) < len(self.curves):
            yield "curves: two curves have the same name"
        for i, target in enumerate(self.targets):
            yield from self._wrong_body(f"targets.{i}.body", target)
            yield from self._wrong_names(f"targets.{i}", target)
            yield from self._wrong_formula(f"targets.{i}.formula", target)

    def _wrong_body(self, where: str, target: Target) -> Iterator[str]:
        if target.each is None:
            yield from _absent(where, target.body, self.bodies, "body")
            return
        yield from _absent(where, target.body, self.groups, "group")
        count = len(self.groups.get(target.body or "", ()))
        if count and target.each.startswith("at least") and int(target.each.split()[-1]) > count:
            yield f"{where}: {target.each} of {target.body}, which has {count}"

    def _wrong_names(self, where: str, target: Target) -> Iterator[str]:
        """Names among the arguments of an outcome."""
        yield from _absent(f"{where}.partner", target.partner, self.bodies, "body")
        yield from _absent(f"{where}.camera", target.argument("camera"), self.cameras, "camera")

    def _wrong_formula(self, where: str, target: Target) -> Iterator[str]:
        if target.outcome != "formula":
            return
        expression = parse_formula(str(target.argument("formula")))
        for name in expression.names:
            if is_reference(name):
                found = parse_reference(name)
                yield from _absent(where, found.body, self.bodies, "body")
                yield from self._wrong_names(where, found)
            elif OUTCOME_SPECS:
                yield from _absent(where, name, self.constants, "outcome or constant")

    def _wrong_unknowns(self) -> Iterator[str]:
        paths = [unknown.path for unknown in self.unknowns]
        for i, unknown in enumerate(self.unknowns):
            if not has_number(self, unknown.path):
                yield f"unknowns.{i}.path: this case has no number {unknown.path!r}"
                continue
            if unknown.path.startswith("profile."):
                yield f"unknowns.{i}.path: a fit cannot follow {unknown.path!r}, which has no slope; ask for it as a threshold"
            yield from (f"unknowns.{i}: {word}" for word in out_of_bounds(unknown.path, unknown.low, unknown.high))
            if unknown.path in paths[:i]:
                yield f"unknowns.{i}.path: {unknown.path!r} stands twice"

    def _wrong_ties(self) -> Iterator[str]:
        paths = [unknown.path for unknown in self.unknowns]
        ties = [(unknown, tie) for unknown in self.unknowns for tie in unknown.ties]
        linked = [tie.path for _, tie in ties]
        for unknown, tie in ties:
            if has_number(self, tie.path):
                ends = (tie.factor * end + tie.offset for end in (unknown.low, unknown.high))
                yield from (f"unknowns.linked: {word}" for word in out_of_bounds(tie.path, *ends))
        for path in linked:
            if not has_number(self, path):
                yield f"unknowns.linked: this case has no number {path!r}"
            if path in paths or linked.count(path) > 1:
                yield f"unknowns.linked: {path!r} stands twice"

    def _wrong_takes(self) -> Iterator[str]:
        names, paths = {track.name for track in self.tracks}, {unknown.path for unknown in self.unknowns}
        taken: set[str] = set()
        rows: set[int] = set()
        for i, take in enumerate(self.takes):
            for name in take.tracks:
                yield from _absent(f"takes.{i}.tracks", name, names, "track")
                if name in taken:
                    yield f"takes.{i}.tracks: the track {name!r} is in two takes"
                taken.add(name)
            for k, target in enumerate(take.targets):
                yield from self._wrong_body(f"takes.{i}.targets.{k}.body", target)
                yield from self._wrong_names(f"takes.{i}.targets.{k}", target)
                yield from self._wrong_formula(f"takes.{i}.targets.{k}.formula", target)
            if take.rows and self.table is None:
                yield f"takes.{i}.rows: this case has no table"
            elif self.table is not None and self.table.columns is not None:
                for row in take.rows:
                    if row > self.table.rows:
                        yield f"takes.{i}.rows: there is no row {row}; the table has {self.table.rows}"
            if rows & set(take.rows):
                yield f"takes.{i}.rows: row {min(rows & set(take.rows))} is in two takes"
            rows |= set(take.rows)
            for path, value in take.values.items():
                missing = [f"this case has no number {path!r}"]
                words = out_of_bounds(path, value) if has_number(self, path) else missing
                yield from (f"takes.{i}.values: {word}" for word in words)
            yield from (f"takes.{i}.free_per_take: {path!r} is no unknown of this case"
                        for path in take.free_per_take if path not in paths)
        if self.takes and names - taken:
            yield f"takes: the track {min(names - taken)!r} is in no take"

    def _wrong_table(self) -> Iterator[str]:
        if self.table is None:
            return
        paths = {unknown.path for unknown in self.unknowns}
        unlocked = {unknown.path for unknown in self.unknowns if not unknown.fixed}
        for path in self.table.settings:
            if path.startswith("profile.") or not has_number(self, path):
                yield f"table.settings: this case has no number {path!r}"
            elif path in unlocked:
                yield f"table.settings: {path!r} is an unknown of this case; lock it, since a row sets it"
        for column, free in self.table.free_per.items():
            yield from (f"table.free_per.{column}: {path!r} is no unknown of this case" for path in free if path not in paths)
        every = [path for free in self.table.free_per.values() for path in free]
        yield from (f"table.free_per: {path!r} stands twice" for path in sorted({p for p in every if every.count(p) > 1}))
        if self.table.columns is not None:
            have = {**self.table.columns, **self.constants}
            for what, expression in self.table.expressions():
                for name in expression.names:
                    yield from _absent(f"table: {what}", name, have, "column")
            for column in self.table.free_per:
                if column != "row":
                    yield from _absent("table.free_per", column, self.table.columns, "column")

    def for_take(self, take: Take) -> Case:
        """Return the case of one take: its tracks, targets and values.

        Parameters
        ----------
        take : one recording
        """
        tracks = tuple(t for t in self.tracks if t.name in take.tracks)
        absent = tuple(f"tracks.{t.name}." for t in self.tracks if t not in tracks)
        alone = self.model_copy(update={
            "tracks": tracks, "takes": (), "targets": take.targets, "table": None, "curves": (),
            "unknowns": tuple(u for u in self.unknowns if not u.path.startswith(absent)) if absent else self.unknowns})
        return with_numbers(alone, take.values) if take.values else alone

    def without_files(self) -> Case:
        """Return the case with what its tracks and its table hold inside it, in place of files beside it."""
        table = self.table
        if table is not None and table.file is not None and table.columns is not None:
            table = table.model_copy(update={"file": None})
        return self.model_copy(update={
            "tracks": tuple(t if t.file is None else t.model_copy(update={"file": None}) for t in self.tracks), "table": table})

    @property
    def has_evidence(self) -> bool:
        """Whether there is anything to fit: tracks, curves, targets or a table of trials."""
        return bool(self.tracks or self.curves or self.targets or self.table or any(take.targets for take in self.takes))

    def __getitem__(self, path: str) -> float:
        """The number at a path [SI units]."""
        return get_number(self, path)

    def with_(self, numbers: Mapping[str, float] | None = None, **parts: Any) -> Case:
        """Return the case with other numbers, or other parts, checked as a whole.

        Parameters
        ----------
        numbers : path → number [SI units]
        parts : fields of the case, such as ``duration=3.0`` or ``targets=[…]``; lists will do for tuples

        Raises
        ------
        InputError
            With everything that is wrong.
        """
        from yapa.case.changed_numbers import with_numbers  # which changes cases
        from yapa.case.validation import checked

        unknown = sorted(set(parts) - set(type(self).model_fields))
        if unknown:
            raise bad_input("case", f"no part named {unknown[0]!r}", f"one of {', '.join(type(self).model_fields)}")
        given = {name: tuple(part) if isinstance(part, list) else part for name, part in parts.items()}
        changed = checked(self.model_copy(update=given)) if given else self
        return with_numbers(changed, numbers) if numbers else changed

    def dynamic_bodies(self) -> list[str]:
        """Return names of the dynamic bodies, in order."""
        return [name for name, body in self.bodies.items() if body.motion == "dynamic"]


def _absent(what: str, name: str | None, names: Collection[str], kind: str) -> Iterator[str]:
    """What is wrong where something refers to a name that is not there."""
    if name is not None and name not in names:
        yield f"{what}: there is no {kind} named {name!r}; there are {', '.join(sorted(names))}"
