"""One straight beam by itself: what it does under forces at its stations, held or moved at some of them."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import scipy.linalg as la
import scipy.sparse as sp
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
        own = elements.small_stiffness()
        at = 6 * np.arange(n - 1)[:, None] + np.arange(12)
        places = np.repeat(at, 12, axis=1).ravel(), np.tile(at, (1, 12)).ravel()
        stiffness = sp.csr_matrix((own.ravel(), places), shape=(6 * n, 6 * n))
        asked, open_ways = np.zeros(6 * n), [np.eye(6)] * n
        for station in {station for station, _, _ in held}:
            rows = np.array([along for s, along, _ in held if s == station])
            values = np.array([value for s, _, value in held if s == station])
            # Motions that the rows leave open, and one that does what they ask for.
            asked[6 * station : 6 * station + 6] = np.linalg.lstsq(rows, values, rcond=None)[0]
            _, sizes, directions = np.linalg.svd(rows, full_matrices=True)
            open_ways[station] = directions[int((sizes > 1e-9).sum()) :].T
        free: Any = sp.csr_matrix(sp.block_diag(open_ways))
        given = acting.ravel() - stiffness @ asked
        reduced = (free.T @ stiffness @ free).toarray()
        scale = np.sqrt(np.abs(np.diag(reduced)))
        if not scale.all():
            return None
        reduced /= np.outer(scale, scale)
        lower, info = la.lapack.dpotrf(reduced, lower=1)
        share, _ = la.lapack.dpocon(lower, np.abs(reduced).sum(axis=0).max(), uplo="L") if not info else (0.0, 0)
        if share < np.finfo(float).eps:
            return None
        moved = asked + free @ (la.cho_solve((lower, True), free.T @ given / scale) / scale)
        moved = moved.reshape(n, 6)
        pairs = np.hstack([moved[:-1], moved[1:]])
        return Bent(moved, elements.at_ends(elements.section_forces(pairs, large=False)))


@dataclass(frozen=True)
class Bent:
    """moved (n, 6): motion (mm) and turn of each station. forces (n − 1, 2, 6): N, Vy, Vz, T, My, Mz (N, N·mm) at both
    ends of what is between stations."""

    moved: Array
    forces: Array
