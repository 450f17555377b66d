"""Overlap of the facets of two sides, clipped in the plane of each facet of A and integrated."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.mesh.facets import corner_count, facet_normals, is_edges

Array = NDArray[np.float64]

# Six-point rule of degree 4 on the triangle (Dunavant 1985): exact for products of bilinear
# functions on parallelograms.
_A, _B = 0.445948490915965, 0.091576213509771
_WA, _WB = 0.223381589678011, 0.109951743655322
RULE = np.array(
    [
        [_A, _A, _WA],
        [1 - 2 * _A, _A, _WA],
        [_A, 1 - 2 * _A, _WA],
        [_B, _B, _WB],
        [1 - 2 * _B, _B, _WB],
        [_B, 1 - 2 * _B, _WB],
    ]
)
# Gauss points and weights on 0…1, exact to degree 5: products of linear and quadratic shape functions and more.
EDGE_RULE = np.column_stack(
    [(np.polynomial.legendre.leggauss(3)[0] + 1) / 2, np.polynomial.legendre.leggauss(3)[1] / 2]
)
# Facets whose normals are closer than about 102° do not face each other.
LEAST_OPPOSITION = -0.2
# Overlaps below this share of the facet are rounding, not geometry.
LEAST_SHARE = 1e-9


@dataclass(frozen=True)
class Overlap:
    """Integrals over the covered part of each facet of A.

    With φ linear on the c corners of a facet of A and N the shape functions of all its n nodes:
    mass (n_a, c, c): ∫φφ; own (n_a, c, n): ∫φNᴬ; gap (n_a, c): ∫φ g, g positive when open (mm³); and for
    every overlapping couple its facets ``couple`` (k, 2) and ``mixed`` (k, c, n_b): ∫φNᴮ, mm².
    least_gap : smallest gap met at an integration point (mm), inf when nothing overlaps.
    """

    mass: Array
    own: Array
    gap: Array
    couple: NDArray[np.int64]
    mixed: Array
    least_gap: float


class _Sides(NamedTuple):
    """Facets of both sides with true radii, normals of A, and couples that may overlap, for the kernels."""

    nodes: Array
    a: NDArray[np.int64]
    b: NDArray[np.int64]
    normals: Array
    candidates: NDArray[np.int64]
    arcs_a: Array
    arcs_b: Array


class _Within(NamedTuple):
    """How far is looked: in general, for each facet of A, and whether facets that come near are only found."""

    search: float
    reach: Array
    finding: bool


class _Sums(NamedTuple):
    """What the kernels fill in: facets of A that come near, and the integrals of `Overlap`."""

    near: NDArray[np.bool_]
    mass: Array
    own: Array
    gap: Array
    mixed: Array


def integrate_overlap(
    nodes: Array,
    quads_a: NDArray[np.int64],
    quads_b: NDArray[np.int64],
    *,
    search: float,
    thickness: float = 1.0,
    turned: bool = False,
    arcs: tuple[Array, Array] | None = None,
) -> Overlap:
    """Overlap of sides A and B (quads, or edges), for facets that come within ``search`` (mm) or overlap as deep.

    Edges count with ``thickness`` (mm), or with the full turn about the y axis when ``turned``. ``arcs``: true
    radii of the facets of both sides (see `face_arcs`), so that gaps are those between the round faces.
    """
    normals = facet_normals(nodes, quads_a)
    candidates = _candidates(nodes, quads_a, quads_b, normals, search)
    corners = corner_count(quads_a)
    flat = np.zeros((len(quads_a), 7)), np.zeros((len(quads_b), 7))
    arcs_a, arcs_b = arcs if arcs is not None else flat
    # Row by row in memory: for another order the kernels would be compiled again.
    rows = np.ascontiguousarray
    sides = _Sides(
        rows(nodes), rows(quads_a), rows(quads_b), rows(normals), rows(candidates), rows(arcs_a), rows(arcs_b)
    )
    reach = search + np.linalg.norm(nodes[quads_a] - nodes[quads_a][:, :1], axis=2).max(axis=1)
    sums = _Sums(
        near=np.zeros(len(quads_a), np.bool_),
        mass=np.zeros((len(quads_a), corners, corners)),
        own=np.zeros((len(quads_a), corners, quads_a.shape[1])),
        gap=np.zeros((len(quads_a), corners)),
        mixed=np.zeros((len(candidates), corners, quads_b.shape[1])),
    )
    least = np.inf
    # Twice: to find the facets that come within the search anywhere, then to integrate these all over.
    # Facets counted in part would have their motions extrapolated from a sliver.
    for finding in (True, False):
        within = _Within(float(search), reach, finding)
        if is_edges(quads_a):
            least = _integrate_edges(sides, within, EDGE_RULE, 0.0 if turned else float(thickness), sums)
        else:
            least = _integrate(sides, within, RULE, sums)
    own = sums.mass if quads_a.shape[1] == 4 else sums.own
    kept = sums.mixed.any(axis=(1, 2))
    return Overlap(sums.mass, own, sums.gap, candidates[kept], sums.mixed[kept], float(least))


def _candidates(
    nodes: Array, quads_a: NDArray[np.int64], quads_b: NDArray[np.int64], normals: Array, search: float
) -> NDArray[np.int64]:
    centre_a, centre_b = nodes[quads_a].mean(axis=1), nodes[quads_b].mean(axis=1)
    reach_a = np.linalg.norm(nodes[quads_a] - centre_a[:, None], axis=2).max(axis=1)
    reach_b = np.linalg.norm(nodes[quads_b] - centre_b[:, None], axis=2).max()
    found = cKDTree(centre_b).query_ball_point(centre_a, reach_a + reach_b + search)
    couples = np.array([(a, b) for a, bs in enumerate(found) for b in sorted(bs)], np.int64).reshape(-1, 2)
    normals_b = facet_normals(nodes, quads_b)
    facing = np.einsum("ij,ij->i", normals[couples[:, 0]], normals_b[couples[:, 1]]) < LEAST_OPPOSITION
    return np.asarray(couples[facing])


@njit(cache=True)
def _clip(subject, count, ax, ay, bx, by, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """Part of a convex polygon left of the line a → b (Sutherland and Hodgman 1974)."""
    n = 0
    for i in range(count):
        j = (i + 1) % count
        si = (bx - ax) * (subject[i, 1] - ay) - (by - ay) * (subject[i, 0] - ax)
        sj = (bx - ax) * (subject[j, 1] - ay) - (by - ay) * (subject[j, 0] - ax)
        if si >= 0:
            out[n, 0], out[n, 1] = subject[i, 0], subject[i, 1]
            n += 1
        if (si > 0 and sj < 0) or (si < 0 and sj > 0):
            t = si / (si - sj)
            out[n, 0] = subject[i, 0] + t * (subject[j, 0] - subject[i, 0])
            out[n, 1] = subject[i, 1] + t * (subject[j, 1] - subject[i, 1])
            n += 1
    return n


@njit(cache=True)
def _shape(xi, eta, out):  # type: ignore[no-untyped-def] # pragma: no cover
    out[0] = (1 - xi) * (1 - eta) / 4
    out[1] = (1 + xi) * (1 - eta) / 4
    out[2] = (1 + xi) * (1 + eta) / 4
    out[3] = (1 - xi) * (1 + eta) / 4


@njit(cache=True)
def _inverse_bilinear(flat, x, y, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """Shape values of the flat quad at (x, y), by Newton."""
    xi = eta = 0.0
    for _ in range(12):
        _shape(xi, eta, out)
        fx, fy = -x, -y
        for k in range(4):
            fx += out[k] * flat[k, 0]
            fy += out[k] * flat[k, 1]
        ax = (-(1 - eta) * flat[0, 0] + (1 - eta) * flat[1, 0] + (1 + eta) * flat[2, 0] - (1 + eta) * flat[3, 0]) / 4
        ay = (-(1 - eta) * flat[0, 1] + (1 - eta) * flat[1, 1] + (1 + eta) * flat[2, 1] - (1 + eta) * flat[3, 1]) / 4
        bx = (-(1 - xi) * flat[0, 0] - (1 + xi) * flat[1, 0] + (1 + xi) * flat[2, 0] + (1 - xi) * flat[3, 0]) / 4
        by = (-(1 - xi) * flat[0, 1] - (1 + xi) * flat[1, 1] + (1 + xi) * flat[2, 1] + (1 - xi) * flat[3, 1]) / 4
        det = ax * by - ay * bx
        dxi = (-fx * by + fy * bx) / det
        deta = (-ax * fy + ay * fx) / det
        xi += dxi
        eta += deta
        if abs(dxi) + abs(deta) < 1e-13:
            break
    _shape(xi, eta, out)


@njit(cache=True)
def _bulge(arc, point):  # type: ignore[no-untyped-def] # pragma: no cover
    """How far the true round face lies outside its facet at ``point`` (mm); negative round a hole."""
    radius = arc[6]
    if radius == 0.0:
        return 0.0
    away = point - arc[:3]
    away = away - np.dot(away, arc[3:6]) * arc[3:6]
    depth = abs(radius) - np.sqrt(np.dot(away, away))
    return depth if radius > 0 else -depth


@njit(cache=True)
def _on_facet(flat, corners, x, y, linear, full):  # type: ignore[no-untyped-def] # pragma: no cover
    """Linear and full shape values at (x, y) of a flat facet of 3 or 4 corners (6 or 4 nodes)."""
    if corners == 4:
        _inverse_bilinear(flat, x, y, linear)
        full[:4] = linear[:4]
        return
    ux, uy = flat[1, 0] - flat[0, 0], flat[1, 1] - flat[0, 1]
    vx, vy = flat[2, 0] - flat[0, 0], flat[2, 1] - flat[0, 1]
    det = ux * vy - uy * vx
    linear[1] = ((x - flat[0, 0]) * vy - (y - flat[0, 1]) * vx) / det
    linear[2] = (ux * (y - flat[0, 1]) - uy * (x - flat[0, 0])) / det
    linear[0] = 1 - linear[1] - linear[2]
    for k in range(3):
        full[k] = linear[k] * (2 * linear[k] - 1)
        full[3 + k] = 4 * linear[k] * linear[(k + 1) % 3]


@njit(cache=True)
def _integrate(sides, within, rule, sums):  # type: ignore[no-untyped-def] # pragma: no cover
    """Fill in ``sums`` for facets of three or four corners; gives the least gap within the search."""
    nodes, quads_a, quads_b, normals, candidates, arcs_a, arcs_b = sides
    search, reach, finding = within
    near, mass, own, gap, mixed = sums
    least = np.inf
    nodes_a, nodes_b = quads_a.shape[1], quads_b.shape[1]
    corners_a, corners_b = 3 if nodes_a == 6 else 4, 3 if nodes_b == 6 else 4
    poly, other = np.empty((16, 2)), np.empty((16, 2))
    flat_a, flat_b = np.empty((4, 2)), np.empty((4, 2))
    line_a, line_b, shape_a, shape_b = np.empty(4), np.empty(4), np.empty(6), np.empty(6)
    for c in range(len(candidates)):
        facet = candidates[c, 0]
        qa, qb, n = quads_a[facet], quads_b[candidates[c, 1]], normals[facet]
        origin = np.zeros(3)
        for k in range(corners_a):
            origin += nodes[qa[k]] / corners_a
        e1 = nodes[qa[1]] - nodes[qa[0]]
        e1 = e1 - np.dot(e1, n) * n
        e1 = e1 / np.sqrt(np.dot(e1, e1))
        e2 = np.cross(n, e1)
        for k in range(corners_a):
            flat_a[k, 0] = np.dot(nodes[qa[k]] - origin, e1)
            flat_a[k, 1] = np.dot(nodes[qa[k]] - origin, e2)
        for k in range(corners_b):
            flat_b[k, 0] = np.dot(nodes[qb[k]] - origin, e1)
            flat_b[k, 1] = np.dot(nodes[qb[k]] - origin, e2)
        count = corners_a
        poly[:corners_a] = flat_a[:corners_a]
        for k in range(corners_b):
            # B faces A, so its outline runs clockwise in this plane: take its edges backwards.
            i, j = corners_b - 1 - k, (2 * corners_b - 2 - k) % corners_b
            count = _clip(poly, count, flat_b[i, 0], flat_b[i, 1], flat_b[j, 0], flat_b[j, 1], other)
            poly[:count] = other[:count]
            if count < 3:
                break
        if count < 3:
            continue
        full = 0.0
        for k in range(corners_a):
            m = (k + 1) % corners_a
            full += (flat_a[k, 0] * flat_a[m, 1] - flat_a[k, 1] * flat_a[m, 0]) / 2
        for t in range(1, count - 1):
            ux, uy = poly[t, 0] - poly[0, 0], poly[t, 1] - poly[0, 1]
            vx, vy = poly[t + 1, 0] - poly[0, 0], poly[t + 1, 1] - poly[0, 1]
            area = (ux * vy - uy * vx) / 2
            if area < LEAST_SHARE * full:
                continue
            for g in range(len(rule)):
                x = poly[0, 0] + rule[g, 0] * ux + rule[g, 1] * vx
                y = poly[0, 1] + rule[g, 0] * uy + rule[g, 1] * vy
                _on_facet(flat_a, corners_a, x, y, line_a, shape_a)
                _on_facet(flat_b, corners_b, x, y, line_b, shape_b)
                distance = 0.0
                for d in range(3):
                    for k in range(nodes_b):
                        distance += shape_b[k] * nodes[qb[k], d] * n[d]
                    for k in range(nodes_a):
                        distance -= shape_a[k] * nodes[qa[k], d] * n[d]
                if arcs_a[facet, 6] != 0.0 or arcs_b[candidates[c, 1], 6] != 0.0:
                    on_a = origin + x * e1 + y * e2
                    distance -= _bulge(arcs_a[facet], on_a) + _bulge(arcs_b[candidates[c, 1]], on_a + distance * n)
                if finding:
                    near[facet] = near[facet] or abs(distance) <= search
                    continue
                if not near[facet] or abs(distance) > reach[facet]:
                    continue
                if abs(distance) <= search:
                    least = min(least, distance)
                weight = area * rule[g, 2]
                for k in range(corners_a):
                    gap[facet, k] += weight * line_a[k] * distance
                    for m in range(corners_a):
                        mass[facet, k, m] += weight * line_a[k] * line_a[m]
                    for m in range(nodes_a):
                        own[facet, k, m] += weight * line_a[k] * shape_a[m]
                    for m in range(nodes_b):
                        mixed[c, k, m] += weight * line_a[k] * shape_b[m]
    return least


@njit(cache=True)
def _integrate_edges(sides, within, rule, thickness, sums):  # type: ignore[no-untyped-def] # pragma: no cover
    """The same for edges of sections, with the full turn about the y axis where ``thickness`` is zero."""
    nodes, edges_a, edges_b, normals, candidates, arcs_a, arcs_b = sides
    search, reach, finding = within
    near, mass, own, gap, mixed = sums
    least = np.inf
    n_a, n_b = edges_a.shape[1], edges_b.shape[1]
    shape_a, shape_b = np.empty(3), np.empty(3)
    for c in range(len(candidates)):
        ea, eb, n = edges_a[candidates[c, 0]], edges_b[candidates[c, 1]], normals[candidates[c, 0]]
        a0, a1, b0, b1 = nodes[ea[0]], nodes[ea[1]], nodes[eb[0]], nodes[eb[1]]
        length = np.sqrt(np.sum((a1 - a0) ** 2))
        along = (a1 - a0) / length
        s0, s1 = np.dot(b0 - a0, along) / length, np.dot(b1 - a0, along) / length
        low, high = max(0.0, min(s0, s1)), min(1.0, max(s0, s1))
        if high - low < LEAST_SHARE:
            continue
        facet = candidates[c, 0]
        for g in range(len(rule)):
            s = low + rule[g, 0] * (high - low)
            _on_edge(s, n_a, shape_a)
            _on_edge((s - s0) / (s1 - s0), n_b, shape_b)
            line_a = (1 - s, s)
            on_a, on_b = np.zeros(3), np.zeros(3)
            for k in range(n_a):
                on_a += shape_a[k] * nodes[ea[k]]
            for k in range(n_b):
                on_b += shape_b[k] * nodes[eb[k]]
            distance = np.dot(on_b - on_a, n)
            distance -= _bulge(arcs_a[facet], on_a) + _bulge(arcs_b[candidates[c, 1]], on_b)
            if finding:
                near[facet] = near[facet] or abs(distance) <= search
                continue
            if not near[facet] or abs(distance) > reach[facet]:
                continue
            if abs(distance) <= search:
                least = min(least, distance)
            width = thickness if thickness > 0 else 2 * np.pi * on_a[0]
            weight = rule[g, 1] * (high - low) * length * width
            for k in range(2):
                gap[facet, k] += weight * line_a[k] * distance
                for m in range(2):
                    mass[facet, k, m] += weight * line_a[k] * line_a[m]
                for m in range(n_a):
                    own[facet, k, m] += weight * line_a[k] * shape_a[m]
                for m in range(n_b):
                    mixed[c, k, m] += weight * line_a[k] * shape_b[m]
    return least


@njit(cache=True)
def _on_edge(s, count, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """Shape values of an edge of 2 or 3 nodes (ends, then middle) at the share ``s`` of its length."""
    if count == 2:
        out[0], out[1] = 1 - s, s
        return
    out[0], out[1], out[2] = (1 - s) * (1 - 2 * s), s * (2 * s - 1), 4 * s * (1 - s)
