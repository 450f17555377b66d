"""Shear-flexible beam elements between two stations that turn: small motion, and large motion by exact geometry.

Strains are those of the middle of the element, in the frame midway between its stations (Simo and Vu-Quoc 1986;
interpolation that is indifferent to rigid motion after Crisfield and Jelenić 1999). A station is a handle, which
may stand off the centroid of its section.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

Array = NDArray[np.float64]

# Step of the difference quotient that makes the stiffness in large motion: rounding and truncation near 1e-10.
STEP = 1e-6


@dataclass(frozen=True)
class BeamElements:
    """Straight elements between stations a and b.

    arms (m, 2, 3) mm: from the handles to the centroids of the sections. span (m, 3) mm: from centroid to centroid.
    frame (3, 3): rows along the beam, y and z of its section. stiffness (m, 6, 6): N, Vy, Vz, T, My, Mz per strain.
    """

    arms: Array
    span: Array
    frame: Array
    stiffness: Array

    @property
    def lengths(self) -> Array:
        """Lengths (m,) mm."""
        return np.asarray(np.linalg.norm(self.span, axis=1))

    def strain_rows(self) -> Array:
        """Strains (m, 6, 12) of small motion per motion and turn of both handles."""
        m = len(self.span)
        rows = np.zeros((m, 6, 12))
        turned = self.frame @ _cross_of(self.span)
        for k, sign in ((0, -1.0), (1, 1.0)):
            # Motion of a centroid: u + φ × arm.
            rows[:, :3, 6 * k : 6 * k + 3] = sign * self.frame
            rows[:, :3, 6 * k + 3 : 6 * k + 6] = sign * (self.frame @ _cross_of(self.arms[:, k])) - turned / 2
            rows[:, 3:, 6 * k + 3 : 6 * k + 6] = sign * self.frame
        return np.asarray(rows / self.lengths[:, None, None])

    def small_stiffness(self) -> Array:
        """Stiffness (m, 12, 12) of small motion."""
        rows = self.strain_rows()
        return np.asarray(np.swapaxes(rows, 1, 2) @ self.stiffness @ rows * self.lengths[:, None, None])

    def section_forces(self, moved: Array, *, large: bool) -> Array:
        """N, Vy, Vz, T, My, Mz (m, 6) in the middle of each element for handle motions ``moved`` (m, 12)."""
        if not large:
            return np.asarray(np.einsum("mij,mjk,mk->mi", self.stiffness, self.strain_rows(), moved))
        strain, _, _, _ = self._strain(moved)
        return np.asarray(np.einsum("mij,mj->mi", self.stiffness, strain))

    def at_ends(self, middle: Array) -> Array:
        """Section forces (m, 2, 6) at both ends of each element from those ``middle`` (m, 6): shear and torsion are
        constant in each."""
        ends = np.repeat(middle[:, None], 2, axis=1)
        for k, half in ((0, -self.lengths / 2), (1, self.lengths / 2)):
            ends[:, k, 4] += half * middle[:, 2]
            ends[:, k, 5] -= half * middle[:, 1]
        return ends

    def forces(self, moved: Array) -> Array:
        """Gradient (m, 12) of the energy in large motion: forces (N) and moments conjugate to the turns' vectors."""
        strain, first, half_turn, span = self._strain(moved)
        both = np.einsum("mij,mj->mi", self.stiffness, strain)
        in_frame, psi = both @ _wide(self.frame), half_turn * 2
        middle = first @ Rotation.from_rotvec(half_turn).as_matrix()
        force = np.einsum("mij,mj->mi", middle, in_frame[:, :3])
        back = np.linalg.inv(spins_of_vectors(psi))
        moment = np.einsum("mij,mkj,mk->mi", first, back, in_frame[:, 3:])
        follow = first @ spins_of_vectors(half_turn) @ back @ np.swapaxes(first, 1, 2) / 2
        couple = np.cross(span, force)
        on_b = np.einsum("mji,mj->mi", follow, couple)
        out = np.zeros((len(moved), 12))
        for k, f, c in ((0, -force, on_b - couple - moment), (1, force, moment - on_b)):
            turn = moved[:, 6 * k + 3 : 6 * k + 6]
            arm = np.einsum("mij,mj->mi", Rotation.from_rotvec(turn).as_matrix(), self.arms[:, k])
            out[:, 6 * k : 6 * k + 3] = f
            out[:, 6 * k + 3 : 6 * k + 6] = np.einsum("mji,mj->mi", spins_of_vectors(turn), c + np.cross(arm, f))
        return out

    def large_stiffness(self, moved: Array) -> Array:
        """Stiffness (m, 12, 12) in large motion, by central differences of the forces."""
        m = len(moved)
        # All steps of all elements at once.
        steps = np.vstack([STEP * np.eye(12), -STEP * np.eye(12)])
        every = BeamElements(
            np.tile(self.arms, (24, 1, 1)), np.tile(self.span, (24, 1)), self.frame, np.tile(self.stiffness, (24, 1, 1))
        )
        forces = every.forces((steps[:, None] + moved).reshape(-1, 12)).reshape(2, 12, m, 12)
        out = np.moveaxis(forces[0] - forces[1], 0, 2) / (2 * STEP)
        return np.asarray((out + np.swapaxes(out, 1, 2)) / 2)

    def _strain(self, moved: Array) -> tuple[Array, Array, Array, Array]:
        """Strains (m, 6), turn of station a (m, 3, 3), half the turn from a to b (m, 3), span now (m, 3)."""
        turns = [Rotation.from_rotvec(moved[:, i : i + 3]) for i in (3, 9)]
        ends = [t.apply(self.arms[:, k]) - self.arms[:, k] + moved[:, 6 * k : 6 * k + 3] for k, t in enumerate(turns)]
        span = self.span + ends[1] - ends[0]
        half = (turns[0].inv() * turns[1]).as_rotvec() / 2
        middle = turns[0] * Rotation.from_rotvec(half)
        stretch = middle.apply(span, inverse=True) - self.span
        strain = np.hstack([stretch, 2 * half]) @ _wide(self.frame).T / self.lengths[:, None]
        return strain, turns[0].as_matrix(), half, span


def spins_of_vectors(turns: Array) -> Array:
    """T(θ) (m, 3, 3) with ``ω = T δθ`` for rotation vectors θ (m, 3) (Cardona and Géradin 1988)."""
    angle = np.linalg.norm(turns, axis=1)[:, None, None]
    k = -_cross_of(turns)
    # Both factors by their series where the closed form would cancel.
    small = angle < 1e-3
    safe = np.where(small, 1.0, angle)
    first = np.where(small, 0.5 - angle**2 / 24, (1 - np.cos(angle)) / safe**2)
    second = np.where(small, 1 / 6 - angle**2 / 120, (angle - np.sin(angle)) / safe**3)
    return np.asarray(np.eye(3) + first * k + second * (k @ k))


def _cross_of(r: Array) -> Array:
    """Matrices (m, 3, 3) of ``φ ↦ φ × r``."""
    out = np.zeros((len(r), 3, 3))
    out[:, 0, 1], out[:, 0, 2], out[:, 1, 2] = r[:, 2], -r[:, 1], r[:, 0]
    return out - np.swapaxes(out, 1, 2)


def _wide(frame: Array) -> Array:
    """The frame (3, 3) twice on a diagonal (6, 6)."""
    return np.asarray(np.kron(np.eye(2), frame), float)
