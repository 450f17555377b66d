"""Stress at nodes: what changes shape from Gauss values extrapolated to corners and averaged inside each body, the
pressure of linear elements from the means of the elements around, by a fit that goes on to free faces."""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.element.family import FAMILIES
from ulmek.core.element.response import Manner, respond
from ulmek.core.mesh.volume import ELEMENTS, VolumeMesh
from ulmek.core.model import Model
from ulmek.core.review.beams import beam_stress
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.history import Increment

Array = NDArray[np.float64]
# A fit is trusted where the means around a node spread in every direction by this share of the widest.
SPREAD = 0.05


@dataclass(frozen=True)
class Recovered:
    """Nodal fields of one increment.

    stress (n_nodes, 6) MPa, order xx, yy, zz, xy, yz, zx. plastic_strain (n_nodes,): equivalent.
    stress_error (n_nodes,) MPa: von Mises measure of how far the elements around a node disagree with
    their average (after Zienkiewicz and Zhu 1987); large where the mesh is too coarse.
    force (n_nodes, 3) N: what acts on each node from outside its elements (loads, contact, supports, inertia).
    """

    stress: Array
    force: Array
    plastic_strain: Array
    stress_error: Array


class StressRecovery:
    """Recovers nodal fields of one model from Gauss points; the averages are made once."""

    def __init__(self, structure: Structure) -> None:
        self.structure = structure
        self.model: Model = structure.model
        self.offsets = self.model.offsets()
        beams = self.model.beam_bodies
        self.average: list[sp.csr_matrix] = [
            self._prepare(i) if body.name not in beams else sp.csr_matrix((0, 0))
            for i, body in enumerate(self.model.bodies)
        ]
        self.of_means = [
            pressure_fit(body.mesh) if body.name not in beams else None for body in self.model.bodies
        ]  # fmt: skip

    def _prepare(self, index: int) -> sp.csr_matrix:
        """Average at the nodes of a body (n, m·corners), weighted by element volume."""
        mesh = self.model.bodies[index].mesh
        xyz = mesh.nodes[mesh.cells]
        law = self.structure.laws[index]
        volume = respond(
            FAMILIES[mesh.kind], law, xyz, np.zeros_like(xyz), Manner(self.model.space), with_tangent=False
        ).volume.sum(axis=1)
        weight = np.repeat(volume, mesh.cells.shape[1])
        columns = np.arange(mesh.cells.size)
        average = sp.csr_matrix((weight, (mesh.cells.ravel(), columns)), shape=(len(mesh.nodes), mesh.cells.size))
        total = np.asarray(average.sum(axis=1)).ravel()
        return sp.csr_matrix(sp.diags(1 / total) @ average)

    def recover(self, increment: Increment) -> Recovered:
        """Nodal fields of one increment."""
        state = increment.state
        answer = self.structure.answer(state.u.ravel(), state.internal, large=increment.large, with_tangent=False)
        stress, plastic = np.empty((self.offsets[-1], 6)), np.zeros(self.offsets[-1])
        spread = np.zeros(self.offsets[-1])
        for i, body in enumerate(self.model.bodies):
            here = slice(self.offsets[i], self.offsets[i + 1])
            if body.name in self.model.beam_bodies:
                stress[here] = beam_stress(self.structure, self.model.beam(body.name), increment)
                continue
            extrapolation = FAMILIES[body.mesh.kind].extrapolation
            corner = np.matmul(extrapolation, answer.stress[i]).reshape(-1, 6)
            stress[here] = self.average[i] @ corner
            spread[here] = disagreement(self.average[i], corner, stress[here][body.mesh.cells.ravel()])
            fit = self.of_means[i]
            if fit is not None:
                mean = answer.stress[i][..., :3].mean(axis=(1, 2))
                shown = stress[here][:, :3].mean(axis=1)
                stress[here, :3] += np.where(fit.is_sure, fit.weights @ mean - shown, 0.0)[:, None]
            strain = answer.internal.material[i][..., 12]
            if strain.any():
                # Extrapolation may fall below zero beside the edge of the yielded zone.
                plastic[here] = np.maximum(self.average[i] @ (strain @ extrapolation.T).ravel(), 0.0)
        triples, ghosts = answer.force.reshape(-1, 3), self.structure.layout.ghost_of
        force = triples[: len(stress)].copy()
        # Where a bolt is cut to be tightened its nodes are there twice.
        are_nodes = (ghosts >= 0) & (ghosts < len(stress))
        np.add.at(force, ghosts[are_nodes], triples[len(stress) + np.flatnonzero(are_nodes)])
        return Recovered(stress, force, plastic, spread)


@dataclass(frozen=True)
class PressureFit:
    """weights (n_nodes, n_elements): of element means in the value at each node; is_sure (n_nodes,): where the means
    around spread in all directions, so that the fit says more than the elements at the node."""

    weights: sp.csr_matrix
    is_sure: NDArray[np.bool_]


def pressure_fit(mesh: VolumeMesh) -> PressureFit | None:
    """Fit of a linear field to the means of the elements around each node, of linear elements only.

    Superconvergent patches after Zienkiewicz and Zhu (1992, IJNME 33, 1331–1364): the pressure of a linear element that
    hardly changes its volume is right in its middle and constant over it, so that a node of a free face, with all its
    elements on one side, would read what holds half an element inside. There the elements around its neighbours count
    too, and the fit goes on to the face.
    """
    element = ELEMENTS[mesh.kind]
    if element.nodes > element.corners or FAMILIES[mesh.kind].is_simplex:
        return None
    dim, (count, corners) = FAMILIES[mesh.kind].dim, mesh.cells.shape
    middle = mesh.nodes[mesh.cells].mean(axis=1)[:, :dim]
    at = (np.ones(mesh.cells.size), (mesh.cells.ravel(), np.repeat(np.arange(count), corners)))
    touching = sp.csr_matrix(at, shape=(len(mesh.nodes), count))
    wide = sp.csr_matrix(touching @ (touching.T @ touching))
    is_inside = np.diff(touching.indptr) >= 2**dim
    around = sp.csr_matrix(sp.diags(is_inside * 1.0) @ touching + sp.diags(~is_inside * 1.0) @ wide)
    around.eliminate_zeros()
    node = np.repeat(np.arange(len(mesh.nodes)), np.diff(around.indptr))
    arm = middle[around.indices] - mesh.nodes[node, :dim]
    starts = around.indptr[:-1]
    size = np.sqrt(np.maximum.reduceat((arm**2).sum(axis=1), starts))
    terms = np.column_stack([np.ones(len(arm)), arm / size[node][:, None]])
    square = np.add.reduceat(terms[:, :, None] * terms[:, None, :], starts, axis=0)
    own = square[:, 1:, 1:] / square[:, :1, :1] - np.einsum(
        "ni,nj->nij", square[:, 0, 1:] / square[:, 0, :1], square[:, 0, 1:] / square[:, 0, :1]
    )
    spread = np.linalg.eigvalsh(own)
    is_sure = spread[:, 0] > SPREAD**2 * np.maximum(spread[:, -1], 1e-30)
    first = np.zeros((len(mesh.nodes), dim + 1))
    unit = np.broadcast_to(np.eye(dim + 1)[:, :1], (int(is_sure.sum()), dim + 1, 1))
    first[is_sure] = np.linalg.solve(square[is_sure], unit)[..., 0]
    weights = np.einsum("ki,ki->k", first[node], terms)
    return PressureFit(sp.csr_matrix((weights, around.indices, around.indptr), shape=around.shape), is_sure)


def disagreement(average: sp.csr_matrix, corner: Array, at_node: Array) -> Array:
    """How far the elements around each node are from their average (n,) MPa: from what they say at their corners (k, 6)
    and what is shown there (k, 6)."""
    return np.asarray(np.sqrt(np.maximum(average @ von_mises(corner - at_node) ** 2, 0.0)))


def von_mises(stress: Array) -> Array:
    """Von Mises stress (n,) MPa from (n, 6)."""
    xx, yy, zz, xy, yz, zx = stress.T
    return np.asarray(np.sqrt(0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2) + 3 * (xy**2 + yz**2 + zx**2)))
