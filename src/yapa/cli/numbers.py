"""Numbers of a case on the command line: set, freed, swept, with their units."""

from __future__ import annotations

from typing import TYPE_CHECKING

import click

from yapa.cli.completing import complete_path
from yapa.errors import InputError, bad_input

if TYPE_CHECKING:
    from yapa.case import Case

set_option = click.option("--set", "settings", multiple=True, metavar="PATH=VALUE", shell_complete=complete_path,
                          help="a number in place of the case's own, such as 'bodies.orange.position.z=80 cm'; repeatable")


def with_set(case: Case, words: tuple[str, ...]) -> Case:
    """Return the case with numbers in place of its own.

    Parameters
    ----------
    case : the case
    words : what was typed, ``PATH=VALUE`` each
    """
    from yapa.api import with_numbers

    return with_numbers(case, assigned(words, "--set")) if words else case


free_option = click.option("--free", "freed", multiple=True, metavar="PATH[=LOW..HIGH]", shell_complete=complete_path,
                           help="these numbers alone are unknown, the others locked; repeatable")


def with_free(case: Case, words: tuple[str, ...]) -> Case:
    """Return the case with these numbers unknown and all others locked.

    Parameters
    ----------
    case : the case
    words : what was typed, ``PATH[=LOW..HIGH]`` each
    """
    if not words:
        return case
    from yapa.api import axis_of, unknown_over

    free = {axis.path: axis for word in words for axis in [axis_of(case, *swept_range(word))]}
    kept = tuple(u.model_copy(update={"fixed": u.path not in free, **({"low": free[u.path].low, "high": free[u.path].high}
                                                                     if u.path in free else {})}) for u in case.unknowns)
    new = tuple(unknown_over(axis) for path, axis in free.items() if path not in {u.path for u in kept})
    return case.model_copy(update={"unknowns": (*kept, *new)})


def assigned(words: tuple[str, ...], option: str) -> dict[str, float]:
    """Return path → number [SI units] of words such as ``bodies.orange.velocity.x=2 cm/s``.

    Parameters
    ----------
    words : what was typed
    option : the option, for messages

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    from yapa.api import number_with_unit

    out = {}
    for word in words:
        path, sign, text = word.partition("=")
        if not sign or not path.strip():
            raise bad_input(option, repr(word), "PATH=NUMBER, such as bodies.orange.mass=0.2 or bodies.orange.position.z='80 cm'")
        out[path.strip()] = number_with_unit(path.strip(), text)
    return out


def swept_range(word: str) -> tuple[str, float | None, float | None]:
    """Return path, low and high of ``--over PATH[=LOW..HIGH]``; None where the usual range is meant.

    Parameters
    ----------
    word : what was typed

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    path, sign, span = word.partition("=")
    if not sign:
        return path.strip(), None, None
    low, dots, high = span.partition("..")
    unit = high.strip().lstrip("+-.0123456789eE").strip()
    try:
        from yapa.api import number_with_unit

        if not dots or not low.strip() or not high.strip():
            raise bad_input("range", word, "two numbers")
        return path.strip(), number_with_unit(path.strip(), f"{low} {unit}"), number_with_unit(path.strip(), high)
    except InputError as error:
        raise bad_input("the range", word, f"PATH=LOW..HIGH, such as surfaces.rind.restitution=0.3..0.9 ({error.problems[0].found})"
                        ) from None
