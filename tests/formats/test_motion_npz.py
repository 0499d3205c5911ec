"""Motions in files: every outcome reads the same; what is no motion is refused."""

from __future__ import annotations

import numpy as np
import pytest

from yapa import api
from yapa.demo import DATA
from yapa.errors import InputError


@pytest.mark.parametrize("name", ["orange-throw", "sweeper-bar", "lemons-nudge", "grapefruit-lane"])
def test_a_motion_is_the_same_after_it_was_saved(name, tmp_path):
    motion = api.simulate(api.load(DATA / f"{name}.yapa"))
    api.save_motion(motion, tmp_path / "motion.npz")
    again = api.load_motion(tmp_path / "motion.npz")
    assert np.array_equal(again.states, motion.states)
    assert [body.name for body in again.bodies] == [body.name for body in motion.bodies]
    if name != "sweeper-bar":  # arrays of a hull compare by element
        assert again.bodies == motion.bodies
    for body, outcomes in api.measure_motion(motion, every=True).items():
        assert api.measure_motion(again, every=True)[body] == outcomes
    assert [(c.body, c.partner, c.time) for c in again.contacts] == [(c.body, c.partner, c.time) for c in motion.contacts]
    assert [str(r) for r in again.remarks] == [str(r) for r in motion.remarks]


def test_a_measured_motion_is_kept_too(tmp_path):
    motion = next(iter(api.measured_motions(api.load(DATA / "orange-drop.yapa")).values()))
    api.save_motion(motion, tmp_path / "track.npz")
    again = api.load_motion(tmp_path / "track.npz")
    assert again.measured
    assert api.measure_motion(again) == api.measure_motion(motion)


def test_no_object_is_ever_unpickled_and_other_files_are_refused(tmp_path):
    api.save_motion(api.simulate(api.load(DATA / "orange-drop.yapa")), tmp_path / "a.npz")
    with np.load(tmp_path / "a.npz", allow_pickle=False) as file:
        assert all(file[name].dtype != object for name in file.files)
    np.savez(tmp_path / "b.npz", times=np.zeros(3))
    (tmp_path / "c.npz").write_text("nothing")
    np.savez(tmp_path / "d.npz", about=np.array("{}", dtype=object))
    for name in ("b", "c", "d"):
        with pytest.raises(InputError, match="no motion"):
            api.load_motion(tmp_path / f"{name}.npz")
    with pytest.raises(InputError, match="no such file"):
        api.load_motion(tmp_path / "gone.npz")
    with pytest.raises(InputError, match="can be written"):
        api.save_motion(api.simulate(api.load(DATA / "orange-drop.yapa")), tmp_path / "no" / "a.npz")
