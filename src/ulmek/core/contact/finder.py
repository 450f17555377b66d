"""Faces of different bodies that touch, come close, or overlap: what could become pairs."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.overlap import Overlap, integrate_overlap
from ulmek.core.mesh.facets import facet_areas, facet_normals
from ulmek.core.mesh.volume import PLANE
from ulmek.core.model import Body, Face

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Covered area below this share of the smaller face is a graze, not a joint; crossing bars cover about 0.005.
LEAST_COVER = 0.001
# Couples of facets up to which looking at their normals first is cheap.
MOST_NORMALS = 4_000_000
# Gaps below this share of the model's coordinates are rounding.
ROUNDING = 1e-9
# Faces of one body that meet at less than this angle are one round or tangent surface (degrees).
TANGENT = 20.0


@dataclass(frozen=True)
class Touching:
    """Two groups of faces that face each other.

    a, b: faces; a is the better covered, or the finer. gap (mm): least distance, negative for an overlap. area (mm²):
    what of a is covered. cover: its share of all of a.
    """

    a: tuple[Face, ...]
    b: tuple[Face, ...]
    gap: float
    area: float
    cover: float


@dataclass(frozen=True)
class _Met:
    """Face ``f`` of body ``i`` with face ``g`` of body ``j``: area covered on both, whole areas, least gap."""

    i: int
    f: str
    j: int
    g: str
    areas: tuple[float, float]
    whole: tuple[float, float]
    gap: float


@dataclass(frozen=True)
class _Reach:
    """What counts as touching, see `find_touching`."""

    distance: float
    angle: float
    thickness: float
    turned: bool


def find_touching(
    bodies: Sequence[Body], *, distance: float, angle: float, thickness: float = 1.0, turned: bool = False
) -> list[Touching]:
    """All groups of faces of two bodies within ``distance`` (mm) of each other, overlapping ones as deep too.

    ``angle`` (degrees): how far from facing each other squarely facets may be. Faces that run into each other
    smoothly are one group, faces that meet at a corner are not. Edges of sections count with ``thickness`` (mm), or
    with the full turn about the y axis when ``turned``.
    """
    boxes = [[_box(body, name) for name in body.mesh.faces] for body in bodies]
    whole = [(np.min([b[0] for b in box], axis=0), np.max([b[1] for b in box], axis=0)) for box in boxes]
    found, reach = [], _Reach(distance, angle, thickness, turned)
    for i, j in itertools.combinations(range(len(bodies)), 2):
        if not _near(whole[i], whole[j], distance):
            continue
        met = [
            m
            for (f, box_f), (g, box_g) in itertools.product(
                zip(bodies[i].mesh.faces, boxes[i], strict=True), zip(bodies[j].mesh.faces, boxes[j], strict=True)
            )
            if _near(box_f, box_g, distance)
            for m in [_meet(bodies, (i, f), (j, g), reach)]
            if m is not None
        ]
        found += [_touching(bodies, group) for group in _grouped(bodies, met)]
    return found


def _box(body: Body, face: str) -> tuple[Array, Array]:
    points = body.mesh.nodes[np.unique(body.mesh.faces[face])]
    return points.min(axis=0), points.max(axis=0)


def _near(a: tuple[Array, Array], b: tuple[Array, Array], distance: float) -> bool:
    return bool(np.all(a[0] <= b[1] + distance) and np.all(b[0] <= a[1] + distance))


def _meet(bodies: Sequence[Body], first: tuple[int, str], second: tuple[int, str], reach: _Reach) -> _Met | None:
    (i, f), (j, g) = first, second
    one, other = bodies[i].mesh, bodies[j].mesh
    if (one.kind in PLANE) != (other.kind in PLANE):
        return None
    nodes = np.vstack([one.nodes, other.nodes])
    facets = one.faces[f], other.faces[g] + len(one.nodes)
    arcs = one.arcs.get(f, np.zeros((len(facets[0]), 7))), other.arcs.get(g, np.zeros((len(facets[1]), 7)))
    near = [_close_facets(nodes, a, b, reach.distance) for a, b in (facets, facets[::-1])]
    if not near[0].any() or not near[1].any():
        return None
    facets, arcs = (facets[0][near[0]], facets[1][near[1]]), (arcs[0][near[0]], arcs[1][near[1]])
    if not _may_face(nodes, *facets, reach.angle):
        return None
    areas, gap = [], np.inf
    for a, b in ((0, 1), (1, 0)):
        overlap = integrate_overlap(
            nodes,
            facets[a],
            facets[b],
            search=reach.distance,
            thickness=reach.thickness,
            turned=reach.turned,
            arcs=(arcs[a], arcs[b]),
        )
        areas.append(_facing_area(nodes, facets[a], facets[b], overlap, reach.angle))
        gap = min(gap, overlap.least_gap)
    whole = [
        float(facet_areas(mesh.nodes, mesh.faces[name], thickness=reach.thickness, turned=reach.turned).sum())
        for mesh, name in ((one, f), (other, g))
    ]
    is_graze = min(areas) <= LEAST_COVER * min(whole)
    return None if is_graze else _Met(i, f, j, g, (areas[0], areas[1]), (whole[0], whole[1]), float(gap))


def _close_facets(nodes: Array, facets: Ids, others: Ids, distance: float) -> NDArray[np.bool_]:
    """Facets whose boxes come near the box of the others."""
    points = nodes[facets]
    low, high = nodes[others].min(axis=(0, 1)) - distance, nodes[others].max(axis=(0, 1)) + distance
    return np.asarray(np.all(points.max(axis=1) >= low, axis=1) & np.all(points.min(axis=1) <= high, axis=1))


def _may_face(nodes: Array, a: Ids, b: Ids, angle: float) -> bool:
    """Whether any facet of a and any of b face each other within ``angle``: else nothing of them counts as covered."""
    if len(a) * len(b) > MOST_NORMALS:
        return True
    return bool((facet_normals(nodes, a) @ facet_normals(nodes, b).T).min() < -np.cos(np.deg2rad(angle)))


def _facing_area(nodes: Array, a: Ids, b: Ids, overlap: Overlap, angle: float) -> float:
    """Covered area of a (mm²) on facets that b faces within ``angle``."""
    if not len(overlap.couple):
        return 0.0
    normals = facet_normals(nodes, a), facet_normals(nodes, b)
    facing = np.einsum("ij,ij->i", normals[0][overlap.couple[:, 0]], normals[1][overlap.couple[:, 1]])
    squarely = np.zeros(len(a), bool)
    squarely[overlap.couple[facing < -np.cos(np.deg2rad(angle)), 0]] = True
    return float(overlap.mass.sum(axis=(1, 2))[squarely].sum())


def _grouped(bodies: Sequence[Body], met: list[_Met]) -> list[list[_Met]]:
    """Couples of two bodies put together where both faces are the same or run into each other smoothly."""
    groups: list[list[_Met]] = []
    for m in met:
        joined = [
            group
            for group in groups
            if any(_smooth(bodies[m.i], m.f, o.f) and _smooth(bodies[m.j], m.g, o.g) for o in group)
        ]
        groups = [g for g in groups if g not in joined] + [[*itertools.chain(*joined), m]]
    return groups


def _smooth(body: Body, f: str, g: str) -> bool:
    """Whether two faces of a body are the same, or meet somewhere at less than `TANGENT`."""
    if f == g:
        return True
    mesh = body.mesh
    facets = mesh.faces[f], mesh.faces[g]
    common = np.intersect1d(facets[0], facets[1])
    if not len(common):
        return False
    sums = []
    for group in facets:
        normals, at = facet_normals(mesh.nodes, group), np.zeros((len(mesh.nodes), 3))
        for column in group.T:
            np.add.at(at, column, normals)
        sums.append(at[common] / np.linalg.norm(at[common], axis=1, keepdims=True))
    turned = np.einsum("ij,ij->i", *sums)
    # An end of the common edge may lie on a corner with other faces: the middle of it counts.
    return bool(np.median(turned) > np.cos(np.deg2rad(TANGENT)))


def _touching(bodies: Sequence[Body], group: list[_Met]) -> Touching:
    i, j = group[0].i, group[0].j
    sides = []
    for body, names, which in ((bodies[i], {m.f for m in group}, 0), (bodies[j], {m.g for m in group}, 1)):
        whole = sum({(m.f, m.g)[which]: m.whole[which] for m in group}.values())
        facets = sum(len(body.mesh.faces[name]) for name in names)
        covered = sum(m.areas[which] for m in group)
        sides.append((tuple(Face(body.name, n) for n in sorted(names)), covered, covered / whole, whole / facets))
    a, b = sides
    # The better covered side carries the integration; of two alike the finer.
    if b[2] > 1.1 * a[2] or (b[2] > 0.9 * a[2] and b[3] < 0.99 * a[3]):
        a, b = b, a
    gap = min(m.gap for m in group)
    # Coordinates carry rounding of about 1e-14 of the model: that is touching, not a gap.
    extent = max(float(np.abs(body.mesh.nodes).max()) for body in (bodies[i], bodies[j]))
    return Touching(a[0], b[0], 0.0 if abs(gap) < ROUNDING * extent else gap, a[1], min(a[2], 1.0))
