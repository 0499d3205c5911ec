"""A one-sided plane whose back is towards a body."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.model import Case
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.simulate import program_for
from yapa.findings.base import Finding, Mend, movers
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """It starts behind the face, which lets pass what comes from there."""
    program = program_for(case)
    for name, body in case.bodies.items():
        for k, shape in enumerate(body.shapes):
            if shape.kind != "plane" or shape.side != "one_sided":
                continue
            i = program.names.index(name)
            normal = (
                rotation_matrix(program.state[i, 3:7])
                @ rotation_matrix(shape.orientation)
                @ (np.array(shape.normal) / np.linalg.norm(shape.normal))
            )
            at = program.state[i, :3] + rotation_matrix(program.state[i, 3:7]) @ np.array(shape.position)
            for other in movers(case):
                d = float((program.state[program.names.index(other), :3] - at) @ normal)
                if d < 0:
                    yield Finding(
                        "face turned away",
                        name,
                        f"{other} will pass through it",
                        f"the face is one-sided and {other} starts {-d:.3g} m behind it",
                        mend=Mend("turn the face round", _turned(name, k)),
                    )


def _turned(name: str, k: int):  # type: ignore[no-untyped-def]
    def edit(case: Case) -> Case:
        body = case.bodies[name]
        shape = body.shapes[k]
        assert shape.kind == "plane"
        shapes = list(body.shapes)
        x, y, z = shape.normal
        shapes[k] = shape.model_copy(update={"normal": (-x, -y, -z)})
        return case.model_copy(update={"bodies": {**case.bodies, name: body.model_copy(update={"shapes": tuple(shapes)})}})

    return edit
