"""`yapa schema`: the JSON Schema of a case file."""

from __future__ import annotations

import click


@click.command()
def schema() -> None:
    """Print the JSON Schema of a case file."""
    from yapa.api import schema_text

    click.echo(schema_text(), nl=False)
