"""Linear constraints by elimination: ghosts of cut nodes, handles, links, and what is held.

The masters are all triples plus one shortening per bolt. ``u = A m``: rows of masters are unit
rows; a rigid handle's face nodes, an averaging handle, a linked handle and a ghost are combinations of
others. In large motion the rows of rigid handles follow the turn θ: ``u = u_h + (R(θ) − 1) r``.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.linalg import qr
from scipy.spatial.transform import Rotation

from ulmek.core.coupling.surface import face_sums
from ulmek.core.element.beam import spins_of_vectors
from ulmek.core.errors import InputError
from ulmek.core.layout import Layout
from ulmek.core.model import Handle, Load, Model

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
# Rows of what follows others: led unknown → coefficients of the unknowns that it follows.
Rows = dict[int, dict[int, float]]
# Nodes of faces whose mean can be given: each becomes an unknown of every other. How independent given means must be.
MOST_AVERAGED, LEAST_PIVOT = 2500, 1e-6


@dataclass(frozen=True)
class Constraints:
    """How all triples follow from the masters in one step.

    held (n_masters,): masters whose motion is given. support_of (n_masters,): index of the support that
    holds it, −1 when none. motions (n_masters, n_loads + 1): mm or rad per unit of a load's amount; the
    last column is where supports hold that took hold after something had moved. moved_by (n_masters,): index of the
    load that moves it, −1 when none.
    free: numbers of the free masters, shortenings of the bolts last. rigid: (motion triple, nodes) of
    every rigid handle. driven (n_masters, n_masters): rows of averaging handles that are held or moved, in terms of the
    nodes that they average.
    """

    layout: Layout
    matrix: sp.csr_matrix
    held: NDArray[np.bool_]
    support_of: Ids
    moved_by: Ids
    motions: Array
    free: Ids
    n_kept: int
    rigid: tuple[tuple[int, Ids], ...]
    settle: "Rows"
    driven: sp.csr_matrix

    def expand(self, masters: Array, *, large: bool) -> Array:
        """Displacements (3·n_total,) for master values."""
        u = np.asarray(self.matrix @ masters)
        if not large or not self.rigid:
            return u
        triples = u.reshape(-1, 3)
        for handle, nodes in self.rigid:
            arm = self.layout.positions[nodes] - self.layout.positions[handle]
            turn = Rotation.from_rotvec(triples[handle + 1]).as_matrix()
            triples[nodes] = triples[handle] + arm @ turn.T - arm
        return triples.ravel()

    def tangent(self, masters: Array, *, large: bool) -> sp.csr_matrix:
        """∂u/∂masters (3·n_total, n_masters)."""
        if not large or not self.rigid:
            return self.matrix
        rows = dict(self.settle)
        for handle, nodes in self.rigid:
            arm = self.layout.positions[nodes] - self.layout.positions[handle]
            theta = masters[3 * handle + 3 : 3 * handle + 6]
            turned = arm @ Rotation.from_rotvec(theta).as_matrix().T
            _couple_rigid(rows, handle, nodes, turned, spins_of_vectors(theta[None])[0])
        return _resolved(rows, *self.matrix.shape)


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
    rigid = []
    driven: Rows = {}
    blocked = _not_to_lead(model, layout, released)
    for handle in model.handles:
        if handle.faces and handle.kind == "averaging":
            _average(model, layout, handle, rows, led, drive=(_given(model, handle, released), blocked, driven))
    _add_links(model, layout, rows, led)
    settle = dict(rows)
    for handle in model.handles:
        if handle.bodies and handle.kind == "rigid":
            nodes = model.nodes_led(handle)
            _lead(layout, nodes, handle.name, led)
            first = layout.handles[handle.name]
            _couple_rigid(rows, first, nodes, layout.positions[nodes] - np.array(handle.at), np.eye(3))
            rigid.append((first, nodes))
    matrix = _resolved(rows, n, n + n_bolts)
    held, support_of = np.zeros(n + n_bolts, bool), np.full(n + n_bolts, -1)
    motions, moved_by = np.zeros((n + n_bolts, len(model.loads) + 1)), np.full(n + n_bolts, -1)
    held[:n] = led
    _hold_supports(model, layout, released, led, held, support_of)
    for index, load in enumerate(model.loads):
        if load.prescribes and load.name not in released:
            move = _move_radially if load.kind == "radial" else _move
            moved_by[move(model, layout, load, matrix, led, held, support_of, motions[:, index])] = index
    if model.space != "solid":
        _hold_out_of_plane(layout, held)
    _hold_through_handles(model, released, matrix, led, held, support_of)
    free = np.flatnonzero(~held)
    held[:n] &= ~led
    return Constraints(
        layout, matrix, held, support_of, moved_by, motions, free, n_bolts, tuple(rigid), settle,
        _matrix(driven, n + n_bolts),
    )  # fmt: skip


def _matrix(rows: Rows, n_masters: int) -> sp.csr_matrix:
    entries = [(dof, column, value) for dof in sorted(rows) for column, value in rows[dof].items()]
    none = np.zeros(0, np.int64)
    i, j, v = (np.array(x) for x in zip(*entries, strict=True)) if entries else (none, none, np.zeros(0))
    return sp.csr_matrix((v, (i, j)), shape=(n_masters, n_masters))


def _resolved(rows: Rows, n: int, n_masters: int) -> sp.csr_matrix:
    """All rows in terms of masters alone: a led triple may follow another that is led itself."""
    led = np.array(sorted(rows), np.int64)
    own = np.ones(n_masters)
    own[led] = 0.0
    square = sp.csr_matrix(sp.diags(own) + _matrix(rows, n_masters))
    out = sp.csr_matrix(square[:n])
    for _ in range(4 if len(led) else 0):
        following = sp.csr_matrix(out @ square)
        difference = abs(following - out)
        out = following
        if difference.nnz == 0 or difference.max() < 1e-14:
            break
    return out


def _lead(layout: Layout, triples: Ids, name: str, led: NDArray[np.bool_], components: Ids | None = None) -> None:
    dofs = (3 * triples[:, None] + (np.arange(3) if components is None else components)).ravel()
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


def _couple_rigid(rows: Rows, handle: int, nodes: Ids, arms: Array, spin: Array) -> None:
    """Rows ``δu = δu_h + ω × r`` with ``ω = spin δθ``."""
    for node, r in zip(nodes.tolist(), arms, strict=True):
        cross = -np.array([[0, -r[2], r[1]], [r[2], 0, -r[0]], [-r[1], r[0], 0]]) @ spin
        for c in range(3):
            turned = {3 * handle + 3 + d: float(cross[c, d]) for d in range(3) if cross[c, d] != 0.0}
            rows[3 * node + c] = {3 * handle + c: 1.0, **turned}


def _given(model: Model, handle: Handle, released: frozenset[str]) -> Ids:
    """Components (of six) of a handle that a support holds or a motion is prescribed for."""
    given = np.zeros(6, bool)
    for support in model.supports:
        if support.handle == handle.name and support.name not in released:
            given |= [*support.components, *support.turns]
    for load in model.loads:
        if load.handle == handle.name and load.prescribes and load.name not in released:
            given[_axis_of(load)[0] + (3 if load.kind == "rotation" else 0)] = True
    return np.flatnonzero(given)


def _not_to_lead(model: Model, layout: Layout, released: frozenset[str]) -> NDArray[np.bool_]:
    """Unknowns (3·n_total,) of nodes that supports hold, loads move or rigid handles lead."""
    out = np.zeros((layout.n_total, 3), bool)
    for support in model.supports:
        if support.name not in released:
            out[np.ix_(model.nodes_of(support.faces), np.flatnonzero(support.components))] = True
    for load in model.loads:
        if load.prescribes and load.name not in released:
            out[model.nodes_of(load.faces)] = True
    for handle in model.handles:
        if handle.bodies and handle.kind == "rigid":
            out[model.nodes_led(handle)] = True
    return out.ravel()


def _average(
    model: Model, layout: Layout, handle: Handle, rows: Rows, led: NDArray[np.bool_], *,
    drive: tuple[Ids, NDArray[np.bool_], Rows],
) -> None:  # fmt: skip
    """The handle's six components as the best rigid motion of its faces, weighted by area.

    drive: the components that are given, what must not be led, and where rows of given components are kept. These do
    not follow the nodes: of as many unknowns of the nodes each follows the component and all the others, so that the
    mean moves as it is told and nothing is stiffened.
    """
    area, _ = face_sums(model, handle.faces)
    nodes = np.flatnonzero(area > 0)
    weight = area[nodes] / area.sum()
    arm = layout.positions[nodes] - np.array(handle.at)
    cross = np.zeros((len(nodes), 3, 3))
    for k in range(3):
        cross[:, :, k] = np.cross(np.eye(3)[k], arm)
    rigid = np.concatenate([np.broadcast_to(np.eye(3), cross.shape), cross], axis=2)
    gram = np.einsum("n,nci,ncj->ij", weight, rigid, rigid)
    fit = np.einsum("ij,ncj,n->inc", np.linalg.pinv(gram, rcond=1e-12), rigid, weight)
    first = 3 * layout.handles[handle.name]
    given, blocked, driven = drive
    if model.space != "solid":
        given = np.intersect1d(given, [0, 1, 5])
    dofs = (3 * nodes[:, None] + np.arange(3)).ravel()
    flat = fit.reshape(6, -1)
    follows = np.setdiff1d(np.arange(6), given)
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
        rows[pivot] = dict(zip((first + given).tolist(), inverse[k].tolist(), strict=True))
        rows[pivot] |= {d: float(v) for d, v in zip(dofs[rest].tolist(), others[k], strict=True) if v != 0.0}
    for i in given.tolist():
        driven[first + i] = dict(zip(dofs.tolist(), flat[i].tolist(), strict=True))


def _add_links(model: Model, layout: Layout, rows: Rows, led: NDArray[np.bool_]) -> None:
    for link in model.links:
        a, b = layout.handles[link.a], layout.handles[link.b]
        r = layout.positions[b] - layout.positions[a]
        cross = -np.array([[0, -r[2], r[1]], [r[2], 0, -r[0]], [-r[1], r[0], 0]])
        chosen = np.flatnonzero(link.components)
        _lead(layout, np.array([b]), link.name, led, chosen)
        for c in chosen.tolist():
            rows[3 * b + c] = {3 * a + c: 1.0}
            if c < 3:
                rows[3 * b + c] |= {3 * a + 3 + d: float(cross[c, d]) for d in range(3) if cross[c, d] != 0.0}


def _hold_supports(
    model: Model, layout: Layout, released: frozenset[str], led: NDArray[np.bool_], held: NDArray[np.bool_],
    support_of: Ids,
) -> None:  # fmt: skip
    for index, support in enumerate(model.supports):
        if support.name in released:
            continue
        if support.handle is not None:
            first = 3 * layout.handles[support.handle]
            dofs = first + np.flatnonzero([*support.components, *support.turns])
        else:
            at = model.nodes_of(support.faces)
            dofs = (3 * at[:, None] + np.flatnonzero(support.components)).ravel()
        if support.handle is None:
            dofs = dofs[~led[dofs]]
        elif led[dofs].any():
            raise InputError(
                f"the support '{support.name}' holds a handle that follows its faces or another handle.",
                where=f"supports/{support.name}",
                hint="Make the handle a rigid one, or hold what it follows.",
            )
        support_of[dofs[~held[dofs]]] = index
        held[dofs] = True


def _hold_through_handles(
    model: Model, released: frozenset[str], matrix: sp.csr_matrix, led: NDArray[np.bool_], held: NDArray[np.bool_],
    support_of: Ids,
) -> None:  # fmt: skip
    """Supports of nodes that a rigid handle or a station of a beam leads hold the handle itself that way."""
    for index, support in enumerate(model.supports):
        if support.handle is not None or support.name in released:
            continue
        at = model.nodes_of(support.faces)
        dofs = (3 * at[:, None] + np.flatnonzero(support.components)).ravel()
        masters = _implied(matrix[dofs[led[dofs]]], held)
        if masters is None:
            raise InputError(
                f"the support '{support.name}' holds nodes of a rigid handle that may move that way.",
                where=f"supports/{support.name}",
                hint="Hold the handle the same way, or leave its nodes out of the support.",
            )
        held[masters] = True
        support_of[masters] = index


def _implied(rows: sp.csr_matrix, held: NDArray[np.bool_]) -> Ids | None:
    """Masters that are held when the rows are; None when the rows only tie masters to each other."""
    columns = np.unique(rows.indices[np.abs(rows.data) > 1e-12])
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


def _move(
    model: Model, layout: Layout, load: Load, matrix: sp.csr_matrix, led: NDArray[np.bool_],
    held: NDArray[np.bool_], support_of: Ids, motion: Array,
) -> Ids:  # fmt: skip
    """Hold what a load moves along an axis, and say by how much; gives the masters."""
    component, sense = _axis_of(load)
    if load.handle is not None:
        dofs = np.array([3 * layout.handles[load.handle] + component + (3 if load.kind == "rotation" else 0)])
    else:
        dofs = 3 * model.nodes_of(load.faces) + component
    through, dofs = (dofs[led[dofs]], dofs[~led[dofs]]) if load.handle is None else (dofs[:0], dofs)
    taken = (held[dofs] & (support_of[dofs] >= 0)) | led[dofs]
    masters = _implied(matrix[through], held)
    moved = np.zeros(0)
    if masters is not None and len(through):
        rows = matrix[through][:, masters].toarray()
        moved = np.linalg.lstsq(rows, np.ones(len(through)))[0]
        if np.abs(rows @ moved - 1).max() > 1e-6:
            masters = None
    if taken.any() or masters is None:
        raise InputError(
            f"the {load.kind} '{load.name}' moves {int(taken.sum()) or len(through)} nodes that are held or led the "
            "same way.",
            where=f"loads/{load.name}",
            hint="Free that component of the support, move the handle, or choose another face.",
        )
    held[dofs] = True
    motion[dofs] = sense
    held[masters] = True
    motion[masters] = sense * np.where(np.abs(moved) > 1e-9, moved, 0.0)
    return np.concatenate([dofs, masters[np.abs(moved) > 1e-9]])


def _axis_of(load: Load) -> tuple[int, float]:
    """The coordinate axis that a prescribed motion is along, and its sense."""
    direction = np.array(load.direction)
    component = int(np.argmax(np.abs(direction)))
    if abs(abs(direction[component]) - np.linalg.norm(direction)) > 1e-9:
        raise InputError(
            f"the {load.kind} '{load.name}' is not along a coordinate axis.",
            where=f"loads/{load.name}/direction",
            hint="Give one axis; use two for two directions.",
        )
    return component, float(np.sign(direction[component]))


def _move_radially(
    model: Model, layout: Layout, load: Load, matrix: sp.csr_matrix, led: NDArray[np.bool_],
    held: NDArray[np.bool_], support_of: Ids, motion: Array,
) -> Ids:  # fmt: skip
    """Hold both directions across the axis of every node that a load moves straight away from it; see `_move`."""
    component, _ = _axis_of(load)
    if model.space == "axisymmetric" or (model.space != "solid" and component != 2):
        raise InputError(
            f"the radial motion '{load.name}' is about an axis that a plane study does not have.",
            where=f"loads/{load.name}", hint="Turn it about z, or move the faces along x.",
        )  # fmt: skip
    across = np.array([c for c in range(3) if c != component])
    at = model.nodes_of(load.faces)
    arm = (layout.positions[at] - np.array(load.centre))[:, across]
    radius = np.linalg.norm(arm, axis=1)
    if radius.min() < 1e-9 * max(1.0, float(radius.max())):
        raise InputError(
            f"the radial motion '{load.name}' moves nodes on its axis.",
            where=f"loads/{load.name}/centre", hint="Choose faces off the axis, or another axis.",
        )  # fmt: skip
    dofs, share = (3 * at[:, None] + across).ravel(), (arm / radius[:, None]).ravel()
    # In a plane of symmetry through the axis nodes stay in it by that alone.
    stays = held[dofs] & (np.abs(share) < 1e-9)
    dofs, share = dofs[~stays], share[~stays]
    taken = held[dofs] | led[dofs]
    if taken.any():
        raise InputError(
            f"the radial motion '{load.name}' moves {int(taken.sum() + 1) // 2} nodes that are held or led already.",
            where=f"loads/{load.name}", hint="Free the support or the handle across the axis, or choose another face.",
        )  # fmt: skip
    held[dofs] = True
    motion[dofs] = share
    return np.asarray(dofs)


def _hold_out_of_plane(layout: Layout, held: NDArray[np.bool_]) -> None:
    moves, turns = np.flatnonzero(~layout.is_turn), np.flatnonzero(layout.is_turn)
    held[np.concatenate([3 * moves + 2, 3 * turns, 3 * turns + 1])] = True
