"""The condensed path: one factorization of the tied assembly, everything else at the joint.

Unknowns ``[u | δ | w]``: displacements, bolt shortenings, relative motions ``w = G u``. Stiff
springs ρ tie u to w, the tied assembly is factored once with δ and w kept, then the springs are
removed exactly (docs/theory/condensed-path.md has the derivation):

    Q = ρ − T_ww,  A_ww = ρQ⁻¹ρ − ρ,  A_wδ = ρQ⁻¹T_wδ,  A_δδ = T_δδ + T_δw Q⁻¹ T_wδ.
"""

import time
from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy.linalg as la
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface, build_interface
from ulmek.core.coupling.supports import Patterns, load_patterns
from ulmek.core.model import Model
from ulmek.core.solve.assembly import assemble, bolt_columns
from ulmek.core.solve.linear import SchurFactor, factor_with_kept

Array = NDArray[np.float64]

# A row is dependent when less than this share of it is new to the rows before (squared norm).
DEPENDENT = 1e-9


@dataclass
class Timing:
    """Seconds spent, and how often the big matrix was factored."""

    assembly: float = 0.0
    factor: float = 0.0
    condense: float = 0.0
    contact: float = 0.0
    factorizations: int = 0


@dataclass(frozen=True)
class ContactNodes:
    """Contact nodes of all pairs one after another.

    pair, node (n,): index of the pair, global node. area (n,) mm², gap (n,) mm. rows (n, 3):
    numbers of the kept rows t1, t2, n, −1 where a row is left out (no friction, nothing free, or
    dependent on others). stiffness (n,): E/h in N/mm³.
    """

    pair: NDArray[np.int64]
    node: NDArray[np.int64]
    area: Array
    gap: Array
    rows: NDArray[np.int64]
    stiffness: Array


@dataclass(frozen=True)
class Condensed:
    """The dense system at the joint, for unknowns ``z = [w; δ]``.

    matrix (m, m): forces on z per unit of z (N/mm). loads (m, n_loads): what each load at value 1
    adds. ``a·λ = matrix z − loads·values`` gives contact forces; its δ rows the bolt forces.
    """

    model: Model
    interfaces: tuple[PairInterface, ...]
    nodes: ContactNodes
    patterns: Patterns
    matrix: Array
    loads: Array
    stiffness: sp.csr_matrix
    bolt_columns: sp.csc_matrix
    gather: sp.csr_matrix
    spring: Array
    factor: SchurFactor
    free: NDArray[np.int64]
    timing: Timing

    @property
    def n_w(self) -> int:
        """Number of kept relative motions."""
        return self.gather.shape[0]

    def displacements(self, z: Array, forces: Array, values: Array) -> Array:
        """Displacements (n_nodes, 3) mm for joint unknowns, forces on z (N) and load values."""
        w, delta = z[: self.n_w], z[self.n_w :]
        u = self.patterns.motions @ values
        load = self.patterns.forces @ values - self.stiffness @ u
        load -= self.gather.T @ (self.spring * (self.gather @ u))
        spring_ends = w + forces[: self.n_w] / self.spring
        kept = np.concatenate([delta, spring_ends])
        u[self.free] = self.factor.interior(load[self.free][:, None], kept[:, None])[:, 0]
        return u.reshape(-1, 3)

    def internal_forces(self, u: Array, delta: Array) -> Array:
        """Forces (n_nodes, 3) N that the deformed bodies ask for at their nodes."""
        return np.asarray(self.stiffness @ u.ravel() + self.bolt_columns @ delta).reshape(-1, 3)


def condense(model: Model, *, backend: str | None = None) -> Condensed:
    """Assemble, integrate all pairs, factor once, and condense to the joint.

    Raises
    ------
    InputError : a pair whose sides do not face each other, contradictory supports.
    LooseError : something is not held even with all pairs sticking.
    """
    timing = Timing()
    began = time.perf_counter()
    nodes = model.nodes()
    stiffness = assemble(model)
    columns, diagonal, _ = bolt_columns(model)
    patterns = load_patterns(model)
    timing.assembly = time.perf_counter() - began
    interfaces = tuple(build_interface(model, pair, nodes) for pair in model.pairs)
    free = np.flatnonzero(~patterns.held)
    contact, candidate = _contact_nodes(model, interfaces, free)
    wanted = np.flatnonzero(candidate)
    while True:
        gather, spring, contact_rows = _rows(interfaces, contact, wanted, stiffness.shape[0])
        began = time.perf_counter()
        factor = _factor(stiffness, columns, diagonal, gather, spring, free, backend)
        timing.factor += time.perf_counter() - began
        timing.factorizations += 1
        began = time.perf_counter()
        nb = columns.shape[1]
        t = factor.schur()
        q = np.diag(spring) - t[nb:, nb:]
        dependent = _dependent(q, is_normal=wanted % 3 == 2)
        if not len(dependent):
            break
        wanted = np.delete(wanted, dependent)
    matrix, loads = _remove_springs(t, q, spring, nb, factor, stiffness, columns, gather, patterns, free)
    timing.condense = time.perf_counter() - began
    return Condensed(
        model,
        interfaces,
        contact_rows,
        patterns,
        matrix,
        loads,
        stiffness,
        columns,
        gather,
        spring,
        factor,
        free,
        timing,
    )


def _contact_nodes(
    model: Model, interfaces: tuple[PairInterface, ...], free: NDArray[np.int64]
) -> tuple[ContactNodes, NDArray[np.bool_]]:
    """All contact nodes, and which of their rows t1, t2, n the laws need and the supports leave free."""
    if not interfaces:
        none = np.zeros(0, np.int64)
        empty = np.zeros(0)
        return ContactNodes(none, none, empty, empty, np.zeros((0, 3), np.int64), empty), np.zeros(0, bool)
    needed, stiffness = [], []
    for f in interfaces:
        size = abs(f.rows[:, free]).max(axis=1).toarray().ravel()
        row = np.tile([f.pair.law.has_tangents, f.pair.law.has_tangents, True], len(f.node))
        needed.append(row & (size > 1e-9))
        young = model.bodies[model.body_index(f.pair.side_a[0].body)].material.young
        stiffness.append(np.full(len(f.node), young / f.size))
    pair = np.repeat(np.arange(len(interfaces)), [len(f.node) for f in interfaces])
    contact = ContactNodes(
        pair=pair,
        node=np.concatenate([f.node for f in interfaces]),
        area=np.concatenate([f.area for f in interfaces]),
        gap=np.concatenate([f.gap for f in interfaces]),
        rows=np.full((len(pair), 3), -1),
        stiffness=np.concatenate(stiffness),
    )
    return contact, np.concatenate(needed)


def _rows(
    interfaces: tuple[PairInterface, ...], contact: ContactNodes, wanted: NDArray[np.int64], n_dofs: int
) -> tuple[sp.csr_matrix, Array, ContactNodes]:
    """Kept rows of G, their springs a·E/h, and the contact nodes with row numbers."""
    numbers = np.full(3 * len(contact.pair), -1)
    numbers[wanted] = np.arange(len(wanted))
    spring = np.repeat(contact.area * contact.stiffness, 3)[wanted]
    gather = sp.vstack([f.rows for f in interfaces], format="csr")[wanted] if interfaces else sp.csr_matrix((0, n_dofs))
    kept = ContactNodes(
        contact.pair, contact.node, contact.area, contact.gap, numbers.reshape(-1, 3), contact.stiffness
    )
    return gather, spring, kept


def _factor(stiffness, columns, diagonal, gather, spring, free, backend) -> SchurFactor:  # type: ignore[no-untyped-def]
    n_w = gather.shape[0]
    tied = sp.diags(spring)
    stretched = gather[:, free]
    block = stiffness[free][:, free] + stretched.T @ tied @ stretched
    coupling = sp.hstack([columns[free], -(stretched.T @ tied)], format="csr")
    kept = sp.block_diag([sp.diags(diagonal), tied], format="csr") if n_w + len(diagonal) else sp.csr_matrix((0, 0))
    blocks: Any = [[block, coupling], [coupling.T, kept]]
    matrix = sp.csr_matrix(sp.bmat(blocks)) if kept.shape[0] else block.tocsr()
    return factor_with_kept(matrix, n_w + len(diagonal), backend=backend)


def _dependent(q: Array, *, is_normal: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Rows of G that depend on others (none in most models), by a rank-revealing Cholesky of Q.

    Normal rows count double so that they are chosen before tangential ones.
    """
    if not len(q):
        return np.zeros(0, np.int64)
    size = np.sqrt(np.maximum(np.diag(q), 1e-300)) / np.where(is_normal, 2.0, 1.0)
    scaled = q / np.outer(size, size)
    lower, info = la.lapack.dpotrf(scaled, lower=1)
    if info == 0 and np.min(np.diag(lower) ** 2) > DEPENDENT:
        return np.zeros(0, np.int64)
    _, pivots, rank, _ = la.lapack.dpstrf(scaled, tol=DEPENDENT, lower=1)
    return np.sort(pivots[rank:] - 1)


def _remove_springs(
    t: Array,
    q: Array,
    spring: Array,
    nb: int,
    factor: SchurFactor,
    stiffness: sp.csr_matrix,
    columns: sp.csc_matrix,
    gather: sp.csr_matrix,
    patterns: Patterns,
    free: NDArray[np.int64],
) -> tuple[Array, Array]:
    n_w, n_loads = len(spring), patterns.forces.shape[1]
    motions = patterns.motions
    on_u = patterns.forces - stiffness @ motions - gather.T @ (spring[:, None] * (gather @ motions))
    on_kept = np.vstack([-(columns.T @ motions), spring[:, None] * (gather @ motions)])
    if nb + n_w:
        on_kept = on_kept + factor.condense(np.ascontiguousarray(on_u[free]))
    matrix = np.zeros((n_w + nb, n_w + nb))
    loads = np.zeros((n_w + nb, n_loads))
    matrix[n_w:, n_w:], loads[n_w:] = t[:nb, :nb], on_kept[:nb]
    if n_w:
        inverse = _spd_inverse(q)
        t_wd = t[nb:, :nb]
        solved, solved_load = inverse @ t_wd, inverse @ on_kept[nb:]
        inverse *= spring[:, None]
        inverse *= spring[None, :]
        inverse[np.diag_indices(n_w)] -= spring
        matrix[:n_w, :n_w] = inverse
        matrix[:n_w, n_w:] = spring[:, None] * solved
        matrix[n_w:, :n_w] = matrix[:n_w, n_w:].T
        matrix[n_w:, n_w:] += t_wd.T @ solved
        loads[:n_w] = spring[:, None] * solved_load
        loads[n_w:] += t_wd.T @ solved_load
    return matrix, loads


def _spd_inverse(q: Array) -> Array:
    lower, _ = la.lapack.dpotrf(q, lower=1, clean=1)
    inverse, _ = la.lapack.dpotri(lower, lower=1)
    return np.asarray(np.tril(inverse) + np.tril(inverse, -1).T)
