"""Solver profiles: how a case is simulated.

*Precise* is the motion itself, as near as can be. *Stepped* is what a runtime with given conventions
would make of the same numbers, so that numbers can be tuned for it: every convention is chosen.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, model_validator

from yapa.case.base import Model, NonNegative, Positive
from yapa.case.bounds import MIN_STEP


class Precise(Model):
    """Impacts at their own time inside a step, error-controlled flight.

    ``step`` is the longest step [s]; ``cutoff_speed`` [m/s] is where restitution ends
    (it falls smoothly to 0 between twice that speed and that speed). Where bodies crowd, steps of
    1/240 s are cut into ``crowd_substeps``.
    """

    kind: Literal["precise"] = "precise"
    step: Annotated[float, Field(ge=MIN_STEP, le=0.1, allow_inf_nan=False)] = 1 / 40
    cutoff_speed: Annotated[float, Field(ge=1e-5, le=1.0, allow_inf_nan=False)] = 1e-3
    crowd_substeps: Annotated[int, Field(ge=4, le=64)] = 8


Integrator = Literal["explicit", "semi-implicit", "midpoint", "Verlet"]
DampingForm = Literal["exponential", "linear", "power", "reciprocal", "factor per step"]


class Repair(Model):
    """How overlap is taken back: a ``share`` of what is beyond ``allowed`` [m] in every substep, at most at ``speed`` [m/s]."""

    share: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] = 0.2
    allowed: NonNegative = 1e-3
    speed: Positive = 3.0


class Rest(Model):
    """Bodies slower than ``speed`` [m/s] and ``spin`` [rad/s] for ``after`` [s] are put to rest, an island at once."""

    speed: NonNegative = 0.02
    spin: NonNegative = 0.1
    after: NonNegative = 0.5


class Stepped(Model):
    """Fixed steps with the conventions of a runtime.

    Parameters
    ----------
    step : [s], cut into ``substeps``
    integrator : which velocities move the places: explicit, the old; semi-implicit, the new; midpoint, their
        mean; Verlet, those at half a substep
    damping : exp(-c h), max(0, 1 - c h), (1 - c) ** h, 1 / (1 + c h), or 1 - c once a step
    damping_acts : before or after the forces
    contacts_found : where bodies are before the move, or after it
    impacts : on the grid of substeps, or timed inside them
    iterations : sweeps over the contacts; ``warm_start`` begins them with what the last substep ended with
    touch : [m], contacts nearer than this are solved
    repair : of overlap, or none
    cutoff_speed : [m/s], slower approaches do not bounce; ``cutoff`` abrupt, or smooth up to twice that speed
    rest : when slow bodies are put to rest, or none
    """

    kind: Literal["stepped"] = "stepped"
    step: Annotated[float, Field(ge=MIN_STEP, le=0.1, allow_inf_nan=False)] = 1 / 60
    substeps: Annotated[int, Field(ge=1, le=64)] = 1
    integrator: Integrator = "semi-implicit"
    damping: DampingForm = "linear"
    damping_acts: Literal["before forces", "after forces"] = "after forces"
    contacts_found: Literal["before the move", "after the move"] = "before the move"
    impacts: Literal["on the grid", "timed"] = "on the grid"
    iterations: Annotated[int, Field(ge=1, le=1000)] = 10
    warm_start: bool = True
    touch: Annotated[float, Field(ge=0, le=0.1, allow_inf_nan=False)] = 1e-4
    repair: Repair | None = Repair()
    cutoff_speed: Annotated[float, Field(ge=0, le=10.0, allow_inf_nan=False)] = 0.2
    cutoff: Literal["abrupt", "smooth"] = "abrupt"
    rest: Rest | None = None

    @model_validator(mode="after")
    def _can_fade(self) -> Stepped:
        if self.cutoff == "smooth" and self.cutoff_speed == 0.0:
            raise ValueError("a smooth cut-off needs a cut-off speed above 0")
        return self

    @property
    def label(self) -> str:
        """What it is: "60 Hz, 1 substep, 10 iterations"."""
        rate = 1.0 / self.step
        pace = f"{rate:.0f} Hz" if abs(rate - round(rate)) < 1e-6 * rate else f"step {self.step:.4g} s"
        return (f"{pace}, {self.substeps} substep{'s' if self.substeps > 1 else ''}, "
                f"{self.iterations} iteration{'s' if self.iterations > 1 else ''}")


def _presets() -> dict[str, Stepped]:
    rows = ((30, 1, 10), (50, 1, 6), (60, 1, 4), (60, 1, 10), (60, 2, 10), (60, 4, 10), (60, 8, 1), (120, 1, 10), (240, 1, 20),
            (240, 1, 50))
    made = (Stepped(step=1 / rate, substeps=substeps, iterations=iterations) for rate, substeps, iterations in rows)
    return {profile.label: profile for profile in made}


PRESETS = _presets()
"""Stepped profiles by what they are."""


def _named(value: object) -> object:
    """A preset by its name; without a kind a profile is precise."""
    if isinstance(value, str):
        if value not in PRESETS:
            raise ValueError(f"no preset of that name; there are: {'; '.join(PRESETS)}")
        return PRESETS[value]
    if isinstance(value, dict) and "kind" not in value:
        return {**value, "kind": "precise"}
    return value


Profile = Annotated[Annotated[Precise | Stepped, Field(discriminator="kind")], BeforeValidator(_named)]
