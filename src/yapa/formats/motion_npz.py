"""Motions as ``.npz`` files: arrays and one text of JSON, no pickled objects.

| array | shape | what |
| --- | --- | --- |
| ``times``, ``states`` | (T,), (T, n, 16) | samples: place, quaternion, velocity, angular velocity, turn |
| ``gravity`` | (3,) | m/s² |
| ``grid_times``, ``grid_states`` | (G,), (G, n, 16) | those that outcomes read, where they are others |
| ``knots_K`` | (N, 19) | curve of body K of ``about.curves``: t, place, velocity before, after, turn, spin before, after |
| ``contacts`` | (C, 21) | time, point, normal, approach, rebound, slip before, after, impulses, both places, deviations |
| ``intervals`` | (I, 5) | start, end, normal |
| ``about`` | () | JSON: format, version, bodies, names of contacts and intervals, status, remarks and the rest |
"""

from __future__ import annotations

import json
import zipfile
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from yapa.errors import bad_input
from yapa.files import unreadable
from yapa.motion import Array, Motion
from yapa.motion.contacts import Contact, ContactInterval, SlipState
from yapa.motion.info import BodyInfo, CameraView, Remark, Severity, ShapeInfo
from yapa.motion.trajectory import Trajectory

FORMAT, VERSION = "yapa motion", 1
_SPLIT = (1, 4, 7, 10, 13, 16)
"""Where the parts of a row of a curve begin, after its time."""


def save_motion(motion: Motion, path: str | Path) -> None:
    """Save a motion, all that outcomes read of it.

    Parameters
    ----------
    motion : simulated or measured
    path : the file; one that stands there is replaced

    Returns
    -------
    None
        What stands in the file is whole once it returns.

    Raises
    ------
    InputError
        If it cannot be written.

    Notes
    -----
    The arrays are those of this module's table; they open in NumPy without Yapa.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> motion = simulate(load(DATA / "orange-drop.yapa"))
    >>> save_motion(motion, "drop.npz")
    >>> load_motion("drop.npz").status
    'complete'
    """
    curves = list(motion.trajectories)
    arrays: dict[str, Any] = {"times": motion.times, "states": motion.states, "gravity": motion.gravity,
                              "contacts": np.array([_contact_row(c) for c in motion.contacts]).reshape(-1, 21),
                              "intervals": np.array([[i.start, i.end, *i.normal] for i in motion.contact_intervals]).reshape(-1, 5)}
    if motion.grid is not None:
        arrays["grid_times"], arrays["grid_states"] = motion.grid
    for k, name in enumerate(curves):
        arrays[f"knots_{k}"] = _rows_of(motion.trajectory(name))
    about = {
        "format": FORMAT, "version": VERSION, "curves": curves, "bodies": [_plain(body) for body in motion.bodies],
        "contacts": [[c.body, c.partner] for c in motion.contacts],
        "intervals": [[i.body, i.partner, i.mode.value] for i in motion.contact_intervals], "status": motion.status,
        "steps": motion.steps, "soft_steps": motion.soft_steps, "regime_switches": motion.regime_switches,
        "initial_overlap": motion.initial_overlap, "noise": motion.noise, "noise_angle": motion.noise_angle,
        "measured": motion.measured,
        "notes": list(motion.notes), "unresolved": [list(span) for span in motion.unresolved_intervals],
        "remarks": [asdict(remark) for remark in motion.remarks], "constants": dict(motion.constants),
        "groups": {name: list(members) for name, members in motion.groups.items()},
        "cameras": {name: asdict(view) for name, view in motion.cameras.items()}}
    try:
        with Path(path).open("wb") as file:
            np.savez_compressed(file, about=np.array(json.dumps(about)), **arrays)
    except OSError as error:
        raise bad_input(str(path), error.strerror or str(error), "a file that can be written") from None


def load_motion(path: str | Path) -> Motion:
    """Return the motion in a file that :func:`save_motion` wrote.

    Parameters
    ----------
    path : the file

    Returns
    -------
    Motion
        With curves, contacts and remarks; every outcome reads the same.

    Raises
    ------
    InputError
        If there is no such file, or it is none of these.

    Notes
    -----
    Nothing in the file is ever run.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> save_motion(simulate(load(DATA / "orange-drop.yapa")), "drop.npz")
    >>> load_motion("drop.npz").status
    'complete'
    """
    try:
        with np.load(Path(path), allow_pickle=False) as file:
            arrays = {name: file[name] for name in file.files}
        about = json.loads(str(arrays["about"]))
        if about["format"] != FORMAT or about["version"] != VERSION:
            raise ValueError
        return _motion_of(arrays, about)
    except OSError as error:
        raise unreadable(Path(path), error, "motion") from None
    except (ValueError, KeyError, IndexError, TypeError, zipfile.BadZipFile, EOFError):
        raise bad_input(str(path), "no motion", f"a file of version {VERSION} that save_motion wrote") from None


def _motion_of(arrays: dict[str, Array], about: dict[str, Any]) -> Motion:
    contacts = [_contact_of(row, *names) for row, names in zip(arrays["contacts"], about["contacts"], strict=True)]
    intervals = [ContactInterval(float(row[0]), float(row[1]), body, partner, SlipState(mode), row[2:5])
                 for row, (body, partner, mode) in zip(arrays["intervals"], about["intervals"], strict=True)]
    grid = (arrays["grid_times"], arrays["grid_states"]) if "grid_times" in arrays else None
    return Motion(
        times=arrays["times"], states=arrays["states"], bodies=tuple(_body_of(body) for body in about["bodies"]),
        gravity=arrays["gravity"], contacts=contacts, contact_intervals=intervals, status=about["status"], steps=about["steps"],
        soft_steps=about["soft_steps"],
        regime_switches=about["regime_switches"], initial_overlap=about["initial_overlap"], noise=about["noise"],
        noise_angle=about["noise_angle"], measured=about["measured"],
        trajectories={name: _curve_of(arrays[f"knots_{k}"]) for k, name in enumerate(about["curves"])}, notes=tuple(about["notes"]),
        unresolved_intervals=tuple((a, b) for a, b in about["unresolved"]),
        remarks=[Remark(**{**remark, "severity": Severity(remark["severity"])}) for remark in about["remarks"]], grid=grid,
        constants=about["constants"], groups={name: tuple(members) for name, members in about["groups"].items()},
        cameras={name: CameraView(tuple(view["position"]), tuple(map(tuple, view["normals"])))
                 for name, view in about.get("cameras", {}).items()})


def _contact_row(c: Contact) -> list[float]:
    def number(value: float | None) -> float:
        return np.nan if value is None else value

    other = np.full(3, np.nan) if c.partner_position is None else c.partner_position
    return [c.time, *c.point, *c.normal, c.approach, c.rebound, c.slip_before, c.slip_after, number(c.normal_impulse),
            number(c.friction_impulse), *c.position, *other, c.time_std, c.speed_std]


def _contact_of(row: Array, body: str, partner: str) -> Contact:
    def number(value: float) -> float | None:
        return None if np.isnan(value) else float(value)

    v = row.tolist()
    other = None if np.isnan(row[16:19]).any() else row[16:19]
    return Contact(v[0], body, partner, row[1:4], row[4:7], v[7], v[8], v[9], v[10], number(v[11]), number(v[12]), row[13:16],
                   other, v[19], v[20])


def _rows_of(path: Trajectory) -> Array:
    parts = (path.x, path.velocity_before, path.velocity_after, path.angle, path.omega_before, path.omega_after)
    return np.column_stack([path.t, *parts])


def _curve_of(rows: Array) -> Trajectory:
    parts = [np.ascontiguousarray(rows[:, a : a + 3]) for a in _SPLIT]
    return Trajectory(np.ascontiguousarray(rows[:, 0]), *parts)


def _plain(body: BodyInfo) -> dict[str, Any]:
    tree = asdict(body)
    for shape in tree["shapes"]:
        if shape["vertices"] is not None:
            shape["vertices"] = shape["vertices"].tolist()
    return tree


def _body_of(tree: dict[str, Any]) -> BodyInfo:
    shapes = tuple(ShapeInfo(shape["kind"], tuple(shape["size"]), tuple(shape["position"]), tuple(shape["orientation"]),
                             shape["contact_margin"], None if shape["vertices"] is None else np.array(shape["vertices"]),
                             tuple(tuple(loop) for loop in shape["loops"])) for shape in tree["shapes"])
    given: dict[str, Any] = {key: tuple(v) if isinstance(v, list) else v for key, v in tree.items() if key != "shapes"}
    return BodyInfo(**given, shapes=shapes)
