"""Section forces along beams, and the stress that follows from them at the nodes of the outline."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.model import Beam
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.history import Increment

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SectionForces:
    """Forces in a beam: at (m, 2) mm along it, the ends of its elements; forces (m, 2, 6): N, Vy,
    Vz, T, My, Mz in N and N·mm.

    A positive axial force pulls. y and z are the principal axes of the section.
    """

    at: Array
    forces: Array


def section_forces(structure: Structure, beam: Beam, increment: Increment) -> SectionForces:
    """Section forces of one beam at both ends of every element."""
    elements, unknowns = structure.members.elements[beam.body], structure.members.unknowns[beam.body]
    middle = elements.section_forces(increment.state.u.ravel()[unknowns], large=increment.large)
    along = np.concatenate([[0.0], np.cumsum(elements.lengths)])
    return SectionForces(np.column_stack([along[:-1], along[1:]]), elements.at_ends(middle))


@dataclass(frozen=True)
class LargestForces:
    """Largest along a beam (N, N·mm): axial and torsion with their sign, shear and bending of both axes together;
    and where (mm along it) the bending is largest."""

    axial: float
    shear: float
    torsion: float
    bending: float
    bending_at: float


def largest_forces(found: SectionForces) -> LargestForces:
    """The largest forces along a beam."""
    flat = found.forces.reshape(-1, 6)
    bending = np.hypot(flat[:, 4], flat[:, 5])
    return LargestForces(
        axial=float(flat[np.abs(flat[:, 0]).argmax(), 0]),
        shear=float(np.hypot(flat[:, 1], flat[:, 2]).max()),
        torsion=float(flat[np.abs(flat[:, 3]).argmax(), 3]),
        bending=float(bending.max()),
        bending_at=float(found.at.ravel()[bending.argmax()]),
    )


def beam_stress(structure: Structure, beam: Beam, increment: Increment) -> Array:
    """Stress (n, 6) MPa at the body's nodes, order xx, yy, zz, xy, yz, zx; averaged where elements meet."""
    found = section_forces(structure, beam, increment).forces
    k = len(beam.stations)
    total, count = np.zeros((k, 6)), np.zeros(k)
    for end, first in ((0, 0), (1, 1)):
        total[first : first + k - 1] += found[:, end]
        count[first : first + k - 1] += 1
    at_station = total / count[:, None]
    model = structure.model
    nodes = model.bodies[model.body_index(beam.body)].mesh.nodes
    out = np.zeros((len(nodes), 6))
    for number, forces in enumerate(at_station):
        here = beam.station_of == number
        place = (nodes[here] - beam.line[number]) @ beam.frame[1:].T
        normal, shear = beam.section.stress(place, forces)
        turn = np.eye(3)
        if increment.large:
            vector = increment.state.u[structure.layout.handles[beam.stations[number]] + 1]
            turn = Rotation.from_rotvec(vector).as_matrix()
        e = beam.frame @ turn.T
        local = np.zeros((len(normal), 3, 3))
        local[:, 0, 0] = normal
        local[:, 0, 1:] = local[:, 1:, 0] = shear
        full = np.einsum("ai,nab,bj->nij", e, local, e)
        out[here] = full[:, [0, 1, 2, 0, 1, 2], [0, 1, 2, 1, 2, 0]]
    return out
