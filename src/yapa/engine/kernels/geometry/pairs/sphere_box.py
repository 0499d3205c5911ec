"""A sphere and a box, which has a pose of its own in its body."""

from yapa.engine.kernels.dynamics.flight import rotate
from yapa.engine.kernels.geometry.nearest_points import point_box
from yapa.engine.kernels.geometry.pairs.of_solid import centre_in_solid, frame_on_solid
from yapa.engine.kernels.jit import part
from yapa.engine.kernels.layout import pair, scene_table, shape
from yapa.engine.kernels.layout.views import reals


@part
def frame(p, f, X, geo, Q):
    """Gap, normal, arm on a, arm on b of a feature, in world axes."""
    GF, sb = reals(geo, scene_table.SHAPES), Q[p, pair.SHAPE_B]
    lx, ly, lz = centre_in_solid(p, X, geo, Q)
    w, x, y, z = GF[sb, shape.POSE], GF[sb, shape.POSE + 1], GF[sb, shape.POSE + 2], GF[sb, shape.POSE + 3]
    lx, ly, lz = lx - GF[sb, shape.CENTRE], ly - GF[sb, shape.CENTRE + 1], lz - GF[sb, shape.CENTRE + 2]
    lx, ly, lz = rotate(w, -x, -y, -z, lx, ly, lz)
    d, ox, oy, oz = point_box(GF[sb, shape.HALF], GF[sb, shape.HALF + 1], GF[sb, shape.HALF + 2], lx, ly, lz)
    return frame_on_solid(p, d, rotate(w, x, y, z, ox, oy, oz), X, geo, Q)


@part
def rolling_radius(p, f, geo, Q):
    """That of the round shape: the other is flat."""
    return reals(geo, scene_table.SHAPES)[Q[p, pair.SHAPE_A], shape.RADIUS]
