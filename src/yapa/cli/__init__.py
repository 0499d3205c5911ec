"""The command line's entry. It hears Ctrl+C before anything else is imported, and ends every way it can end in words."""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Sequence
from typing import Any

from yapa.cli.exit_codes import BAD_INPUT, DONE, FAULT, INTERRUPTED, TERMINATED

_ENDS = {signal.SIGINT: INTERRUPTED, signal.SIGTERM: TERMINATED}


def _leave(number: int, _frame: Any) -> None:
    """While nothing has begun, and where nothing is to be kept: leave at once."""
    os._exit(_ENDS[signal.Signals(number)])


def main(args: Sequence[str] | None = None) -> None:
    """Run a command: errors for the person, never a traceback for what a person can do.

    Parameters
    ----------
    args : the command and its options, as typed behind ``yapa``; those of the process if left out

    Raises
    ------
    SystemExit
        With the exit code, if it is not 0.
    """
    mine = {s: signal.signal(s, _leave) for s in _ENDS}
    try:
        code = _run(args)
    finally:
        for s, before in mine.items():
            signal.signal(s, before)
    if code != DONE:
        sys.exit(code)


def _run(args: Sequence[str] | None) -> int:
    for stream in (sys.stdout, sys.stderr):  # a terminal of few letters shows the others as marks
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")
    try:
        code = _command(args)
        sys.stdout.flush()
        return code
    except BrokenPipeError:
        _drop_output()
        return DONE
    except OSError as error:
        _drop_output()
        print(f"yapa: the output cannot be written: {error.strerror or error}", file=sys.stderr)
        return BAD_INPUT


def _command(args: Sequence[str] | None) -> int:
    import click

    from yapa.cli.app import cli
    from yapa.errors import YapaError

    try:
        code = cli(None if args is None else list(args), prog_name="yapa", standalone_mode=False)
        return code if isinstance(code, int) else DONE
    except SystemExit as done:
        return done.code if isinstance(done.code, int) else DONE
    except click.exceptions.Exit as done:
        return done.exit_code
    except click.ClickException as error:
        error.show()
        return BAD_INPUT
    except (click.Abort, KeyboardInterrupt):
        return INTERRUPTED
    except YapaError as error:
        click.echo(f"yapa: {error}", err=True)
        return BAD_INPUT
    except MemoryError:
        click.echo("yapa: there was not enough memory for it", err=True)
        return BAD_INPUT
    except OSError:
        raise
    except Exception as error:
        from yapa.cli.faults import fault_in_words

        click.echo(f"yapa: {fault_in_words(error)}", err=True)
        return FAULT


def _drop_output() -> None:
    """Nothing more can be written: what waits to be is dropped, so that the end of the process does not try again."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def __getattr__(name: str) -> Any:
    """The group of commands, imported on first use."""
    if name != "cli":
        raise AttributeError(name)
    from yapa.cli.app import cli

    return cli
