"""Size field: the wanted element size at every point of an outline."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.geometry.outline import Partition

# Neighbouring elements then differ by at most about a third (measured on plates with holes).
GROWTH = 0.12
NO_SPOTS = np.zeros((0, 4))


@dataclass(frozen=True)
class SizeField:
    """``h(x) = min(largest, min_k(h_k + GROWTH · |x − x_k|))``."""

    largest: float
    places: NDArray[np.float64]
    sizes: NDArray[np.float64]

    def __call__(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Size at ``points`` (n, 2), mm."""
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
    """Sources on arcs (``per_turn`` elements a turn), on segments named in ``face_sizes`` (mm), and at
    ``spots`` (k, 3): x, y and size."""
    places, sizes = [spots[:, :2]], [spots[:, 2]]
    for segment in partition.segments:
        wanted = face_sizes.get(segment.name, np.inf)
        if segment.centre is not None:
            wanted = min(wanted, 2 * np.pi * segment.radius / per_turn)
        if wanted < largest:
            n = max(2, int(np.ceil(segment.length / wanted)))
            places.append(segment.points(np.linspace(0, 1, n + 1)))
            sizes.append(np.full(n + 1, wanted))
    return SizeField(largest, np.vstack(places), np.concatenate(sizes))
