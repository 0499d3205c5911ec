"""Writes the man pages and the completion scripts that are shipped, in ``share/``: run it after a change of a command or an option.

    python tools/manual.py
"""

from __future__ import annotations

from inspect import cleandoc
from pathlib import Path

import click
from click.shell_completion import get_completion_class
from click_man.man import ManPage

from yapa import __version__
from yapa.cli.app import cli
from yapa.cli.commands.completion import FILES
from yapa.cli.completing import VARIABLE

SHARE = Path(__file__).parents[1] / "share"
DATE = "2026-11-28"
"""of the pages; they say nothing that depends on the day they are written"""


def pages() -> dict[str, str]:
    """Every file below ``share`` and its text."""
    whole = click.Context(cli, info_name="yapa", **cli.context_settings)
    commands = {name: command for name in cli.list_commands(whole)
                if (command := cli.get_command(whole, name)) is not None and not command.hidden}
    out = {"man/man1/yapa.1": _page(whole, {name: command.get_short_help_str(90) for name, command in commands.items()})}
    for name, command in commands.items():
        out[f"man/man1/yapa-{name}.1"] = _page(click.Context(command, info_name=name, parent=whole), {})
    for shell, file in FILES.items():
        kind = get_completion_class(shell)
        assert kind is not None
        out[file] = kind(cli, {}, "yapa", VARIABLE).source()
    return {name: text.rstrip("\n") + "\n" for name, text in out.items()}


def _page(ctx: click.Context, commands: dict[str, str]) -> str:
    page = ManPage(ctx.command_path)
    page.version, page.date = __version__, DATE
    page.short_help = ctx.command.get_short_help_str(90)
    page.description = cleandoc(ctx.command.help or "")
    page.synopsis = " ".join(ctx.command.collect_usage_pieces(ctx))
    options = [p.get_help_record(ctx) for p in ctx.command.get_params(ctx) if isinstance(p, click.Option) and not p.hidden]
    page.options = [record for record in options if record is not None]
    page.commands = list(commands.items())
    return str(page)


def main() -> None:
    """Write every file, and take away what belongs to no command."""
    written = pages()
    for old in SHARE.rglob("*"):
        if old.is_file() and old.relative_to(SHARE).as_posix() not in written:
            old.unlink()
    for name, text in written.items():
        (SHARE / name).parent.mkdir(parents=True, exist_ok=True)
        (SHARE / name).write_text(text)


if __name__ == "__main__":
    main()
