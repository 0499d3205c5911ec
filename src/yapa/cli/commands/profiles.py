"""`yapa profiles`: the stepped profiles that have a name."""

from __future__ import annotations

import click


@click.command()
def profiles() -> None:
    """List the stepped profiles that have a name."""
    from yapa.api import PRESETS

    for name in PRESETS:
        click.echo(name)
