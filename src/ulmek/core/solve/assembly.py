"""The structure: what all elements and springs answer, gathered in global numbering."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numba import njit
from numpy.typing import NDArray

from ulmek.core.axes import axes_at
from ulmek.core.element.family import FAMILIES, Family
from ulmek.core.element.linear import linear_stiffness
from ulmek.core.element.response import Manner, Response, n_modes, respond
from ulmek.core.errors import InvertedError
from ulmek.core.layout import Layout
from ulmek.core.material.law import INTERNAL, Law
from ulmek.core.model import Body, Model
from ulmek.core.solve.members import Members

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Elements handled at once: keeps element matrices near 100 MB.
CHUNK = 16384


@dataclass(frozen=True)
class Internal:
    """Inner state of all elements, body by body: mode amplitudes (m, k) and material values (m, g, INTERNAL)."""

    modes: tuple[Array, ...]
    material: tuple[Array, ...]

    def plastic_strain(self) -> list[Array]:
        """Equivalent plastic strain (m, g) of each body."""
        return [values[..., 12] for values in self.material]


@dataclass(frozen=True)
class Answer:
    """Forces (3·n_total,) N, stiffness (None when not asked for), inner state, true stress (m, g, 6) per body.

    With the stiffness, the stress of bodies that stay linear is left out: none of their elements is asked.
    """

    force: Array
    stiffness: sp.csr_matrix | None
    internal: Internal
    stress: tuple[Array, ...]


class Structure:
    """All elements of a model; the sparse pattern is made once."""

    def __init__(self, model: Model, layout: Layout) -> None:
        self.model, self.layout = model, layout
        self.families: list[Family] = [FAMILIES[b.mesh.kind] for b in model.bodies]
        self.laws: list[Law] = [b.material.law() for b in model.bodies]
        self._springs = _spring_matrix(model, layout)
        self.members = Members(model, layout)
        self._pattern: tuple[Ids, Ids, list[NDArray[np.int32]]] | None = None
        self._linear: sp.csr_matrix | None = None
        self._whole: sp.csr_matrix | None = None

    def start(self) -> Internal:
        """The inner state at rest."""
        modes, material = [], []
        for cells, family, law in zip(self.layout.cells, self.families, self.laws, strict=True):
            m = len(cells)
            modes.append(np.zeros((m, n_modes(family, law, self.model.space))))
            material.append(np.zeros((m, len(family.rule), INTERNAL)))
        return Internal(tuple(modes), tuple(material))

    def stiffness(self) -> sp.csr_matrix:
        """Stiffness (3·n_total)² at rest, N/mm."""
        answer = self.answer(np.zeros(3 * self.layout.n_total), self.start(), large=False)
        assert answer.stiffness is not None
        return answer.stiffness

    def answer(self, u: Array, before: Internal, *, large: bool, with_tangent: bool = True) -> Answer:
        """What all elements and springs answer to displacements ``u`` (3·n_total,).

        Raises
        ------
        InvertedError : an element is turned inside out; says where.
        """
        if not (with_tangent and not large):
            asked = self._asked(range(len(self.laws)), u, before, large=large, with_tangent=with_tangent)
            return self._with_members(self._with_springs(asked, u), u, large=large)
        rest = [i for i, law in enumerate(self.laws) if not law.is_linear]
        if not rest:
            stiffness = self._whole_when_linear()
            return Answer(stiffness @ u, stiffness, before, tuple(np.zeros((0, 0, 6)) for _ in self.laws))
        other = self._asked(rest, u, before, large=False, with_tangent=True)
        assert other.stiffness is not None
        linear = self._bodies_that_stay_linear()
        # One pattern: values add up.
        both = sp.csr_matrix((other.stiffness.data + linear.data, linear.indices, linear.indptr), linear.shape)
        whole = replace(other, force=other.force + linear @ u, stiffness=both)
        return self._with_members(self._with_springs(whole, u), u, large=False)

    def _with_springs(self, answer: Answer, u: Array) -> Answer:
        if not self._springs.nnz:
            return answer
        stiffness = None if answer.stiffness is None else sp.csr_matrix(answer.stiffness + self._springs)
        return replace(answer, force=answer.force + self._springs @ u, stiffness=stiffness)

    def _with_members(self, answer: Answer, u: Array, *, large: bool) -> Answer:
        if not self.members.small.nnz:
            return answer
        force, own = self.members.answer(u, large=large)
        stiffness = None if answer.stiffness is None else sp.csr_matrix(answer.stiffness + own)
        return replace(answer, force=answer.force + force, stiffness=stiffness)

    def linear_part(self) -> sp.csr_matrix:
        """Stiffness (3·n_total)² of the bodies that stay linear in small motion, of the springs and beams."""
        return self._with_all_springs(self._bodies_that_stay_linear())

    def _whole_when_linear(self) -> sp.csr_matrix:
        """The same where all bodies stay linear: one matrix for all iterations, and known as the same one."""
        if self._whole is None:
            self._whole = self._with_all_springs(self._bodies_that_stay_linear())
        return self._whole

    def _with_all_springs(self, stiffness: sp.csr_matrix) -> sp.csr_matrix:
        others = [m for m in (self._springs, self.members.small) if m.nnz]
        return sp.csr_matrix(sum(others, stiffness)) if others else stiffness

    def _bodies_that_stay_linear(self) -> sp.csr_matrix:
        """Their stiffness on the pattern of all, which lets values add up."""
        if self._linear is None:
            linear = [i for i, law in enumerate(self.laws) if law.is_linear]
            if self.model.space == "solid":
                self._linear = self._in_space(linear)
            else:
                rest = np.zeros(3 * self.layout.n_total)
                self._linear = self._asked(linear, rest, self.start(), large=False, with_tangent=True).stiffness
        assert self._linear is not None
        return self._linear

    def _in_space(self, bodies: list[int]) -> sp.csr_matrix:
        indptr, _, slots = self._make_pattern()
        data = np.zeros(9 * int(indptr[-1]))
        for i in bodies:
            for start in range(0, len(self.layout.cells[i]), CHUNK):
                chunk = slice(start, start + CHUNK)
                cells = self.layout.cells[i][chunk]
                tangent, faulty = linear_stiffness(self.families[i], self.laws[i].hooke, self.layout.positions[cells])
                if faulty >= 0:
                    raise self._inverted(self.model.bodies[i], cells[faulty])
                _scatter(tangent, cells, slots[i][chunk], indptr, 3, data)
        return self._matrix(data)

    def _asked(self, bodies: Iterable[int], u: Array, before: Internal, *, large: bool, with_tangent: bool) -> Answer:
        """The answer of some bodies without springs; the inner state of the others stays as it was."""
        triples = u.reshape(-1, 3)
        force = np.zeros_like(triples)
        data = None
        if with_tangent:
            indptr, _, slots = self._make_pattern()
            data = np.zeros(9 * int(indptr[-1]))
        modes, material = list(before.modes), list(before.material)
        stress = [np.zeros((0, 0, 6)) for _ in self.laws]
        for i in bodies:
            body = self.model.bodies[i]
            parts = []
            for start in range(0, len(self.layout.cells[i]), CHUNK):
                chunk = slice(start, start + CHUNK)
                cells = self.layout.cells[i][chunk]
                part = respond(
                    self.families[i], self.laws[i], self.layout.positions[cells], triples[cells],
                    Manner(self.model.space, self.model.thickness, large or self.laws[i].is_rubber),
                    before=(before.modes[i][chunk], before.material[i][chunk]), with_tangent=with_tangent,
                )  # fmt: skip
                if part.faulty >= 0:
                    raise self._inverted(body, cells[part.faulty])
                _scatter_forces(part.force, cells, self.families[i].dim, force)
                if data is not None:
                    _scatter(part.tangent, cells, slots[i][chunk], indptr, self.families[i].dim, data)
                parts.append(part)
            if not parts:
                continue
            modes[i], material[i] = _joined(parts, "modes"), _joined(parts, "internal")
            stress[i] = _joined(parts, "stress")
        stiffness = None if data is None else self._matrix(data)
        return Answer(force.ravel(), stiffness, Internal(tuple(modes), tuple(material)), tuple(stress))

    def _inverted(self, body: Body, cell: Ids) -> InvertedError:
        x, y, z = self.layout.positions[cell].mean(axis=0)
        return InvertedError(
            f"an element of '{body.name}' near ({x:.4g}, {y:.4g}, {z:.4g}) mm is turned inside out.",
            where=f"parts/{body.name.split('#')[0]}/mesh",
            hint="Apply the load in smaller increments, or mesh finer there.",
        )

    def _make_pattern(self) -> tuple[Ids, Ids, list[NDArray[np.int32]]]:
        if self._pattern is None:
            n = self.layout.n_total
            blocks = sp.csr_matrix((n, n))
            for cells in self.layout.cells:
                ones = np.ones(cells.size, np.float32)
                rows = np.repeat(np.arange(len(cells)), cells.shape[1])
                incidence = sp.csr_matrix((ones, (rows, cells.ravel())), shape=(len(cells), n))
                blocks = blocks + incidence.T @ incidence
            blocks = sp.csr_matrix(blocks)
            blocks.sort_indices()
            indptr, indices = blocks.indptr.astype(np.int64), blocks.indices.astype(np.int64)
            slots = [_slots(indptr, indices, cells) for cells in self.layout.cells]
            self._pattern = indptr, indices, slots
        return self._pattern

    def _matrix(self, data: Array) -> sp.csr_matrix:
        indptr, indices, _ = self._make_pattern()
        count = np.diff(indptr)
        full = np.concatenate([[0], np.cumsum(np.repeat(3 * count, 3))])
        columns = np.empty(len(data), np.int32)
        _expand_columns(indptr, indices, columns)
        size = 3 * self.layout.n_total
        return sp.csr_matrix((data, columns, full), shape=(size, size))


def _joined(parts: list[Response], name: str) -> Array:
    return np.concatenate([getattr(p, name) for p in parts])


@njit(cache=True)
def _slots(indptr, indices, cells):  # type: ignore[no-untyped-def] # pragma: no cover
    """Place of node b among the neighbours of node a, for every pair of corners of every cell."""
    m, n = cells.shape
    out = np.empty((m, n, n), np.int32)
    for e in range(m):
        for a in range(n):
            row = indices[indptr[cells[e, a]] : indptr[cells[e, a] + 1]]
            for b in range(n):
                out[e, a, b] = np.searchsorted(row, cells[e, b])
    return out


@njit(cache=True)
def _expand_columns(indptr, indices, out):  # type: ignore[no-untyped-def] # pragma: no cover
    at = 0
    for a in range(len(indptr) - 1):
        for _ in range(3):
            for k in range(indptr[a], indptr[a + 1]):
                for j in range(3):
                    out[at] = 3 * indices[k] + j
                    at += 1


@njit(cache=True)
def _scatter(tangent, cells, slots, indptr, dim, data):  # type: ignore[no-untyped-def] # pragma: no cover
    m, n = cells.shape
    for e in range(m):
        for a in range(n):
            first = indptr[cells[e, a]]
            width = indptr[cells[e, a] + 1] - first
            for i in range(dim):
                row = 9 * first + i * 3 * width
                for b in range(n):
                    at = row + 3 * slots[e, a, b]
                    for j in range(dim):
                        data[at + j] += tangent[e, a * dim + i, b * dim + j]


@njit(cache=True)
def _scatter_forces(force, cells, dim, out):  # type: ignore[no-untyped-def] # pragma: no cover
    m, n = cells.shape
    for e in range(m):
        for a in range(n):
            for i in range(dim):
                out[cells[e, a], i] += force[e, a * dim + i]


def _spring_matrix(model: Model, layout: Layout) -> sp.csr_matrix:
    """Springs and line bolts as a sparse stiffness; a line bolt runs from its head to the ghost of its foot."""
    rows: list[dict[int, float]] = []
    stiffness: list[float] = []
    for spring in model.springs:
        a = 3 * layout.handles[spring.a]
        b = 3 * layout.handles[spring.b] if spring.b is not None else None
        axes = axes_at(spring.axes, layout.positions[a // 3 : a // 3 + 1])[0]
        for n, k in enumerate((*spring.stiffness, *spring.turning)):
            if k > 0:
                along = {3 * (n // 3) + c: float(v) for c, v in enumerate(axes[n % 3]) if v != 0.0}
                other = {} if b is None else {b + c: -v for c, v in along.items()}
                rows.append({a + c: v for c, v in along.items()} | other)
                stiffness.append(k)
    for number, bolt in enumerate(model.bolts):
        if bolt.body is not None:
            continue
        assert bolt.head is not None
        head, foot = 3 * layout.handles[bolt.head], 3 * layout.line_ghost(number)
        rows.append({head + c: bolt.axis[c] for c in range(3)} | {foot + c: -bolt.axis[c] for c in range(3)})
        stiffness.append(bolt.stiffness)
    size = 3 * layout.n_total
    entries = [(i, j, v) for i, row in enumerate(rows) for j, v in row.items()]
    if not entries:
        return sp.csr_matrix((size, size))
    i, j, v = zip(*entries, strict=True)
    stretch = sp.csr_matrix((v, (i, j)), shape=(len(rows), size))
    return sp.csr_matrix(stretch.T @ sp.diags(stiffness) @ stretch)
