"""Size field: the wanted element size at every point of an outline."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree
from shapely import contains_xy, unary_union

from ulmek.core.geometry.bent import BentSolid
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.outline import Partition, Region
from ulmek.core.geometry.recipes.recipe import Solid
from ulmek.core.mesh.counts import ROUNDING, enough, nearest_count
from ulmek.core.mesh.runs import smooth_runs

# Neighbouring elements then differ by at most about a third (measured on plates with holes).
GROWTH = 0.12
NO_SPOTS = np.zeros((0, 4))
# Elements along the diagonal of a new part, and across the mean width of its outline.
ALONG, ACROSS = 25, 2
# Elements that a new part begins with, about, and the height of those of a long bar over the size.
FIRST_BUDGET, TALL = 8000, 3.0
# Boundary points face each other when their way along the boundary is this many times their distance; samples of
# one segment at most; a gap asks for no less than this share of the size.
FACING, MOST_SAMPLES, LEAST_SHARE = 3.0, 400, 0.05
# Factor between the sizes of gaps.
GRADES = 1.25
# Elements to the turn of a new part: chords then cut 0.3 % off a round area.
PER_TURN_OF_NEW = 48


def suggested_mesh(solid: Solid) -> tuple[float, int | None]:
    """Element size (mm) that a new part begins with, and the layers of a long bar (None: by the size)."""
    points = np.vstack([s.polyline() for s in solid.partition.segments])
    shapes = {r.name: r.polygon() for r in solid.partition.regions}
    if isinstance(solid, LayeredSolid):
        height = solid.layers[-1].top - solid.layers[0].bottom
        extent = float(np.linalg.norm([*np.ptp(points, axis=0), height]))
        wholes = [unary_union([shapes[name] for name in layer.regions]) for layer in solid.layers]
        bar = height > 2 * extent / ALONG * TALL and len(solid.layers) == 1
    elif isinstance(solid, BentSolid):
        extent, height = float("inf"), 0.0
        wholes, bar = [unary_union(list(shapes.values()))], False
    else:
        extent = float(np.linalg.norm([2 * points[:, 0].max(), np.ptp(points[:, 1])]))
        height, wholes, bar = 0.0, [unary_union(list(shapes.values()))], False
    width = min(2 * whole.area / whole.length for whole in wholes)
    room = solid.volume() / FIRST_BUDGET / (TALL if bar else 1.0)
    size = float(f"{min(max(min(extent / ALONG, width / ACROSS), room ** (1 / 3)), width):.2g}")
    return size, max(2, nearest_count(height / (TALL * size))) if bar else None


@dataclass(frozen=True)
class SizeField:
    """``h(x) = min(largest, min_k(h_k + GROWTH · |x − x_k|))``."""

    largest: float
    places: NDArray[np.float64]
    sizes: NDArray[np.float64]

    def __call__(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Size at ``points`` (n, 2) or (n, 3), as places are, mm."""
        h = np.full(len(points), self.largest)
        for size in np.unique(self.sizes):
            tree = cKDTree(self.places[self.sizes == size])
            h = np.minimum(h, size + GROWTH * tree.query(points)[0])
        return h


def size_field(
    partition: Partition,
    *,
    largest: float,
    per_turn: int,
    face_sizes: dict[str, float],
    spots: NDArray[np.float64] = NO_SPOTS[:, :3],
) -> SizeField:
    """Sources on arcs (``per_turn`` elements a turn), on smooth runs of arcs, on segments named in ``face_sizes`` (mm),
    where boundaries come close, and at ``spots`` (k, 3): x, y and size."""
    near, across = narrow_places(partition, largest)
    places, sizes = [spots[:, :2], near], [spots[:, 2], across]
    # What takes several arcs to follow takes an element for each.
    runs = [(run, sum(partition.segments[i].length for i in run) / len(run)) for run in smooth_runs(partition)]
    followed = {i: size for run, size in runs if len(run) > 1 for i in run}
    for number, segment in enumerate(partition.segments):
        wanted = min(face_sizes.get(segment.name, np.inf), followed.get(number, np.inf))
        if segment.centre is not None:
            wanted = min(wanted, 2 * np.pi * segment.radius / per_turn)
        if wanted < largest * (1 - ROUNDING):
            n = max(2, enough(segment.length / wanted))
            places.append(segment.points(np.linspace(0, 1, n + 1)))
            sizes.append(np.full(n + 1, wanted))
    return SizeField(largest, np.vstack(places), np.concatenate(sizes))


def narrow_places(partition: Partition, largest: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Boundary points (k, 2) that face another part of their region's boundary closely, and sizes (k,) that put
    `ACROSS` elements between them (mm).
    """
    places, sizes = [np.zeros((0, 2))], [np.zeros(0)]
    for region in partition.regions:
        if region.pattern != "paved":
            continue
        points, loop_of, along, length = _walked(region, largest / 3)
        pairs = cKDTree(points).query_pairs(ACROSS * largest * (1 + ROUNDING), output_type="ndarray")
        if not len(pairs):
            continue
        a, b = pairs.T
        apart = np.linalg.norm(points[a] - points[b], axis=1)
        walk = np.abs(along[a] - along[b])
        walk = np.minimum(walk, length[loop_of[a]] - walk)
        # On one loop only what lies far along the boundary faces each other; a corner does not.
        faces = (loop_of[a] != loop_of[b]) | (walk > FACING * apart * (1 + ROUNDING))
        a, b, apart = a[faces], b[faces], apart[faces]
        inside = contains_xy(region.polygon(), *((points[a] + points[b]) / 2).T)
        a, b, apart = a[inside], b[inside], apart[inside]
        # Few different sizes: every one costs the field a search tree.
        wanted = largest * GRADES ** np.floor(np.log(apart / ACROSS / largest) / np.log(GRADES) + ROUNDING)
        for ends in (a, b):
            places.append(points[ends])
            sizes.append(np.maximum(wanted, largest * LEAST_SHARE))
    return np.vstack(places), np.concatenate(sizes)


def _walked(
    region: Region, step: float
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64], NDArray[np.float64]]:
    """Points (k, 2) every ``step`` along all loops, their loop (k,), way along it (k,), and lengths of the loops."""
    points, loop_of, along, lengths = [], [], [], []
    for number, loop in enumerate((region.outer, *region.holes)):
        way = 0.0
        for segment in loop:
            n = min(max(2, enough(segment.length / step)), MOST_SAMPLES)
            t = np.arange(n) / n
            points.append(segment.points(t))
            along.append(way + t * segment.length)
            loop_of.append(np.full(n, number))
            way += segment.length
        lengths.append(way)
    return np.vstack(points), np.concatenate(loop_of), np.concatenate(along), np.array(lengths)
