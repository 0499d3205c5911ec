"""Motions as xarray datasets: arrays with named axes and units."""

from __future__ import annotations

from typing import Any

from yapa.motion import Motion
from yapa.notebook.extras import needed


def motion_dataset(motion: Motion) -> Any:
    """Return the samples of a motion as arrays with named axes.

    Parameters
    ----------
    motion : simulated or measured motion

    Returns
    -------
    xarray.Dataset
        position, velocity, angular_velocity over (time, body, axis) and orientation over (time, body, component), world axes;
        each with its unit in ``attrs``.

    Raises
    ------
    InputError
        If xarray is not installed.

    Notes
    -----
    SI units, world axes, right-handed, z up.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> dataset = motion_dataset(simulate(load(DATA / "orange-drop.yapa")))
    >>> float(dataset.position.sel(body="orange", axis="z").max().round(2))
    1.42
    """
    xr = needed("xarray")
    axes, parts = ("time", "body", "axis"), ("time", "body", "component")
    s = motion.states
    arrays = {"position": (axes, s[:, :, :3], {"units": "m"}), "orientation": (parts, s[:, :, 3:7], {"units": "1"}),
              "velocity": (axes, s[:, :, 7:10], {"units": "m/s"}), "angular_velocity": (axes, s[:, :, 10:13], {"units": "rad/s"})}
    where = {"time": ("time", motion.times, {"units": "s"}), "body": motion.names, "axis": list("xyz"), "component": list("wxyz")}
    return xr.Dataset(arrays, where, {"status": motion.status, "gravity": motion.gravity.tolist()})
