"""A bar of progress for scripts and notebooks."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from yapa.fitting import Progress


def drawn_bar(doing: str) -> tuple[Any, Any]:
    """Return a bar that is not started yet, and its task.

    Parameters
    ----------
    doing : what is done, in words
    """
    from rich.console import Console
    from rich.progress import BarColumn, TextColumn, TimeElapsedColumn
    from rich.progress import Progress as Bar

    bar = Bar(TextColumn("{task.description}", markup=False), BarColumn(), TimeElapsedColumn(), transient=True,
              console=Console(stderr=True, markup=False, emoji=False))
    return bar, bar.add_task(doing, total=1.0)


def words_of(p: Progress) -> str:
    """Return what a fit does, its misfit and its simulations.

    Parameters
    ----------
    p : an event of a running fit
    """
    misfit = "" if p.misfit is None else f", misfit {p.misfit:.3g}"
    return f"{p.phase}{misfit}, {p.simulations} simulations"


@contextmanager
def progress_bar(doing: str = "fitting") -> Iterator[Callable[[Progress], None]]:
    """Show how far a fit is, in a terminal or a notebook; the bar goes away when it ends.

    Parameters
    ----------
    doing : what is done, in words

    Returns
    -------
    Callable
        What the calls of the API take as ``progress``.

    Raises
    ------
    InputError
        Never of itself; errors of what runs inside pass through, and the bar goes.

    Notes
    -----
    Drawn by rich, on the error stream or in the cell.

    Examples
    --------
    >>> from yapa.api import fit
    >>> from yapa.demo import DATA
    >>> with progress_bar() as progress:
    ...     result = fit(load(DATA / "orange-drop.yapa"), progress)
    >>> result.stopped
    'converged'
    """
    bar, task = drawn_bar(doing)
    with bar:
        yield lambda p: bar.update(task, completed=p.fraction, description=words_of(p))
