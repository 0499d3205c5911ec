"""Whatever a track holds, it is read, fitted and measured, or refused in words."""

from __future__ import annotations

import os

import pytest

from tests.hard.strange_tracks import strange_track
from yapa import api
from yapa.case import Track
from yapa.errors import YapaError
from yapa.session.new_case import Setup, empty_scene, filmed_scene

COUNT = 4000 if os.environ.get("YAPA_HARD") else 60


def whole_way(seed):
    """From samples over the floor that is set to a fit: what is refused is refused in words."""
    _, samples = strange_track(seed)
    size = {"radius": 0.0365} if seed % 3 else {"size": (0.1, 0.2, 0.1)}
    support = {"slope": 10.0} if seed % 7 == 0 else {"floor": 0.0}
    setup = Setup(**size, **support, mass=0.2, title="strange",
                  unknown={"restitution": None, "friction": None, "drag_coefficient": None})
    track = Track(name="strange", body="body", samples=samples, translation=(0.0, 0.0, -0.05 if seed % 2 else 0.0))
    case = filmed_scene([track], setup).applied(empty_scene())
    result = api.fit(case, limit=60)
    assert set(result.values) == {u.path for u in case.unknowns if not u.fixed}
    for motion in api.measured_motions(case).values():
        api.measure_motion(motion, every=True)
    return api.check(case)


@pytest.mark.parametrize("first", range(0, COUNT, 20))
def test_a_strange_track_is_used_or_refused_in_words(first):
    for seed in range(first, first + 20):
        said = ""
        try:
            failed = [finding for finding in whole_way(seed) if finding.kind == "not checked"]
        except YapaError as error:
            failed, said = [], str(error)
        except Exception as error:
            raise AssertionError(f"seed {seed}: {strange_track(seed)[0]}") from error
        assert not failed, f"seed {seed}"
        assert not said or "expected" in said or "track" in said, f"seed {seed}: {strange_track(seed)[0]}: {said}"
