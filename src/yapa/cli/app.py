"""The commands: thin; every one calls what the window calls."""

from __future__ import annotations

import difflib
import logging
import sys
from pathlib import Path

import click
from click.shell_completion import CompletionItem

from yapa import __version__
from yapa.cli import commands
from yapa.errors import bad_input


class _Yapa(click.Group):
    """`yapa CASE` opens the window; anything else is a command, imported when it is asked for."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return sorted({*super().list_commands(ctx), *commands.names()})

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        own = super().get_command(ctx, cmd_name)
        return commands.command_of(cmd_name) if own is None and cmd_name in commands.names() else own

    def shell_complete(self, ctx: click.Context, incomplete: str) -> list[CompletionItem]:
        """Commands and options; a file where none begins like this."""
        return super().shell_complete(ctx, incomplete) or [CompletionItem(incomplete, type="file")]

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        if ctx.resilient_parsing:  # a shell asks; nothing is run
            return super().parse_args(ctx, args)
        if not args:
            args = ["open"]
        elif args[0] not in self.list_commands(ctx) and not args[0].startswith("-"):
            args = ["open", *args]
        return super().parse_args(ctx, args)


@click.group(cls=_Yapa, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__)
@click.option("-q", "--quiet", is_flag=True, help="results alone: no progress and no notices")
@click.option("-v", "--verbose", count=True, help="say what is done; twice for more")
def cli(quiet: bool, verbose: int) -> None:
    """Calibrates rigid-body simulations from measured tracks or wanted outcomes.

    `yapa [CASE]` opens the window. A file named - is the standard input or output.
    """
    if verbose:
        logging.basicConfig(level=logging.INFO if verbose == 1 else logging.DEBUG, format="%(levelname)s %(name)s: %(message)s")
    if quiet:
        from yapa.cli.streams import be_quiet

        be_quiet()


@cli.command("open", hidden=True)
@click.argument("case", required=False, type=click.Path(path_type=Path))
def open_window(case: Path | None) -> None:
    """Open the window."""
    if case is not None and case.suffix.lower() != ".yapa" and not case.exists():
        near = difflib.get_close_matches(str(case), sorted({*commands.names(), "demo"}), n=1)
        meant = f"did you mean `yapa {near[0]}`? " if near else ""
        raise bad_input(str(case), "neither a command nor a file", f"{meant}a case file, or a command; see `yapa --help`")
    _window(case)


@cli.command()
@click.option("--headless", type=click.Path(path_type=Path), help="run the whole example into this folder, no window")
def demo(headless: Path | None) -> None:
    """Open the demo cases, or run them all into a folder."""
    if headless is None:
        _window(None)
        return
    from yapa.demo.run import run_demo

    run_demo(headless, click.echo)


def _window(case: Path | None) -> None:
    from yapa.desktop.app.display import check_display

    check_display()
    from yapa.desktop.app.app import run_window

    sys.exit(run_window(case))
