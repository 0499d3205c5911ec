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

    ``step`` is the longest step [s]; ``restitution_threshold`` [m/s] is where restitution ends
    (it falls smoothly to 0 between twice that speed and that speed). Where bodies crowd, steps of
    1/240 s are cut into ``soft_contact_substeps``.
    """

    kind: Literal["precise"] = "precise"
    step: Annotated[float, Field(ge=MIN_STEP, le=0.1, allow_inf_nan=False)] = 1 / 40
    restitution_threshold: Annotated[float, Field(ge=1e-5, le=1.0, allow_inf_nan=False)] = 1e-3
    soft_contact_substeps: Annotated[int, Field(ge=4, le=64)] = 8


_WORDS = {"per_step": "factor per step", "before_forces": "before forces", "after_forces": "after forces",
          "before_move": "before the move", "after_move": "after the move"}
"""Values of conventions in words, where they differ."""
Integrator = Literal["explicit", "semi-implicit", "midpoint", "Verlet"]
DampingForm = Literal["exponential", "linear", "power", "implicit", "per_step"]


class OverlapCorrection(Model):
    """How overlap is corrected: by the ``factor`` of what exceeds ``allowed_overlap`` [m] in every substep, at most at
    ``max_speed`` [m/s]."""

    factor: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] = 0.2
    allowed_overlap: NonNegative = 1e-3
    max_speed: Positive = 3.0


class Sleep(Model):
    """Bodies slower than ``linear_speed`` [m/s] and ``angular_speed`` [rad/s] for ``delay`` [s] are put to rest, an island at
    once."""

    linear_speed: NonNegative = 0.02
    angular_speed: NonNegative = 0.1
    delay: NonNegative = 0.5


class Stepped(Model):
    """Fixed steps with the conventions of a runtime.

    Parameters
    ----------
    step : [s], cut into ``substeps``
    integrator : which velocities move the places: explicit, the old; semi-implicit, the new; midpoint, their
        mean; Verlet, those at half a substep
    damping : exp(-c h), max(0, 1 - c h), (1 - c) ** h, 1 / (1 + c h), or 1 - c once a step
    damping_stage : before or after the forces
    contact_detection : where bodies are before the move, or after it
    collision : discrete, at the ends of substeps, or continuous, at its own time inside them
    iterations : sweeps over the contacts; ``warm_start`` begins them with what the last substep ended with
    contact_distance : [m], contacts nearer than this are solved
    overlap_correction : or none
    restitution_threshold : the restitution threshold [m/s]; slower approaches do not bounce; ``restitution_threshold_mode``
    abrupt, or smooth up to twice
    that speed
    sleep : when slow bodies are put to rest, or none
    """

    kind: Literal["stepped"] = "stepped"
    step: Annotated[float, Field(ge=MIN_STEP, le=0.1, allow_inf_nan=False)] = 1 / 60
    substeps: Annotated[int, Field(ge=1, le=64)] = 1
    integrator: Integrator = "semi-implicit"
    damping: DampingForm = "linear"
    damping_stage: Literal["before_forces", "after_forces"] = "after_forces"
    contact_detection: Literal["before_move", "after_move"] = "before_move"
    collision: Literal["discrete", "continuous"] = "discrete"
    iterations: Annotated[int, Field(ge=1, le=1000)] = 10
    warm_start: bool = True
    contact_distance: Annotated[float, Field(ge=0, le=0.1, allow_inf_nan=False)] = 1e-4
    overlap_correction: OverlapCorrection | None = OverlapCorrection()
    restitution_threshold: Annotated[float, Field(ge=0, le=10.0, allow_inf_nan=False)] = 0.2
    restitution_threshold_mode: Literal["abrupt", "smooth"] = "abrupt"
    sleep: Sleep | None = None

    @model_validator(mode="after")
    def _can_fade(self) -> Stepped:
        if self.restitution_threshold_mode == "smooth" and self.restitution_threshold == 0.0:
            raise ValueError("a smooth cut-off needs a cut-off speed above 0")
        return self

    @property
    def conventions(self) -> tuple[str, str, str, str]:
        """Integrator, damping, contact detection and collision in words."""
        damping, stage, found = (_WORDS.get(value, value) for value in (self.damping, self.damping_stage, self.contact_detection))
        return self.integrator, f"{damping} damping {stage}", f"contacts found {found}", f"{self.collision} collision"

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
