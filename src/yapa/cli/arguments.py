"""Arguments and options shared by the commands: cases, trials, profiles, shapes, ranges, import options."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any, get_args

import click

from yapa.cli.streams import STREAM, note_version, notice, source_of
from yapa.errors import bad_input

if TYPE_CHECKING:
    from yapa.case import Case
    from yapa.case.importing import Role
    from yapa.files import FileStamp

outside_option = click.option("--allow-outside", is_flag=True, help="read tracks that lie outside the case's folder")
overwrite_option = click.option("--overwrite", is_flag=True, help="replace a file that was changed meanwhile")
limit_option = click.option("--limit", type=click.IntRange(min=1), default=20_000, show_default=True,
                            help="simulations after which it ends with the best so far")
threads_option = click.option("--threads", type=click.IntRange(1, 256), help="runs side by side")
seed_option = click.option("--seed", type=click.IntRange(0, 2**63 - 1), help="of random starts; the case's own if left out")
json_option = click.option("--json", "json_path", type=click.Path(path_type=Path), help="write the result here")


def at_trial(case: Case, name: str | None) -> Case:
    """Return the case at the values of a trial.

    Parameters
    ----------
    case : the case
    name : its name

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    from yapa.api import with_numbers

    if name is None:
        return case
    chosen = next((t for t in case.trials if t.name == name), None)
    if chosen is None:
        names = "; ".join(t.name for t in case.trials)
        raise bad_input("--trial", name, f"one of: {names}" if names else "a case that has trials")
    return with_numbers(case, chosen.values)


def with_targets(case: Case, texts: tuple[str, ...]) -> Case:
    """Return the case with more targets, from their text.

    Parameters
    ----------
    case : the case
    texts : targets in words
    """
    from yapa.api import parse_target

    return case.model_copy(update={"targets": case.targets + tuple(parse_target(t) for t in texts)}) if texts else case


def seeded(case: Case, seed: int | None) -> Case:
    """Return the case with another seed.

    Parameters
    ----------
    case : the case
    seed : of random numbers
    """
    return case if seed is None else case.model_copy(update={"seed": seed})


def with_profile(case: Case, name: str | None) -> Case:
    """Return the case with another solver profile.

    Parameters
    ----------
    case : the case
    name : its name

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    from yapa.api import PRESETS, Precise

    if name is None:
        return case
    named = {"precise": Precise(), **PRESETS}
    if name not in named:
        raise bad_input("--profile", name, "one of: " + "; ".join(named))
    return case.model_copy(update={"profile": named[name]})


def load_named(path: Path, allow_outside: bool = False) -> Case:
    """Return the case in a file (- is the standard input).

    Parameters
    ----------
    path : the file
    allow_outside : whether tracks outside the case's folder may be read
    """
    return load_stamped(path, allow_outside)[0]


def load_stamped(path: Path, allow_outside: bool = False) -> tuple[Case, FileStamp]:
    """Return the case in a file, and the stamp of what was read.

    Parameters
    ----------
    path : the file
    allow_outside : whether tracks outside the case's folder may be read
    """
    from yapa.api import read_case_file as load
    from yapa.api import read_case_text as load_text

    if path == STREAM:
        loaded = load_text(source_of(path).read_bytes(), "standard input", Path(), allow_outside)
    else:
        loaded = load(source_of(path), allow_outside)
    for text in loaded.notices:
        notice(text)
    note_version(path, loaded.version)
    return loaded.case, loaded.stamp


def reading_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Return the options that say how a file of measurements is read; the command gets them as one ``overrides``, None if nothing
    was.

    Parameters
    ----------
    command : the command
    """
    @wraps(command)
    def with_import_options(columns: tuple[str, ...], units: tuple[str, ...], planar: bool, sort: bool, **rest: Any) -> Any:
        names = ("rate", "scale", "y_down", "up", "body", "sheet", "shift", "decimal", "delimiter")
        named = {"scale": "pixel_size", "shift": "time_offset"}
        fields = {named.get(name, name): value for name in names if (value := rest.pop(f"read_{name}")) is not None}
        if sort:
            fields["sorted"] = True
        overrides = None
        if columns or units or planar or fields:
            from yapa.api import ImportOverrides

            overrides = ImportOverrides(dict(column_of(word) for word in columns), dict(unit_of(word) for word in units), planar,
                                        fields)
        return command(overrides=overrides, **rest)

    for option in reversed(_READING):
        with_import_options = option(with_import_options)
    return with_import_options


_READING = (
    click.option("--column", "columns", multiple=True, metavar="ROLE=NUMBER", help="role of a column, from 1: time, frame, x …"),
    click.option("--unit", "units", multiple=True, metavar="ROLE=UNIT", help="unit of a column, such as x=mm"),
    click.option("--planar", is_flag=True, help="columns of numbers whose names are not known are no positions"),
    click.option("--rate", "read_rate", type=float, help="frames a second, for frame numbers"),
    click.option("--scale", "read_scale", type=float, help="metres a pixel, or a unit of the file"),
    click.option("--y-down", "read_y_down", is_flag=True, default=None, help="the upright coordinate grows downwards"),
    click.option("--up", "read_up", type=click.Choice(["y", "z"]), help="which coordinate stands upright"),
    click.option("--body", "read_body", help="which of several bodies"),
    click.option("--sheet", "read_sheet", help="which sheet of a spreadsheet"),
    click.option("--shift", "read_shift", type=float, help="seconds added to every time"),
    click.option("--decimal", "read_decimal", type=click.Choice([".", ","]), help="the decimal mark"),
    click.option("--delimiter", "read_delimiter", help="what parts the cells of a text file"),
    click.option("--sort", is_flag=True, help="sort rows that are out of order"),
)



def column_of(word: str) -> tuple[Role, int]:
    """Return the role and the column (from 0) of ``--column ROLE=NUMBER``.

    Parameters
    ----------
    word : what was typed

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    from yapa.api import Role

    role, sign, number = word.partition("=")
    if role.strip() not in get_args(Role) or not sign or not number.strip().isdecimal() or not 1 <= int(number[:6]) <= 9999:
        raise bad_input("--column", word, f"ROLE=NUMBER, such as x=2; roles are {', '.join(get_args(Role))}")
    return role.strip(), int(number) - 1  # type: ignore[return-value]


def unit_of(word: str) -> tuple[Role, str]:
    """Return the role and the unit's symbol of ``--unit ROLE=UNIT``.

    Parameters
    ----------
    word : what was typed

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    from yapa.api import KINDS, UNITS, find_unit, symbols

    role, sign, unit = word.partition("=")
    kind = KINDS.get(role.strip())
    symbol = find_unit(unit)
    if not sign or kind is None:
        raise bad_input("--unit", word, f"ROLE=UNIT, such as x=mm; roles with a unit are {', '.join(KINDS)}")
    if symbol is None or UNITS[symbol].kind is not kind:
        raise bad_input("--unit", word, f"one of the units {', '.join(symbols(kind))}")
    return role.strip(), symbol  # type: ignore[return-value]


def box_edges(text: str | None) -> tuple[float, float, float] | None:
    """Return edges [m] of ``--box LXxLYxLZ``.

    Parameters
    ----------
    text : the text

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    if text is None:
        return None
    parts = text.lower().replace("×", "x").split("x")
    try:
        a, b, c = (float(p) for p in parts)
    except ValueError:
        raise bad_input("--box", repr(text), "three edge lengths in metres, such as 0.3x0.2x0.15") from None
    return a, b, c


def floor_height(floor: float | None, slope: float | None) -> float | None:
    """Return the height of the floor [m]; None where a slope stands in its place.

    Parameters
    ----------
    floor : height of the support [m]
    slope : of the support [degrees]

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    if floor is not None and slope is not None:
        raise bad_input("--floor and --slope", "both", "one of the two")
    return None if slope is not None else (floor or 0.0)


def sigmas(text: str | None) -> tuple[float | None, float | None]:
    """Return σ of places [m] and of the angle [rad] of ``--sigma S[,S_ANGLE]``.

    Parameters
    ----------
    text : the text

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
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
    """Return name and value of ``--fixed NAME=VALUE``.

    Parameters
    ----------
    text : the text

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    name, _, value = text.partition("=")
    try:
        return name.strip(), float(value)
    except ValueError:
        raise bad_input(f"--fixed {text!r}", f"the value {value!r}", "NAME=VALUE, such as friction=0.3") from None


def radius_from(samples: Any, floor: float | None) -> float:
    """Without a shape: the lowest place of the track is taken as resting on the floor.

    Parameters
    ----------
    samples : the samples of a track
    floor : height of the support [m]

    Returns
    -------
    The radius [m].
    """
    low = min((v for v in samples.z or () if v is not None), default=0.05) - (floor or 0.0)
    notice(f"no shape given: taken as a sphere whose lowest place, {low:.4g} m, touches the floor")
    return max(low, 1e-3)
