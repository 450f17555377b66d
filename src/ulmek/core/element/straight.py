"""One straight beam by itself: what it does under forces at its stations, held or moved at some of them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.element.beam import BeamElements
from ulmek.core.element.section import Section

Array = NDArray[np.float64]


@dataclass(frozen=True)
class StraightBeam:
    """A beam of one section, its stations at (n,) mm along it. frame (3, 3): rows along it and along y and z of the
    section. young, shear: moduli (MPa)."""

    section: Section
    young: float
    shear: float
    frame: Array
    at: Array

    def elements(self) -> BeamElements:
        """The elements between the stations, which lie on its centroids."""
        lengths = np.diff(self.at)
        give = [self.section.flexibility(self.young, self.shear, float(length)) for length in lengths]
        return BeamElements(
            np.zeros((len(lengths), 2, 3)),
            lengths[:, None] * self.frame[0],
            self.frame,
            np.asarray(np.linalg.inv(give)),
        )

    def under(self, acting: Array, held: list[tuple[int, Array, float]]) -> "Bent | None":
        """What it does under ``acting`` (n, 6), force (N) and moment (N·mm) at each station; ``held``: at a station the
        component along (6,) of motion (mm) and turn is a value. None where it can still move."""
        n, elements = len(self.at), self.elements()
        stiffness = np.zeros((6 * n, 6 * n))
        for i, own in enumerate(elements.small_stiffness()):
            stiffness[6 * i : 6 * i + 12, 6 * i : 6 * i + 12] += own
        rows = np.zeros((len(held), 6 * n))
        for row, (station, along, _) in zip(rows, held, strict=True):
            row[6 * station : 6 * station + 6] = along
        # Motions that the rows leave open, and one that does what they ask for.
        asked, *_ = np.linalg.lstsq(rows, np.array([value for _, _, value in held]), rcond=None)
        _, sizes, directions = np.linalg.svd(rows, full_matrices=True)
        free = directions[int((sizes > 1e-9).sum()) :].T
        given = acting.ravel() - stiffness @ asked
        scale = np.sqrt(np.abs(np.diag(free.T @ stiffness @ free)))
        reduced = free.T @ stiffness @ free / np.outer(scale, scale)
        if np.linalg.cond(reduced) > 1 / np.finfo(float).eps:
            return None
        moved = asked + free @ (np.linalg.solve(reduced, free.T @ given / scale) / scale)
        moved = moved.reshape(n, 6)
        pairs = np.hstack([moved[:-1], moved[1:]])
        return Bent(moved, elements.at_ends(elements.section_forces(pairs, large=False)))


@dataclass(frozen=True)
class Bent:
    """moved (n, 6): motion (mm) and turn of each station. forces (n − 1, 2, 6): N, Vy, Vz, T, My, Mz (N, N·mm) at both
    ends of what is between stations."""

    moved: Array
    forces: Array
