"""How light Yapa is to start, in units of ``python -c 'import numpy, pydantic'``: ``python -m benchmarks.start``.

Each command and the unit are run in turn, ten times; a figure is the median of the ten ratios. Bytecode is compiled before, as an
installation does it. The start of the window to a case on the screen is in seconds, on the display there is.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.pages import put
from yapa.demo import DATA

RUNS = 10
DROP = DATA / "orange-drop.yapa"
YAPA = "from yapa.cli import main; main()"
UNIT = ["-c", "import numpy, pydantic"]
ROWS: dict[str, tuple[list[str], str]] = {
    "`yapa --version`": (["-c", YAPA, "--version"], "0.7"),
    "`yapa.load` of a demo": (["-c", f"import yapa; yapa.load({str(DROP)!r})"], "2"),
    "`yapa measure` of a demo": (["-c", YAPA, "measure", str(DROP)], "4"),
}
WINDOW = f"""
import sys, time
begun = time.time()
from pathlib import Path
from yapa.desktop.app.app import make_application
from PySide6.QtCore import QTimer
app = make_application()
from yapa.desktop.app.main_window import MainWindow
window = MainWindow(path=Path({str(DROP)!r}))
window.show()
app.processEvents()
print("window", time.time() - begun, flush=True)
def look():
    if window.session.preview.comparison is not None and window.bench.stage.render_seconds:
        print("case", time.time() - begun, flush=True)
        window.session.mark_clean()
        app.quit()
timer = QTimer(interval=5)
timer.timeout.connect(look)
timer.start()
app.exec()
"""


def seconds(arguments: list[str]) -> float:
    """Wall time of a Python process."""
    begun = time.perf_counter()
    nothing = subprocess.DEVNULL
    subprocess.run([sys.executable, *arguments], check=True, stdout=nothing, stderr=nothing, env=environment())
    return time.perf_counter() - begun


def environment() -> dict[str, str]:
    """That of this process, with a place for bytecode."""
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    return env | {"PYTHONPYCACHEPREFIX": str(Path(tempfile.gettempdir()) / "yapa-bytecode")}


def starts_of_the_window() -> tuple[list[float], list[float]]:
    """Seconds from the start of the process's own work to a window, and to a case on the screen."""
    shown, opened = [], []
    for _ in range(10):
        out = subprocess.run([sys.executable, "-c", WINDOW], check=True, capture_output=True, text=True, env=environment()).stdout
        told = dict(line.split() for line in out.splitlines())
        shown.append(float(told["window"]))
        opened.append(float(told["case"]))
    return shown, opened


def main() -> None:
    """Print the figures and rewrite their section."""
    rows = []
    seconds(UNIT)
    for name, (arguments, bar) in ROWS.items():
        seconds(arguments)
        ratios = []
        for _ in range(RUNS):
            unit = seconds(UNIT)
            ratios.append(seconds(arguments) / unit)
        rows.append((name, f"{statistics.median(ratios):.2f}", bar))
    if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
        shown, opened = starts_of_the_window()
        rows.append(("a window is shown", f"{statistics.median(shown):.2f} s", ""))
        rows.append(("a case is on the screen", f"{statistics.median(opened):.2f} s", "2 s"))
    for row in rows:
        print(": ".join(row))
    put("Starting", rows, "In units of `import numpy, pydantic`, medians of ten; the window in seconds, medians of five.",
        ("", "takes", "at most"))


if __name__ == "__main__":
    main()
