"""Another name for a body, wherever it stands: paths, targets, groups, tracks, ties, trials."""

from __future__ import annotations

from typing import Any

from yapa.case import Case, Target, Trial
from yapa.case.kept_scenes import KeptScene, scene_key, scene_of, with_scene
from yapa.case.outcome_text import is_reference, parse_formula, parse_reference
from yapa.case.parameter_path import parse_path
from yapa.case.scene import NaturalRoll


def renamed(case: Case, old: str, new: str) -> Case:
    """Return the case with a body under another name, in the place it has among the bodies.

    Parameters
    ----------
    case : the case
    old : its name
    new : its new name
    """
    def name_of(name: str | None) -> str | None:
        return new if name == old else name

    def path_of(path: str) -> str:
        parts = parse_path(path)
        return str(parts._replace(owner=new)) if parts.section == "bodies" and parts.owner == old else path

    def tie_of(tie: Any) -> Any:
        return path_of(tie) if isinstance(tie, str) else tie.model_copy(update={"path": path_of(tie.path)})

    def of_target(target: Target) -> Target:
        return _target(target, old, new)

    bodies = {}
    for name, body in case.bodies.items():
        fields: dict[str, Any] = {} if body.placed_under != old else {"placed_under": new}
        if isinstance(body.angular_velocity, NaturalRoll) and body.angular_velocity.rolling_on == old:
            fields["angular_velocity"] = NaturalRoll(rolling_on=new)
        bodies[str(name_of(name))] = body.model_copy(update=fields) if fields else body
    unknowns = tuple(u.model_copy(update={"path": path_of(u.path), "linked": tuple(tie_of(tie) for tie in u.linked)})
                     for u in case.unknowns)
    table = case.table and case.table.model_copy(update={
        "settings": {path_of(path): text for path, text in case.table.settings.items()},
        "free_per": {column: tuple(path_of(path) for path in paths) for column, paths in case.table.free_per.items()}})
    takes = tuple(take.model_copy(update={
        "targets": tuple(of_target(t) for t in take.targets), "values": {path_of(p): v for p, v in take.values.items()},
        "free_per_take": tuple(path_of(p) for p in take.free_per_take)}) for take in case.takes)
    trials = tuple(trial.model_copy(update={
        "values": {path_of(p): v for p, v in trial.values.items()},
        "estimates": {path_of(p): e for p, e in trial.estimates.items()},
        "outcomes": {new + text[len(old):] if text == old or text.startswith(f"{old} ") else text: v
                     for text, v in trial.outcomes.items()}}) for trial in case.trials)
    scenes, trials = _renamed_scenes(case, trials, old, new)
    return case.model_copy(update={
        "scenes": scenes,
        "bodies": bodies, "unknowns": unknowns, "table": table, "takes": takes, "trials": trials,
        "groups": {group: tuple(str(name_of(m)) for m in members) for group, members in case.groups.items()},
        "tracks": tuple(t.model_copy(update={"body": name_of(t.body)}) for t in case.tracks),
        "curves": tuple(c.model_copy(update={"body": name_of(c.body)}) for c in case.curves),
        "targets": tuple(of_target(t) for t in case.targets)})


def _renamed_scenes(case: Case, trials: tuple[Trial, ...], old: str, new: str) -> tuple[dict[str, KeptScene], tuple[Trial, ...]]:
    """The scenes of trials with the body's other name, each under its new key, and the trials, which know it by that."""
    bare = case.model_copy(update={"tracks": (), "targets": (), "curves": (), "table": None, "takes": (), "unknowns": (),
                                   "trials": (), "scenes": {}})
    scenes: dict[str, KeptScene] = {}
    keyed = []
    for trial in trials:
        kept = case.scenes.get(trial.scene or "")
        if kept is not None:
            there = with_scene(bare, kept)
            there = renamed(there, old, new) if old in kept.bodies and new not in kept.bodies else there
            key = scene_key(there, sorted(trial.values))
            scenes[key] = scene_of(there)
            trial = trial.model_copy(update={"scene": key})
        keyed.append(trial)
    return scenes, tuple(keyed)


def _target(target: Target, old: str, new: str) -> Target:
    if target.outcome == "formula":
        text = str(target.argument("formula"))
        for part in sorted((p for p in parse_formula(text).names if is_reference(p)), key=len, reverse=True):
            text = text.replace(part, _target(parse_reference(part), old, new).label)
        return target.model_copy(update={"formula": text})
    fields: dict[str, Any] = {name: new for name in ("body", "partner") if getattr(target, name) == old and target.each is None}
    if target.each is not None and target.partner == old:
        fields["partner"] = new
    sequence = target.argument("sequence")
    if sequence and old in sequence:
        fields["sequence"] = tuple(new if name == old else name for name in sequence)
    return target.model_copy(update=fields) if fields else target
