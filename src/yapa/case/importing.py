"""How a file of measurements was read: what stands in the case, and can be changed later."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from yapa.case.base import Model, Positive, Real

Role = Literal["time", "frame", "x", "y", "z", "angle", "qw", "qx", "qy", "qz", "body"]


class ImportSettings(Model):
    """How the rows and columns of a file become a track.

    ``columns`` gives the number (from 0) of the column for each role, ``units`` its unit (m, cm, mm, px; s, ms; rad, deg).
    A frame number needs ``rate``, pixels need ``scale`` [m a pixel]. ``y_down``: the vertical grows downwards. ``up``: which
    coordinate of the file stands upright. ``body`` picks a body where the file holds several, by the text in its body
    column. ``sorted``: rows out of order were sorted. ``shift`` [s] is added to every time.
    """

    sheet: str | None = None
    delimiter: str | None = None
    decimal: Literal[".", ","] = "."
    first: Annotated[int, Field(ge=0)] = 0
    columns: dict[Role, Annotated[int, Field(ge=0, le=9999)]] = {}
    units: dict[Role, str] = {}
    rate: Positive | None = None
    pixel_size: Positive | None = None
    y_down: bool = False
    up: Literal["y", "z"] = "z"
    time_offset: Real = 0.0
    sorted: bool = False
    body: str | None = None
