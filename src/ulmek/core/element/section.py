"""Cross-sections of beams: areas, warping and shear, found on a fine mesh of the true outline.

Saint-Venant torsion and shear with ν = 0 in the shear problem, by quads (Schramm, Kitis, Kang and Pilkey 1994;
Pilkey 2002, chapters 5 and 6). Coordinates y, z run along the principal axes from the centroid.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray
from scipy.sparse.linalg import splu
from scipy.spatial import cKDTree

from ulmek.core.element.family import FAMILIES

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Section:
    """A cross-section.

    area (mm²); centroid (2,) mm and axes (2, 2) rows y, z in the outline's own coordinates. second (2,) mm⁴:
    ∫z², ∫y². torsion (mm⁴); shear_centre (2,) mm in y, z. shear (2, 2) 1/mm²: shear flexibility times G for
    forces along y and z. points (k, 2) mm in y, z; twist_stress (k, 2): τ per unit moment about the shear centre;
    shear_stress (k, 2, 2): τ at a point (last index) per unit force along y, z.
    """

    area: float
    centroid: Array
    axes: Array
    second: Array
    torsion: float
    shear_centre: Array
    shear: Array
    points: Array
    twist_stress: Array
    shear_stress: Array

    @cached_property
    def _tree(self) -> cKDTree:
        return cKDTree(self.points)

    def local(self, outline: Array) -> Array:
        """Points (n, 2) of the outline's coordinates in y, z."""
        return (outline - self.centroid) @ self.axes.T

    def flexibility(self, young: float, shear_modulus: float, length: float) -> Array:
        """Strains (6, 6) of an element's middle per unit of N, Vy, Vz, T, My, Mz at its centroid line.

        The bending that a linear interpolation over ``length`` (mm) leaves out is added to the shear (MacNeal 1978),
        which makes straight elements exact.
        """
        out = np.zeros((6, 6))
        out[0, 0] = 1 / (young * self.area)
        out[1:3, 1:3] = self.shear / shear_modulus
        out[1, 1] += length**2 / (12 * young * self.second[1])
        out[2, 2] += length**2 / (12 * young * self.second[0])
        out[4, 4], out[5, 5] = 1 / (young * self.second)
        about = np.array([0.0, self.shear_centre[1], -self.shear_centre[0], 1.0, 0.0, 0.0])
        return out + np.outer(about, about) / (shear_modulus * self.torsion)

    def stress(self, at: Array, forces: Array) -> tuple[Array, Array]:
        """Normal stress (n,) and shear stress along y and z (n, 2) MPa at ``at`` (n, 2) for N, Vy, Vz, T, My, Mz;
        (m, n) and (m, n, 2) for m of them, (m, 1, 6).

        Shear stress is that of the nearest point of the section's own mesh.
        """
        n, vy, vz, t, my, mz = np.moveaxis(forces, -1, 0)
        normal = n / self.area + my * at[:, 1] / self.second[0] - mz * at[:, 0] / self.second[1]
        _, near = self._tree.query(at)
        twist = t - self.shear_centre[0] * vz + self.shear_centre[1] * vy
        of_twist, of_y, of_z = self.twist_stress[near], self.shear_stress[near, 0], self.shear_stress[near, 1]
        return normal, twist[..., None] * of_twist + vy[..., None] * of_y + vz[..., None] * of_z


def section_of(nodes: Array, quads: NDArray[np.int64]) -> Section:
    """Properties of the section that 4-node ``quads`` (m, 4) of ``nodes`` (k, 2) mm fill."""
    family = FAMILIES["quad"]
    xy = nodes[quads]
    jacobian = np.einsum("gnd,mni->mgid", family.gradient, xy)
    weight = np.linalg.det(jacobian) * family.rule
    at = np.einsum("gn,mni->mgi", family.shape, xy)
    area = float(weight.sum())
    centroid = np.einsum("mg,mgi->i", weight, at) / area
    arm = at - centroid
    moments = np.einsum("mg,mgi,mgj->ij", weight, arm, arm)
    # y along the lesser extent, z along the greater, right-handed with the beam's axis.
    values, vectors = np.linalg.eigh(moments)
    axes = vectors.T if abs(values[1] - values[0]) > 1e-6 * values[1] else np.eye(2)
    axes[0] *= 1.0 if axes[0, np.abs(axes[0]).argmax()] > 0 else -1.0
    axes[1] = [-axes[0, 1], axes[0, 0]]
    points, arm = (nodes - centroid) @ axes.T, arm @ axes.T
    second = np.einsum("mg,mgi,mgi->i", weight, arm, arm)[::-1]
    gradient = np.einsum("gnd,mgdi,ij->mgnj", family.gradient, np.linalg.inv(jacobian), axes.T)
    turned = np.stack([arm[..., 1], -arm[..., 0]], axis=-1)
    right = np.concatenate(
        [
            np.einsum("mg,mgi,mgni->mn", weight, turned, gradient)[..., None],
            np.einsum("mg,mgf,gn->mnf", weight, arm, family.shape),
        ],
        axis=2,
    )
    potentials = _solved(len(nodes), quads, np.einsum("mg,mgni,mgki->mnk", weight, gradient, gradient), right)
    slopes = np.einsum("mgni,mnf->mgfi", gradient, potentials[quads])
    twisting = slopes[:, :, 0] - turned
    torsion = float(np.einsum("mg,mgi,mgi->", weight, twisting, -turned))
    shears = slopes[:, :, 1:] / second[::-1][:, None]
    # The moment of each shear stress about the centroid tells where its force passes.
    moment = np.einsum("mg,mgf->f", weight, arm[..., None, 0] * shears[..., 1] - arm[..., None, 1] * shears[..., 0])
    return Section(
        area=area,
        centroid=centroid,
        axes=axes,
        second=second,
        torsion=torsion,
        shear_centre=np.array([moment[1], -moment[0]]),
        shear=np.einsum("mg,mgfi,mghi->fh", weight, shears, shears),
        points=points,
        twist_stress=_at_nodes(len(nodes), quads, weight, twisting[:, :, None] / torsion)[:, 0],
        shear_stress=_at_nodes(len(nodes), quads, weight, shears),
    )


def _solved(n: int, quads: NDArray[np.int64], blocks: Array, right: Array) -> Array:
    """Potentials (n, 3) of mean zero right-hand sides; the first node stays at zero."""
    rows, columns = np.repeat(quads, 4, axis=1).ravel(), np.tile(quads, (1, 4)).ravel()
    matrix = sp.csc_matrix((blocks.ravel(), (rows, columns)), shape=(n, n))
    load = np.zeros((n, right.shape[2]))
    np.add.at(load, quads, right)
    out = np.zeros_like(load)
    out[1:] = splu(matrix[1:, 1:]).solve(load[1:])
    return out


def _at_nodes(n: int, quads: NDArray[np.int64], weight: Array, values: Array) -> Array:
    """Gauss values (m, g, f, 2) extrapolated to corners and averaged at nodes (n, f, 2)."""
    corners = np.einsum("ng,mgfi->mnfi", FAMILIES["quad"].extrapolation, values)
    share = np.broadcast_to(weight.sum(axis=1)[:, None], quads.shape)
    total, out = np.zeros(n), np.zeros((n, *values.shape[2:]))
    np.add.at(total, quads, share)
    np.add.at(out, quads, corners * share[..., None, None])
    return out / total[:, None, None]
