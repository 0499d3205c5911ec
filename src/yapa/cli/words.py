"""What stands behind the words of a command: cases, trials, profiles, shapes, ranges."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yapa.errors import bad_input

if TYPE_CHECKING:
    from yapa.case import Case


def at_trial(case: Case, name: str | None) -> Case:
    """The case at the values of a trial."""
    from yapa.case.paths import with_numbers

    if name is None:
        return case
    chosen = next((t for t in case.trials if t.name == name), None)
    if chosen is None:
        names = "; ".join(t.name for t in case.trials)
        raise bad_input("--trial", name, f"one of: {names}" if names else "a case that has trials")
    return with_numbers(case, chosen.values)


def with_targets(case: Case, texts: tuple[str, ...]) -> Case:
    """The case with more targets, from their text."""
    from yapa.case.target_text import parse_target

    return case.model_copy(update={"targets": case.targets + tuple(parse_target(t) for t in texts)}) if texts else case


def seeded(case: Case, seed: int | None) -> Case:
    """The case with another seed."""
    return case if seed is None else case.model_copy(update={"seed": seed})


def with_profile(case: Case, name: str | None) -> Case:
    """The case with another solver profile."""
    from yapa.case.profiles import PRESETS, Precise

    if name is None:
        return case
    named = {"precise": Precise(), **PRESETS}
    if name not in named:
        raise bad_input("--profile", name, "one of: " + "; ".join(named))
    return case.model_copy(update={"profile": named[name]})


def load_named(path: Path) -> Case:
    from yapa.formats.case_file import load_case

    case, notices = load_case(path)
    for notice in notices:
        click.echo(notice, err=True)
    return case


def box_edges(text: str | None) -> tuple[float, float, float] | None:
    if text is None:
        return None
    parts = text.lower().replace("×", "x").split("x")
    try:
        a, b, c = (float(p) for p in parts)
    except ValueError:
        raise bad_input("--box", repr(text), "three edge lengths in metres, such as 0.3x0.2x0.15") from None
    return a, b, c


def floor_height(floor: float | None, slope: float | None) -> float | None:
    if floor is not None and slope is not None:
        raise bad_input("--floor and --slope", "both", "one of the two")
    return None if slope is not None else (floor or 0.0)


def sigmas(text: str | None) -> tuple[float | None, float | None]:
    if text is None:
        return None, None
    try:
        values = [float(p) for p in text.split(",")]
    except ValueError:
        values = []
    if len(values) not in (1, 2):
        raise bad_input("--sigma", repr(text), "one or two numbers, such as 0.001 or 0.001,0.02")
    return values[0], values[1] if len(values) == 2 else None


def fixed_value(text: str) -> tuple[str, float]:
    name, _, value = text.partition("=")
    try:
        return name.strip(), float(value)
    except ValueError:
        raise bad_input(f"--fixed {text!r}", f"the value {value!r}", "NAME=VALUE, such as friction=0.3") from None


def radius_from(samples: Any, floor: float | None) -> float:
    """Without a shape: the lowest place of the track is taken as resting on the floor."""
    low = min((v for v in samples.z or () if v is not None), default=0.05) - (floor or 0.0)
    click.echo(f"no shape given: taken as a sphere whose lowest place, {low:.4g} m, touches the floor", err=True)
    return max(low, 1e-3)


def assignments(words: tuple[str, ...], option: str) -> list[tuple[str, str]]:
    out = []
    for word in words:
        role, sign, value = word.partition("=")
        if not sign or (option == "--column" and not value.strip().isdigit()):
            raise bad_input(option, word, "ROLE=VALUE, such as x=2")
        out.append((role.strip(), value.strip()))
    return out


def swept_range(word: str) -> tuple[str, float | None, float | None]:
    path, sign, span = word.partition("=")
    if not sign:
        return path.strip(), None, None
    low, dots, high = span.partition("..")
    try:
        return path.strip(), float(low), float(high) if dots else float("nan")
    except ValueError:
        raise bad_input("--over", word, "PATH=LOW..HIGH, such as surfaces.rind.restitution=0.3..0.9") from None
