"""`yapa outcomes`: what can be measured and wanted."""

from __future__ import annotations

import click

from yapa.cli.tables import print_table


@click.command()
def outcomes() -> None:
    """List every outcome that can be measured and wanted."""
    from yapa.api import OUTCOME_SPECS

    rows = [[a.name, a.unit, ", ".join((*a.required, *(f"[{m}]" for m in a.optional))), a.meaning] for a in OUTCOME_SPECS.values()]
    print_table([("outcome", False), ("unit", False), ("is told", False), ("meaning", False)], rows)
