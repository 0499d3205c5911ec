"""What a shell is told of the numbers and outcomes of the case that stands on the command line."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

import click
from click.shell_completion import CompletionItem

if TYPE_CHECKING:
    from yapa.case import Case

VARIABLE = "_YAPA_COMPLETE"
"""environment variable by which a shell asks for completions"""


def complete_path(ctx: click.Context, option: click.Parameter, begun: str) -> list[CompletionItem]:
    """Return the numbers of the case whose path begins like this, with their value and unit.

    Parameters
    ----------
    ctx : the command as far as it is typed
    option : the option whose value is completed
    begun : what is typed of the path
    """
    case = _case_of(ctx)
    if case is None or "=" in begun:
        return []
    from yapa.api import amount_text, numbers, quantity_of

    return [_item(path, amount_text(value, quantity_of(path).unit)) for path, value in numbers(case).items()
            if path.startswith(begun)]


def complete_outcome(ctx: click.Context, option: click.Parameter, begun: str) -> list[CompletionItem]:
    """Return the outcomes whose name begins like this.

    Parameters
    ----------
    ctx : the command as far as it is typed
    option : the option whose value is completed
    begun : what is typed of it
    """
    from yapa.api import OUTCOME_SPECS

    return [_item(spec.name, spec.meaning) for spec in OUTCOME_SPECS.values() if spec.name.startswith(begun)]


def _item(text: str, meaning: str) -> CompletionItem:
    """A completion; bash puts it in as it is, so that its blanks are escaped here."""
    return CompletionItem(text.replace(" ", "\\ ") if os.environ.get(VARIABLE, "").startswith("bash") else text, help=meaning)


def _case_of(ctx: click.Context) -> Case | None:
    """The case that the command is given; None where there is none that can be read."""
    words = [*ctx.args, *(str(value) for value in ctx.params.values())]  # behind an option that waits, what is typed stands in args
    given = next((word for word in words if word.endswith(".yapa") and Path(word).is_file()), None)
    if given is None:
        return None
    from yapa.api import load
    from yapa.errors import YapaError

    try:
        return load(given)
    except YapaError:  # a shell has no place for what is wrong
        return None
