"""Equilibrium and contact rules of one iteration together, and what solves them.

Unknowns are changes ``x`` of the kept masters and the contact forces ``F``:

    K x − Gᵀ F = f,    R G x + S F = c.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.equations import ContactEquations
from ulmek.core.contact.rules import Rules
from ulmek.core.solve.linear import GeneralSolver

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


@dataclass(frozen=True)
class ContactPart:
    """Contact in one iteration: rows G (3m, n) on the kept masters, the rules with their equations and c (3m,), springs
    (m,) N/mm, which rows act (m, 3), and the forces (3m,) N so far."""

    rows: sp.csr_matrix
    rules: Rules
    equations: ContactEquations
    known: Array
    spring: Array
    acts: NDArray[np.bool_]
    forces: Array


@dataclass(frozen=True)
class Coupled:
    """One system: stiffness K (n, n) of the masters with the numbers ``kept`` (n,), forces f (n,) on them, contact.

    closely: whether its solution may be the last one, as the status of all nodes is what it was. enough (N): what may
    be left over then.
    """

    stiffness: sp.csr_matrix
    right: Array
    kept: Ids
    contact: ContactPart | None
    is_symmetric: bool
    closely: bool
    enough: float


class Reduced:
    """The stiffness on the kept masters, made anew only when it is another one."""

    def __init__(self) -> None:
        self._of: tuple[sp.csr_matrix, sp.csr_matrix, Ids] | None = None
        self._found: tuple[sp.csr_matrix, sp.csr_matrix] | None = None

    def to(self, kept: Ids, stiffness: sp.csr_matrix, tangent: sp.csr_matrix) -> tuple[sp.csr_matrix, sp.csr_matrix]:
        """Motions A (3·n_total, n) by the masters ``kept`` (n,), columns of ``tangent``, and ``Aᵀ K A`` for the
        ``stiffness`` K (3·n_total)²."""
        of, found = self._of, self._found
        if (
            found is None
            or of is None
            or of[0] is not stiffness
            or of[1] is not tangent
            or not np.array_equal(of[2], kept)
        ):
            # Large ones have no room beside each other.
            self._of = self._found = found = None
            moves = sp.csr_matrix(tangent[:, kept])
            found = moves, sp.csr_matrix(moves.T @ stiffness @ moves)
            self._of, self._found = (stiffness, tangent, kept), found
        return found


class CoupledSolver(Protocol):
    """Solves one coupled system after another; ``factorizations`` counts them, or what stands for one."""

    backend: str

    @property
    def factorizations(self) -> int: ...

    def solve(self, coupled: Coupled) -> tuple[Array, Array]:
        """``x`` (n,) and ``F`` (3m,).

        Raises
        ------
        LooseError : the system is singular.
        """
        ...


class DirectSolver:
    """Factors the whole system, which friction makes unsymmetric."""

    def __init__(self, *, backend: str | None) -> None:
        self._solver = GeneralSolver(backend=backend)
        self.backend = self._solver.backend

    @property
    def factorizations(self) -> int:
        """How many so far."""
        return self._solver.factorizations

    def solve(self, coupled: Coupled) -> tuple[Array, Array]:
        """See `CoupledSolver`."""
        contact = coupled.contact
        if contact is None:
            found = self._solver.solve(coupled.stiffness, coupled.right, symmetric=coupled.is_symmetric)
            return found, np.zeros(0)
        equations = contact.equations
        pulls, bound = sp.csr_matrix(-contact.rows.T), sp.csr_matrix(equations.motion @ contact.rows)
        matrix = sp.csr_matrix(sp.bmat([[coupled.stiffness, pulls], [bound, equations.force]]))
        found = self._solver.solve(matrix, np.concatenate([coupled.right, contact.known]), symmetric=False, again=True)
        return found[: len(coupled.right)], found[len(coupled.right) :]
