"""Linear constraints by elimination: ghosts of cut nodes, handles, links, and what is held.

The masters are all triples plus one shortening per bolt. ``u = A m``: rows of masters are unit
rows; a rigid handle's face nodes, an averaging handle, a linked handle and a ghost are combinations of
others. Of a triple that has axes of its own (`core.asked`) the masters are the components along these, while ``u``
is always along the coordinate axes. In large motion the rows of rigid handles follow the turn θ:
``u = u_h + (R(θ) − 1) r``.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.linalg import qr
from scipy.spatial.transform import Rotation

from ulmek.core.asked import Asked, LocalAxes, of_link, of_motion, of_support
from ulmek.core.axes import axes_at
from ulmek.core.coupling.surface import face_sums
from ulmek.core.element.beam import spins_of_vectors
from ulmek.core.errors import InputError
from ulmek.core.layout import Layout
from ulmek.core.model import Handle, Load, Model, Support

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
# Rows of what follows others: led unknown → coefficients of the unknowns that it follows.
Rows = dict[int, dict[int, float]]
# What is asked, by kind and name of what asks.
AllAsked = dict[tuple[str, str], Asked]
# Nodes of faces whose mean can be given: each becomes an unknown of every other. How independent given means must be.
MOST_AVERAGED, LEAST_PIVOT = 2500, 1e-6


@dataclass(frozen=True)
class Rigid:
    """What rigid handles lead: their motion triples (m,), the led nodes (n,), which of the handles leads each (n,), and
    its arm from there (n, 3) mm at rest."""

    handles: Ids
    nodes: Ids
    by: Ids
    arms: Array

    @classmethod
    def of(cls, layout: Layout, led: dict[int, Ids]) -> "Rigid":
        """Of the nodes that are led by each motion triple."""
        handles = np.array(list(led), np.int64)
        by = np.repeat(np.arange(len(led)), [len(nodes) for nodes in led.values()])
        nodes = np.concatenate([np.zeros(0, np.int64), *led.values()])
        return cls(handles, nodes, by, layout.positions[nodes] - layout.positions[handles[by]])

    def turned(self, turns: Array) -> Array:
        """Arms (n, 3) mm when the handles have turned by the vectors ``turns`` (m, 3) rad."""
        if not len(turns):
            return self.arms
        return np.asarray(np.einsum("nij,nj->ni", Rotation.from_rotvec(turns).as_matrix()[self.by], self.arms))

    def rows(self, arms: Array, spins: Array, n_masters: int) -> sp.csr_matrix:
        """Rows ``δu = δu_h + ω × r`` with ``ω = spin δθ`` for arms (n, 3) and spins (m, 3, 3)."""
        cross = np.zeros((len(arms), 3, 3))
        cross[:, 0, 1], cross[:, 0, 2], cross[:, 1, 2] = arms[:, 2], -arms[:, 1], arms[:, 0]
        cross -= np.swapaxes(cross, 1, 2)
        values = np.concatenate([np.ones((len(arms), 3, 1)), cross @ spins[self.by]], axis=2)
        first = 3 * self.handles[self.by]
        turns = np.broadcast_to((first + 3)[:, None, None] + np.arange(3), cross.shape)
        columns = np.concatenate([(first[:, None] + np.arange(3))[:, :, None], turns], axis=2)
        rows = np.repeat((3 * self.nodes[:, None] + np.arange(3)).ravel(), 4)
        out = sp.csr_matrix((values.ravel(), (rows, columns.ravel())), shape=(n_masters, n_masters))
        out.eliminate_zeros()
        return out


@dataclass(frozen=True)
class Constraints:
    """How all triples follow from the masters in one step.

    held (n_masters,): masters whose motion is given. support_of (n_masters,): index of the support that
    holds it, −1 when none. motions (n_masters, n_loads + 1): mm or rad per unit of a load's amount; the
    last column is where supports hold that took hold after something had moved. moved_by (n_masters,): index of the
    load that moves it, −1 when none.
    free: numbers of the free masters, shortenings of the bolts last. rigid: what rigid handles lead. led (3·n_total,):
    what follows something. settled (n_masters, n_masters): rows of what follows something other than a rigid handle.
    driven (n_masters, n_masters): rows of averaging handles that are held or moved, in terms of the
    nodes that they average. axes (n_masters, n_masters): components along the coordinate axes from masters.
    """

    layout: Layout
    matrix: sp.csr_matrix
    held: NDArray[np.bool_]
    support_of: Ids
    moved_by: Ids
    motions: Array
    free: Ids
    n_kept: int
    rigid: Rigid
    led: NDArray[np.bool_]
    settled: sp.csr_matrix
    driven: sp.csr_matrix
    axes: sp.csr_matrix

    def along_coordinates(self, masters: Array) -> Array:
        """Masters, or forces on them, with all triples (3·n_total,) along the coordinate axes."""
        return np.asarray(self.axes @ masters)[: 3 * self.layout.n_total]

    def masters_at(self, u: Array, bolts: Array) -> Array:
        """Masters at displacements ``u`` (3·n_total,) and shortenings of the ``bolts``."""
        return np.asarray(self.axes.T @ np.append(u, bolts))

    def expand(self, masters: Array, *, large: bool) -> Array:
        """Displacements (3·n_total,) for master values."""
        u = np.asarray(self.matrix @ masters)
        if not large or not len(self.rigid.nodes):
            return u
        triples, rigid = u.reshape(-1, 3), self.rigid
        turned = rigid.turned(triples[rigid.handles + 1])
        triples[rigid.nodes] = triples[rigid.handles[rigid.by]] + turned - rigid.arms
        return triples.ravel()

    def tangent(self, masters: Array, *, large: bool) -> sp.csr_matrix:
        """∂u/∂masters (3·n_total, n_masters)."""
        if not large or not len(self.rigid.nodes):
            return self.matrix
        turns = self.along_coordinates(masters).reshape(-1, 3)[self.rigid.handles + 1]
        rows = self.rigid.rows(self.rigid.turned(turns), spins_of_vectors(turns), len(masters))
        return _resolved(self.settled + rows, self.led, self.axes)


def constrain(model: Model, layout: Layout, *, released: frozenset[str] = frozenset()) -> Constraints:
    """Constraints of one step, in which the supports and motions named in ``released`` do not act.

    Raises
    ------
    InputError : the same node is held or led in contradictory ways.
    """
    n, n_bolts = 3 * layout.n_total, len(model.bolts)
    rows: Rows = {}
    led = np.zeros(n, bool)
    _add_ghosts(model, layout, rows, led)
    leads: dict[int, Ids] = {}
    driven: Rows = {}
    asked = _everything_asked(model, layout, released)
    rigid_nodes = [model.nodes_led(h) for h in model.handles if h.bodies and h.kind == "rigid"]
    all_led = np.unique(np.concatenate([np.zeros(0, np.int64), *rigid_nodes]))
    local = LocalAxes.of(list(asked.values()), led=all_led, in_plane=model.space != "solid")
    axes = local.matrix(n + n_bolts)
    blocked = _not_to_lead(model, layout, asked, local)
    for handle in model.handles:
        if handle.faces and handle.kind != "rigid":
            given = _given(layout.handles[handle.name], asked, local)
            _average(model, layout, handle, rows, led, drive=(given, blocked, driven, local))
    _add_links(model, layout, rows, led, asked, local)
    for handle in model.handles:
        if handle.bodies and handle.kind == "rigid":
            nodes = model.nodes_led(handle)
            _lead(layout, nodes, handle.name, led)
            leads[layout.handles[handle.name]] = nodes
    settled, rigid = _matrix(rows, n + n_bolts), Rigid.of(layout, leads)
    still = np.broadcast_to(np.eye(3), (len(leads), 3, 3))
    matrix = _resolved(settled + rigid.rows(rigid.arms, still, n + n_bolts), led, axes)
    held, support_of = np.zeros(n + n_bolts, bool), np.full(n + n_bolts, -1)
    motions, moved_by = np.zeros((n + n_bolts, len(model.loads) + 1)), np.full(n + n_bolts, -1)
    held[:n] = led
    now = _Holding(matrix, led, held, support_of, local)
    for index, support in enumerate(model.supports):
        if ("support", support.name) in asked:
            _hold_support(support, index, asked["support", support.name], now)
    for index, load in enumerate(model.loads):
        if ("load", load.name) in asked:
            moved_by[_move(load, asked["load", load.name], now, motions[:, index])] = index
    if model.space != "solid":
        _hold_out_of_plane(layout, held)
    for handle in model.handles:
        if handle.kind == "radial":
            first = 3 * layout.handles[handle.name]
            held[first + 1 : first + 6] = True
    for index, support in enumerate(model.supports):
        if ("support", support.name) in asked and support.handle is None:
            _hold_through_handles(support, index, asked["support", support.name], now)
    free = np.flatnonzero(~held)
    held[:n] &= ~led
    return Constraints(
        layout, matrix, held, support_of, moved_by, motions, free, n_bolts, rigid, led.copy(), settled,
        _matrix(driven, n + n_bolts), axes,
    )  # fmt: skip


@dataclass(frozen=True)
class _Holding:
    """What is led and held so far; see `Constraints`."""

    matrix: sp.csr_matrix
    led: NDArray[np.bool_]
    held: NDArray[np.bool_]
    support_of: Ids
    local: LocalAxes


def _everything_asked(model: Model, layout: Layout, released: frozenset[str]) -> AllAsked:
    """What links, supports and motions that are not ``released`` ask for, in this order."""
    out = {("link", link.name): of_link(layout, link) for link in model.links}
    out |= {("support", s.name): of_support(model, layout, s) for s in model.supports if s.name not in released}
    moving = [load for load in model.loads if load.prescribes and load.name not in released]
    return out | {("load", load.name): of_motion(model, layout, load) for load in moving}


def _matrix(rows: Rows, n_masters: int) -> sp.csr_matrix:
    entries = [(dof, column, value) for dof in sorted(rows) for column, value in rows[dof].items()]
    none = np.zeros(0, np.int64)
    i, j, v = (np.array(x) for x in zip(*entries, strict=True)) if entries else (none, none, np.zeros(0))
    return sp.csr_matrix((v, (i, j)), shape=(n_masters, n_masters))


def _resolved(rows: sp.csr_matrix, led: NDArray[np.bool_], axes: sp.csr_matrix) -> sp.csr_matrix:
    """All triples in terms of masters alone: a ``led`` one may follow another that is led itself."""
    n, n_masters = len(led), axes.shape[0]
    own = np.ones(n_masters)
    own[:n][led] = 0.0
    square = sp.csr_matrix(sp.diags(own) + rows @ axes)
    out = sp.csr_matrix(axes[:n] @ square)
    for _ in range(4 if led.any() else 0):
        following = sp.csr_matrix(out @ square)
        difference = abs(following - out)
        out = following
        if difference.nnz == 0 or difference.max() < 1e-14:
            break
    return out


def _lead(layout: Layout, triples: Ids, name: str, led: NDArray[np.bool_]) -> None:
    _lead_each((3 * triples[:, None] + np.arange(3)).ravel(), name, led)


def _lead_each(dofs: Ids, name: str, led: NDArray[np.bool_]) -> None:
    if led[dofs].any():
        raise InputError(
            f"'{name}' leads {int(led[dofs].sum() + 2) // 3} nodes that something else leads already.",
            where=f"handles/{name}",
            hint="Let the faces of rigid handles have no nodes in common.",
        )
    led[dofs] = True


def _add_ghosts(model: Model, layout: Layout, rows: Rows, led: NDArray[np.bool_]) -> None:
    n = 3 * layout.n_total
    for k, (node, bolt) in enumerate(zip(layout.ghost_of.tolist(), layout.ghost_bolt.tolist(), strict=True)):
        ghost = layout.n_nodes + k
        for c in range(3):
            dof = 3 * ghost + c
            rows[dof] = {n + bolt: -model.bolts[bolt].axis[c]}
            if node >= 0:
                rows[dof][3 * node + c] = 1.0
            led[dof] = True


def _given(first: int, asked: AllAsked, local: LocalAxes) -> Ids:
    """Components (of six, along its own axes) of a handle that a support holds or a motion is prescribed for."""
    given = np.zeros((2, 3), bool)
    # What a link leads is not given: a handle that averages cannot be led, and `_lead` says so.
    for one in (one for (kind, _), one in asked.items() if kind != "link"):
        for turn in (0, 1):
            at = one.triple == first + turn
            given[turn] |= (local.components(one.triple[at], one.direction[at]) != 0).any(axis=0)
    return np.flatnonzero(given)


def _not_to_lead(
    model: Model, layout: Layout, asked: AllAsked, local: LocalAxes
) -> NDArray[np.bool_]:  # fmt: skip
    """Unknowns (3·n_total,) of nodes that supports hold, loads move or rigid handles lead."""
    out = np.zeros((layout.n_total, 3), bool)
    for one in asked.values():
        np.logical_or.at(out, one.triple, np.abs(one.direction) > 0)
    moved = [load for load in model.loads if ("load", load.name) in asked]
    for load in moved:
        out[model.nodes_of(load.faces)] = True
    out[sorted(local.rows)] = True
    for handle in model.handles:
        if handle.bodies and handle.kind == "rigid":
            out[model.nodes_led(handle)] = True
    return out.ravel()


def _average(
    model: Model, layout: Layout, handle: Handle, rows: Rows, led: NDArray[np.bool_], *,
    drive: tuple[Ids, NDArray[np.bool_], Rows, LocalAxes],
) -> None:  # fmt: skip
    """The handle's six components as the best rigid motion of its faces, weighted by area; of a radial one the first
    as their mean motion away from its line.

    drive: the components that are given, what must not be led, where rows of given components are kept, and the axes of
    triples. Given components do
    not follow the nodes: of as many unknowns of the nodes each follows the component and all the others, so that the
    mean moves as it is told and nothing is stiffened.
    """
    nodes, fit = _means(model, layout, handle)
    first = 3 * layout.handles[handle.name]
    given, blocked, driven, local = drive
    if model.space != "solid":
        given = np.intersect1d(given, [0, 1, 5])
    dofs = (3 * nodes[:, None] + np.arange(3)).ravel()
    own = np.zeros((6, 6))
    for turn in (0, 1):
        own[3 * turn : 3 * turn + 3, 3 * turn : 3 * turn + 3] = local.rows.get(first // 3 + turn, np.eye(3))
    flat = own @ fit.reshape(6, -1)
    follows = np.setdiff1d(np.arange(6 if handle.kind == "averaging" else 1), given)
    if led[first + follows].any():
        _lead(layout, np.array([first // 3, first // 3 + 1]), handle.name, led)
    led[first + follows] = True
    for i in follows.tolist():
        rows[first + i] = dict(zip(dofs.tolist(), flat[i].tolist(), strict=True))
    if not len(given):
        return
    may = np.flatnonzero(~blocked[dofs] & ~led[dofs])
    _, upper, order = qr(flat[np.ix_(given, may)], mode="economic", pivoting=True)
    strength = np.abs(np.diag(upper))
    if len(may) < len(given) or strength.min() < LEAST_PIVOT * strength.max() or len(nodes) > MOST_AVERAGED:
        many = f"it averages {len(nodes)} nodes, more than {MOST_AVERAGED}"
        why = many if len(nodes) > MOST_AVERAGED else "its faces are held or led the same way"
        raise InputError(
            f"the averaging handle '{handle.name}' cannot be held or moved: {why}.", where=f"handles/{handle.name}",
            hint="Make the handle a rigid one, let it have other faces, or mesh them coarser.",
        )  # fmt: skip
    pivots = may[order[: len(given)]]
    rest = np.setdiff1d(np.arange(len(dofs)), pivots)
    inverse = np.linalg.inv(flat[np.ix_(given, pivots)])
    others = -inverse @ flat[np.ix_(given, rest)]
    for k, pivot in enumerate(dofs[pivots].tolist()):
        led[pivot] = True
        # Rows speak of components along the coordinate axes.
        rows[pivot] = dict(zip(range(first, first + 6), (own[given].T @ inverse[k]).tolist(), strict=True))
        rows[pivot] |= {d: float(v) for d, v in zip(dofs[rest].tolist(), others[k], strict=True) if v != 0.0}
    for i in given.tolist():
        driven[first + i] = dict(zip(dofs.tolist(), flat[i].tolist(), strict=True))


def _means(model: Model, layout: Layout, handle: Handle) -> tuple[Ids, Array]:
    """Nodes (n,) of the faces of a handle that averages, and what each adds to its six components (6, n, 3)."""
    area, _ = face_sums(model, handle.faces)
    nodes = np.flatnonzero(area > 0)
    weight = area[nodes] / area.sum()
    if handle.kind == "radial":
        fit = np.zeros((6, len(nodes), 3))
        fit[0] = weight[:, None] * axes_at(handle.axes, layout.positions[nodes])[:, 0]
        return nodes, fit
    arm = layout.positions[nodes] - np.array(handle.at)
    cross = np.zeros((len(nodes), 3, 3))
    for k in range(3):
        cross[:, :, k] = np.cross(np.eye(3)[k], arm)
    rigid = np.concatenate([np.broadcast_to(np.eye(3), cross.shape), cross], axis=2)
    gram = np.einsum("n,nci,ncj->ij", weight, rigid, rigid)
    return nodes, np.einsum("ij,ncj,n->inc", np.linalg.pinv(gram, rcond=1e-12), rigid, weight)


def _add_links(
    model: Model, layout: Layout, rows: Rows, led: NDArray[np.bool_], asked: AllAsked, local: LocalAxes
) -> None:
    for link in model.links:
        a, b, one = layout.handles[link.a], layout.handles[link.b], asked["link", link.name]
        arm = layout.positions[b] - layout.positions[a]
        parts = local.components(one.triple, one.direction)
        if (np.count_nonzero(parts, axis=1) != 1).any():
            raise InputError(
                f"'{link.name}' leads a handle that another link leads in directions askew to its own.",
                where=f"links/{link.name}", hint="Give both links the same axes.",
            )  # fmt: skip
        chosen = np.abs(parts).argmax(axis=1)
        dofs = 3 * one.triple + chosen
        _lead_each(dofs, link.name, led)
        for dof, triple, d, sense in zip(
            dofs.tolist(), one.triple.tolist(), one.direction, parts[np.arange(len(parts)), chosen], strict=True
        ):
            along, about = (d, np.cross(arm, d)) if triple == b else (np.zeros(3), d)
            six = np.concatenate([along, about]) / sense
            rows[dof] = {3 * a + c: float(v) for c, v in enumerate(six) if v != 0.0}


def _hold_support(support: Support, index: int, one: Asked, now: _Holding) -> None:
    parts = now.local.components(one.triple, one.direction)
    dofs = np.unique((3 * one.triple[:, None] + np.arange(3))[parts != 0])
    if support.handle is None:
        dofs = dofs[~now.led[dofs]]
    elif now.led[dofs].any():
        raise InputError(
            f"the support '{support.name}' holds a handle that follows its faces or another handle.",
            where=f"supports/{support.name}",
            hint="Make the handle a rigid one, or hold what it follows.",
        )
    now.support_of[dofs[~now.held[dofs]]] = index
    now.held[dofs] = True


def _led_rows(one: Asked, now: _Holding) -> tuple[NDArray[np.bool_], sp.csr_matrix]:
    """Which of what is asked (k,) concerns nodes that are led, and what these move that way for masters."""
    through = ((one.direction != 0) & now.led.reshape(-1, 3)[one.triple]).any(axis=1)
    own, direction = 3 * one.triple[through], one.direction[through]
    columns = (own[:, None] + np.arange(3)).ravel()
    at = np.repeat(np.arange(len(own)), 3)
    pick = sp.csr_matrix((direction.ravel(), (at, columns)), shape=(len(own), now.matrix.shape[0]))
    return through, sp.csr_matrix(pick @ now.matrix)


def _hold_through_handles(support: Support, index: int, one: Asked, now: _Holding) -> None:
    """Supports of nodes that a rigid handle or a station of a beam leads hold the handle itself that way."""
    masters = _implied(_led_rows(one, now)[1], now.held)
    if masters is None:
        raise InputError(
            f"the support '{support.name}' holds nodes of a rigid handle that may move that way.",
            where=f"supports/{support.name}",
            hint="Hold the handle the same way, or leave its nodes out of the support.",
        )
    now.held[masters] = True
    now.support_of[masters] = index


def _implied(rows: sp.csr_matrix, held: NDArray[np.bool_]) -> Ids | None:
    """Masters that are held when the rows are; None when the rows only tie masters to each other."""
    columns = np.unique(rows.indices[np.abs(rows.data) > 1e-9 * np.abs(rows.data).max(initial=0.0)])
    columns = columns[~held[columns]]
    if not len(columns):
        return np.zeros(0, np.int64)
    block = rows[:, columns].toarray()
    block /= np.abs(block).max(axis=0)
    values, vectors = np.linalg.eigh(block.T @ block)
    span = vectors[:, values > 1e-12 * values.max()]
    fixed = np.sum(span**2, axis=1) > 1 - 1e-6
    inside: Ids = columns[fixed]
    return inside if len(inside) == span.shape[1] else None


def _move(load: Load, one: Asked, now: _Holding, motion: Array) -> Ids:
    """Hold what a load moves, and say by how much; gives the masters."""
    through, rows = _led_rows(one, now) if load.handle is None else (np.zeros(len(one.triple), bool), None)
    triple, share = one.triple[~through], one.share[~through]
    parts = now.local.components(triple, one.direction[~through])
    chosen = np.abs(parts).argmax(axis=1)
    dofs, sense = 3 * triple + chosen, parts[np.arange(len(parts)), chosen]
    # What stays where it is by a support does not mind staying.
    stays = (share == 0) & now.held[dofs] & (now.support_of[dofs] >= 0)
    by_support = (now.held & (now.support_of >= 0))[: now.led.size].reshape(-1, 3)
    has_way = ((parts != 0) & ~by_support[triple]).any(axis=1)
    askew = (np.count_nonzero(parts, axis=1) > 1) & ~stays & has_way
    if askew.any():
        raise InputError(
            f"the {load.kind} '{load.name}' moves {int(askew.sum())} nodes askew to a direction in which they are held "
            "or moved already.",
            where=f"loads/{load.name}/direction",
            hint="Let it move along or square to that direction.",
        )
    dofs, sense, share = dofs[~stays], sense[~stays], share[~stays]
    taken = (now.held[dofs] & (now.support_of[dofs] >= 0)) | now.led[dofs]
    masters, moved = np.zeros(0, np.int64), np.zeros(0)
    found: Ids | None = masters
    if rows is not None and rows.shape[0]:
        found = _implied(rows, now.held)
        if found is not None:
            masters, block = found, rows[:, found].toarray()
            moved = np.linalg.lstsq(block, one.share[through])[0]
            if np.abs(block @ moved - one.share[through]).max() > 1e-6:
                found = None
    if taken.any() or found is None:
        raise InputError(
            f"the {load.kind} '{load.name}' moves {int(taken.sum()) or int(through.sum())} nodes that are held or led "
            "the same way.",
            where=f"loads/{load.name}",
            hint="Free that component of the support, move the handle, or choose another face.",
        )
    now.held[dofs] = True
    motion[dofs] = share / sense
    now.held[masters] = True
    motion[masters] = np.where(np.abs(moved) > 1e-9, moved, 0.0)
    return np.concatenate([dofs, masters[np.abs(moved) > 1e-9]])


def _hold_out_of_plane(layout: Layout, held: NDArray[np.bool_]) -> None:
    moves, turns = np.flatnonzero(~layout.is_turn), np.flatnonzero(layout.is_turn)
    held[np.concatenate([3 * moves + 2, 3 * turns, 3 * turns + 1])] = True
