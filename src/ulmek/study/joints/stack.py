"""Holes in line through a stack of parts, brought together, and the pattern that they belong to."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.errors import InputError
from ulmek.study.items import StudyDocument
from ulmek.study.joints.shapes import MOVED, Shapes, across, place_of, with_place
from ulmek.study.mating import least_turn

Array = NDArray[np.float64]

# How far off the axis a hole may stand, as a share of its diameter; what counts as touching (mm).
OFF_AXIS, TOUCHING = 0.08, 1e-3
# Holes of one pattern are alike within this share of their diameter.
ALIKE = 1e-3


@dataclass(frozen=True)
class Hole:
    """A hole of one body about an axis: its face, diameter (mm), and where along the axis it begins and ends."""

    body: str
    face: str
    diameter: float
    start: float
    end: float

    @property
    def middle(self) -> float:
        """Half way through it (mm)."""
        return (self.start + self.end) / 2

    @property
    def thickness(self) -> float:
        """How far it goes through (mm)."""
        return self.end - self.start

    @property
    def reference(self) -> str:
        """Its face, as documents name it."""
        return f"{self.body}/{self.face}"


@dataclass(frozen=True)
class Stack:
    """Holes in line along the axis ``point`` (3,) mm, ``direction`` (3,), in order from the far end to the head."""

    point: Array
    direction: Array
    holes: tuple[Hole, ...]

    @property
    def grip(self) -> float:
        """Length (mm) from the first seat to the last."""
        return self.holes[-1].end - self.holes[0].start

    @property
    def narrowest(self) -> float:
        """Diameter (mm) of the narrowest hole."""
        return min(h.diameter for h in self.holes)

    def at(self, along: float) -> Array:
        """A point of the axis (3,), mm."""
        return np.asarray(self.point + along * self.direction)


def holes_in_line(shapes: Shapes, body: str, point: Array, direction: Array, off: float) -> list[Hole]:
    """The holes of a body about an axis, within ``off`` (mm) of it, along it."""
    found = []
    for name in shapes.mesh(body).faces:
        shape = shapes.shape(body, name)
        if shape is None or shape.kind != "round" or not shape.is_hollow:
            continue
        if abs(abs(float(shape.direction @ direction)) - 1) > 1e-4:
            continue
        away = shape.point - point
        if np.linalg.norm(across(away, direction)) > off:
            continue
        found.append(Hole(body, name, 2 * shape.radius, *shapes.extent(body, name, point, direction)))
    return sorted(found, key=lambda h: h.middle)


def stack_of(shapes: Shapes, references: list[str], *, flipped: bool = False) -> Stack:
    """The stack of holes named, along the axis of the first, in their order; of one alone towards the side where more
    of its part lies, or with ``flipped`` the other.

    Raises
    ------
    UnknownNameError, InputError : no such face, or one that is no round hole; holes that are not in line.
    """
    first = shapes.round_face(references[0], hollow=True)
    point, direction = first.point, first.direction
    holes = []
    for reference in references:
        shape = shapes.round_face(reference, hollow=True)
        body, name = shapes.split(reference)
        away = shape.point - point
        off = float(np.linalg.norm(across(away, direction)))
        if abs(abs(float(shape.direction @ direction)) - 1) > 1e-4 or off > OFF_AXIS * 2 * first.radius:
            raise InputError(
                f"{reference} is not in line with {references[0]}.",
                where="holes",
                hint="Let the joint keep its parts together, or move the part.",
            )
        holes.append(Hole(body, name, 2 * shape.radius, *shapes.extent(body, name, point, direction)))
    forward = holes[-1].middle > holes[0].middle if len(holes) > 1 else _more_ahead(shapes, holes[0], point, direction)
    if forward == (flipped and len(holes) == 1):
        direction = -direction
        holes = [replace(h, start=-h.end, end=-h.start) for h in holes]
    return Stack(point, direction, tuple(holes))


def _more_ahead(shapes: Shapes, hole: Hole, point: Array, direction: Array) -> bool:
    """Whether a part reaches farther along the axis beyond its hole than before it."""
    along = (shapes.mesh(hole.body).nodes - point) @ direction
    return bool(along.max() - hole.end >= hole.start - along.min() - TOUCHING)


def brought_together(study: StudyDocument, references: list[str], *, spread: bool = False) -> StudyDocument:
    """The study with the parts of the holes on each other, holes in line: the first stays, each next touches the one
    before, and one between two holes of the same part stands in the middle between them.

    spread: parts that were not in line before are turned so that they point away from the first.

    Raises
    ------
    UnknownNameError, InputError : see `stack_of`.
    """
    shapes = Shapes(study)
    first = shapes.round_face(references[0], hollow=True)
    bodies = [shapes.split(r)[0] for r in references]
    settled, direction = {bodies[0]}, first.direction
    if len(set(bodies)) > 1:
        direction = direction * _sense(shapes, references, bodies)
    for k, (reference, body) in enumerate(zip(references, bodies, strict=True)):
        if body in settled:
            continue
        shape = shapes.round_face(reference, hollow=True)
        turn = least_turn(shape.direction, direction if shape.direction @ direction >= 0 else -direction)
        at, axes = place_of(study, body)
        away = first.point - shape.point
        aside = across(away, direction)
        if spread and np.linalg.norm(aside) > OFF_AXIS * 2 * first.radius:
            turn = _spread(shapes, (bodies[0], first.point), (body, shape.point), turn, direction) @ turn
        moved = shape.point + turn @ (at - shape.point) + aside
        if max(np.abs(moved - at).max(), np.abs(turn - np.eye(3)).max()) > MOVED:
            study = with_place(study, body, moved, turn @ axes)
            shapes = Shapes(study)
        start, end = shapes.extent(body, reference.split("/", 1)[1], first.point, direction)
        before = shapes.extent(*shapes.split(references[k - 1]), first.point, direction)[1]
        beyond = next((r for r, b in zip(references[k + 1 :], bodies[k + 1 :], strict=True) if b in settled), None)
        slide = before - start
        if beyond is not None:
            after = shapes.extent(*shapes.split(beyond), first.point, direction)[0]
            slide = (before + after - start - end) / 2
        if abs(slide) > MOVED:
            at, axes = place_of(study, body)
            study = with_place(study, body, at + slide * direction, axes)
            shapes = Shapes(study)
        settled.add(body)
    return study


def _spread(shapes: Shapes, first: tuple[str, Array], other: tuple[str, Array], turn: Array, direction: Array) -> Array:
    """The turn (3, 3) about an axis after which the bulk of a turned body lies opposite to that of the first."""
    arms = []
    for (body, point), rotation in ((first, np.eye(3)), (other, turn)):
        nodes = shapes.mesh(body).nodes
        arm = rotation @ ((nodes.min(axis=0) + nodes.max(axis=0)) / 2 - point)
        arms.append(across(arm, direction))
    if min(np.linalg.norm(a) for a in arms) < OFF_AXIS * float(np.ptp(shapes.mesh(first[0]).nodes, axis=0).max()):
        return np.eye(3)
    goal = -arms[0]
    angle = np.arctan2(np.cross(arms[1], goal) @ direction, arms[1] @ goal)
    return np.asarray(Rotation.from_rotvec(angle * direction).as_matrix())


def _sense(shapes: Shapes, references: list[str], bodies: list[str]) -> float:
    """1 where the stack grows along the axis of its first hole, −1 where against it: as it does now where the holes are
    in line, else towards the open end of the first."""
    first = shapes.round_face(references[0], hollow=True)
    body, name = shapes.split(references[0])
    along = [float(np.mean(shapes.extent(*shapes.split(r), first.point, first.direction))) for r in references]
    # Two holes of one part tell at once.
    same = next((k for k in range(1, len(bodies)) if bodies[k] == bodies[0]), None)
    if same is None:
        last = shapes.round_face(references[-1], hollow=True)
        away = last.point - first.point
        if np.linalg.norm(across(away, first.direction)) > OFF_AXIS * 2 * first.radius:
            hole = Hole(body, name, 2 * first.radius, *shapes.extent(body, name, first.point, first.direction))
            alone = Stack(first.point, first.direction, (hole,))
            return 1.0 if seat(shapes, alone, 0, at_end=True) is not None else -1.0
        same = len(bodies) - 1
    return -1.0 if along[same] < along[0] - TOUCHING else 1.0


def pattern_of(shapes: Shapes, stack: Stack) -> tuple[list[Stack], int]:
    """The stack and all others that begin with a hole like its first and go through the same bodies in line; and how
    many such holes have no counterpart.

    Holes are alike that have one diameter and depth, beside each other.
    """
    found, alone = [stack], 0
    body, mine = stack.holes[0].body, stack.holes[0]
    for name in sorted(shapes.mesh(body).faces, key=_counted):
        shape = shapes.shape(body, name)
        if name == mine.face or shape is None or shape.kind != "round" or not shape.is_hollow:
            continue
        if abs(2 * shape.radius - mine.diameter) > ALIKE * mine.diameter:
            continue
        if abs(abs(float(shape.direction @ stack.direction)) - 1) > 1e-6:
            continue
        start, end = shapes.extent(body, name, stack.point, stack.direction)
        if max(abs(start - mine.start), abs(end - mine.end)) > ALIKE * mine.diameter:
            continue
        away = shape.point - stack.point
        point = stack.point + across(away, stack.direction)
        chain = [Hole(body, name, 2 * shape.radius, start, end)]
        for wanted in stack.holes[1:]:
            others = holes_in_line(shapes, wanted.body, point, stack.direction, OFF_AXIS * wanted.diameter)
            near = [
                h
                for h in others
                if abs(h.middle - wanted.middle) < TOUCHING and abs(h.diameter - wanted.diameter) < TOUCHING
            ]
            chain += near[:1]
        if len(chain) == len(stack.holes):
            found.append(Stack(point, stack.direction, tuple(chain)))
        else:
            alone += 1
    return found, alone


def _counted(name: str) -> tuple[str, int]:
    """A name so that ``hole.10`` comes after ``hole.9``."""
    stem, _, number = name.rpartition(".")
    return (stem, int(number)) if number.isdigit() else (name, 0)


def seat(shapes: Shapes, stack: Stack, position: int, *, at_end: bool) -> str | None:
    """The flat face of a hole's body round its mouth, None where there is none."""
    hole = stack.holes[position]
    mouth, mesh = (hole.end if at_end else hole.start), shapes.mesh(hole.body)
    for name, facets in mesh.faces.items():
        nodes = mesh.nodes[np.unique(facets)] - stack.point
        along = nodes @ stack.direction
        if np.abs(along - mouth).max() > TOUCHING:
            continue
        away = np.linalg.norm(nodes - np.outer(along, stack.direction), axis=1)
        if abs(away.min() - hole.diameter / 2) < OFF_AXIS * hole.diameter:
            return name
    return None
