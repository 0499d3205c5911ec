"""The solid bodies of the stage, drawn by VTK off-screen into an image (no multisampling, no window)."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  (registers the renderer)
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkPoints, vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersSources import vtkSphereSource
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkPolyDataMapper, vtkRenderer, vtkRenderWindow

from yapa.desktop.app.theme import Theme
from yapa.desktop.bench.stage.camera import View
from yapa.desktop.bench.stage.shadows import Shadow
from yapa.desktop.bench.stage.vtk_arrays import as_numpy, as_vtk
from yapa.motion import Array, BodyInfo, ShapeInfo

FINE = 3
"""times as many pixels along each edge, where the picture stands still"""
TOLERANCE = 0.006
"""of half the height of the picture: how far behind a face something may lie and still be seen"""
SHADE = 0.22
"""of the darkest shadow"""


def _paint_cells(data: vtkPolyData, colors: list[QColor], which: np.ndarray) -> None:
    table = np.array([[c.red(), c.green(), c.blue()] for c in colors], dtype=np.uint8)[which]
    data.GetCellData().SetScalars(as_vtk(table))


def _ball(radius: float, t: Theme) -> vtkPolyData:
    source = vtkSphereSource()
    source.SetRadius(radius)
    source.SetThetaResolution(48)
    source.SetPhiResolution(32)
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
    for face in faces:
        cells.InsertNextCell(len(face))
        for k in face:
            cells.InsertCellPoint(k)
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
    a = np.linspace(-np.pi / 2, 0, 9)
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


def _sheet(shape: ShapeInfo, reach: float, t: Theme) -> vtkPolyData:
    normal = np.array(shape.size)
    side = np.cross(normal, [0.0, 1.0, 0.0])
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-6 else np.array([1.0, 0.0, 0.0])
    across = np.cross(normal, side)
    n = 36  # a grid on the ground's own colour: it shows the plane without weighing on what stands there
    step = np.linspace(-reach, reach, n + 1)
    points = np.array([a * side + b * across for a in step for b in step])
    faces: list[tuple[int, ...]] = [
        (i * (n + 1) + j, (i + 1) * (n + 1) + j, (i + 1) * (n + 1) + j + 1, i * (n + 1) + j + 1)
        for i in range(n) for j in range(n)]
    data = _mesh(points, faces)
    _paint_cells(data, [t.color("stage")], np.zeros(len(faces), dtype=int))
    return data


def _matrix(q: Sequence[float] | Array, at: Sequence[float] | Array) -> vtkMatrix4x4:
    w, x, y, z = q
    rows: list[list[float]] = [
            [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y), at[0]],
            [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x), at[1]],
            [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y), at[2]], [0, 0, 0, 1]]
    matrix = vtkMatrix4x4()
    for i in range(4):
        for j in range(4):
            matrix.SetElement(i, j, rows[i][j])
    return matrix


def _data_of(shape: ShapeInfo, reach: float, t: Theme) -> vtkPolyData:
    if shape.kind == "sphere":
        return _ball(shape.size[0], t)
    if shape.kind == "box":
        return _crate(shape.size, t)
    if shape.kind == "capsule":
        return _capsule(shape.size[0], shape.size[1], t)
    if shape.kind == "cylinder":
        return _cylinder(shape.size[0], shape.size[1], t)
    return _hull(shape, t) if shape.kind == "hull" else _sheet(shape, reach, t)


def form_of(bodies: tuple[BodyInfo, ...]) -> tuple[object, ...]:
    """What decides how bodies look, wherever they are."""
    return tuple((info.name, info.is_movable, *(
        (shape.kind, shape.size, shape.position, shape.orientation, None if shape.vertices is None else shape.vertices.tobytes())
        for shape in info.shapes)) for info in bodies)


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
        light.SetPosition(-0.5, -0.9, 1.6)
        light.SetFocalPoint(0.0, 0.0, 0.0)
        light.SetIntensity(0.6)
        self._renderer.AddLight(light)
        self._parts: list[tuple[vtkActor, int, vtkMatrix4x4]] = []
        self._edged: list[vtkActor] = []
        self._shadows: list[vtkActor] = []
        self._depth: Array | None = None

    def build(self, accounts: tuple[BodyInfo, ...], reach: float, t: Theme) -> None:
        """Make the actors of a scene: every shape as it collides, its edges drawn."""
        self._renderer.RemoveAllViewProps()
        self._parts, self._edged, self._shadows = [], [], []
        self._depth = None
        ground = t.color("stage")
        self._renderer.SetBackground(ground.redF(), ground.greenF(), ground.blueF())
        for body, account in enumerate(accounts):
            toned = t if not account.is_movable else replace(t, paper_a=t.papers[body % len(t.papers)][0],
                                                             paper_b=t.papers[body % len(t.papers)][1])
            for shape in account.shapes:
                mapper = vtkPolyDataMapper()
                mapper.SetInputData(_data_of(shape, reach, toned))
                actor = vtkActor()
                actor.SetMapper(mapper)
                prop = actor.GetProperty()
                prop.SetAmbient(0.62)
                prop.SetDiffuse(0.7)
                if shape.kind == "plane":
                    prop.SetAmbient(1.0)  # unlit: the ground keeps the colour of the stage
                    prop.SetDiffuse(0.0)
                    line = t.color("hairline")
                    prop.EdgeVisibilityOn()
                    prop.SetEdgeColor(line.redF(), line.greenF(), line.blueF())
                if shape.kind in ("box", "hull"):
                    ink = t.color("ink")
                    prop.EdgeVisibilityOn()
                    self._edged.append(actor)
                    prop.SetEdgeColor(ink.redF(), ink.greenF(), ink.blueF())
                self._renderer.AddActor(actor)
                self._parts.append((actor, body, _matrix(shape.orientation, shape.position)))

    def _shade(self, shadows: Sequence[Shadow]) -> None:
        """Lay shadows down."""
        for actor in self._shadows:
            self._renderer.RemoveActor(actor)
        self._shadows = []
        for shadow in shadows:
            mapper = vtkPolyDataMapper()
            mapper.SetInputData(_mesh(shadow.points, [tuple(range(len(shadow.points)))]))
            actor = vtkActor()
            actor.SetMapper(mapper)
            prop = actor.GetProperty()
            prop.SetColor(0.06, 0.08, 0.1)  # dark in either theme
            prop.SetOpacity(SHADE * shadow.darkness)
            prop.SetAmbient(1.0)
            prop.SetDiffuse(0.0)
            self._renderer.AddActor(actor)
            self._shadows.append(actor)

    def draw(self, states: Array, view: View, width: int, height: int, shadows: Sequence[Shadow] = (),
             fine: bool = False, hidden: Collection[int] = ()) -> QImage:
        """The scene with these states (n, 16), as an image, without those hidden; finely, each pixel is the mean of several."""
        self._shade(shadows)
        for actor, body, _ in self._parts:
            actor.SetVisibility(body not in hidden)
        if fine:
            image = self._draw(states, view, FINE * width, FINE * height, FINE)
            return image.scaled(width, height, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)
        image = self._draw(states, view, width, height, 1)
        depth = vtkFloatArray()
        self._window.GetZbufferData(0, 0, width - 1, height - 1, depth)
        self._depth = as_numpy(depth).reshape(height, width)[::-1].copy()
        return image

    def sees(self, points: Array, view: View, width: int, height: int) -> NDArray[np.bool_]:
        """Whether places (N, 3) are seen in the picture that was drawn last, or lie behind something, (N,)."""
        if self._depth is None or self._depth.shape != (height, width):
            return np.ones(len(points), bool)
        eye, far = view.axes()[2], 100.0 * view.half_height
        near, deep = 0.01 * far, 2 * far
        away = far - (points - np.array(view.centre)) @ eye
        pixels = np.nan_to_num(view.project(points, width, height))
        x, y = (np.clip(pixels[:, c], 0, most - 1).astype(int) for c, most in ((0, width), (1, height)))
        there = near + self._depth[y, x].astype(float) * (deep - near)
        return np.asarray(away <= there + TOLERANCE * view.half_height)

    def _draw(self, states: Array, view: View, width: int, height: int, line: float) -> QImage:
        for actor in self._edged:
            actor.GetProperty().SetLineWidth(line)
        for actor, body, pose in self._parts:
            whole = vtkMatrix4x4()
            vtkMatrix4x4.Multiply4x4(_matrix(states[body, 3:7], states[body, :3]), pose, whole)
            actor.SetUserMatrix(whole)
        camera = self._renderer.GetActiveCamera()
        _, up, eye = view.axes()
        centre = np.array(view.centre)
        far = 100.0 * view.half_height
        camera.SetParallelProjection(1)
        camera.SetParallelScale(view.half_height)
        camera.SetFocalPoint(*centre)
        camera.SetPosition(*(centre + far * eye))
        camera.SetViewUp(*up)
        camera.SetClippingRange(far * 0.01, far * 2)
        self._window.SetSize(max(width, 1), max(height, 1))
        self._window.Render()
        pixels = vtkUnsignedCharArray()
        self._window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, pixels)  # type: ignore[call-overload]
        data = as_numpy(pixels).reshape(height, width, 4)[::-1].copy()
        return QImage(data.tobytes(), width, height, QImage.Format.Format_RGBA8888).copy()

    def close(self) -> None:
        """Free the renderer's memory."""
        self._window.Finalize()
