"""A case in Python: bodies, surfaces, targets in words and unknowns with units, checked as a whole."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from yapa.case import Body, Case, Surface, Target, Unknown
from yapa.case.quantities import quantity_of
from yapa.case.quantity_text import number_with_unit
from yapa.case.scene import Pair
from yapa.case.things import Number
from yapa.case.validation import checked, in_words
from yapa.errors import bad_input
from yapa.formats.target_text import parse_target


@in_words("the case")
def new_case(bodies: Mapping[str, Body], *, surfaces: Mapping[str, Mapping[str, float]] | None = None,
             pairs: Mapping[str, Mapping[str, float]] | None = None, targets: Iterable[str | Target] = (),
             unknowns: Mapping[str, tuple[Number, Number]] | None = None, **more: Any) -> Case:
    """Return a case that is checked.

    Parameters
    ----------
    bodies : by name
    surfaces : name → numbers of :class:`Surface`
    pairs : ``"rind+pad"`` → numbers of that pair
    targets : in words, such as ``"apex 2 = 0.42 ± 0.01 m"``
    unknowns : path → lowest and highest number, in SI units or with a unit
    more : other parts of :class:`Case`

    Returns
    -------
    Case
        Every name that something refers to is there.

    Raises
    ------
    InputError
        With everything that is wrong.

    Notes
    -----
    A range of an unknown is logarithmic where its quantity usually is (masses, lengths).

    Examples
    --------
    >>> case = new_case({"orange": ball(0.037, at=(0, 0, 1)), "floor": floor()}, surfaces={"default": {"restitution": 0.7}},
    ...                 targets=["apex 1 = 0.4 ± 0.01 m"], unknowns={"surfaces.default.restitution": (0.2, 0.95)})
    >>> round(fit(case).values["surfaces.default.restitution"], 2)
    0.64
    """
    def bound(path: str, value: Number) -> float:
        return number_with_unit(path, value) if isinstance(value, str) else float(value)

    wrong = sorted(set(more) - set(Case.model_fields))
    if wrong:
        raise bad_input("the case", f"no part named {wrong[0]!r}", f"one of {', '.join(Case.model_fields)}")
    free = []
    for path, (low, high) in (unknowns or {}).items():
        ends = bound(path, low), bound(path, high)
        log = quantity_of(path).scale == "log" and ends[0] > 0
        free.append(Unknown(path=path, low=ends[0], high=ends[1], transform="log" if log else "linear"))
    parts: dict[str, Any] = {
        "surfaces": {name: Surface(**values) for name, values in (surfaces or {}).items()},
        "pairs": tuple(Pair(surfaces=_two(key), **values) for key, values in (pairs or {}).items()),
        "targets": tuple(parse_target(t) if isinstance(t, str) else t for t in targets), "unknowns": tuple(free),
        **{name: tuple(part) if isinstance(part, list) else part for name, part in more.items()}}
    return checked(Case.model_construct(**{**_defaults(), "bodies": dict(bodies), **parts}), "the case")


def _defaults() -> dict[str, Any]:
    return {name: info.get_default(call_default_factory=True) for name, info in Case.model_fields.items() if not info.is_required()}


def _two(key: str) -> tuple[str, str]:
    one, _, two = key.partition("+")
    if not one or not two:
        raise bad_input("pairs", repr(key), "two surfaces joined by +, such as rind+pad")
    return one, two
