"""Loose motions: rigid motions of the parts that no support and no pair stops."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.asked import of_motion, of_support
from ulmek.core.axes import Axes, axes_at
from ulmek.core.contact.interface import PairInterface
from ulmek.core.contact.laws import Status
from ulmek.core.errors import LooseError
from ulmek.core.layout import lay_out
from ulmek.core.model import Model

Array = NDArray[np.float64]

MOTIONS = ("along x", "along y", "along z", "turning about x", "turning about y", "turning about z")
# Rigid motions are null when their share of the largest constraint is below this (rounding is 1e-15).
NULL = 1e-10
# Loads push along a free motion when this share of them does.
PUSHED = 1e-3
# A pair slides all over when this share of what touches does.
SLIDES = 0.95


@dataclass(frozen=True)
class LooseMotion:
    """A body that can move, and how: entries of `MOTIONS`, or one combined motion.

    direction (6,): a sample rigid motion, three translations (mm) and three turns (rad, about the
    body's middle), scaled so that the largest motion in the body is 1 mm.
    """

    body: str
    motions: tuple[str, ...]
    direction: tuple[float, ...]


def loose_motions(
    model: Model, interfaces: list[PairInterface], *, touching: float, with_friction: bool = True,
    push: Array | None = None,
) -> list[LooseMotion]:  # fmt: skip
    """Motions that nothing stops, treating closed pairs as holding in both senses.

    A contact node holds along its normal when its gap is at most ``touching`` (mm) or the pair
    may not open; tangentially when its law resists sliding (friction only if ``with_friction``). push (n_nodes, 3) N:
    what pushes the parts; of free motions the sample is the one that it drives.
    """
    centres, sizes = _frames(model)
    gram = np.zeros((6 * len(centres), 6 * len(centres)))
    _hold_supports(model, centres, sizes, gram)
    for interface in interfaces:
        _hold_pair(model, interface, centres, sizes, gram, touching, with_friction)
    values, vectors = np.linalg.eigh(gram)
    null = vectors[:, values < NULL * max(float(values.max()), 1e-300)]
    found = []
    for i, body in enumerate(model.bodies):
        block = null[6 * i : 6 * i + 6]
        if not block.size or np.abs(block).max() < 1e-6:
            continue
        here = slice(*model.offsets()[i : i + 2])
        pushed = np.zeros(6)
        if push is not None:
            turning = np.cross(model.nodes()[here] - centres[i], push[here]).sum(axis=0)
            pushed = np.concatenate([push[here].sum(axis=0), turning / sizes[i]])
        found.append(_describe(body.name, block, float(sizes[i]), pushed))
    return found


def set_free(
    model: Model,
    interfaces: tuple[PairInterface, ...],
    status: NDArray[np.int64],
    pair: NDArray[np.int64],
    push: Array,
) -> list[LooseMotion]:
    """Motions that nothing stops in a state of contact: what has come apart holds nothing, a pair that slides all over
    holds along its normals alone. status, pair (n_contact,): state and pair of each contact node. push (n_nodes, 3) N:
    loads, which way they push is how the parts go.
    """  # fmt: skip
    seen = []
    for index, interface in enumerate(interfaces):
        here = status[pair == index]
        area = interface.area
        closed = here != Status.OPEN
        slides = area[here == Status.SLIDING].sum() > SLIDES * area[closed].sum()
        law = replace(interface.pair.law, may_slide="freely") if slides else interface.pair.law
        # `loose_motions` goes by gaps: those that are open are far.
        gap = np.where(closed, 0.0, np.inf)
        seen.append(replace(interface, gap=gap, pair=replace(interface.pair, law=law)))
    return loose_motions(model, seen, touching=0.0, push=push)


def named_loose(model: Model, interfaces: tuple[PairInterface, ...]) -> LooseError:
    """The error for a singular stiffness: which parts can move, and how, even if every pair within its search held."""
    wide = max((pair.search for pair in model.pairs), default=0.0)
    found = loose_motions(model, list(interfaces), touching=wide)
    what = "; ".join(f"'{m.body}' can move {', '.join(m.motions)}" for m in found)
    error = LooseError(
        f"the assembly is not held even with every pair sticking: {what or 'the stiffness is singular'}.",
        where=f"parts/{found[0].body.split('#')[0]}" if found else "",
        hint="Add a support, or a pair that stops this.",
    )
    error.mechanism = tuple((m.body, m.direction) for m in found)
    return error


def _describe(name: str, block: Array, size: float, pushed: Array) -> LooseMotion:
    u, s, _ = np.linalg.svd(block, full_matrices=False)
    span = u[:, s > 1e-6]
    free = [k for k in range(6) if np.linalg.norm(span[k]) > 1 - 1e-6]
    motions = tuple(MOTIONS[k] for k in free) or ("a combined slide and turn",)
    direction = np.zeros(6)
    direction[free[0] if free else 0] = 1.0
    if not free:
        direction = span[:, 0] / np.abs(span[:, 0]).max()
    along = span @ (span.T @ pushed)
    if np.linalg.norm(along) > PUSHED * np.linalg.norm(pushed):
        direction = along / np.abs(along).max()
    direction[3:] /= size
    return LooseMotion(name, motions, tuple(float(d) for d in direction))


def _frames(model: Model) -> tuple[Array, Array]:
    """Middle and half size of all bodies, then of all handles (each a point of size 1 mm)."""
    boxes = [(b.mesh.nodes.min(axis=0), b.mesh.nodes.max(axis=0)) for b in model.bodies]
    centres = [(low + high) / 2 for low, high in boxes] + [np.array(h.at) for h in model.handles]
    sizes = [float(np.linalg.norm(high - low)) / 2 for low, high in boxes] + [1.0] * len(model.handles)
    return np.array(centres), np.array(sizes)


def _rigid_rows(directions: Array, points: Array, centre: Array, size: float) -> Array:
    """Motion along ``directions`` (n, 3) at ``points`` for the six rigid unknowns, turns scaled by size."""
    arm = points - centre
    return np.hstack([directions, np.cross(arm, directions) / size])


def _add(gram: Array, index: int, rows: Array) -> None:
    gram[6 * index : 6 * index + 6, 6 * index : 6 * index + 6] += rows.T @ rows


def _hold_supports(model: Model, centres: Array, sizes: Array, gram: Array) -> None:
    layout, offsets = lay_out(model), model.offsets()
    handles = {h.name: len(model.bodies) + i for i, h in enumerate(model.handles)}
    first = min(layout.handles.values(), default=layout.n_total)
    asked = [of_support(model, layout, support) for support in model.supports]
    # What moves a mean away from a line leaves all rigid motions to it.
    means = {h.name for h in model.handles if h.kind == "radial"}
    asked += [of_motion(model, layout, ld) for ld in model.loads if ld.prescribes and ld.handle not in means]
    for one in asked:
        on_handle = one.triple >= first
        owner = np.searchsorted(offsets, one.triple, side="right") - 1
        owner[on_handle] = len(model.bodies) + (one.triple[on_handle] - first) // 2
        for i in np.unique(owner).tolist():
            at = owner == i
            rows = _rigid_rows(one.direction[at], layout.positions[one.triple[at]], centres[i], float(sizes[i]))
            turns = layout.is_turn[one.triple[at]]
            rows[turns] = np.hstack([np.zeros((turns.sum(), 3)), one.direction[at][turns]])
            _add(gram, i, rows if i >= len(model.bodies) else rows / np.sqrt(len(rows)))
    _hold_handles(model, centres, sizes, gram, handles)
    if model.space != "solid":
        flat = [0, 2, 3, 4, 5] if model.space == "axisymmetric" else [2, 3, 4]
        for i in range(len(centres)):
            _add(gram, i, np.eye(6)[flat])


def _hold_handles(model: Model, centres: Array, sizes: Array, gram: Array, handles: dict[str, int]) -> None:
    """Handles move with their faces' bodies; springs hold each component that they have, links theirs, and lines that
    only pull hold along their axis."""

    def motion(index: int, point: Array, axes: Array) -> Array:
        """Six components at a point (rows), along ``axes``, for the six rigid unknowns of ``index``."""
        return np.vstack(
            [
                _rigid_rows(axes, np.tile(point, (3, 1)), centres[index], float(sizes[index])),
                np.hstack([np.zeros((3, 3)), axes / sizes[index]]),
            ]
        )

    def couple(
        a: int, b: int | None, components: NDArray[np.int64], point: Array, along: Axes | None = None
    ) -> None:  # fmt: skip
        rows, axes = np.zeros((len(components), len(gram))), axes_at(along, point[None])[0]
        rows[:, 6 * a : 6 * a + 6] = motion(a, point, axes)[components]
        if b is not None:
            rows[:, 6 * b : 6 * b + 6] -= motion(b, point, axes)[components]
        gram[:] += rows.T @ rows

    for handle in model.handles:
        for body in handle.bodies if handle.kind != "radial" else ():
            couple(handles[handle.name], model.body_index(body), np.arange(6), np.array(handle.at))
    for spring in model.springs:
        holds = np.flatnonzero([k > 0 for k in (*spring.stiffness, *spring.turning)])
        other = handles[spring.b] if spring.b is not None else None
        couple(handles[spring.a], other, holds, centres[handles[spring.a]], spring.axes)
    for bolt in model.bolts:
        if bolt.head is not None:
            foot = handles[bolt.foot] if bolt.foot is not None else None
            along = Axes.along(bolt.axis)
            couple(handles[bolt.head], foot, np.array([0]), centres[handles[bolt.head]], along)
    for link in model.links:
        chosen = np.flatnonzero(link.components)
        couple(handles[link.b], handles[link.a], chosen, centres[handles[link.b]], link.axes)


def _hold_pair(
    model: Model,
    interface: PairInterface,
    centres: Array,
    sizes: Array,
    gram: Array,
    touching: float,
    with_friction: bool,
) -> None:
    """Contact nodes that hold, each between its own body and what is across: another body, or what moves a wall."""
    law = interface.pair.law
    holds = np.ones(len(interface.node), bool) if not law.may_open else interface.gap <= touching
    tangential = law.may_slide == "no" or (law.has_tangents and with_friction)
    nodes, offsets = model.nodes(), model.offsets()
    own = np.searchsorted(offsets, interface.node, side="right") - 1
    across = _across(model, interface, own)
    if interface.pair.wall is None:
        holds &= across >= 0
    directions = interface.frame if tangential else interface.frame[:, 2:]
    for a, b in {(int(a), int(b)) for a, b in zip(own[holds], across[holds], strict=True)}:
        at = np.flatnonzero(holds & (own == a) & (across == b))
        points = np.repeat(nodes[interface.node[at]], directions.shape[1], axis=0)
        along = directions[at].reshape(-1, 3)
        rows = [_rigid_rows(along, points, centres[a], float(sizes[a]))]
        pick = [*range(6 * a, 6 * a + 6)]
        if b >= 0:
            rows.append(-_rigid_rows(along, points, centres[b], float(sizes[b])))
            pick += range(6 * b, 6 * b + 6)
        both = np.hstack(rows)
        gram[np.ix_(pick, pick)] += both.T @ both / len(interface.node)


def _across(model: Model, interface: PairInterface, own: NDArray[np.int64]) -> NDArray[np.int64]:
    """What is across of each contact node: the body that carries most of its row's B side, or the handle that moves
    the wall (numbered after the bodies); -1 for the ground, or nothing."""
    if interface.pair.wall is not None:
        wall = next(w for w in model.walls if w.name == interface.pair.wall)
        handle = next((len(model.bodies) + i for i, h in enumerate(model.handles) if h.name == wall.handle), -1)
        return np.full(len(own), handle)
    entries = interface.rows[2::3].tocoo()
    owners = np.searchsorted(model.offsets(), entries.col // 3, side="right") - 1
    weight = np.where(owners == own[entries.row], 0.0, np.abs(entries.data))
    across = np.full(len(own), -1)
    # In the order of their weight, so that the heaviest of each row is written last.
    order = np.argsort(weight, kind="stable")
    order = order[weight[order] > 0]
    across[entries.row[order]] = owners[order]
    return across
