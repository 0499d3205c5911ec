"""How heavy a body is: its volume, and what its mass or its density comes to."""

from __future__ import annotations

from yapa.case import Body, Case
from yapa.engine.compile.mass_properties import solid_of
from yapa.errors import bad_input
from yapa.session.building.placing import with_body
from yapa.session.edits import Edit


def volume_of(body: Body) -> float:
    """Return the volume of all shapes of a body [m³].

    Parameters
    ----------
    body : the body
    """
    return float(sum(solid_of(shape, False).measure for shape in body.shapes))


def comes_to(body: Body) -> float:
    """Return the mass that a density comes to [kg], or the density that a mass comes to [kg/m³].

    Parameters
    ----------
    body : the body
    """
    return body.density * volume_of(body) if body.density is not None else body.mass / volume_of(body)


def give_other(name: str, other: str) -> Edit:
    """Return the edit that gives the mass of a body in place of its density, or the other way round: it weighs the same.

    Parameters
    ----------
    name : name of the body
    other : "mass" or "density", whichever is not given
    """
    def change(case: Case) -> Case:
        body = case.bodies[name]
        flat = next((shape.name for shape in body.shapes if not shape.has_volume), None)
        if flat is not None:
            raise bad_input(f"the {other} of {name}", f"a {flat}, which has no volume", "a body with a volume")
        kept = {field: getattr(body, field) for field in body.model_fields_set - {"mass", "density"}}
        return with_body(case, name, Body(**kept, **{other: float(f"{comes_to(body):.6g}")}))

    return Edit(f"give the {other} of {name}", change)
