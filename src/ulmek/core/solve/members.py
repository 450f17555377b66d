"""Beams in global numbering: their elements, stiffness and forces at the handles of their stations."""

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.element.beam import BeamElements
from ulmek.core.layout import Layout
from ulmek.core.model import Beam, Model

Array = NDArray[np.float64]
Ids = NDArray[np.int64]


class Members:
    """All beams of a model. small: stiffness (3·n_total)² of small motion, N/mm."""

    def __init__(self, model: Model, layout: Layout) -> None:
        self.size = 3 * layout.n_total
        self.elements = {beam.body: _elements(model, layout, beam) for beam in model.beams}
        self.unknowns = {beam.body: _unknowns(layout, beam) for beam in model.beams}
        self.small = self._gathered({name: e.small_stiffness() for name, e in self.elements.items()})

    def answer(self, u: Array, *, large: bool) -> tuple[Array, sp.csr_matrix]:
        """Forces (3·n_total,) N and stiffness for displacements ``u`` (3·n_total,)."""
        if not large:
            return self.small @ u, self.small
        force = np.zeros(self.size)
        blocks = {}
        for name, elements in self.elements.items():
            moved = u[self.unknowns[name]]
            np.add.at(force, self.unknowns[name], elements.forces(moved))
            blocks[name] = elements.large_stiffness(moved)
        return force, self._gathered(blocks)

    def _gathered(self, blocks: dict[str, Array]) -> sp.csr_matrix:
        if not blocks:
            return sp.csr_matrix((self.size, self.size))
        at = np.vstack([self.unknowns[name] for name in blocks])
        data = np.vstack(list(blocks.values()))
        rows, columns = np.repeat(at, 12, axis=1).ravel(), np.tile(at, (1, 12)).ravel()
        return sp.csr_matrix((data.ravel(), (rows, columns)), shape=(self.size, self.size))


def _unknowns(layout: Layout, beam: Beam) -> Ids:
    """Motion and turn of both stations of every element (m, 12)."""
    first = np.array([3 * layout.handles[name] for name in beam.stations])
    six = first[:, None] + np.arange(6)
    return np.hstack([six[:-1], six[1:]])


def _elements(model: Model, layout: Layout, beam: Beam) -> BeamElements:
    law = model.bodies[model.body_index(beam.body)].material
    arm = beam.line - layout.positions[[layout.handles[name] for name in beam.stations]]
    span = np.diff(beam.line, axis=0)
    shear = law.young / (2 * (1 + law.poisson))
    stiffness = [
        np.linalg.inv(beam.section.flexibility(law.young, shear, float(length)))
        for length in np.linalg.norm(span, axis=1)
    ]
    return BeamElements(np.stack([arm[:-1], arm[1:]], axis=1), span, beam.frame, np.array(stiffness))
