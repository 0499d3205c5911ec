"""`yapa warm`: the engine compiled before it is needed."""

from __future__ import annotations

import click


@click.command()
def warm() -> None:
    """Compile the engine now, so that the first run does not wait for it."""
    from yapa.api import compile_all, is_warm, private_cache

    private_cache()
    if is_warm():
        click.echo("the engine is already compiled")
        return
    click.echo("compiling the engine, about a minute …")
    compile_all()
