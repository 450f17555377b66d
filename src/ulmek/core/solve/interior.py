"""Elastic interiors condensed once inside the full path: what neither yields nor touches is eliminated.

Free masters split into the interior i, which only linear elements and springs reach, and the rest o. In
small static motion ``K_ii`` and ``K_io`` never change, so that with the rim r ⊂ o, the rest that is coupled to i,

    S = K_rr − K_ri K_ii⁻¹ K_ir,   f_r − K_ri K_ii⁻¹ f_i,   x_i = K_ii⁻¹ (f_i − K_ir x_r)

serve every iteration, and Newton's method is left with o alone.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.coupling.constraints import Constraints
from ulmek.core.layout import Layout
from ulmek.core.model import Model
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.linear import SchurFactor, factor_with_kept

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Rows of the rim form a dense block: more of them, or fewer interior rows for each, and it costs more than it saves.
MOST_RIM, LEAST_SHARE = 2000, 25.0


@dataclass(frozen=True)
class Interior:
    """Interior and rim as positions among the free masters, and the factor of the interior.

    stiffness (n_rim, n_rim): what the interior adds to the rim, −K_ri K_ii⁻¹ K_ir.
    """

    inner: Ids
    rim: Ids
    factor: SchurFactor
    stiffness: Array

    def condensed(self, load: Array) -> tuple[Array, Array]:
        """Interior loads (n_inner,) half solved, and what they add to the rim (n_rim,)."""
        half, on_rim = self.factor.forward(np.ascontiguousarray(load[:, None]))
        return half, on_rim[:, 0]

    def inside(self, half: Array, on_rim: Array) -> Array:
        """Interior motions for half-solved loads and motions of the rim."""
        return self.factor.backward(half, np.ascontiguousarray(on_rim[:, None]))[:, 0]


def split(model: Model, layout: Layout, constraints: Constraints, rows: sp.csr_matrix) -> tuple[Ids, Ids]:
    """Free masters (positions) that only linear elements reach and no contact row ``rows``; and all the others."""
    free = sp.csc_matrix(constraints.matrix[:, constraints.free])
    changes = np.zeros(layout.n_total, bool)
    for body, cells in zip(model.bodies, layout.cells, strict=True):
        if not body.material.law().is_linear:
            changes[np.unique(cells)] = True
    reached = np.asarray(abs(free).T @ np.repeat(changes, 3).astype(float)).ravel() > 0
    touched = np.zeros(len(constraints.free), bool)
    touched[np.unique(sp.csr_matrix(rows @ free).indices)] = True
    is_bolt = np.arange(len(constraints.free)) >= len(constraints.free) - constraints.n_kept
    inner = ~(reached | touched | is_bolt)
    return np.flatnonzero(inner), np.flatnonzero(~inner)


def is_worth_it(model: Model, layout: Layout, constraints: Constraints, rows: sp.csr_matrix) -> bool:
    """Whether condensing the interior saves more than its dense rim costs."""
    inner, outer = split(model, layout, constraints, rows)
    linear = [c for b, c in zip(model.bodies, layout.cells, strict=True) if b.material.law().is_linear]
    if not linear:
        return False
    # The rim is at most what contact touches of linear bodies.
    of_linear = np.zeros(3 * layout.n_total, bool)
    of_linear[(3 * np.unique(np.concatenate([c.ravel() for c in linear]))[:, None] + np.arange(3)).ravel()] = True
    columns = sp.csr_matrix(constraints.matrix[:, constraints.free])[of_linear]
    rim = np.intersect1d(np.unique(columns.indices), outer)
    return len(rim) <= MOST_RIM and len(inner) >= LEAST_SHARE * len(rim)


def condense_interior(
    model: Model, structure: Structure, constraints: Constraints, rows: sp.csr_matrix, *, backend: str | None
) -> Interior:
    """Factor the interior of a model in small static motion.

    Raises
    ------
    LooseError : a part of the interior is held by nothing.
    """
    inner, outer = split(model, structure.layout, constraints, rows)
    free = sp.csr_matrix(constraints.matrix[:, constraints.free])
    stiffness = sp.csr_matrix(free.T @ structure.linear_part() @ free)
    stiffness.eliminate_zeros()
    coupling = stiffness[inner][:, outer]
    rim = outer[np.unique(coupling.indices)]
    order = np.concatenate([inner, rim])
    own = stiffness[order][:, order].tocoo()
    of_inner = (own.row < len(inner)) | (own.col < len(inner))
    without_rim = sp.csr_matrix((own.data[of_inner], (own.row[of_inner], own.col[of_inner])), shape=own.shape)
    factor = factor_with_kept(without_rim, len(rim), backend=backend)
    return Interior(inner, rim, factor, factor.schur())
