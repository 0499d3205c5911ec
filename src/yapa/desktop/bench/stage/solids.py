"""The solid bodies of the stage, drawn by VTK off-screen into an image (no multisampling, no window)."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  (registers the renderer)
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkPoints, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersSources import vtkSphereSource
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkPolyDataMapper, vtkProperty, vtkRenderer, vtkRenderWindow

from yapa.desktop.app.theme import Theme
from yapa.desktop.bench.stage.camera import View
from yapa.desktop.bench.stage.shadows import AMBIENT, DIFFUSE, INTENSITY, LIGHT, Shadow
from yapa.desktop.bench.stage.vtk_arrays import as_numpy, as_vtk
from yapa.motion import Array, BodyInfo, ShapeInfo

SAMPLES = 16
"""of each pixel, where the picture stands still: a square of them"""
TOLERANCE = 0.006
"""of half the height of the picture: how far behind a face something may lie and still be seen"""
EDGE = 1.6
"""pixels that an edge is wide"""
SHADE = 0.22
"""of the darkest shadow"""
COARSE, FINE = (24, 18), (48, 32)
"""facets of a ball around and from pole to pole: a small one shows no corners with few"""
SMALL = 0.05
"""of the reach of the scene: a ball of less radius is small"""
DARK = (0.06, 0.08, 0.1)
"""what shadows tend to, in either theme"""


def _paint_cells(data: vtkPolyData, colors: list[QColor], which: np.ndarray) -> None:
    table = np.array([[c.red(), c.green(), c.blue()] for c in colors], dtype=np.uint8)[which]
    data.GetCellData().SetScalars(as_vtk(table))


def _ball(radius: float, t: Theme, reach: float) -> vtkPolyData:
    source = vtkSphereSource()
    source.SetRadius(radius)
    around, up = COARSE if radius < SMALL * reach else FINE
    source.SetThetaResolution(around)
    source.SetPhiResolution(up)
    source.LatLongTessellationOff()
    source.Update()
    data: vtkPolyData = source.GetOutput()
    points = as_numpy(data.GetPoints().GetData())
    cells = as_numpy(data.GetPolys().GetConnectivityArray()).reshape(-1, 3)
    middle = points[cells].mean(axis=1)
    # segments about y, like a cut fruit, so that a turn in the side view shows at once
    wedge = np.floor((np.arctan2(middle[:, 2], middle[:, 0]) + np.pi) / (np.pi / 4)).astype(int) % 2
    mark = (np.arctan2(middle[:, 2], middle[:, 0]) > 0) & (np.arctan2(middle[:, 2], middle[:, 0]) < np.pi / 4)
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b"), t.color("soft")], np.where(mark, 2, wedge))
    return data


def _mesh(points: Array, faces: list[tuple[int, ...]]) -> vtkPolyData:
    """Polygons from vertices and loops."""
    data, cells, places = vtkPolyData(), vtkCellArray(), vtkPoints()
    places.SetData(as_vtk(np.asarray(points, dtype=float)))
    ends = np.cumsum([0, *(len(face) for face in faces)], dtype=np.int64)
    cells.SetData(as_vtk(ends), as_vtk(np.array([k for face in faces for k in face], dtype=np.int64)))
    data.SetPoints(places)
    data.SetPolys(cells)
    return data


def _crate(size: tuple[float, ...], t: Theme) -> vtkPolyData:
    half = np.array(size) / 2
    points = np.array([[half[c] if k >> c & 1 else -half[c] for c in range(3)] for k in range(8)])
    data = _mesh(points, [(0, 4, 6, 2), (1, 3, 7, 5), (0, 1, 5, 4), (2, 6, 7, 3), (0, 2, 3, 1), (4, 5, 7, 6)])
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b")], np.array([1, 1, 0, 0, 0, 0]))
    return data


def _turned_profile(radii: Array, heights: Array, t: Theme) -> vtkPolyData:
    """A profile turned about z, in light and dark wedges so that a turn shows."""
    n = 32
    angle = 2 * np.pi * np.arange(n) / n
    points = np.vstack([np.column_stack([r * np.cos(angle), r * np.sin(angle), np.full(n, h)])
                        for r, h in zip(radii, heights, strict=True)])
    faces: list[tuple[int, ...]] = []
    wedges = []
    for k in range(len(radii) - 1):
        for j in range(n):
            i = (j + 1) % n
            faces.append((k * n + j, k * n + i, (k + 1) * n + i, (k + 1) * n + j))
            wedges.append(2 if j < n // 8 else j // (n // 8) % 2)
    data = _mesh(points, faces)
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b"), t.color("soft")], np.array(wedges))
    return data


def _capsule(radius: float, length: float, t: Theme) -> vtkPolyData:
    a = np.linspace(-np.pi / 2, 0, 7)
    radii = np.concatenate([radius * np.cos(a), radius * np.cos(a[::-1])])
    heights = np.concatenate([-length / 2 + radius * np.sin(a), length / 2 - radius * np.sin(a[::-1])])
    return _turned_profile(radii, heights, t)


def _cylinder(radius: float, length: float, t: Theme) -> vtkPolyData:
    return _turned_profile(np.array([0.0, radius, radius, 0.0]), np.array([-1, -1, 1, 1]) * length / 2, t)


def _hull(shape: ShapeInfo, t: Theme) -> vtkPolyData:
    assert shape.vertices is not None
    data = _mesh(shape.vertices, list(shape.loops))
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b")], np.arange(len(shape.loops)) % 2)
    return data


def _grid(shape: ShapeInfo, reach: float) -> vtkPolyData:
    """A plane as a grid of lines."""
    normal = np.array(shape.size)
    side = np.cross(normal, [0.0, 1.0, 0.0])
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-6 else np.array([1.0, 0.0, 0.0])
    across = np.cross(normal, side)
    n = 36  # lines alone: filled, an endless ground would be drawn over the whole picture at every frame
    step = np.linspace(-reach, reach, n + 1)
    data, lines, places = vtkPolyData(), vtkCellArray(), vtkPoints()
    ends = [(a * side - reach * across, a * side + reach * across) for a in step]
    ends += [(a * across - reach * side, a * across + reach * side) for a in step]
    places.SetData(as_vtk(np.array(ends).reshape(-1, 3)))
    for k in range(len(ends)):
        lines.InsertNextCell(2)
        lines.InsertCellPoint(2 * k)
        lines.InsertCellPoint(2 * k + 1)
    data.SetPoints(places)
    data.SetLines(lines)
    return data


def _matrix(q: Sequence[float] | Array, at: Sequence[float] | Array) -> vtkMatrix4x4:
    w, x, y, z = q
    rows: list[list[float]] = [
            [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y), at[0]],
            [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x), at[1]],
            [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y), at[2]], [0, 0, 0, 1]]
    matrix = vtkMatrix4x4()
    matrix.DeepCopy([v for row in rows for v in row])
    return matrix


def _data_of(shape: ShapeInfo, reach: float, t: Theme) -> vtkPolyData:
    if shape.vertices is not None:
        return _hull(shape, t)
    if shape.kind == "sphere":
        return _ball(shape.size[0], t, reach)
    if shape.kind == "box":
        return _crate(shape.size, t)
    if shape.kind == "capsule":
        return _capsule(shape.size[0], shape.size[1], t)
    if shape.kind == "cylinder":
        return _cylinder(shape.size[0], shape.size[1], t)
    return _grid(shape, reach)


def form_of(bodies: tuple[BodyInfo, ...]) -> tuple[object, ...]:
    """What decides how bodies look, wherever they are."""
    return tuple((info.name, info.is_movable, *(
        (shape.kind, shape.size, shape.position, shape.orientation, None if shape.vertices is None else shape.vertices.tobytes())
        for shape in info.shapes)) for info in bodies)


def _unlit(prop: vtkProperty) -> None:
    """Draw something in its own colour, wherever the light comes from."""
    prop.LightingOff()
    prop.SetAmbient(1.0)
    prop.SetDiffuse(0.0)


def _away(view: View) -> float:
    """How far the eye is from the centre [m]; of a parallel view, far enough."""
    return view.distance or 100.0 * view.half_height


def _depths(view: View) -> tuple[float, float]:
    """The nearest and the farthest that is drawn, from the eye [m]."""
    return 0.01 * _away(view), 2.0 * _away(view) if not view.distance else 40.0 * view.distance + 200.0 * view.half_height


def mean_image(total: Array, count: int) -> QImage:
    """The mean of pictures whose pixels were added up, (h, w, 4)."""
    pixels = np.clip(total / count + 0.5, 0, 255).astype(np.uint8)
    return _as_image(pixels).copy()


def _as_image(pixels: NDArray[np.uint8]) -> QImage:
    """An image of pixels (h, w, 4), which lie in memory in their order and stay there as long as it is used."""
    height, width = pixels.shape[:2]
    buffer: Any = pixels.data
    return QImage(buffer, width, height, QImage.Format.Format_RGBA8888)


class Solids:
    """Bodies as actors; call :meth:`build` for a scene and :meth:`draw` for a moment of it."""

    def __init__(self) -> None:
        self._renderer = vtkRenderer()
        self._window = vtkRenderWindow()
        self._window.SetOffScreenRendering(1)
        self._window.SetMultiSamples(0)
        self._window.AddRenderer(self._renderer)
        self._renderer.SetAutomaticLightCreation(False)
        light = vtkLight()
        light.SetLightTypeToSceneLight()
        light.SetPosition(*LIGHT)
        light.SetFocalPoint(0.0, 0.0, 0.0)
        light.SetIntensity(INTENSITY)
        self._renderer.AddLight(light)
        self._parts: list[tuple[vtkActor, int, vtkMatrix4x4]] = []
        self._tones: list[QColor] = []
        self._shadows: vtkActor | None = None
        self._laid: Sequence[Shadow] = ()
        self._depth: Array | None = None
        self._kept: vtkFloatArray | None = None  # holds what the depths are read from

    def build(self, accounts: tuple[BodyInfo, ...], reach: float, t: Theme) -> None:
        """Make the actors of a scene: every shape as it collides, its edges drawn."""
        self._renderer.RemoveAllViewProps()
        self._parts, self._tones, self._shadows, self._laid = [], [], None, ()
        self._depth = None
        ground = t.color("stage")
        self._renderer.SetBackground(ground.redF(), ground.greenF(), ground.blueF())
        for body, account in enumerate(accounts):
            toned = t if not account.is_movable else replace(t, paper_a=t.papers[body % len(t.papers)][0],
                                                             paper_b=t.papers[body % len(t.papers)][1])
            self._tones.append(t.color("stage") if account.kind == "plane" else toned.color("paper_a"))
            for shape in account.shapes:
                mapper = vtkPolyDataMapper()
                mapper.SetInputData(_data_of(shape, reach, toned))
                actor = vtkActor()
                actor.SetMapper(mapper)
                prop = actor.GetProperty()
                prop.SetAmbient(AMBIENT)
                prop.SetDiffuse(DIFFUSE)
                if shape.kind == "plane":
                    _unlit(prop)
                    line = t.color("hairline")
                    prop.SetColor(line.redF(), line.greenF(), line.blueF())
                if shape.kind == "box" or shape.vertices is not None:
                    ink = t.color("ink")
                    prop.EdgeVisibilityOn()
                    prop.SetLineWidth(EDGE)
                    prop.SetEdgeColor(ink.redF(), ink.greenF(), ink.blueF())
                self._renderer.AddActor(actor)
                self._parts.append((actor, body, _matrix(shape.orientation, shape.position)))

    def _shade(self, shadows: Sequence[Shadow]) -> None:
        """Lay shadows down: one mesh, each polygon in its own colour, opaque: blending costs another pass."""
        if shadows is self._laid and shadows:
            return
        self._laid = shadows
        if self._shadows is not None:
            self._renderer.RemoveActor(self._shadows)
            self._shadows = None
        if not shadows:
            return
        ends = np.cumsum([len(shadow.points) for shadow in shadows])
        faces = [tuple(range(end - len(shadow.points), end)) for shadow, end in zip(shadows, ends.tolist(), strict=True)]
        data = _mesh(np.concatenate([shadow.points for shadow in shadows]), faces)
        colors = []
        for shadow in shadows:
            tone, part = self._tones[shadow.on], SHADE * shadow.darkness
            light = [shadow.lit * c for c in (tone.redF(), tone.greenF(), tone.blueF())]
            colors.append(QColor.fromRgbF(*((1 - part) * c + part * dark for c, dark in zip(light, DARK, strict=True))))
        _paint_cells(data, colors, np.arange(len(colors)))
        mapper = vtkPolyDataMapper()
        mapper.SetInputData(data)
        self._shadows = vtkActor()
        self._shadows.SetMapper(mapper)
        _unlit(self._shadows.GetProperty())
        self._renderer.AddActor(self._shadows)

    def draw(self, states: Array, view: View, width: int, height: int, shadows: Sequence[Shadow] = (),
             hidden: Collection[int] = ()) -> QImage:
        """The scene with these states (n, 16), as an image, without those hidden."""
        self._shade(shadows)
        for actor, body, pose in self._parts:
            actor.SetVisibility(body not in hidden)
            whole = vtkMatrix4x4()
            vtkMatrix4x4.Multiply4x4(_matrix(states[body, 3:7], states[body, :3]), pose, whole)
            actor.SetUserMatrix(whole)
        self._aim(view, width, height)
        pixels = self._pixels(width, height)[::-1]  # as they lie in memory: from below
        image = _as_image(pixels).flipped(Qt.Orientation.Vertical)
        depth = vtkFloatArray()
        self._window.GetZbufferData(0, 0, width - 1, height - 1, depth)
        self._depth, self._kept = as_numpy(depth).reshape(height, width)[::-1], depth
        return image

    @property
    def depth(self) -> Array | None:
        """How deep the picture that was drawn last is at each pixel, 1 where nothing is, (h, w)."""
        return self._depth

    def shifted(self, width: int, height: int, k: int, side: int = round(SAMPLES**0.5)) -> NDArray[np.uint8]:
        """The picture that was drawn last once more, every pixel taken a part of a pixel aside: the k-th of side², (h, w, 4)."""
        x, y = ((k % side + 0.5) / side - 0.5, (k // side + 0.5) / side - 0.5)
        camera = self._renderer.GetActiveCamera()
        camera.SetWindowCenter(2 * x / width, 2 * y / height)
        found = self._pixels(width, height)
        camera.SetWindowCenter(0.0, 0.0)
        return found

    def _aim(self, view: View, width: int, height: int) -> None:
        camera = self._renderer.GetActiveCamera()
        _, up, eye = view.axes()
        centre = np.array(view.centre)
        near, far = _depths(view)
        camera.SetParallelProjection(0 if view.distance else 1)
        camera.SetViewAngle(2 * np.degrees(np.arctan(view.half_height / view.distance)) if view.distance else 30.0)
        camera.SetParallelScale(view.half_height)
        camera.SetFocalPoint(*centre)
        camera.SetPosition(*(centre + _away(view) * eye))
        camera.SetViewUp(*up)
        camera.SetClippingRange(near, far)
        self._window.SetSize(max(width, 1), max(height, 1))

    def _pixels(self, width: int, height: int) -> NDArray[np.uint8]:
        self._window.Render()
        pixels = vtkUnsignedCharArray()
        self._window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, pixels)  # type: ignore[call-overload]
        return np.asarray(as_numpy(pixels).reshape(height, width, 4)[::-1])

    def sees(self, points: Array, view: View, width: int, height: int, pixels: Array | None = None) -> NDArray[np.bool_]:
        """Whether places (N, 3), their pixels (N, 2) where known, are seen in the last picture or lie behind something, (N,)."""
        if self._depth is None or self._depth.shape != (height, width):
            return np.ones(len(points), bool)
        eye = view.axes()[2]
        near, far = _depths(view)
        away = _away(view) - (points - np.array(view.centre)) @ eye
        pixels = np.nan_to_num(view.project(points, width, height) if pixels is None else pixels)
        x, y = (np.clip(pixels[:, c], 0, most - 1).astype(int) for c, most in ((0, width), (1, height)))
        depth = self._depth[y, x].astype(float)
        there = 1.0 / (1.0 / near - depth * (1.0 / near - 1.0 / far)) if view.distance else near + depth * (far - near)
        return np.asarray(away <= there + TOLERANCE * view.half_height)

    def close(self) -> None:
        """Free the renderer's memory."""
        self._window.Finalize()
