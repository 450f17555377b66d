"""Distances, diameters, angles, gaps and overlaps between faces and parts, on exact geometry."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Shape
from ulmek.core.mesh.fitted import FaceShape, face_shape
from ulmek.core.model import Body
from ulmek.study.aside import aside
from ulmek.study.items import Part, Placement, StudyDocument
from ulmek.study.step_export import placed_shape
from ulmek.study.translate import body_names, true_bodies

Array = NDArray[np.float64]

# Directions closer than this (rad) are parallel.
PARALLEL = 1e-6
# Nodes of a face lie within this (mm) of the exact faces that they are of.
NEAR = 1e-4


class Figure(BaseModel):
    """Something measured, in mm, mm², mm³ or degrees."""

    label: str
    value: float
    unit: Literal["mm", "mm²", "mm³", "°"]


class Measured(BaseModel):
    """Figures of one face or between two; between (mm): the two points that are closest, if faces stand apart."""

    figures: list[Figure]
    between: tuple[tuple[float, float, float], tuple[float, float, float]] | None


def measured(study: StudyDocument, faces: list[str]) -> Measured:
    """What one face is, or how two faces stand to each other.

    Raises
    ------
    UlmekError : a plane study, more than two faces, an unknown face, or a part that cannot be made.
    """
    if study.space != "solid":
        raise InputError("a plane study has no solids to measure.", where="space", hint="Measure in a solid study.")
    if not 1 <= len(faces) <= 2:
        raise InputError(f"{len(faces)} faces cannot be measured.", where="faces", hint="Pick one face or two.")
    bodies = true_bodies(study)
    picked = [_picked(bodies, reference) for reference in faces]
    kinds = [_kind(body, face) for body, face in picked]
    corners = [body.mesh.nodes[body.mesh.faces[face]] for body, face in picked]
    owners = [_owner(study, body.name) for body, _ in picked]
    exact, between = aside("the measurement", _exact, owners, corners)
    figures = [] if len(faces) == 1 else _directions(*kinds)
    if len(faces) == 1 and kinds[0] is not None and kinds[0].kind != "flat":
        figures = [Figure(label="Diameter", value=2 * kinds[0].radius, unit="mm")]
    return Measured(figures=figures + exact, between=between)


def _picked(bodies: dict[str, Body], reference: str) -> tuple[Body, str]:
    body, _, face = reference.partition("/")
    if body not in bodies or face not in bodies[body].mesh.faces:
        raise UnknownNameError(f"there is no face '{reference}'.", where="faces", hint="Pick a face on the stage.")
    return bodies[body], face


def _kind(body: Body, face: str) -> FaceShape | None:
    try:
        return face_shape(body.mesh, face)
    except InputError:
        return None


def _owner(study: StudyDocument, body: str) -> tuple[Part, Placement]:
    part = next(p for p in study.parts if body in body_names(p))
    return part, part.placements[body_names(part).index(body)]


def _directions(a: FaceShape | None, b: FaceShape | None) -> list[Figure]:
    """Angle and distance between planes, axes and centres."""
    if a is None or b is None:
        return []
    away = b.point - a.point
    if "ball" in (a.kind, b.kind):
        if a.kind == b.kind:
            return [Figure(label="Distance of the centres", value=float(np.linalg.norm(away)), unit="mm")]
        other = b if a.kind == "ball" else a
        if other.kind == "flat":
            return [Figure(label="Centre to the face", value=abs(float(away @ other.direction)), unit="mm")]
        across = away - (away @ other.direction) * other.direction
        return [Figure(label="Centre to the axis", value=float(np.linalg.norm(across)), unit="mm")]
    cosine = abs(float(a.direction @ b.direction))
    sine = float(np.linalg.norm(np.cross(a.direction, b.direction)))
    angle = float(np.arctan2(sine, cosine)) if a.kind == b.kind else float(np.arctan2(cosine, sine))
    if a.kind == b.kind == "flat":
        figures = [Figure(label="Angle between the faces", value=float(np.rad2deg(angle)), unit="°")]
        if angle < PARALLEL:
            figures.append(Figure(label="Distance of the planes", value=abs(float(away @ a.direction)), unit="mm"))
        return figures
    if a.kind == b.kind:
        figures = [Figure(label="Angle between the axes", value=float(np.rad2deg(angle)), unit="°")]
        cross = np.cross(a.direction, b.direction)
        if angle < PARALLEL:
            gap = float(np.linalg.norm(away - (away @ a.direction) * a.direction))
        else:
            gap = abs(float(away @ cross)) / float(np.linalg.norm(cross))
        return [*figures, Figure(label="Distance of the axes", value=gap, unit="mm")]
    flat = a if a.kind == "flat" else b
    figures = [Figure(label="Axis to face", value=float(np.rad2deg(angle)), unit="°")]
    if angle < PARALLEL:
        figures.append(Figure(label="Distance of the axis", value=abs(float(away @ flat.direction)), unit="mm"))
    return figures


class FaceInfo(BaseModel):
    """What a face is: flat with its outward direction, round about an axis, or part of a ball (mm).

    is_hollow: the material lies outside, as round a hole.
    """

    kind: Literal["flat", "round", "ball"]
    at: tuple[float, float, float]
    direction: tuple[float, float, float]
    radius: float
    is_hollow: bool


def face_info(study: StudyDocument, reference: str) -> FaceInfo:
    """What a face of a study is, in place; raises as `face_shape`, and UnknownNameError."""
    body, face = _picked(true_bodies(study), reference)
    found = face_shape(body.mesh, face)
    (x, y, z), (u, v, w) = found.point.tolist(), found.direction.tolist()
    return FaceInfo(kind=found.kind, at=(x, y, z), direction=(u, v, w), radius=found.radius, is_hollow=found.is_hollow)


Between = tuple[tuple[float, float, float], tuple[float, float, float]] | None


def _exact(owners: list[tuple[Part, Placement]], corners: list[Array]) -> tuple[list[Figure], Between]:
    """Figures that the kernel measures on the exact faces on which the facets with these corners (k, c, 3) lie."""
    shapes = [placed_shape(part, at) for part, at in owners]
    faces = [_faces_under(shape, own) for shape, own in zip(shapes, corners, strict=True)]
    if len(owners) == 1:
        part, size = owners[0][0].name, np.ptp(kernel.box(shapes[0]), axis=0)
        area = sum(kernel.surface_of(f).area for f in faces[0])
        return [
            Figure(label="Area", value=area, unit="mm²"),
            *(Figure(label=f"{part} along {a}", value=float(s), unit="mm") for a, s in zip("xyz", size, strict=True)),
            Figure(label=f"Volume of {part}", value=kernel.volume(shapes[0]), unit="mm³"),
        ], None  # fmt: skip
    gap, points = min((kernel.distance(f, g) for f in faces[0] for g in faces[1]), key=lambda found: found[0])
    figures = [Figure(label="Least distance of the faces", value=gap, unit="mm")]
    if owners[0] != owners[1]:
        overlap = kernel.common_volume(*shapes)
        apart = kernel.distance(*shapes)[0] if overlap == 0 else 0.0
        figures.append(Figure(label="Gap of the parts", value=apart, unit="mm"))
        figures.append(Figure(label="Overlap of the parts", value=overlap, unit="mm³"))
    (x, y, z), (u, v, w) = points.tolist()
    return figures, ((x, y, z), (u, v, w)) if gap > 0 else None


def _faces_under(shape: Shape, corners: Array) -> list[Shape]:
    """The faces of a shape on which facets lie with all their corners."""
    found = []
    for face in kernel.faces_of(shape):
        low, high = kernel.box(face)
        near = ((corners > low - NEAR) & (corners < high + NEAR)).all(axis=(1, 2))
        if any(all(kernel.is_near(face, p, NEAR) for p in facet) for facet in corners[near]):
            found.append(face)
    if not found:
        raise InputError("the face is not found on the exact solid.", where="faces", hint="Pick another face.")
    return found
