"""The solid bodies of the stage, drawn by VTK off-screen into an image (no multisampling, no window)."""

from __future__ import annotations

import numpy as np
import vtkmodules.vtkRenderingOpenGL2  # noqa: F401  (registers the renderer)
from PySide6.QtGui import QColor, QImage
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkPolyData
from vtkmodules.vtkCommonMath import vtkMatrix4x4
from vtkmodules.vtkFiltersSources import vtkCubeSource, vtkPlaneSource, vtkSphereSource
from vtkmodules.vtkRenderingCore import vtkActor, vtkLight, vtkPolyDataMapper, vtkRenderer, vtkRenderWindow

from yapa.desktop.camera import View
from yapa.desktop.theme import Theme
from yapa.motion import Array, BodyAccount


def _paint_cells(data: vtkPolyData, colors: list[QColor], which: np.ndarray) -> None:
    table = np.array([[c.red(), c.green(), c.blue()] for c in colors], dtype=np.uint8)[which]
    array: vtkUnsignedCharArray = numpy_to_vtk(np.ascontiguousarray(table), deep=True)
    data.GetCellData().SetScalars(array)


def _ball(radius: float, t: Theme) -> vtkPolyData:
    source = vtkSphereSource()
    source.SetRadius(radius)
    source.SetThetaResolution(48)
    source.SetPhiResolution(32)
    source.LatLongTessellationOff()
    source.Update()
    data = source.GetOutput()
    points = vtk_to_numpy(data.GetPoints().GetData())
    cells = vtk_to_numpy(data.GetPolys().GetConnectivityArray()).reshape(-1, 3)
    middle = points[cells].mean(axis=1)
    # segments about y, like a cut fruit, so that a turn in the side view shows at once
    wedge = np.floor((np.arctan2(middle[:, 2], middle[:, 0]) + np.pi) / (np.pi / 4)).astype(int) % 2
    mark = (np.arctan2(middle[:, 2], middle[:, 0]) > 0) & (np.arctan2(middle[:, 2], middle[:, 0]) < np.pi / 4)
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b"), t.color("soft")], np.where(mark, 2, wedge))
    return data


def _crate(half: tuple[float, float, float], t: Theme) -> vtkPolyData:
    source = vtkCubeSource()
    source.SetXLength(2 * half[0])
    source.SetYLength(2 * half[1])
    source.SetZLength(2 * half[2])
    source.Update()
    data = source.GetOutput()
    _paint_cells(data, [t.color("paper_a"), t.color("paper_b")], np.array([1, 1, 0, 0, 0, 0]))
    return data


def _ground(account: BodyAccount, reach: float, t: Theme) -> vtkPolyData:
    n = np.array(account.extent)
    side = np.cross(n, [0.0, 1.0, 0.0])
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-6 else np.array([1.0, 0.0, 0.0])
    across = np.cross(n, side)
    middle = np.array(account.place)
    source = vtkPlaneSource()
    corner = middle - reach * side - reach * across
    source.SetOrigin(*corner)
    source.SetPoint1(*(corner + 2 * reach * side))
    source.SetPoint2(*(corner + 2 * reach * across))
    source.Update()
    data = source.GetOutput()
    _paint_cells(data, [t.color("hairline")], np.zeros(data.GetNumberOfCells(), dtype=int))
    return data


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
        light.SetLightTypeToCameraLight()
        light.SetPosition(-0.6, 0.9, 1.0)
        light.SetIntensity(0.55)
        self._renderer.AddLight(light)
        self._actors: list[vtkActor] = []
        self._accounts: tuple[BodyAccount, ...] = ()

    def build(self, accounts: tuple[BodyAccount, ...], reach: float, t: Theme) -> None:
        """Make the actors of a scene."""
        self._renderer.RemoveAllViewProps()
        self._actors, self._accounts = [], accounts
        ground = t.color("stage")
        self._renderer.SetBackground(ground.redF(), ground.greenF(), ground.blueF())
        for account in accounts:
            if account.kind == "sphere":
                data = _ball(account.extent[0], t)
            elif account.kind == "box":
                data = _crate(account.extent, t)
            else:
                data = _ground(account, reach, t)
            mapper = vtkPolyDataMapper()
            mapper.SetInputData(data)
            actor = vtkActor()
            actor.SetMapper(mapper)
            prop = actor.GetProperty()
            prop.SetAmbient(0.55)
            prop.SetDiffuse(0.75)
            if account.kind == "box":
                ink = t.color("soft")
                prop.EdgeVisibilityOn()
                prop.SetEdgeColor(ink.redF(), ink.greenF(), ink.blueF())
            self._renderer.AddActor(actor)
            self._actors.append(actor)

    def draw(self, states: Array, view: View, width: int, height: int) -> QImage:
        """The scene with these states (n, 16), as an image."""
        for account, actor, s in zip(self._accounts, self._actors, states, strict=True):
            if account.kind == "plane":
                continue
            w, x, y, z = s[3:7]
            matrix = vtkMatrix4x4()
            rows = [[1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y), s[0]],
                    [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x), s[1]],
                    [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y), s[2]], [0, 0, 0, 1]]
            for i in range(4):
                for j in range(4):
                    matrix.SetElement(i, j, rows[i][j])
            actor.SetUserMatrix(matrix)
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
        data = vtk_to_numpy(pixels).reshape(height, width, 4)[::-1].copy()
        return QImage(data.tobytes(), width, height, QImage.Format.Format_RGBA8888).copy()

    def close(self) -> None:
        """Free the renderer's memory."""
        self._window.Finalize()
