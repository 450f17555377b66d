"""Numbering of everything that moves: nodes of bodies, ghosts of cut nodes, and handles.

A bolt is tightened without splitting its mesh: the elements above the cut refer to ghosts of the
cut nodes, which move as ``u − χ δ`` with the shortening δ and the axis χ. A handle owns two triples,
its motion and its turn.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.model import Model

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


@dataclass(frozen=True)
class Layout:
    """Triples of unknowns in order: nodes, ghosts, handles (motion, turn).

    cells: element connectivity of each body in these numbers, none for beams. positions (n_total, 3) mm.
    ghost_of (n_ghosts,): node behind each ghost, −1 for the ground; ghost_bolt (n_ghosts,): its bolt.
    handles: name → number of its motion triple. is_turn (n_total,).
    """

    n_nodes: int
    cells: tuple[Ids, ...]
    positions: Array
    ghost_of: Ids
    ghost_bolt: Ids
    handles: dict[str, int]
    is_turn: NDArray[np.bool_]

    @property
    def n_total(self) -> int:
        """Number of triples."""
        return len(self.positions)

    def line_ghost(self, bolt: int) -> int:
        """The ghost of a line bolt's foot."""
        return self.n_nodes + int(np.flatnonzero(self.ghost_bolt == bolt)[0])


def lay_out(model: Model) -> Layout:
    """Number all triples of a model."""
    nodes, offsets = model.nodes(), model.offsets()
    n_nodes = len(nodes)
    cells = [
        b.mesh.cells[: 0 if b.name in model.beam_bodies else None] + o
        for b, o in zip(model.bodies, offsets[:-1], strict=True)
    ]
    ghost_of: list[int] = []
    ghost_bolt: list[int] = []
    n_ghosts = sum(
        len(model.bodies[model.body_index(b.body)].mesh.cut_nodes) if b.body is not None else 1 for b in model.bolts
    )
    first_handle = n_nodes + n_ghosts
    handles = {h.name: first_handle + 2 * i for i, h in enumerate(model.handles)}
    for number, bolt in enumerate(model.bolts):
        if bolt.body is None:
            ghost_of.append(handles[bolt.foot] if bolt.foot is not None else -1)
            ghost_bolt.append(number)
            continue
        i = model.body_index(bolt.body)
        mesh = model.bodies[i].mesh
        ghosts = np.arange(n_nodes + len(ghost_of), n_nodes + len(ghost_of) + len(mesh.cut_nodes))
        swap = np.arange(len(mesh.nodes)) + offsets[i]
        swap[mesh.cut_nodes] = ghosts
        cells[i] = cells[i].copy()
        cells[i][mesh.cut_above] = swap[mesh.cells[mesh.cut_above]]
        ghost_of += (mesh.cut_nodes + offsets[i]).tolist()
        ghost_bolt += [number] * len(ghosts)
    at = np.repeat(np.array([h.at for h in model.handles], float).reshape(-1, 3), 2, axis=0)
    behind = np.array(ghost_of, np.int64)
    so_far = np.vstack([nodes, np.zeros((n_ghosts, 3)), at])
    so_far[n_nodes:first_handle] = np.where(behind[:, None] >= 0, so_far[behind], 0.0)
    is_turn = np.zeros(len(so_far), bool)
    is_turn[first_handle + 1 :: 2] = True
    return Layout(n_nodes, tuple(cells), so_far, behind, np.array(ghost_bolt, np.int64), handles, is_turn)
