"""What others may rely on is as it is written down."""

from __future__ import annotations

import json

import pytest
from tools.surface import GOLDEN, PAGE, keys_of, page_of, surface

import yapa
from yapa import api


@pytest.fixture(scope="module")
def found():
    return surface()


@pytest.mark.parametrize("part", ["yapa", "yapa.api", "yapa.extend", "yapa.errors", "commands", "exit codes", "json"])
def test_the_surface_is_that_of_the_golden_file(found, part):
    """``python tools/surface.py`` rewrites it; what has gone from it is a change for users."""
    assert found[part] == json.loads(GOLDEN.read_text())[part]


def test_the_page_is_current(found):
    assert PAGE.read_text() == page_of(found)


def test_keys_are_told_without_what_is_data():
    told = {"values": {"bodies.orange.mass": {"value": 1.0}}, "rows": [{"a": 1}, {"b": [2]}],
            "outcomes": {"orange": {"apex 2": 0.4}}}
    assert keys_of(told) == {"values.*.value", "rows[].a", "rows[].b", "outcomes.*.*"}


def test_dir_shows_what_can_be_used():
    assert set(dir(yapa)) >= {*yapa.__all__, "__version__"}
    assert set(dir(api)) >= set(api.__all__)
