"""Where a mesh has to be finer for what is read on it, and how fine."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.element.family import FAMILIES
from ulmek.core.mesh.size import GROWTH
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Model
from ulmek.core.review.pair_fields import pair_fields
from ulmek.core.review.recover import Recovered, von_mises
from ulmek.core.review.singular import SingularPlace
from ulmek.core.review.summary import Judged, Summary
from ulmek.core.review.trust import PEAK, Band, Known
from ulmek.core.solve.history import Increment, Path

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Stress that may be as high as this share of the highest may be the highest on the next mesh.
RIVAL = 0.9
# Sizes of the next mesh over those of this one: at a place of doubt, at most and at least, and where a contact
# has too few elements across.
FINEST, COARSEST, FEW_ACROSS = 0.35, 0.7, 0.25
# Elements across what presses that are aimed at, above those that its peak takes.
ACROSS_AIM = 9
# Where the elements disagree by more energy than this share of all, those that hold the first of it are made finer.
ENERGY, FIRST_OF_IT, BY_ENERGY = 0.02, 0.5, 0.6
# Sizes that differ by less than this factor need no point of their own, and by how much more where there are too many.
ALIKE, MORE_ALIKE = 1.25, 1.25
# Tetrahedra that are cut from a brick. Layers of a sweep matter where what is measured varies through one by more than
# this share of what it does across an element.
OF_A_BRICK, VARIES = 24, 0.3


@dataclass(frozen=True)
class RunEnd:
    """Where a run came to: what is read there, and what it takes to say where it is read."""

    path: Path
    increment: Increment
    fields: Recovered
    known: Known
    summary: Summary

    @cached_property
    def judged(self) -> Judged:
        """Its stress as it is judged."""
        return Judged(self.path.model, self.increment, self.fields, von_mises(self.fields.stress), self.known)


@dataclass(frozen=True)
class Doubt:
    """A place of what is measured: nodes (k,) of all bodies, the size (k,) mm that elements should have there, and the
    size (mm) that they have where it is highest. use: the highest use of strength, where it is measured by that.
    beside: the singular place where it is higher still."""

    nodes: Ids
    sizes: Array
    now: float
    use: float | None = None
    beside: SingularPlace | None = None


def size_at_nodes(model: Model) -> Array:
    """Size (n_nodes,) mm of the elements around each node: the edge of a cube, square or regular simplex as large."""
    return np.concatenate([_sizes(body.mesh) for body in model.bodies])


def _sizes(mesh: VolumeMesh) -> Array:
    measure = _measures(mesh)
    family = FAMILIES[mesh.kind]
    if family.is_simplex:
        measure = measure * (6 * np.sqrt(2) if family.dim == 3 else 4 / np.sqrt(3))
    size, count = np.zeros(len(mesh.nodes)), np.zeros(len(mesh.nodes))
    np.add.at(size, mesh.cells, np.broadcast_to(measure[:, None] ** (1 / family.dim), mesh.cells.shape))
    np.add.at(count, mesh.cells, 1.0)
    return np.asarray(size / np.maximum(count, 1.0))


def _measures(mesh: VolumeMesh) -> Array:
    """Volume (m,) mm³ of each element, or area mm² of one of a section."""
    family = FAMILIES[mesh.kind]
    jacobian = np.einsum("gnd,mnx->mgdx", family.gradient, mesh.nodes[mesh.cells][:, :, : family.dim])
    return np.asarray(np.linalg.det(jacobian) @ family.rule)


@dataclass(frozen=True)
class Swept:
    """Nodes (n,) of a swept mesh: size (mm) of the elements around each across the sweep, height of its layers there,
    and whether what is measured varies along the sweep so that its layers matter."""

    across: Array
    high: Array
    varies: NDArray[np.bool_]


def swept_around(mesh: VolumeMesh, axis: Array, values: Array) -> Swept:
    """How large the elements of a mesh that is swept along ``axis`` (3,) are around its nodes, and where ``values``
    (n,) vary along it."""
    cells, z, volume = mesh.cells, mesh.nodes @ axis, _measures(mesh)
    heights = z[cells]
    if mesh.kind == "tet":
        # 24 of them are cut from each brick, in the order of `split_bricks`.
        bricks = heights.reshape(OF_A_BRICK, -1, cells.shape[1])
        high = np.tile(np.ptp(bricks.transpose(1, 0, 2).reshape(bricks.shape[1], -1), axis=1), OF_A_BRICK)
        volume = np.tile(volume.reshape(OF_A_BRICK, -1).sum(axis=0), OF_A_BRICK)
    else:
        high = np.ptp(heights, axis=1)
        sorted_cells = np.sort(cells, axis=1)
        # Wedges, halves of bricks, name some nodes twice.
        volume = np.where((np.diff(sorted_cells, axis=1) == 0).any(axis=1), 2.0, 1.0) * volume
    across = np.sqrt(volume / high)
    # The plane that fits the values of each element best.
    arms = mesh.nodes[cells] - mesh.nodes[cells].mean(axis=1, keepdims=True)
    spread = np.einsum("mci,mcj->mij", arms, arms)
    slope = np.linalg.solve(spread, np.einsum("mci,mc->mi", arms, values[cells])[..., None])[..., 0]
    along = slope @ axis
    aside = np.linalg.norm(slope - along[:, None] * axis, axis=1) * across
    along = np.abs(along) * high
    of_cells = np.zeros((len(mesh.nodes), 5))
    np.add.at(of_cells, cells, np.column_stack([across, high, along, aside, np.ones(len(cells))])[:, None])
    count = np.maximum(of_cells[:, 4], 1.0)
    return Swept(of_cells[:, 0] / count, of_cells[:, 1] / count, of_cells[:, 2] > VARIES * of_cells[:, 3])


Reach = dict[str, float]


def reach_of(end: RunEnd) -> Reach:
    """How far (mm) singular places reach by their keys: one element of this mesh."""
    size = size_at_nodes(end.path.model)
    return {place.key: float(size[place.nodes].max()) for place in end.judged.places}


def within_reach(end: RunEnd, reach: Reach) -> NDArray[np.bool_]:
    """Nodes (n_nodes,) within the reach of a singular place, which is the same on every mesh."""
    nodes, out = end.path.model.nodes(), np.zeros(len(end.judged.mises), bool)
    for place in end.judged.places:
        far = reach.get(place.key, 0.0)
        away, _ = cKDTree(nodes[place.nodes]).query(nodes, distance_upper_bound=far * (1 + 1e-9))
        out |= np.isfinite(away)
    return out


def stress_doubt(end: RunEnd, at: Ids, *, within: float, left_out: NDArray[np.bool_] | None) -> Doubt | None:
    """Where among nodes ``at`` the highest use of strength is or may be; None where none has a strength.
    ``within``: the share by which it may be off; ``left_out`` (n_nodes,): nodes that do not count."""
    judged = end.judged
    at = at[np.isfinite(judged.strength[at])]
    here = at if left_out is None else at[~left_out[at]]
    if not len(here):
        return None
    use, off = judged.mises[here] / judged.strength[here], judged.error[here] / judged.strength[here]
    top = float(use.max())
    rivals = use + off >= RIVAL * top
    size = size_at_nodes(end.path.model)
    rival = here[rivals]
    factor = _by_doubt(off[rivals] / max(top, 1e-300), within)
    highest = int(at[(judged.mises[at] / judged.strength[at]).argmax()])
    beside = next(
        (p for p in judged.places if left_out is not None and left_out[highest] and highest in p.around), None
    )
    return Doubt(rival, factor * size[rival], float(size[here[use.argmax()]]), top, beside)


def pair_doubt(end: RunEnd, index: int, *, within: float, band: Band | None, across: int | None) -> Doubt | None:
    """Where pair number ``index`` presses hardest or as wide as it does, for its peak with its ``band`` and elements
    ``across``; None where nothing presses."""
    model = end.path.model
    nodes, pressure, _ = _on_pair(end, index)
    if not (pressure > 0).any():
        return None
    size = size_at_nodes(model)
    now = float(size[nodes[pressure.argmax()]])
    if across is not None:
        pressed = nodes[pressure > 0]
        factor = max(across / ACROSS_AIM, FEW_ACROSS) if across < ACROSS_AIM else COARSEST
        return Doubt(pressed, np.full(len(pressed), factor * now), now)
    peak = nodes[pressure >= PEAK * pressure.max()]
    return Doubt(peak, _by_doubt(np.array(_spread(band)), within) * size[peak], now)


def sliding_doubt(end: RunEnd, index: int, *, within: float, band: Band | None) -> Doubt | None:
    """Where pair number ``index`` slides furthest; None where nothing slides."""
    nodes, pressure, sliding = _on_pair(end, index)
    slides = np.where(pressure > 0, sliding, 0.0)
    if not (slides > 0).any():
        return None
    size = size_at_nodes(end.path.model)
    most = nodes[slides >= PEAK * slides.max()]
    return Doubt(most, _by_doubt(np.array(_spread(band)), within) * size[most], float(size[nodes[slides.argmax()]]))


def is_at_edge(end: RunEnd, index: int) -> bool:
    """Whether pair number ``index`` presses hardest where an edge presses, so that its peak has no value."""
    _, pressure, _ = _on_pair(end, index)
    known = end.known.pairs[index]
    return bool((pressure > 0).any() and known.at_edge[pressure.argmax()])


def energy_doubt(end: RunEnd) -> Doubt | None:
    """Where elements disagree most, by energy; None where all of it is little. Not at singular places, where they
    always do."""
    model = end.path.model
    shear = np.array([b.material.young / (2 * (1 + b.material.poisson)) for b in model.bodies])
    share = np.concatenate([_share_of_nodes(b.mesh) / g for b, g in zip(model.bodies, shear, strict=True)])
    wrong = np.where(end.judged.is_singular, 0.0, end.judged.error**2 * share)
    if wrong.sum() <= ENERGY * float((end.judged.mises**2 * share).sum()):
        return None
    # Per volume: an element twice as large is wrong by more only because it is more.
    order = np.argsort(-wrong / np.maximum(share, 1e-300))
    last = int(np.searchsorted(np.cumsum(wrong[order]), FIRST_OF_IT * wrong.sum())) + 1
    worst, size = order[:last], size_at_nodes(model)
    return Doubt(worst, BY_ENERGY * size[worst], float(size[worst[0]]))


def evenly(end: RunEnd) -> Doubt:
    """Everywhere, where nothing says where."""
    size = size_at_nodes(end.path.model)
    return Doubt(np.arange(len(size)), COARSEST * size, float(size.mean()))


def _share_of_nodes(mesh: VolumeMesh) -> Array:
    out = np.zeros(len(mesh.nodes))
    np.add.at(out, mesh.cells, np.broadcast_to((_measures(mesh) / mesh.cells.shape[1])[:, None], mesh.cells.shape))
    return out


def _on_pair(end: RunEnd, index: int) -> tuple[Ids, Array, Array]:
    """Contact nodes of a pair, among those of all bodies, their pressure (MPa) and sliding (mm)."""
    found = pair_fields(end.path.system.nodes, end.increment, index, end.known.pairs[index])
    return end.increment.state.interfaces[index].node, found.pressure, found.sliding


def _spread(band: Band | None) -> float:
    """Half of a band over its middle; as wide as can be where it has no upper end."""
    if band is None or band[1] is None:
        return 1.0
    return (band[1] - band[0]) / max(band[1] + band[0], 1e-300)


def _by_doubt(off: Array, within: float) -> Array:
    """Size of the next mesh over that of this one: what neighbours disagree by falls with the size, what is read is off
    by the square of it."""
    return np.clip(np.sqrt(within / np.maximum(off, 1e-9)), FINEST, COARSEST)


def covering(points: Array, sizes: Array, most: int) -> Array:
    """Few points (m, 4), x, y, z and size, m ≤ ``most``, whose sizes growing by `GROWTH` are about what is wanted:
    ``sizes`` (n,) mm at ``points`` (n, 3)."""
    order = np.argsort(sizes, kind="stable")
    points, sizes = points[order], sizes[order]
    alike = ALIKE
    while True:
        taken: list[int] = []
        left = np.ones(len(points), bool)
        while left.any() and len(taken) <= most:
            first = int(left.argmax())
            taken.append(first)
            grown = sizes[first] + GROWTH * np.linalg.norm(points - points[first], axis=1)
            left &= grown > alike * sizes
        if not left.any() and len(taken) <= most:
            return np.column_stack([points[taken], sizes[taken]])
        alike *= MORE_ALIKE
