"""Planes to draw on: those of the study's axes, and flat faces with their outline to draw by."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.facets import shape_of
from ulmek.core.mesh.fitted import face_shape
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items import Placement, StudyDocument
from ulmek.study.mating import placement_of
from ulmek.study.translate import true_bodies

Array = NDArray[np.float64]
Point = tuple[float, float]
# Own axes x, y and normal of a drawing on a plane of the study, as columns.
PLANES = {
    "xy": np.eye(3),
    "yz": np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]]),
    "zx": np.array([[0.0, 1, 0], [0, 0, 1], [1, 0, 0]]),
}
# A loop is a circle where its corners lie on one within this share of its radius.
ROUND = 1e-4
# Directions whose sine is less are one.
PARALLEL = 1e-9


class DrawnBy(BaseModel):
    """A circle to draw by (mm)."""

    centre: Point
    diameter: float


class DrawingPlane(BaseModel):
    """Where a drawing comes to stand, and in its own axes (mm) the lines and circles that it can be drawn by."""

    placement: Placement
    lines: list[list[Point]] = []
    circles: list[DrawnBy] = []


def drawing_plane(study: StudyDocument, on: str) -> DrawingPlane:
    """The plane ``xy``, ``yz`` or ``zx`` of the study, or that of a flat face: its origin is amid the face, its x axis
    lies along x of the study, or along y where the face looks along x, as nearly as can be.

    Raises
    ------
    UnknownNameError : neither. InputError : a face that is not flat, or a plane study, which has one plane only.
    """
    if study.space != "solid":
        if on != "xy":
            raise InputError("a plane study is drawn in x and y.", where="on", hint="Draw in the plane xy.")
        return DrawingPlane(placement=Placement())
    if on in PLANES:
        return DrawingPlane(placement=placement_of(np.zeros(3), PLANES[on]))
    body, _, name = on.partition("/")
    bodies = true_bodies(study)
    if body not in bodies or name not in bodies[body].mesh.faces:
        raise UnknownNameError(f"there is no face '{on}'.", where="on", hint="Name xy, yz, zx or a flat face.")
    mesh = bodies[body].mesh
    shape = face_shape(mesh, name)
    if shape.kind != "flat":
        raise InputError(f"the face '{on}' is not flat.", where="on", hint="Draw on a flat face, or on a plane.")
    normal = shape.direction
    along = np.eye(3)[0] - normal[0] * normal
    if np.linalg.norm(along) < 0.1:
        along = np.eye(3)[1] - normal[1] * normal
    along /= np.linalg.norm(along)
    axes = np.column_stack([along, np.cross(normal, along), normal])
    axes[np.abs(axes) < PARALLEL] = 0.0
    loops = [mesh.nodes[loop] @ axes for loop in _loops(mesh, name)]
    corners = np.vstack(loops)
    middle = (corners.min(axis=0) + corners.max(axis=0)) / 2
    lines, circles = [], []
    for loop in loops:
        flat = (loop - middle)[:, :2]
        found = _circle(flat)
        circles += [] if found is None else [found]
        lines.append([(float(x), float(y)) for x, y in np.round(np.vstack([flat, flat[:1]]), 9) + 0.0])
    return DrawingPlane(placement=placement_of(axes @ middle, axes), lines=lines, circles=circles)


def _loops(mesh: VolumeMesh, name: str) -> list[NDArray[np.int64]]:
    """Corners of the rings that bound a face, in order."""
    facets = mesh.faces[name]
    corners = facets[:, : shape_of(facets).corners]
    ends = np.stack([corners, np.roll(corners, -1, axis=1)], axis=-1).reshape(-1, 2)
    ends = ends[ends[:, 0] != ends[:, 1]]
    both = {(int(a), int(b)) for a, b in ends}
    after = {a: b for a, b in both if (b, a) not in both}
    loops = []
    while after:
        first, at = after.popitem()
        loop = [first]
        while at != first and at in after:
            loop.append(at)
            at = after.pop(at)
        loops.append(np.array(loop))
    return loops


def _circle(points: Array) -> DrawnBy | None:
    """The circle that a ring of points lies on, if it does."""
    if len(points) < 8:
        return None
    rows = np.column_stack([2 * points, np.ones(len(points))])
    (x, y, rest), *_ = np.linalg.lstsq(rows, (points**2).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(rest + x * x + y * y, 0.0)))
    off = np.abs(np.hypot(points[:, 0] - x, points[:, 1] - y) - radius).max()
    if off > ROUND * radius:
        return None
    return DrawnBy(centre=(round(float(x), 9) + 0.0, round(float(y), 9) + 0.0), diameter=round(2 * radius, 9))
