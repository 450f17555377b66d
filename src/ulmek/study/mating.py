"""Placing a part by its faces: flush on a flat face, coaxial with a round one."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.contact.overlap import facet_normals
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.schema import Placement, StudyDocument, Turn
from ulmek.study.translate import body_names, placed_rotation, translate_parts
from ulmek.study.units import value_of

Array = NDArray[np.float64]

# Facets of a flat face agree within this (cosine); axes of one round face too.
FLAT = 1 - 1e-6


@dataclass(frozen=True)
class FaceShape:
    """A flat face: outward normal, middle and no radius; a round one: axis, point on it, radius (mm)."""

    direction: Array
    point: Array
    radius: float | None


def face_shape(mesh: VolumeMesh, name: str) -> FaceShape:
    """What a face is, from its mesh.

    Raises
    ------
    InputError : it is neither flat nor round about one axis.
    """
    facets = mesh.faces[name]
    middle = mesh.nodes[np.unique(facets)].mean(axis=0)
    normals = facet_normals(mesh.nodes, facets)
    if np.min(normals @ normals[0]) > FLAT:
        return FaceShape(normals.mean(axis=0) / np.linalg.norm(normals.mean(axis=0)), middle, None)
    arcs = mesh.arcs.get(name)
    if arcs is not None and np.all(arcs[:, 6] != 0) and np.ptp(np.abs(arcs[:, 6])) < 1e-6 * np.abs(arcs[0, 6]):
        axis, point = arcs[0, 3:6], arcs[0, :3]
        away = arcs[:, :3] - point
        if np.abs(away - np.outer(away @ axis, axis)).max() < 1e-6 * np.abs(arcs[0, 6]):
            return FaceShape(axis, point + ((middle - point) @ axis) * axis, float(np.abs(arcs[0, 6])))
    raise InputError(
        f"face '{name}' is neither flat nor round about one axis.", where="faces",
        hint="Pick a flat face or one cylinder, or place the part by numbers.",
    )  # fmt: skip


def mated(study: StudyDocument, own: str, other: str) -> tuple[int, int, Placement]:
    """Index of the part, of its copy, and the placement that brings its face ``own`` to the face ``other``.

    Two flat faces come flush, middles over each other as they were along the face; two round ones coaxial,
    keeping their height; the part turns by the least angle that does it.

    Raises
    ------
    InputError : faces of one part, a flat and a round one, or faces of other shapes. UnknownNameError : no such face.
    """
    bodies = {b.name: b for b in translate_parts(study)}
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
    mine, theirs = face_shape(bodies[body].mesh, face), face_shape(bodies[target].mesh, to)
    if (mine.radius is None) != (theirs.radius is None):
        raise InputError(
            "a flat and a round face cannot be mated.", where="faces", hint="Pick two flat faces, or two round ones."
        )
    index = next(i for i, p in enumerate(study.parts) if body in body_names(p))
    copy = body_names(study.parts[index]).index(body)
    before = study.parts[index].placements[copy]
    goal = -theirs.direction if mine.radius is None else theirs.direction
    if mine.radius is not None and mine.direction @ goal < 0:
        goal = -goal
    turn = _least_turn(mine.direction, goal)
    rotation = turn @ placed_rotation(before)
    # The face turns about its own middle, then slides across to its place.
    at = np.array([value_of(c, "length") for c in before.at])
    at = mine.point + turn @ (at - mine.point)
    if mine.radius is None:
        at = at + ((theirs.point - mine.point) @ goal) * goal
    else:
        away = theirs.point - mine.point
        at = at + away - (away @ goal) * goal
    return index, copy, _placement(at, rotation)


def _least_turn(a: Array, b: Array) -> Array:
    """Rotation (3, 3) of least angle that takes the unit vector a to b."""
    axis, cosine = np.cross(a, b), float(a @ b)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-9:
        if cosine > 0:
            return np.eye(3)
        axis = np.cross(a, np.eye(3)[np.abs(a).argmin()])
        return np.asarray(Rotation.from_rotvec(np.pi * axis / np.linalg.norm(axis)).as_matrix())
    return np.asarray(Rotation.from_rotvec(np.arctan2(sine, cosine) * axis / sine).as_matrix())


def _placement(at: Array, rotation: Array) -> Placement:
    vector = Rotation.from_matrix(rotation).as_rotvec()
    angle = float(np.linalg.norm(vector))
    x, y, z = (f"{_plain(c)} mm" for c in at)
    if angle < 1e-9:
        return Placement(at=(x, y, z))
    axis = vector / angle
    main = int(np.abs(axis).argmax())
    if abs(axis[main]) > 1 - 1e-12:
        signed = f"{_plain(np.sign(axis[main]) * np.rad2deg(angle))} deg"
        return Placement(at=(x, y, z), turn=Turn(axis=("x", "y", "z")[main], angle=signed))
    about = (float(axis[0]), float(axis[1]), float(axis[2]))
    return Placement(at=(x, y, z), turn=Turn(axis=about, angle=f"{_plain(np.rad2deg(angle))} deg"))


def _plain(value: float) -> str:
    """A number without rounding noise."""
    return f"{round(float(value), 9) + 0.0:.10g}"
