"""The whole example without a person: every demo case fitted, a report, and pictures of the window.

Qt is not imported here; where a display is at hand the pictures are taken by a child process that
runs the real window (``python -m yapa.desktop.app.screenshots``).
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from yapa import api
from yapa.demo import demo_paths
from yapa.files import write_atomically
from yapa.formats.exports.values_text import values_text


def run_demo(folder: Path, say: Callable[[str], None]) -> None:
    """Fit every demo case; leave report.md, the fitted cases, and pictures/*.png in a folder.

    Parameters
    ----------
    folder : the folder
    say : shows a line
    """
    folder.mkdir(parents=True, exist_ok=True)
    lines = ["# The citrus packing house, calibrated", "",
             "Every demo case as set up, fitted, with what the fit says of each number.", ""]
    for path in demo_paths():
        case = api.load(path)
        result = api.fit(case)
        fitted = api.with_result(case, result)
        api.save(fitted.without_files(), folder / path.name)
        misfit = "targets only" if result.misfit is None else f"misfit {result.misfit:.3f}"
        say(f"{case.title}: {result.stopped}, {misfit}, {result.simulations} simulations, {result.seconds:.2f} s")
        lines += [f"## {case.title}", "", case.notes, "", f"{result.stopped}; {misfit}; {result.simulations} simulations.", ""]
        lines += [f"- {sentence}" for sentence in result.sentences()]
        lines += [f"- target {t.target.label}: wanted {t.target.wanted}, now "
                  f"{'nothing' if t.now is None else format(t.now, '.4g')}, {'met' if t.met else 'missed'}"
                  for t in result.targets]
        lines += ["", "```", values_text(fitted, fitted.trials[-1]).rstrip(), "```", ""]
    pictures = _take_pictures(folder / "pictures")
    if pictures:
        lines += ["## Pictures", "", *(f"![{name}](pictures/{name})" for name in pictures), ""]
    write_atomically(folder / "report.md", "\n".join(lines))
    say(f"report and {len(pictures)} pictures are in {folder}")


def _take_pictures(folder: Path) -> list[str]:
    """Pictures of the main views by the real window, on the display there is or on none."""
    folder.mkdir(parents=True, exist_ok=True)
    env = dict(os.environ)
    if not env.get("DISPLAY") and not env.get("WAYLAND_DISPLAY"):
        env["QT_QPA_PLATFORM"] = "offscreen"
    subprocess.run([sys.executable, "-m", "yapa.desktop.app.screenshots", str(folder)], env=env, check=True, timeout=600)
    return sorted(p.name for p in folder.glob("*.png"))
