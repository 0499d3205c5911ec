"""While something runs: progress on the error stream, Ctrl+C that keeps the best, and the exit code."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

import click

from yapa.cli.codes import DONE, INTERRUPTED, NOT_CONVERGED

if TYPE_CHECKING:
    from yapa.fitting import Cancel, FitResult, Progress


@contextmanager
def watched() -> Iterator[tuple[Callable[[Progress], None], Cancel]]:
    """Progress on a terminal, none in a pipe; Ctrl+C stops with the best so far."""
    from rich.console import Console
    from rich.progress import BarColumn, TextColumn, TimeElapsedColumn
    from rich.progress import Progress as Bar

    from yapa.engine.cache import is_warm
    from yapa.fitting import Cancel

    cancel = Cancel()
    console = Console(stderr=True)
    before = signal.signal(signal.SIGINT, lambda *_: cancel.set())
    bar = Bar(TextColumn("{task.description}"), BarColumn(), TimeElapsedColumn(), console=console,
              disable=not console.is_terminal, transient=True)
    first = "fitting" if is_warm() else "compiling the engine, once, one to two minutes"
    try:
        with bar:
            task = bar.add_task(first, total=1.0)

            def progress(p: Progress) -> None:
                misfit = "" if p.misfit is None else f", misfit {p.misfit:.3g}"
                bar.update(task, completed=p.share, description=f"{p.phase}{misfit}, {p.simulations} simulations")

            yield progress, cancel
    finally:
        signal.signal(signal.SIGINT, before)


@contextmanager
def progress_bar() -> Iterator[Callable[[int, int], None]]:
    """A bar on the error stream where that is a terminal."""
    if not sys.stderr.isatty():
        yield lambda _done, _all: None
        return
    with click.progressbar(length=1, file=sys.stderr, label="runs") as bar:
        def step(done: int, every: int) -> None:
            bar.length = every
            bar.update(done - bar.pos)

        yield step


def exit_code(result: FitResult) -> int:
    return {"converged": DONE, "cancelled": INTERRUPTED}.get(result.stopped, NOT_CONVERGED)
