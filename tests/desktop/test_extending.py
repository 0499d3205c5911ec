"""What a program registers is in the window it opens: in its form of outcomes, its list of findings and what it hands over."""

from __future__ import annotations

import json
import os
import subprocess
import sys

from tests.docs.test_extending import PROGRAM, ROOT

CHILD = """
import json
import more
from PySide6.QtCore import QTimer
from yapa.desktop.app.app import make_application

app = make_application()


def look():
    try:
        show()
    except BaseException:
        app.quit()
        raise


def show():
    windows = [w for w in app.topLevelWidgets() if type(w).__name__ == "MainWindow"]
    if not windows or windows[0].session.preview.comparison is None or not windows[0].session.jobs.idle:
        return
    timer.stop()
    window = windows[0]
    from yapa.desktop.dialogs.target import TargetDialog
    from yapa.session.exporting import exporters
    from yapa.session.findings import check
    from yapa.session.importing import track_files

    form = TargetDialog(window, ["ball"], window.session.case.targets[0])
    print(json.dumps({
        "outcomes": [form.outcome.itemText(k) for k in range(form.outcome.count())], "told": form.arguments.text(),
        "hint": form.arguments.placeholderText(), "targets": [r.label for r in window.session.case.targets],
        "met": [report.met for report in window.session.preview.comparison.targets],
        "findings": [f.kind for f in check(window.session.case, window.session.preview.comparison.motion)],
        "exporters": [e.name for e in exporters()], "files": track_files()}))
    window.session.mark_clean()
    window.close()


timer = QTimer(interval=50)
timer.timeout.connect(look)
timer.start()
from yapa.cli import main
main(["drop.yapa"])
"""


def test_the_window_of_a_program_shows_what_the_program_registered(tmp_path):
    (tmp_path / "more.py").write_text(PROGRAM)
    env = os.environ | {"PYTHONPATH": str(ROOT / "src"), "XDG_STATE_HOME": str(tmp_path / "state")}
    done = subprocess.run([sys.executable, "-c", CHILD], cwd=tmp_path, env=env, capture_output=True, text=True, timeout=120,
                          check=False)
    assert done.returncode == 0, done.stderr
    shown = json.loads(done.stdout.splitlines()[-1])
    assert "time aloft" in shown["outcomes"]
    assert shown["told"] == "above 0.3 m"
    assert shown["hint"] == "above Z m"
    assert shown["targets"] == ["ball time aloft above 0.3 m"]
    assert len(shown["met"]) == 1
    assert "too heavy to weigh" in shown["findings"]
    assert "values-json" in shown["exporters"]
    assert "*.jsonl" in shown["files"]
