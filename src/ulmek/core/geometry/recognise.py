"""Swept solids behind exact shapes: extruded in layers, or revolved, with the names of their faces."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import GeometryError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.clip import split_at_plane
from ulmek.core.geometry.kernel import SectionEdge, Shape, Surface
from ulmek.core.geometry.layered import FaceTable, Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition, Region, Segment, circle
from ulmek.core.geometry.overlay import SAME, overlay
from ulmek.core.geometry.recipes.recipe import Solid
from ulmek.core.geometry.revolved import AXIS, RevolvedSolid, with_core

Array = NDArray[np.float64]
# Directions (unit vectors) closer than this are one.
ALIGNED = 1e-7
# A recognised solid has the volume of the shape to this share.
SAME_VOLUME = 1e-6
# Direction across the axis in which revolved shapes are cut.
OFF_SEAM = np.array([np.cos(0.3), np.sin(0.3), 0.0])


@dataclass(frozen=True)
class Recognised:
    """A swept solid in axes of its own: ``x_file = rotation @ x_own + shift``."""

    solid: Solid
    rotation: Array
    shift: Array


def face_names(surfaces: Sequence[Surface]) -> list[str]:
    """A name for each face of a shape: its kind, numbered in the shape's order."""
    counts: dict[str, int] = {}
    names = []
    for surface in surfaces:
        counts[surface.kind] = counts.get(surface.kind, 0) + 1
        names.append(f"{surface.kind}.{counts[surface.kind]}")
    return names


def recognise(shape: Shape) -> Recognised | None:
    """The swept solid that a shape is, None when it is none."""
    faces = kernel.faces_of(shape)
    surfaces = [kernel.surface_of(f) for f in faces]
    names = face_names(surfaces)
    whole = kernel.volume(shape)
    for make in (_revolved, _layered):
        for axis in _axes(surfaces) if make is _revolved else _directions(surfaces):
            try:
                found = make(shape, faces, surfaces, names, axis)
            except GeometryError:
                continue
            if found is not None and abs(found.solid.volume() - whole) <= SAME_VOLUME * whole:
                return found
    return None


def _directions(surfaces: Sequence[Surface]) -> list[tuple[Array, Array]]:
    """Normals of planes, those that most planes have first."""
    found: list[tuple[Array, int]] = []
    for s in surfaces:
        if s.kind != "plane":
            continue
        for i, (direction, count) in enumerate(found):
            if np.abs(np.abs(direction @ s.direction) - 1) < ALIGNED:
                found[i] = direction, count + 1
                break
        else:
            found.append((s.direction, 1))
    ordered = sorted(found, key=lambda f: f[1])
    return [(_upward(d), np.zeros(3)) for d, _ in ordered if all(_may_sweep(s, d) for s in surfaces)]


def _upward(direction: Array) -> Array:
    """The direction or its opposite, whichever has its largest component positive, cleaned of rounding."""
    clean = np.where(np.abs(direction) < 1e-12, 0.0, direction)
    clean = clean / np.linalg.norm(clean)
    return np.asarray(clean if clean[np.abs(clean).argmax()] > 0 else -clean)


def _may_sweep(surface: Surface, direction: Array) -> bool:
    along = abs(surface.direction @ direction)
    if surface.kind == "plane":
        return bool(along > 1 - ALIGNED or along < ALIGNED)
    return bool(surface.kind == "cylinder" and along > 1 - ALIGNED)


def _axes(surfaces: Sequence[Surface]) -> list[tuple[Array, Array]]:
    """The axis that all round faces share, if they do: direction and a point."""
    round_faces = [s for s in surfaces if s.kind in ("cylinder", "cone", "torus", "turned")]
    balls = [s for s in surfaces if s.kind == "sphere"]
    flats = [s for s in surfaces if s.kind == "plane"]
    if round_faces:
        direction, point = _upward(round_faces[0].direction), round_faces[0].point
    elif balls and flats:
        direction, point = _upward(flats[0].direction), balls[0].point
    elif balls:
        direction, point = np.array([0.0, 0.0, 1.0]), balls[0].point
    else:
        return []

    def is_on_axis(p: Array) -> bool:
        return bool(np.linalg.norm(np.cross(p - point, direction)) < SAME)

    fits = all(s.kind != "free" for s in surfaces)
    fits &= all(abs(s.direction @ direction) > 1 - ALIGNED and is_on_axis(s.point) for s in round_faces)
    fits &= all(is_on_axis(s.point) for s in balls)
    fits &= all(abs(s.direction @ direction) > 1 - ALIGNED for s in flats)
    return [(direction, point)] if fits else []


def _frame(direction: Array) -> Array:
    """Rotation (3, 3) whose columns are two directions across and ``direction``."""
    helper = np.eye(3)[(int(np.abs(direction).argmax()) + 1) % 3]
    across = helper - direction * (helper @ direction)
    across /= np.linalg.norm(across)
    return np.column_stack([across, np.cross(direction, across), direction])


def _segments(edges: Sequence[SectionEdge], names: Sequence[str], to_plane: Array, shift: Array) -> list[Segment]:
    """Section edges in the plane that the rows of ``to_plane`` (2, 3) span.

    Raises
    ------
    GeometryError : an edge is neither a line nor an arc.
    """
    found: list[Segment] = []
    for edge in edges:
        if edge.kind == "free" or edge.face < 0:
            raise GeometryError("an outline is neither of lines nor of arcs.")
        start, end, middle, centre = (
            _pair(to_plane @ (p - shift)) for p in (edge.start, edge.end, edge.middle, edge.centre)
        )
        name = names[edge.face]
        if edge.kind == "line":
            found.append(Segment(name, start, end))
        elif np.hypot(start[0] - end[0], start[1] - end[1]) < SAME:
            radius = float(np.hypot(start[0] - centre[0], start[1] - centre[1]))
            found += circle(name, centre, radius)
        else:
            angle = [np.arctan2(p[1] - centre[1], p[0] - centre[0]) for p in (start, middle, end)]
            ccw = (angle[1] - angle[0]) % (2 * np.pi) < (angle[2] - angle[0]) % (2 * np.pi)
            found.append(Segment(name, start, end, centre, bool(ccw)))
    return found


def _pair(p: Array) -> tuple[float, float]:
    return float(p[0]), float(p[1])


def _layered(
    shape: Shape, faces: Sequence[Shape], surfaces: Sequence[Surface], names: Sequence[str],
    axis: tuple[Array, Array],
) -> Recognised | None:  # fmt: skip
    direction, _ = axis
    rotation = _frame(direction)
    caps = [i for i, s in enumerate(surfaces) if s.kind == "plane" and abs(s.direction @ direction) > 1 - ALIGNED]
    heights = np.array([surfaces[i].point @ direction for i in caps])
    levels = [float(h) for h in np.sort(heights)]
    levels = [h for i, h in enumerate(levels) if i == 0 or h - levels[i - 1] > SAME]
    outlines = []
    for low, high in itertools.pairwise(levels):
        edges = kernel.section(shape, direction * (low + high) / 2, direction)
        outlines.append(_segments(edges, names, rotation[:, :2].T, np.zeros(3)))
    regions, filled, side_names = overlay(outlines)
    if not regions or not all(filled):
        return None
    middles = {r.name: r.polygon().representative_point() for r in regions}
    layers: list[Layer] = []
    table: dict[tuple[str, str, str], str] = {}
    for i, (low, high) in enumerate(itertools.pairwise(levels)):
        layers.append(Layer(f"layer{i}", low, high, filled[i]))
        for kind, height, beyond in (("bottom", low, i - 1), ("top", high, i + 1)):
            for region in filled[i] - (filled[beyond] if 0 <= beyond < len(filled) else frozenset()):
                at = rotation @ np.array([middles[region].x, middles[region].y, height])
                near = [c for c, h in zip(caps, heights, strict=True) if abs(h - height) < SAME]
                owner = next((c for c in near if kernel.is_on_face(faces[c], at)), None)
                if owner is None:
                    return None
                table[f"layer{i}", kind, region] = names[owner]

    for item, by_layer in side_names.items():
        table |= {(f"layer{i}", "side", item): name for i, name in enumerate(by_layer)}
    solid = LayeredSolid(Partition.of(regions), tuple(layers), FaceTable(table))
    return Recognised(solid, rotation, np.zeros(3))


def _revolved(
    shape: Shape, faces: Sequence[Shape], surfaces: Sequence[Surface], names: Sequence[str],
    axis: tuple[Array, Array],
) -> Recognised | None:  # fmt: skip
    del faces, surfaces
    direction, point = axis
    rotation = _frame(direction)
    # Turned a bit from the axes of the file, where shapes have their seams.
    outward = rotation @ OFF_SEAM
    edges = kernel.section(shape, point, np.cross(direction, outward))
    drawn = _segments(edges, names, np.stack([outward, direction]), point)
    half = [s for segment in drawn for s in _right_of_axis(segment)]
    on_axis = sorted(p[1] for s in half for p in (s.start, s.end) if abs(p[0]) < SAME)
    if len(on_axis) not in (0, 2):
        return None
    if on_axis:
        half.append(Segment(AXIS, (0.0, on_axis[1]), (0.0, on_axis[0])))
    regions, filled, side_names = overlay([half])
    if len(regions) != 1 or filled != [{regions[0].name}]:
        return None
    named = [_named(s, side_names) for s in regions[0].outer]
    holes = tuple(tuple(_named(s, side_names) for s in hole) for hole in regions[0].holes)
    region = Region("body", tuple(named), holes, regions[0].pattern)
    partition = with_core(region) if on_axis else Partition.of([region])
    return Recognised(RevolvedSolid(partition), rotation, point)


def _named(segment: Segment, names: dict[str, list[str]]) -> Segment:
    """The segment under the name of its face."""
    return Segment(names[segment.name][0], segment.start, segment.end, segment.centre, segment.ccw)


def _right_of_axis(segment: Segment) -> list[Segment]:
    """What of a segment of the section lies right of the axis."""
    return [s for s in split_at_plane(segment, 0) if s.points(np.array([0.5]))[0, 0] > SAME]
