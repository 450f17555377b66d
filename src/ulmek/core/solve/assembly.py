"""Global stiffness of all bodies and the columns of the bolts."""

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.element import brick
from ulmek.core.model import Body, Model

Array = NDArray[np.float64]


def dofs_of(nodes: NDArray[np.int64]) -> NDArray[np.int64]:
    """Global unknowns of node lists (m, k): shape (m, 3k)."""
    return (3 * nodes[..., None] + np.arange(3)).reshape(*nodes.shape[:-1], -1)


def body_stiffness(body: Body) -> sp.csr_matrix:
    """Stiffness of one body alone (3n × 3n), N/mm."""
    xyz = body.mesh.nodes[body.mesh.bricks]
    return _scatter(brick.stiffness(xyz, body.material.stiffness()), body.mesh.bricks, len(body.mesh.nodes))


def _scatter(elements: Array, bricks: NDArray[np.int64], n_nodes: int) -> sp.csr_matrix:
    dofs = dofs_of(bricks).astype(np.int32)
    rows = np.repeat(dofs, 24, axis=1).ravel()
    columns = np.tile(dofs, (1, 24)).ravel()
    return sp.coo_matrix((elements.ravel(), (rows, columns)), shape=(3 * n_nodes, 3 * n_nodes)).tocsr()


def assemble(model: Model) -> sp.csr_matrix:
    """Block-diagonal stiffness of all bodies in global numbering, N/mm."""
    made: dict[int, sp.csr_matrix] = {}
    for i, body in enumerate(model.bodies):
        first = first_like(model, i)
        made[i] = made[first] if first < i else body_stiffness(body)
    return sp.csr_matrix(sp.block_diag([made[i] for i in range(len(model.bodies))]))


def first_like(model: Model, index: int) -> int:
    """The first body that differs from body ``index`` by a shift only, so that its matrices can be shared."""
    body = model.bodies[index]
    shape = body.mesh.nodes - body.mesh.nodes[0]
    for i, other in enumerate(model.bodies[:index]):
        same_mesh = other.mesh.bricks is body.mesh.bricks and other.material == body.material
        if same_mesh and np.allclose(other.mesh.nodes - other.mesh.nodes[0], shape, rtol=0, atol=1e-9):
            return i
    return index


def bolt_columns(model: Model) -> tuple[sp.csc_matrix, Array, sp.csc_matrix]:
    """Columns that shorten each bolt by 1 mm at its cut, without splitting the mesh.

    The bricks above the cut see ``u − χδ`` at the cut nodes, χ the axis. Returns
    ``C = −K_up χ`` (n_dofs, n_bolts) N/mm, ``diag = χᵀ K_up χ`` (n_bolts,), and χ itself.
    """
    n = 3 * len(model.nodes())
    offsets = model.offsets()
    columns, diagonal, directions = [], [], []
    for bolt in model.bolts:
        i = model.body_index(bolt.body)
        body = model.bodies[i]
        mesh = body.mesh
        bricks = mesh.bricks[mesh.cut_above]
        chi = np.zeros((len(mesh.nodes), 3))
        chi[mesh.cut_nodes] = bolt.axis
        up = _scatter(brick.stiffness(mesh.nodes[bricks], body.material.stiffness()), bricks, len(mesh.nodes))
        flat = chi.ravel()
        pulled = up @ flat
        columns.append(_place(-pulled, int(offsets[i]), n))
        diagonal.append(float(flat @ pulled))
        directions.append(_place(flat, int(offsets[i]), n))
    if not columns:
        empty = sp.csc_matrix((n, 0))
        return empty, np.zeros(0), empty
    return sp.hstack(columns, format="csc"), np.array(diagonal), sp.hstack(directions, format="csc")


def _place(values: Array, first_node: int, n: int) -> sp.csc_matrix:
    rows = np.flatnonzero(values)
    return sp.csc_matrix((values[rows], (rows + 3 * first_node, np.zeros(len(rows), int))), shape=(n, 1))


def surface_forces(nodes: Array, quads: NDArray[np.int64]) -> tuple[Array, Array]:
    """Nodal areas (n,) mm² and nodal area vectors (n, 3) mm², outward, of a set of quads (2×2 Gauss)."""
    area, vector = np.zeros(len(nodes)), np.zeros((len(nodes), 3))
    p = nodes[quads]
    g = 1 / np.sqrt(3)
    for xi, eta in ((-g, -g), (g, -g), (g, g), (-g, g)):
        shape = np.array([(1 - xi) * (1 - eta), (1 + xi) * (1 - eta), (1 + xi) * (1 + eta), (1 - xi) * (1 + eta)]) / 4
        d_xi = np.array([-(1 - eta), 1 - eta, 1 + eta, -(1 + eta)]) / 4
        d_eta = np.array([-(1 - xi), -(1 + xi), 1 + xi, 1 - xi]) / 4
        normal = np.cross(np.einsum("n,mnx->mx", d_xi, p), np.einsum("n,mnx->mx", d_eta, p))
        size = np.linalg.norm(normal, axis=1)
        for k in range(4):
            np.add.at(area, quads[:, k], shape[k] * size)
            np.add.at(vector, quads[:, k], shape[k] * normal)
    return area, vector
