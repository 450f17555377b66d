"""The condensed path: one factorization of the tied assembly, everything else at the joint.

Unknowns ``[u | δ | w]``: displacements, bolt shortenings, relative motions ``w = G u``. Stiff
springs ρ tie u to w, the tied assembly is factored once with δ and w kept, then the springs are
removed exactly (docs/theory/condensed-path.md has the derivation):

    Q = ρ − T_ww,  A_ww = ρQ⁻¹ρ − ρ,  A_wδ = ρQ⁻¹T_wδ,  A_δδ = T_δδ + T_δw Q⁻¹ T_wδ.
"""

import time
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import scipy.linalg as la
import scipy.sparse as sp
from numba import njit
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface, all_rows, build_interface, widened
from ulmek.core.contact.loose import named_loose
from ulmek.core.contact.nodes import ContactNodes, contact_nodes
from ulmek.core.contact.sleep import sleeping_pairs
from ulmek.core.coupling.constraints import Constraints, constrain
from ulmek.core.coupling.loads import load_forces
from ulmek.core.errors import LooseError
from ulmek.core.layout import Layout, lay_out
from ulmek.core.model import Model
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.linear import SchurFactor, factor_with_kept
from ulmek.core.solve.timing import Timing

Array = NDArray[np.float64]

# A row is dependent when less than this share of it is new to the rows before (squared norm).
DEPENDENT = 1e-9
# Motion times stiffness over load beyond which nothing holds; slender held parts reach 1e9, loose ones 1e15.
UNBOUNDED = 1e13


@dataclass(frozen=True)
class Condensed:
    """The dense system at the joint, for unknowns ``z = [w; δ]``.

    matrix (m, m): forces on z per unit of z (N/mm). loads (m, n_loads + 1): what each load at amount 1
    adds. ``a·λ = matrix z − loads·amounts`` gives contact forces; its δ rows the bolt forces.
    half_solved: the loads on the interior, half solved.
    gather (n_w, 3·n_total): the kept rows of G. asleep: pairs that have no rows as long as they are apart.
    without_friction: pairs with nodes whose friction is left out, for what holds other nodes holds them, too.
    """

    model: Model
    layout: Layout
    constraints: Constraints
    structure: Structure
    interfaces: tuple[PairInterface, ...]
    nodes: ContactNodes
    forces: Array
    matrix: Array
    loads: Array
    stiffness: sp.csr_matrix
    gather: sp.csr_matrix
    spring: Array
    factor: SchurFactor
    half_solved: Array
    timing: Timing
    asleep: frozenset[str]
    without_friction: frozenset[str] = frozenset()

    @property
    def n_w(self) -> int:
        """Number of kept relative motions."""
        return self.gather.shape[0]

    def masters(self, z: Array, forces: Array, amounts: Array) -> Array:
        """Master values (n_masters,) for joint unknowns, forces on z (N) and load amounts."""
        w, delta = z[: self.n_w], z[self.n_w :]
        c = self.constraints
        given = c.motions @ amounts
        spring_ends = w + forces[: self.n_w] / self.spring
        kept = np.concatenate([delta, spring_ends])
        interior = self.factor.backward((self.half_solved @ amounts)[:, None], kept[:, None])[:, 0]
        given[c.free] = np.concatenate([interior, delta])
        return given


def condense(
    model: Model,
    *,
    structure: Structure | None = None,
    released: frozenset[str] = frozenset(),
    offset: Array | None = None,
    awake: frozenset[str] = frozenset(),
    backend: str | None = None,
) -> Condensed:
    """Assemble, integrate all pairs, factor once, and condense to the joint.

    ``released`` supports and motions do not hold. ``offset`` (n_masters,): where supports hold, triples along the
    coordinate axes. ``awake``: pairs that have met before and sleep no more.

    Raises
    ------
    InputError : a pair whose sides do not face each other, contradictory supports.
    LooseError : something is not held even with all pairs sticking.
    """
    timing = Timing()
    began = time.perf_counter()
    built = structure or Structure(model, lay_out(model))
    layout = built.layout
    stiffness = built.stiffness()
    constraints = constrain(model, layout, released=released)
    if offset is not None:
        there = constraints.masters_at(offset[: 3 * layout.n_total], offset[3 * layout.n_total :])
        constraints.motions[:, -1] = np.where(constraints.held & (constraints.support_of >= 0), there, 0.0)
    forces = load_forces(model, layout)
    timing.assembly = time.perf_counter() - began
    interfaces = tuple(widened(build_interface(model, pair, model.nodes()), model, layout) for pair in model.pairs)
    free = sp.csr_matrix(constraints.matrix[:, constraints.free])
    contact, every_row = contact_nodes(model, interfaces, free)
    asleep = sleeping_pairs(model, interfaces) - awake
    wanted = _rows_awake(every_row, contact, interfaces, asleep)
    dropped = np.zeros(0, np.int64)
    while True:
        contact = contact.numbered(wanted)
        spring = np.repeat(contact.area * contact.stiffness, 3)[wanted]
        gather = all_rows(interfaces, stiffness.shape[0])[wanted]
        began = time.perf_counter()
        try:
            factor = _factor(stiffness, gather, spring, free, len(model.bolts), backend)
        except LooseError:
            if asleep:
                asleep, wanted = frozenset(), every_row
                continue
            raise named_loose(model, interfaces) from None
        timing.factor += time.perf_counter() - began
        timing.factorizations += 1
        began = time.perf_counter()
        nb = len(model.bolts)
        t = factor.schur()
        t_d = t[:, :nb].copy()
        q = _without_first(t, nb)
        np.negative(q, out=q)
        q[np.diag_indices(len(q))] += spring
        inverse, dependent = _inverse_or_dependent(q, is_normal=wanted % 3 == 2)
        if not len(dependent):
            break
        dropped, wanted = np.append(dropped, wanted[dependent]), np.delete(wanted, dependent)
    given = constraints.matrix @ constraints.motions
    pulled = spring[:, None] * (gather @ given)
    on_free = free.T @ (forces - stiffness @ given - gather.T @ pulled)
    on_kept = np.vstack([on_free[on_free.shape[0] - nb :], pulled])
    half_solved, condensed = factor.forward(np.ascontiguousarray(on_free[: on_free.shape[0] - nb]))
    on_kept = on_kept + condensed
    matrix, loads = _remove_springs(t_d, inverse, spring, on_kept, t)
    timing.condense = time.perf_counter() - began
    return Condensed(
        model, layout, constraints, built, interfaces, contact, forces, matrix, loads, stiffness, gather, spring,
        factor,
        half_solved, timing, asleep, _without_friction(model, interfaces, contact, dropped),
    )  # fmt: skip


def _without_friction(
    model: Model, interfaces: tuple[PairInterface, ...], contact: ContactNodes, dropped: NDArray[np.int64]
) -> frozenset[str]:
    """Pairs with friction of which rows (numbers 3·node + k) were ``dropped`` along the faces. The nodes of a station
    of a beam move as one: what one of them rubs stands for all."""
    nodes = dropped[dropped % 3 != 2] // 3
    owner = np.searchsorted(model.offsets(), contact.node[nodes], side="right") - 1
    is_beam = np.array([body.name in model.beam_bodies for body in model.bodies], bool)
    pairs = {interfaces[i].pair for i in contact.pair[nodes[~is_beam[owner]]].tolist()}
    meets_beam = {p.name for p in pairs if {f.body for f in p.side_b} & model.beam_bodies}
    return frozenset(p.name for p in pairs if p.law.may_slide == "friction") - meets_beam


def _rows_awake(
    rows: NDArray[np.int64], nodes: ContactNodes, interfaces: tuple[PairInterface, ...], asleep: frozenset[str]
) -> NDArray[np.int64]:
    sleeps = np.array([f.pair.name in asleep for f in interfaces], bool)
    return rows[~sleeps[nodes.pair[rows // 3]]] if asleep else rows


def with_other_laws(system: Condensed, model: Model) -> Condensed:
    """The same condensed system for a model that differs in laws, fits, enforcement, steps and values only."""
    interfaces = tuple(
        widened(build_interface(model, pair, model.nodes()), model, system.layout) for pair in model.pairs
    )
    gap = np.concatenate([f.gap for f in interfaces]) if interfaces else system.nodes.gap
    nodes = replace(system.nodes, gap=gap)
    return replace(system, model=model, interfaces=interfaces, nodes=nodes, timing=Timing())


def _factor(
    stiffness: sp.csr_matrix, gather: sp.csr_matrix, spring: Array, free: sp.csr_matrix, n_kept: int,
    backend: str | None,
) -> SchurFactor:  # fmt: skip
    tied = sp.diags(spring)
    stretched = gather @ free
    block = free.T @ stiffness @ free + stretched.T @ tied @ stretched
    coupling = -(stretched.T @ tied)
    blocks: Any = [[block, coupling], [coupling.T, tied]]
    matrix = sp.csr_matrix(sp.bmat(blocks)) if len(spring) else sp.csr_matrix(block)
    # The factor needs the memory.
    del block, blocks, coupling, stretched
    factor = factor_with_kept(matrix, n_kept + len(spring), backend=backend)
    _require_held(matrix, factor, n_kept + len(spring))
    return factor


def _require_held(matrix: sp.csr_matrix, factor: SchurFactor, n_kept: int) -> None:
    """Rounding can hide a singular stiffness from the factorization: a trial load then moves without bound."""
    n = matrix.shape[0] - n_kept
    load = np.cos(np.arange(n))
    moved = factor.backward(factor.forward(load[:, None])[0], np.zeros((n_kept, 1)))
    if not np.abs(moved).max(initial=0.0) * matrix.diagonal().max() < UNBOUNDED:
        raise LooseError("the stiffness is singular.")


def _inverse_or_dependent(q: Array, *, is_normal: NDArray[np.bool_]) -> tuple[Array, NDArray[np.int64]]:
    """Inverse of Q (which is lost), or the rows of G that depend on others, by a rank-revealing Cholesky.

    Normal rows count double so that they are chosen before tangential ones. Most models have no dependent rows.
    """
    none = np.zeros(0, np.int64)
    if not len(q):
        return q, none
    size = np.sqrt(np.maximum(np.diag(q), 1e-300)) / np.where(is_normal, 2.0, 1.0)
    q /= size[:, None]
    q /= size[None, :]
    diagonal = np.diag(q).copy()
    # Transposed views are in Fortran's order, and the factor leaves their upper triangle as it was.
    lower, info = la.lapack.dpotrf(q.T, lower=1, clean=0, overwrite_a=1)
    if info == 0 and np.min(np.diag(lower) ** 2) > DEPENDENT:
        inverse, _ = la.lapack.dpotri(lower, lower=1, overwrite_c=1)
        _mirror_and_scale(inverse.T, 1 / size)
        return inverse.T, none
    lower[np.diag_indices(len(lower))] = diagonal
    _, pivots, rank, _ = la.lapack.dpstrf(lower, tol=DEPENDENT, lower=0)
    return lower, np.sort(pivots[rank:] - 1)


@njit(cache=True)
def _mirror_and_scale(a, size):  # type: ignore[no-untyped-def] # pragma: no cover
    """Copy the upper triangle of ``a`` to the lower one, and scale rows and columns by ``size``."""
    n = len(a)
    for i in range(n):
        for j in range(i, n):
            a[i, j] *= size[i] * size[j]
    for start in range(0, n, 64):
        for other in range(start, n, 64):
            for i in range(start, min(start + 64, n)):
                for j in range(max(other, i + 1), min(other + 64, n)):
                    a[j, i] = a[i, j]


def _without_first(t: Array, n: int) -> Array:
    """``t[n:, n:]`` without gaps, in the memory of ``t`` (which is lost)."""
    flat, m = t.reshape(-1), len(t) - n
    for i in range(m):
        flat[i * m : (i + 1) * m] = flat[(i + n) * (m + n) + n : (i + n + 1) * (m + n)]
    return flat[: m * m].reshape(m, m)


def _remove_springs(t_d: Array, inverse: Array, spring: Array, on_kept: Array, room: Array) -> tuple[Array, Array]:
    """A and the loads from Q⁻¹ and the columns of T at the bolts; A takes ``room``, where Q⁻¹ may begin."""
    n_w, nb = len(spring), t_d.shape[1]
    loads = np.zeros((n_w + nb, on_kept.shape[1]))
    loads[n_w:] = on_kept[:nb]
    matrix = room
    if n_w:
        t_wd = t_d[nb:]
        solved, solved_load = inverse @ t_wd, inverse @ on_kept[nb:]
        inverse *= spring[:, None]
        inverse *= spring[None, :]
        inverse[np.diag_indices(n_w)] -= spring
        for i in range(n_w - 1, -1, -1):
            matrix[i, :n_w] = inverse[i]
        matrix[:n_w, n_w:] = spring[:, None] * solved
        matrix[n_w:, :n_w] = matrix[:n_w, n_w:].T
        matrix[n_w:, n_w:] = t_d[:nb] + t_wd.T @ solved
        loads[:n_w] = spring[:, None] * solved_load
        loads[n_w:] += t_wd.T @ solved_load
    else:
        matrix[...] = t_d
    return matrix, loads
