"""Contact at one iterate of the full path: measured where faces are in large motion, else from the start."""

from dataclasses import dataclass, replace

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface, all_rows, build_interface, widened
from ulmek.core.contact.laws import NodeLaws
from ulmek.core.contact.nodes import NOTHING_FREE, ContactNodes
from ulmek.core.coupling.constraints import Constraints
from ulmek.core.layout import Layout
from ulmek.core.model import Model, Pair

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ContactNow:
    """Pairs, rows G (3n, 3·n_total), covered areas (n,) mm², springs ρ (n,) N/mm, which rows act (n, 3), motions
    w (n, 3) and gaps (n,) mm."""

    interfaces: tuple[PairInterface, ...]
    rows: sp.csr_matrix
    area: Array
    spring: Array
    acts: NDArray[np.bool_]
    w: Array
    gap: Array


class ContactTracker:
    """Follows the contact nodes of a model through a solution; their numbers stay those of the start."""

    def __init__(self, model: Model, layout: Layout) -> None:
        """Integrate the pairs as they start; in large motion every node counts, since it may meet others."""
        moves_far = any(step.large for step in model.steps)
        self.model, self.layout = model, layout
        self.at_start = tuple(
            widened(build_interface(model, pair, model.nodes(), every_node=moves_far), model, layout)
            for pair in model.pairs
        )
        self.rows_at_start = all_rows(self.at_start, 3 * layout.n_total)
        self._acting: NDArray[np.bool_] | None = None
        self._offset: Array | None = None

    def forget_acting(self) -> None:
        """Find anew which rows act: a step holds or releases something else."""
        self._acting = None

    def now(
        self, nodes: ContactNodes, constraints: Constraints, laws: NodeLaws, u: Array, *, u_old: Array, large: bool,
        overlap_share: float,
    ) -> ContactNow:  # fmt: skip
        """Contact at displacements u (3·n_total,) mm.

        In large motion w counts from ``u_old``, the start of the increment. overlap_share: of the drawn overlap that
        is resolved by now.
        """
        if large:
            interfaces, area, rows, w, gap = self._measured(nodes, laws, u, u_old, overlap_share)
        else:
            interfaces, area, rows = self.at_start, nodes.area, self.rows_at_start
            w = (rows @ u).reshape(-1, 3)
            gap = w[:, 2] + np.where(nodes.gap < 0, overlap_share * nodes.gap, nodes.gap)
        if self._acting is None or large:
            self._acting = self._acting_rows(nodes, constraints, rows, area)
        return ContactNow(interfaces, rows, area, area * nodes.stiffness, self._acting, w, gap)

    def _measured(
        self, nodes: ContactNodes, laws: NodeLaws, u: Array, u_old: Array, overlap_share: float
    ) -> tuple[tuple[PairInterface, ...], Array, sp.csr_matrix, Array, Array]:
        """Pairs integrated where the faces are now, with their areas, rows, motions and gaps."""
        moved = self.model.nodes() + u.reshape(-1, 3)[: self.layout.n_nodes]
        interfaces = tuple(
            widened(
                build_interface(
                    self.model, replace(f.pair, fit="as-drawn"), moved, every_node=True, true_radii=False,
                    wall_motion=self._wall_motion(f.pair, u),
                ),
                self.model, self.layout, u.reshape(-1, 3),
            )
            for f in self.at_start
        )  # fmt: skip
        area = np.concatenate([f.area for f in interfaces]) if interfaces else np.zeros(0)
        rows = all_rows(interfaces, len(u))
        w = (rows @ (u - u_old)).reshape(-1, 3)
        gap = np.concatenate([f.gap for f in interfaces]) if interfaces else np.zeros(0)
        # What faces nothing now has no gap for a fit to change.
        gap = gap + np.where(area > 0, self._fit_offset() + (1 - overlap_share) * np.maximum(-nodes.gap, 0.0), 0.0)
        w[:, 2] = np.where(laws.may_open, gap, gap - nodes.gap)
        interfaces = tuple(replace(f, pair=p.pair) for f, p in zip(interfaces, self.at_start, strict=True))
        return interfaces, area, rows, w, gap

    def _acting_rows(
        self, nodes: ContactNodes, constraints: Constraints, rows: sp.csr_matrix, area: Array
    ) -> NDArray[np.bool_]:
        """Contact rows (n, 3) that their law needs and that something free can move."""
        acts = np.ones((len(area), 3), bool)
        if len(area):
            needed = np.array([f.pair.law.has_tangents for f in self.at_start], bool)
            acts[:, :2] = needed[nodes.pair][:, None]
            free = constraints.matrix[:, constraints.free]
            acts &= abs(rows @ free).max(axis=1).toarray().reshape(-1, 3) > NOTHING_FREE
        return acts & (area > 0)[:, None]

    def _wall_motion(self, pair: Pair, u: Array) -> Array | None:
        """Motion and turn (6,) of the handle of a pair's datum wall."""
        wall = next((w for w in self.model.walls if w.name == pair.wall), None)
        if wall is None or wall.handle is None:
            return None
        first = 3 * self.layout.handles[wall.handle]
        return u[first : first + 6]

    def _fit_offset(self) -> Array:
        """What the pairs' fits add to gaps that are measured: fitted less drawn, at the start."""
        if self._offset is None:
            drawn = [
                build_interface(
                    self.model, replace(f.pair, fit="as-drawn"), self.model.nodes(), every_node=True, true_radii=False
                ).gap
                for f in self.at_start
            ]
            fitted = [np.where(f.area > 0, f.gap - d, 0.0) for f, d in zip(self.at_start, drawn, strict=True)]
            self._offset = np.concatenate(fitted) if fitted else np.zeros(0)
        return self._offset
