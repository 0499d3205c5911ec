"""A clearance larger than the body it surrounds."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.engine.kernels import layout as L
from yapa.engine.simulate import program_for
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Contact begins far from what is seen."""
    program = program_for(case)
    for name, body in case.bodies.items():
        half = float(program.props[program.names.index(name), L.body.THIN])
        for k, shape in enumerate(body.shapes):
            if shape.kind != "plane" and shape.contact_margin > half:
                yield Finding(
                    "clearance too large",
                    name,
                    "it stops in the air before it touches",
                    f"contact begins {shape.contact_margin:.3g} m outside a body only {2 * half:.3g} m thick",
                    mend=Mend("set the clearance to 0", _without(name, k)),
                )


def _without(name: str, k: int):  # type: ignore[no-untyped-def]
    def edit(case: Case) -> Case:
        body = case.bodies[name]
        shapes = list(body.shapes)
        shapes[k] = shapes[k].model_copy(update={"contact_margin": 0.0})
        return case.model_copy(update={"bodies": {**case.bodies, name: body.model_copy(update={"shapes": tuple(shapes)})}})

    return edit
