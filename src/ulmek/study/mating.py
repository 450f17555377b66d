"""Placing a part by its faces: flush, coaxial, touching as tangents, or with teeth in mesh."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.fitted import FaceShape, face_shape
from ulmek.study.items import Placement, StudyDocument, Turn
from ulmek.study.meshing_gears import Placed, in_mesh
from ulmek.study.translate import body_names, placed_axes, true_bodies
from ulmek.study.units import value_of

Array = NDArray[np.float64]

Manner = Literal["flush", "tangent", "in-mesh"]


def mated(study: StudyDocument, own: str, other: str, manner: Manner = "flush") -> tuple[int, int, Placement]:
    """Index of the part, of its copy, and the placement that brings its face ``own`` to the face ``other``.

    flush: two flat faces come flush, middles over each other as they were along the face; two round ones coaxial,
    keeping their height; balls concentric. tangent: a round face or ball touches a flat face, another round one
    (axes parallel) or a ball, on the side where it is. in-mesh: the teeth of the two parts mesh, whatever faces are
    named. The part turns by the least angle that does it.

    Raises
    ------
    InputError : faces of one part, or faces that cannot come together so. UnknownNameError : no such face.
    """
    bodies = true_bodies(study)
    (body, face), (target, to) = (reference.split("/", 1) for reference in (own, other))
    if body.split("#")[0] == target.split("#")[0]:
        raise InputError("both faces are of one part.", where="faces", hint="Pick a face of another part.")
    for owner, name in ((body, face), (target, to)):
        if owner not in bodies or name not in bodies[owner].mesh.faces:
            raise UnknownNameError(
                f"there is no face '{owner}/{name}'.",
                where="faces",
                hint="Name one copy of a part and one of its faces.",
            )
    (index, copy), (at_index, at_copy) = _copy_of(study, body), _copy_of(study, target)
    before = study.parts[index].placements[copy]
    rotation, at = placed_axes(before), np.array([value_of(c, "length") for c in before.at])
    if manner == "in-mesh":
        theirs = study.parts[at_index].placements[at_copy]
        if before.mirrored or theirs.mirrored:
            raise InputError(
                "a mirrored copy cannot be put in mesh.",
                where="faces",
                hint="Take its mirroring away.",
            )
        fixed = Placed(placed_axes(theirs), np.array([value_of(c, "length") for c in theirs.at]))
        found = in_mesh(study.parts[index], Placed(rotation, at), study.parts[at_index], fixed)
        return index, copy, placement_of(found.shift, found.rotation)
    a, b = face_shape(bodies[body].mesh, face), face_shape(bodies[target].mesh, to)
    turn = _turn(a, b)
    # The face turns about its own middle, then slides to its place.
    at = a.point + turn @ (at - a.point) + _slide(replace(a, direction=turn @ a.direction), b, manner)
    return index, copy, placement_of(at, turn @ rotation)


def _copy_of(study: StudyDocument, body: str) -> tuple[int, int]:
    index = next(i for i, p in enumerate(study.parts) if body in body_names(p))
    return index, body_names(study.parts[index]).index(body)


def _turn(a: FaceShape, b: FaceShape) -> Array:
    """Rotation (3, 3) that brings the direction of a face to that of the other."""
    if "ball" in (a.kind, b.kind):
        return np.eye(3)
    if a.kind == b.kind:
        sense = -1.0 if a.kind == "flat" or a.direction @ b.direction < 0 else 1.0
        return least_turn(a.direction, sense * b.direction)
    # A round face beside a flat one: axis and normal stand across each other.
    goal = a.direction - (a.direction @ b.direction) * b.direction
    if np.linalg.norm(goal) < 1e-6:
        goal = _across(b.direction)
    return least_turn(a.direction, goal / np.linalg.norm(goal))


def _across(direction: Array) -> Array:
    """Some direction (3,) across another."""
    return np.cross(direction, np.eye(3)[np.abs(direction).argmin()])


def _slide(a: FaceShape, b: FaceShape, manner: Manner) -> Array:
    """How far (3,) the turned face goes to its place (mm)."""
    if manner == "flush":
        return _to_flush(a, b)
    if a.kind == b.kind == "flat":
        raise InputError("two flat faces have no tangent.", where="faces", hint="Bring them flush.")
    if "flat" in (a.kind, b.kind):
        return _to_flat(a, b)
    return _to_round(a, b)


def _to_flush(a: FaceShape, b: FaceShape) -> Array:
    if a.kind != b.kind:
        raise InputError(
            f"a {a.kind} and a {b.kind} face cannot be brought together so.", where="faces",
            hint="Pick two faces of one kind, or let them touch as tangents.",
        )  # fmt: skip
    away = b.point - a.point
    along = (away @ b.direction) * b.direction
    # A ball has no direction: it goes all the way.
    return np.asarray(along if a.kind == "flat" else away - along)


def _to_flat(a: FaceShape, b: FaceShape) -> Array:
    """A round face or ball and a flat face: the round part stands clear of the flat one by its radius."""
    rounded, flat = (a, b) if b.kind == "flat" else (b, a)
    if rounded.is_hollow:
        raise InputError("a hole cannot touch a flat face.", where="faces", hint="Pick a round face outside.")
    gap = (rounded.point - flat.point) @ flat.direction - rounded.radius
    return np.asarray((-gap if a is rounded else gap) * flat.direction)


def _to_round(a: FaceShape, b: FaceShape) -> Array:
    """Two round faces or balls: their radii apart, or one in the hole of the other, on the side where it is."""
    if a.is_hollow and b.is_hollow:
        raise InputError("two holes cannot touch each other.", where="faces", hint="Pick a round face outside.")
    axis = next((f.direction for f in (b, a) if f.kind == "round"), np.zeros(3))
    away = a.point - b.point
    away = away - (away @ axis) * axis
    length = float(np.linalg.norm(away))
    if length < 1e-9 * (a.radius + b.radius):
        away, length = (_across(axis) if axis.any() else np.array([1.0, 0.0, 0.0])), 0.0
    goal = a.radius + b.radius
    if a.is_hollow or b.is_hollow:
        inner, outer = (b, a) if a.is_hollow else (a, b)
        goal = outer.radius - inner.radius
        if goal < 0:
            raise InputError(
                f"a diameter of {2 * inner.radius:.4g} mm does not go into one of {2 * outer.radius:.4g} mm.",
                where="faces", hint="Bring them coaxial for a press fit, or change a diameter.",
            )  # fmt: skip
    return np.asarray((goal - length) * away / np.linalg.norm(away))


def least_turn(a: Array, b: Array) -> Array:
    """Rotation (3, 3) of least angle that takes the unit vector a to b."""
    axis, cosine = np.cross(a, b), float(a @ b)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-9:
        if cosine > 0:
            return np.eye(3)
        axis = _across(a)
        return np.asarray(Rotation.from_rotvec(np.pi * axis / np.linalg.norm(axis)).as_matrix())
    return np.asarray(Rotation.from_rotvec(np.arctan2(sine, cosine) * axis / sine).as_matrix())


def placement_of(at: Array, axes: Array) -> Placement:
    """The placement that brings the own axes of a part to ``axes`` (3, 3), mirrored where those are of a mirror image,
    and moves it to ``at`` (3,) mm."""
    mirrored = bool(np.linalg.det(axes) < 0)
    vector = Rotation.from_matrix(axes * [-1.0, 1.0, 1.0] if mirrored else axes).as_rotvec()
    angle = float(np.linalg.norm(vector))
    x, y, z = (f"{_plain(c)} mm" for c in at)
    if angle < 1e-9:
        return Placement(mirrored=mirrored, at=(x, y, z))
    axis = vector / angle
    main = int(np.abs(axis).argmax())
    if abs(axis[main]) > 1 - 1e-12:
        signed = f"{_plain(np.sign(axis[main]) * np.rad2deg(angle))} deg"
        return Placement(mirrored=mirrored, at=(x, y, z), turn=Turn(axis=("x", "y", "z")[main], angle=signed))
    about = (float(axis[0]), float(axis[1]), float(axis[2]))
    return Placement(mirrored=mirrored, at=(x, y, z), turn=Turn(axis=about, angle=f"{_plain(np.rad2deg(angle))} deg"))


def _plain(value: float) -> str:
    """A number without rounding noise."""
    return f"{round(float(value), 9) + 0.0:.10g}"
