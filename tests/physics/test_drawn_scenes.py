"""Scenes of every kind, drawn at random, against closed forms and a general solver of ordinary differential equations."""

from __future__ import annotations

import os
from collections import Counter

import pytest

from tests.physics.drawn_scenes import CELLS, FORCES, MOTIONS, REGIMES, SHAPES, SUPPORTS, drawn, missed

COUNT = 3000 if os.environ.get("YAPA_HARD") else 300
FIRST = int(os.environ.get("YAPA_SEED", "0"))


def test_the_cells_hold_every_shape_support_motion_force_and_regime():
    for place, names in enumerate((SHAPES, SUPPORTS, MOTIONS, FORCES, REGIMES)):
        assert {cell[place] for cell in CELLS} == set(names)


@pytest.mark.parametrize("part", range(6))
def test_drawn_scenes_go_as_they_should(part):
    off = {}
    for seed in range(FIRST + part, FIRST + COUNT, 6):
        scene = drawn(seed)
        miss = missed(scene)
        if not miss <= 1.0:
            off[seed] = (*scene.cell, f"{miss:.3g} of what it may")
    assert off == {}


def main() -> None:
    """``python -m tests.physics.test_drawn_scenes``: how many scenes of each kind were drawn, and how many were missed."""
    drawn_of: Counter[str] = Counter()
    missed_of: Counter[str] = Counter()
    for seed in range(FIRST, FIRST + COUNT):
        scene = drawn(seed)
        miss = missed(scene)
        for name in scene.cell:
            drawn_of[name] += 1
            missed_of[name] += not miss <= 1.0
        if not miss <= 1.0:
            print(seed, *scene.cell, f"{miss:.3g}")
    for name, count in drawn_of.items():
        print(f"{name:14s} {count:5d} drawn {missed_of[name]:5d} missed")


if __name__ == "__main__":
    main()
