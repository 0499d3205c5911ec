"""No string of the window is cut or lies over another: every page, panel and dialog, small and large, light and dark."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import pytest
from PySide6.QtCore import QRect
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget


@pytest.mark.parametrize(("type_size", "size"), [("1", "1280x800"), ("1", "1100x700"), ("1.5", "1280x800")])
def test_no_string_is_cut_or_lies_over_another(type_size, size):
    env = {**os.environ, "YAPA_TYPE": type_size, "YAPA_SIZES": size, "YAPA_THEMES": "light dark"}
    done = subprocess.run([sys.executable, "-m", "tests.desktop.strings"], env=env, capture_output=True, text=True, timeout=500,
                          check=False)
    assert done.returncode == 0, done.stderr[-2000:]
    assert json.loads(done.stdout) == {}


def test_what_is_cut_and_what_overlaps_is_found(qapp, qtbot):
    from tests.desktop.strings import overlaps, strings

    window = QWidget()
    qtbot.addWidget(window)
    row = QHBoxLayout(window)
    for widget in (QLabel("a long word that has no room"), QPushButton("another of the kind")):
        widget.setFixedWidth(40)
        row.addWidget(widget)
    window.show()
    qtbot.waitExposed(window)
    cut, boxes = strings(window)
    assert len(cut) == 2
    assert overlaps(boxes) == []
    (text, box, widget), (other, _, beside) = boxes
    assert overlaps([(text, box, widget), (other, QRect(box).translated(8, 2), beside)])
