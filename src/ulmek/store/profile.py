"""A field of a pair of a solid along one way over its imprint: around and along its axis where it is round, else around
its middle, outward from it, along and across it."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.mesh.facets import is_edges
from ulmek.store.flat import lay_flat
from ulmek.store.results import ResultReader

Array = NDArray[np.float64]
Way = Literal["around", "outward", "along", "across"]
# Places that differ by less than this share of the whole way are one; where nearly every node has a place of its own,
# they are gathered into so many at most.
ALIKE, MOST_BINS = 1e-3, 72


@dataclass(frozen=True)
class Profile:
    """Along a way: places (k,) in ``unit``, and there the mean over the area and the highest of the values; ways: those
    that the imprint has. Around a flat one places are angles from the direction that is laid to the right."""

    way: Way
    ways: tuple[Way, ...]
    unit: Literal["mm", "°"]
    at: Array
    mean: Array
    highest: Array


def profile(reader: ResultReader, pair: str, values: Array, way: Way | None) -> Profile:
    """Profile of ``values`` (n,) at the contact nodes of a pair; the first way that it has where none is given.

    Raises
    ------
    InputError : the pair is of a section, or has no such way.
    """
    node, facets = reader.pair_patch(pair)
    if is_edges(facets):
        raise InputError("a pair of a section has no imprint.", where="pair", hint="Look along its outline.")
    flat = lay_flat(reader.points(), facets, node)
    middle = flat.points - (flat.points.min(axis=0) + flat.points.max(axis=0)) / 2
    ways: tuple[Way, ...] = ("around", "along") if flat.is_unrolled else ("around", "outward", "along", "across")
    chosen = ways[0] if way is None else way
    if chosen not in ways:
        raise InputError(f"a round imprint has no way '{chosen}'.", where="way", hint=f"It has: {', '.join(ways)}.")
    area = reader.pair_area(pair)
    if flat.is_unrolled:
        place = flat.points[:, ways.index(chosen)]
    elif chosen == "around":
        place = np.degrees(np.arctan2(middle[:, 1], middle[:, 0])) % 360
    elif chosen == "outward":
        place = np.hypot(middle[:, 0], middle[:, 1])
    else:
        longer = int(np.ptp(flat.points[:, 1]) > np.ptp(flat.points[:, 0]))
        place = flat.points[:, longer if chosen == "along" else 1 - longer]
    bins = _bins(place)
    total = np.bincount(bins, area)
    counted = np.bincount(bins)
    highest = np.full(len(total), -np.inf)
    np.maximum.at(highest, bins, values)
    return Profile(
        chosen, ways, "°" if chosen == "around" and not flat.is_unrolled else "mm", np.bincount(bins, place) / counted,
        np.bincount(bins, area * values) / np.maximum(total, 1e-300), highest,
    )  # fmt: skip


def _bins(place: Array) -> NDArray[np.int64]:
    """The bin (n,) of each place, numbered from 0 without gaps."""
    wide = float(np.ptp(place)) or 1.0
    told = np.unique(np.round(place / (ALIKE * wide)).astype(np.int64), return_inverse=True)[1]
    if told.max() + 1 <= 4 * np.sqrt(len(place)):
        return np.asarray(told)
    count = int(min(MOST_BINS, max(6, np.sqrt(len(place)))))
    rough = np.minimum((count * (place - place.min()) / wide).astype(np.int64), count - 1)
    return np.asarray(np.unique(rough, return_inverse=True)[1])
