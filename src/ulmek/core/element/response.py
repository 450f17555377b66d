"""What elements answer to displacements: nodal forces, tangent stiffness and stress, element by element.

One kernel for all families, spaces and materials. Strain is that of Green and Lagrange in large
motion, the infinitesimal one otherwise. Incompatible modes after Taylor, Beresford and Wilson
(1976) are added to the strain with their mean removed (Wilson and Ibrahimbegovic 1990), so that
the patch test holds for any shape; in large motion they enhance the Green strain, so a rigid turn
gives none. Plane stress is plane strain with a free thickness strain at every Gauss point. Nearly
incompressible rubber takes its pressure from the mean dilatation (Nagtegaal, Parks and Rice 1974).
"""

from typing import Literal, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ulmek.core.element.family import Family
from ulmek.core.material.law import ELASTIC, INTERNAL, RUBBER, Law, LawNumbers, stress_at
from ulmek.core.shared_out import share_out
from ulmek.core.small_matrices import eliminate, inverse_of, product

Array = NDArray[np.float64]
Space = Literal["solid", "plane-strain", "plane-stress", "axisymmetric"]
SPACES: tuple[Space, ...] = ("solid", "plane-strain", "plane-stress", "axisymmetric")
_PLANE_STRESS, _AXISYMMETRIC = 2, 3
# Newton steps for the modes of one yielding element; 3 to 6 are usual. As many again from another beginning.
MOST_MODE_STEPS = 20
# Rounding of the residual of the modes, relative to stiffness times strain.
ROUNDING = 1e-14


class Response(NamedTuple):
    """Answer of m elements with n nodes, g Gauss points, k modes.

    force (m, n·d) N; tangent (m, n·d, n·d) N/mm (empty when not asked for); stress (m, g, 6) MPa,
    true (Cauchy) stress in large motion; modes (m, k); internal (m, g, INTERNAL); volume (m, g)
    mm³ of each Gauss point; faulty: first element that is turned inside out, −1 when none.
    """

    force: Array
    tangent: Array
    stress: Array
    modes: Array
    internal: Array
    volume: Array
    faulty: int = -1


def n_modes(family: Family, law: Law, space: Space) -> int:
    """Number of mode amplitudes of one element."""
    if law.is_rubber:
        return 0
    free_thickness = len(family.rule) if space == "plane-stress" else 0
    return int(family.modes.shape[1]) * family.dim + free_thickness


class Manner(NamedTuple):
    """How elements move: in which space, how thick plane ones are (mm), and whether large motion is followed."""

    space: Space
    thickness: float = 1.0
    large: bool = False


class _Work(NamedTuple):
    """How all elements of one call move, and whether tangents are asked for, for the kernel."""

    space: int
    thickness: float
    large: bool
    with_tangent: bool


class _Start(NamedTuple):
    """Elements (m, …) as they are given to the kernel: corners, displacements, modes and internal values."""

    xyz: Array
    u: Array
    modes: Array
    internal: Array


class _Shapes(NamedTuple):
    """Gradients of shape functions (g, n, d) and of modes (g, k, d), hoop strain rows (g, n), volumes (g,)."""

    gradient: Array
    hoop: Array
    volume: Array
    mode_gradient: Array


def respond(
    family: Family,
    law: Law,
    xyz: Array,
    u: Array,
    manner: Manner,
    *,
    before: tuple[Array, Array] | None = None,
    with_tangent: bool = True,
) -> Response:
    """Answer of elements with corners ``xyz`` (m, n, 3) mm to displacements ``u`` (m, n, 3) mm.

    ``before``: modes and internal values of the last converged increment (none at the start).
    """
    m, n = xyz.shape[:2]
    g, dim = len(family.rule), family.dim
    k, nd = n_modes(family, law, manner.space), n * family.dim
    modes, internal = before if before is not None else (np.zeros((m, k)), np.zeros((m, g, INTERNAL)))
    out = Response(
        force=np.zeros((m, nd)),
        tangent=np.zeros((m if with_tangent else 1, nd, nd)),
        stress=np.zeros((m, g, 6)),
        modes=np.zeros((m, k)),
        internal=np.zeros((m, g, INTERNAL)),
        volume=np.zeros((m, g)),
    )
    bad = np.zeros(m, np.bool_)
    start = _Start(np.ascontiguousarray(xyz[..., :dim]), np.ascontiguousarray(u[..., :dim]), modes, internal)
    thickness = manner.thickness if manner.space.startswith("plane") else 1.0
    space = SPACES.index(manner.space)
    work = _Work(space, float(thickness), manner.large, with_tangent)
    share_out(_respond_all, m, start, family.quadrature, law.numbers, work, out, bad)
    return out._replace(faulty=int(np.argmax(bad)) if bad.any() else -1)


@njit(cache=True, nogil=True)
def _respond_all(first, last, start, quadrature, law, work, out, bad):  # type: ignore[no-untyped-def] # pragma: no cover
    for e in range(first, last):
        bad[e] = _respond_one(np.int64(e), start, quadrature, law, work, out)


@njit(cache=True, error_model="numpy")
def fill_shapes(xyz, quadrature, space, thickness, shapes):  # type: ignore[no-untyped-def] # pragma: no cover
    """Gradients of shape functions and modes and the volume of every Gauss point; False when folded."""
    shape, local, local0, rule, mode_local = quadrature
    gradient, hoop, weight, mode_gradient = shapes
    n_gauss, n, dim = local.shape
    jacobian, inverse, inverse0 = np.zeros((dim, dim)), np.zeros((dim, dim)), np.zeros((dim, dim))
    for a in range(n):
        for i in range(dim):
            for j in range(dim):
                jacobian[i, j] += local0[a, i] * xyz[a, j]
    det0 = inverse_of(jacobian, inverse0)
    fine = det0 > 0
    for g in range(n_gauss):
        jacobian[:] = 0.0
        radius = 0.0
        for a in range(n):
            radius += shape[g, a] * xyz[a, 0]
            for i in range(dim):
                for j in range(dim):
                    jacobian[i, j] += local[g, a, i] * xyz[a, j]
        det = inverse_of(jacobian, inverse)
        fine = fine and det > 0
        weight[g] = rule[g] * det * thickness
        if space == _AXISYMMETRIC:
            weight[g] = rule[g] * det * 2 * np.pi * radius
            for a in range(n):
                hoop[g, a] = shape[g, a] / radius
        for a in range(n):
            for j in range(dim):
                gradient[g, a, j] = 0.0
                for i in range(dim):
                    gradient[g, a, j] += inverse[j, i] * local[g, a, i]
        for k in range(mode_gradient.shape[1]):
            for j in range(dim):
                mode_gradient[g, k, j] = 0.0
                for i in range(dim):
                    mode_gradient[g, k, j] += inverse0[j, i] * mode_local[g, k, i] * det0 / det
    total = weight.sum()
    for k in range(mode_gradient.shape[1]):
        for j in range(dim):
            mean = 0.0
            for g in range(n_gauss):
                mean += weight[g] * mode_gradient[g, k, j]
            for g in range(n_gauss):
                mode_gradient[g, k, j] -= mean / total
    return fine


@njit(cache=True)
def _strain_rows(gradient, hoop, f, space, rows):  # type: ignore[no-untyped-def] # pragma: no cover
    """Rows (6, n·dim) of strain per displacement for deformation gradient ``f`` (identity: small)."""
    n, dim = gradient.shape
    for a in range(n):
        for c in range(dim):
            j = a * dim + c
            rows[0, j] = f[c, 0] * gradient[a, 0]
            rows[1, j] = f[c, 1] * gradient[a, 1]
            rows[3, j] = f[c, 0] * gradient[a, 1] + f[c, 1] * gradient[a, 0]
            if dim == 3:
                rows[2, j] = f[c, 2] * gradient[a, 2]
                rows[4, j] = f[c, 1] * gradient[a, 2] + f[c, 2] * gradient[a, 1]
                rows[5, j] = f[c, 2] * gradient[a, 0] + f[c, 0] * gradient[a, 2]
        if space == _AXISYMMETRIC:
            rows[2, a * dim] = f[2, 2] * hoop[a]


@njit(cache=True)
def _strain(h, large, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """Strain (6,) of displacement gradient ``h``, shears in engineering form."""
    for r, i, j in ((0, 0, 0), (1, 1, 1), (2, 2, 2), (3, 0, 1), (4, 1, 2), (5, 2, 0)):
        value = h[i, j] + h[j, i]
        if large:
            value += h[0, i] * h[0, j] + h[1, i] * h[1, j] + h[2, i] * h[2, j]
        out[r] = value / 2 if r < 3 else value


@njit(cache=True, error_model="numpy")
def _respond_one(e, start, quadrature, law, work, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """The answer of element ``e``; True when it is turned inside out."""
    space, large = work.space, work.large
    xyz, u, modes, internal = start.xyz[e], start.u[e], start.modes[e], start.internal[e]
    force, tangent, stress = out.force[e], out.tangent[e % len(out.tangent)], out.stress[e]
    modes_out, internal_out, volume = out.modes[e], out.internal[e], out.volume[e]
    n_gauss, n, dim = quadrature.gradient.shape
    nd, nk, n_inc = n * dim, len(modes), quadrature.modes.shape[1]
    gradient, hoop = np.empty((n_gauss, n, dim)), np.zeros((n_gauss, n))
    mode_gradient = np.empty((n_gauss, n_inc, dim))
    shapes = _Shapes(gradient, hoop, volume, mode_gradient)
    if not fill_shapes(xyz, quadrature, space, work.thickness, shapes):
        return True
    identity, no_hoop = np.eye(3), np.zeros(n_inc)
    f, det_f, base = np.empty((n_gauss, 3, 3)), np.ones(n_gauss), np.empty((n_gauss, 6))
    rows, mode_rows = np.zeros((n_gauss, 6, nd)), np.zeros((n_gauss, 6, nk))
    h, dummy = np.zeros((3, 3)), np.empty((3, 3))
    for g in range(n_gauss):
        h[:] = 0.0
        for a in range(n):
            for c in range(dim):
                for d in range(dim):
                    h[c, d] += u[a, c] * gradient[g, a, d]
            h[2, 2] += u[a, 0] * hoop[g, a]
        _strain(h, large, base[g])
        f[g] = identity + h if large else identity
        _strain_rows(gradient[g], hoop[g], f[g], space, rows[g])
        if nk > 0:
            _strain_rows(mode_gradient[g], no_hoop, identity, 0, mode_rows[g])
            if space == _PLANE_STRESS:
                mode_rows[g, 2, n_inc * dim + g] = 1.0
        if large:
            # Plane stress: the thickness strain is a mode, so the area change alone is checked.
            det_f[g] = inverse_of(f[g], dummy)
            if det_f[g] <= 0:
                return True
    dilatation = 0.0
    if law.number == RUBBER:
        dilatation = (volume * det_f).sum() / volume.sum() - 1.0
    tangents = np.empty((n_gauss, 6, 6))
    k_aa, eliminated, amplitude = np.zeros((nk, nk)), np.empty((nk, nk)), modes.copy()
    residual, strain = np.zeros(nk), np.empty(6)
    elastic, is_lost = LawNumbers(ELASTIC, law.hooke, law.constants, law.table), False
    # Whether `k_aa` is that of a material of which nothing yields, which stays the same.
    is_of_hooke = False
    for start in range(2):
        amplitude[:] = modes
        is_lost = False
        for step in range(MOST_MODE_STEPS):
            # Modes of what springs back are far from those before: at the second go they begin as if nothing yielded.
            is_guess = start == 1 and step == 0
            size, rounding, yields = 0.0, 0.0, False
            residual[:] = 0.0
            for g in range(n_gauss):
                for r in range(6):
                    value = base[g, r] - (internal[g, r] if is_guess else 0.0)
                    for i in range(nk):
                        value += mode_rows[g, r, i] * amplitude[i]
                    strain[r] = value
                now = elastic if is_guess else law
                if stress_at(now, strain, dilatation, internal[g], internal_out[g], stress[g], tangents[g]):
                    yields = True
                for r in range(6):
                    force_of, largest = volume[g] * stress[g, r], volume[g] * law.hooke[0, 0] * base[g, r]
                    for i in range(nk):
                        residual[i] += mode_rows[g, r, i] * force_of
                        size += abs(mode_rows[g, r, i] * force_of)
                        rounding += abs(mode_rows[g, r, i] * largest)
            if nk > 0 and (yields or not is_of_hooke):
                _add_products(tangents, mode_rows, volume, k_aa)
                is_of_hooke = not yields
            # Where stress goes back to nothing only rounding is left, of strains that stay.
            enough = 1e-12 * size + ROUNDING * rounding
            if nk == 0 or (step > 0 and (law.number == ELASTIC or np.abs(residual).sum() <= enough)):
                break
            eliminated[:] = k_aa
            if not eliminate(eliminated, residual.reshape(-1, 1)):
                is_lost = True
                break
            amplitude -= residual
        if not is_lost:
            break
    if is_lost:
        return True
    modes_out[:] = amplitude
    for g in range(n_gauss):
        for r in range(6):
            force_of = volume[g] * stress[g, r]
            for i in range(nd):
                force[i] += rows[g, r, i] * force_of
    if work.with_tangent:
        if not _add_tangent(work, shapes, (rows, mode_rows), stress, tangents, k_aa, tangent):
            return True
        if law.number == RUBBER:
            _add_dilatation(f, det_f, volume, rows, law.constants[2], tangent)
    if large:
        for g in range(n_gauss):
            _push_forward(f[g], det_f[g], stress[g])
    return False


@njit(cache=True)
def _add_products(tangents, rows, volume, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """``Σ V Bᵀ D B`` over the Gauss points into ``out``, for few rows ``B`` (g, 6, k), many of them zero."""
    half = np.empty((6, rows.shape[2]))
    out[:] = 0.0
    for g in range(len(rows)):
        product(tangents[g], rows[g], half)
        for r in range(6):
            for i in range(rows.shape[2]):
                b = rows[g, r, i] * volume[g]
                if b != 0.0:
                    for j in range(rows.shape[2]):
                        out[i, j] += b * half[r, j]


@njit(cache=True, error_model="numpy")
def _add_tangent(work, shapes, both_rows, stress, tangents, k_aa, tangent):  # type: ignore[no-untyped-def] # pragma: no cover
    """Add an element's tangent, its modes eliminated; False when their matrix ``k_aa`` is singular."""
    gradient, hoop, volume, _ = shapes
    rows, mode_rows = both_rows
    space, large = work.space, work.large
    n_gauss, n, dim = gradient.shape
    nd, nk = rows.shape[2], mode_rows.shape[2]
    # All Gauss points at once: two products of a library, where one for each point costs more than its work.
    weighted = np.empty((n_gauss, 6, nd))
    for g in range(n_gauss):
        product(tangents[g], rows[g], weighted[g])
        for r in range(6):
            for j in range(nd):
                weighted[g, r, j] *= volume[g]
    answers = weighted.reshape(n_gauss * 6, nd)
    tangent += rows.reshape(n_gauss * 6, nd).T @ answers
    k_au = mode_rows.reshape(n_gauss * 6, nk).T @ answers
    for g in range(n_gauss):
        if large:
            s = stress[g]
            for a in range(n):
                ga = gradient[g, a]
                for b in range(n):
                    gb = gradient[g, b]
                    both = s[0] * ga[0] * gb[0] + s[1] * ga[1] * gb[1] + s[3] * (ga[0] * gb[1] + ga[1] * gb[0])
                    if dim == 3:
                        both += s[2] * ga[2] * gb[2] + s[4] * (ga[1] * gb[2] + ga[2] * gb[1])
                        both += s[5] * (ga[2] * gb[0] + ga[0] * gb[2])
                    for c in range(dim):
                        tangent[a * dim + c, b * dim + c] += volume[g] * both
                    if space == _AXISYMMETRIC:
                        tangent[a * dim, b * dim] += volume[g] * s[2] * hoop[g, a] * hoop[g, b]
    if nk > 0:
        solved = k_au.copy()
        if not eliminate(k_aa, solved):
            return False
        for r in range(nk):
            for i in range(nd):
                b = k_au[r, i]
                for j in range(nd):
                    tangent[i, j] -= b * solved[r, j]
    return True


@njit(cache=True, error_model="numpy")
def _add_dilatation(f, det_f, volume, rows, bulk, tangent):  # type: ignore[no-untyped-def] # pragma: no cover
    """``κ/V h hᵀ`` with ``h = ∂v/∂u``: stiffness of the mean dilatation."""
    nd = rows.shape[2]
    h, c, inverse, cauchy = np.zeros(nd), np.empty((3, 3)), np.empty((3, 3)), np.empty(6)
    for g in range(len(volume)):
        product(f[g].T, f[g], c)
        inverse_of(c, inverse)
        cauchy[0], cauchy[1], cauchy[2] = inverse[0, 0], inverse[1, 1], inverse[2, 2]
        cauchy[3], cauchy[4], cauchy[5] = inverse[0, 1], inverse[1, 2], inverse[2, 0]
        for i in range(nd):
            for r in range(6):
                h[i] += volume[g] * det_f[g] * rows[g, r, i] * cauchy[r]
    for i in range(nd):
        for j in range(nd):
            tangent[i, j] += bulk / volume.sum() * h[i] * h[j]


@njit(cache=True, error_model="numpy")
def _push_forward(f, det_f, s):  # type: ignore[no-untyped-def] # pragma: no cover
    """True stress ``F S Fᵀ / det F`` in place of the second Piola–Kirchhoff stress."""
    full = np.empty((3, 3))
    full[0, 0], full[1, 1], full[2, 2] = s[0], s[1], s[2]
    full[0, 1] = full[1, 0] = s[3]
    full[1, 2] = full[2, 1] = s[4]
    full[2, 0] = full[0, 2] = s[5]
    half, true = np.empty((3, 3)), np.empty((3, 3))
    product(f, full, half)
    product(half, f.T, true)
    true /= det_f
    s[0], s[1], s[2], s[3], s[4], s[5] = true[0, 0], true[1, 1], true[2, 2], true[0, 1], true[1, 2], true[2, 0]
