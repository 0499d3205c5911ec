"""`yapa completion`: what a shell needs to complete commands, options and numbers."""

from __future__ import annotations

import click

from yapa.cli.completing import VARIABLE
from yapa.cli.streams import say

FILES = {"bash": "bash-completion/completions/yapa", "zsh": "zsh/site-functions/_yapa",
         "fish": "fish/vendor_completions.d/yapa.fish"}
"""Shell → where its script is shipped, below ``share``."""


@click.command()
@click.argument("shell", type=click.Choice(list(FILES)))
def completion(shell: str) -> None:
    """Print the completion script of a shell: commands, options, and the numbers of a case.

    For bash: yapa completion bash > ~/.local/share/bash-completion/completions/yapa
    """
    from click.shell_completion import get_completion_class

    from yapa.cli.app import cli

    kind = get_completion_class(shell)
    assert kind is not None
    say(kind(cli, {}, "yapa", VARIABLE).source())
