"""The whole document: scene, evidence, unknowns, profile, trials."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from typing import Annotated, Literal

from pydantic import Field, model_validator

from yapa.case.base import Model, Name
from yapa.case.bounds import MAX_DURATION, MAX_SAMPLES, MAX_STEPS, MIN_DURATION
from yapa.case.evidence import Target, Track
from yapa.case.profiles import Precise, Profile
from yapa.case.scene import Body, Fields, NaturalRoll, Pair, Pairing, Surface
from yapa.case.takes import Take
from yapa.case.unknowns import Trial, Unknown

FORMAT_VERSION = 1


class Case(Model):
    """One case. Immutable: an edit makes a new case that shares what did not change."""

    format: Literal["yapa"] = "yapa"
    version: Literal[1] = 1
    title: Annotated[str, Field(max_length=120)] = "untitled"
    notes: str = ""
    fields: Fields = Fields()
    surfaces: dict[Name, Surface] = {}
    pairing: Pairing = Pairing()
    pairs: tuple[Pair, ...] = ()
    bodies: dict[Name, Body]
    apart: tuple[tuple[Name, Name], ...] = ()
    profile: Profile = Precise()
    duration: Annotated[float, Field(ge=0, le=MAX_DURATION, allow_inf_nan=False)] = 2.0
    output_rate: Annotated[float, Field(ge=1, le=10000, allow_inf_nan=False)] = 240.0
    seed: Annotated[int, Field(ge=0, lt=2**63)] = 0
    tracks: tuple[Track, ...] = ()
    targets: tuple[Target, ...] = ()
    takes: tuple[Take, ...] = ()
    unknowns: tuple[Unknown, ...] = ()
    trials: tuple[Trial, ...] = ()
    dismissed: tuple[str, ...] = ()

    def _too_long(self) -> list[str]:
        """What makes a run of this case longer than one can be."""
        if 0 < self.duration < MIN_DURATION:
            return [f"duration: {self.duration:g} s; a run takes {MIN_DURATION:g} s or more, or none (0)"]
        out = []
        end = max([self.duration, *(t.samples.t[-1] + max(t.offset, 0.0) for t in self.tracks if t.samples is not None)])
        if end > MAX_DURATION:
            out.append(f"tracks: one lasts until {end:g} s; {MAX_DURATION:g} s is the longest")
        steps = end / self.profile.step
        if steps > MAX_STEPS:
            out.append(f"duration: {end:g} s is {steps:.3g} steps of {self.profile.step:g} s; {MAX_STEPS:,} are the most")
        samples = self.duration * self.output_rate * max(len(self.movers()), 1)
        if samples > MAX_SAMPLES:
            out.append(f"output_rate: {samples:.3g} samples of moving bodies; {MAX_SAMPLES:,} are the most")
        return out

    @model_validator(mode="after")
    def _references(self) -> Case:
        """Every name that something refers to is there, and what may stand once stands once."""
        wrong = [*self._wrong_bodies(), *self._wrong_pairs(), *self._wrong_evidence(), *self._wrong_unknowns(), *self._wrong_ties(),
                 *self._wrong_takes(), *self._too_long()]
        if wrong:
            raise ValueError("\n".join(wrong))
        return self

    def _wrong_bodies(self) -> Iterator[str]:
        surfaces = {*self.surfaces, "default"}
        for name, body in self.bodies.items():
            for shape in body.shapes:
                yield from _absent(f"bodies.{name}.shapes", shape.surface, surfaces, "surface")
            yield from _absent(f"bodies.{name}.under", body.under, self.bodies, "body")
            if isinstance(body.spin, NaturalRoll):
                yield from _absent(f"bodies.{name}.spin.rolls_on", body.spin.rolls_on, self.bodies, "body")
        groups = {body.group for body in self.bodies.values()}
        if len(groups) > 50:
            yield f"bodies: {len(groups)} collision groups; 50 are the most"
        for i, both in enumerate(self.apart):
            for name in both:
                yield from _absent(f"apart.{i}", name, groups, "group")

    def _wrong_pairs(self) -> Iterator[str]:
        surfaces = {*self.surfaces, "default"}
        seen: set[frozenset[str]] = set()
        for i, pair in enumerate(self.pairs):
            for name in pair.between:
                yield from _absent(f"pairs.{i}.between", name, surfaces, "surface")
            if frozenset(pair.between) in seen:
                yield f"pairs.{i}: the pair {pair.key} stands twice"
            seen.add(frozenset(pair.between))

    def _wrong_evidence(self) -> Iterator[str]:
        for i, track in enumerate(self.tracks):
            yield from _absent(f"tracks.{i}.body", track.body, self.bodies, "body")
        if len({track.name for track in self.tracks}) < len(self.tracks):
            yield "tracks: two tracks have the same name"
        for i, target in enumerate(self.targets):
            yield from _absent(f"targets.{i}.body", target.body, self.bodies, "body")
            yield from _absent(f"targets.{i}.partner", target.partner, self.bodies, "body")

    def _wrong_unknowns(self) -> Iterator[str]:
        from yapa.case.paths import has_number, out_of_bounds

        paths = [unknown.path for unknown in self.unknowns]
        for i, unknown in enumerate(self.unknowns):
            if not has_number(self, unknown.path):
                yield f"unknowns.{i}.path: this case has no number {unknown.path!r}"
                continue
            yield from (f"unknowns.{i}: {word}" for word in out_of_bounds(unknown.path, unknown.low, unknown.high))
            if unknown.path in paths[:i]:
                yield f"unknowns.{i}.path: {unknown.path!r} stands twice"

    def _wrong_ties(self) -> Iterator[str]:
        from yapa.case.paths import has_number

        paths = [unknown.path for unknown in self.unknowns]
        tied = [path for unknown in self.unknowns for path in unknown.tied]
        for path in tied:
            if not has_number(self, path):
                yield f"unknowns.tied: this case has no number {path!r}"
            if path in paths or tied.count(path) > 1:
                yield f"unknowns.tied: {path!r} stands twice"

    def _wrong_takes(self) -> Iterator[str]:
        from yapa.case.paths import has_number, out_of_bounds

        names, paths = {track.name for track in self.tracks}, {unknown.path for unknown in self.unknowns}
        taken: set[str] = set()
        for i, take in enumerate(self.takes):
            for name in take.tracks:
                yield from _absent(f"takes.{i}.tracks", name, names, "track")
                if name in taken:
                    yield f"takes.{i}.tracks: the track {name!r} is in two takes"
                taken.add(name)
            for path, value in take.values.items():
                missing = [f"this case has no number {path!r}"]
                words = out_of_bounds(path, value) if has_number(self, path) else missing
                yield from (f"takes.{i}.values: {word}" for word in words)
            yield from (f"takes.{i}.own: {path!r} is no unknown of this case" for path in take.own if path not in paths)
        if self.takes and names - taken:
            yield f"takes: the track {min(names - taken)!r} is in no take"

    def movers(self) -> list[str]:
        """Names of the dynamic bodies, in order."""
        return [name for name, body in self.bodies.items() if body.motion == "dynamic"]


def _absent(what: str, name: str | None, names: Collection[str], kind: str) -> Iterator[str]:
    """What is wrong where something refers to a name that is not there."""
    if name is not None and name not in names:
        yield f"{what}: there is no {kind} named {name!r}; there are {', '.join(sorted(names))}"
