"""Small matrices within kernels: loops that the compiler unrolls, where calls of a library cost more than the work."""

from numba import njit


# A singular matrix has a determinant of 0, and an inverse that is none.
@njit(cache=True, error_model="numpy")
def inverse_of(a, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """Inverse of a 2×2 or 3×3 matrix into ``out``; gives the determinant."""
    if len(a) == 2:
        det = a[0, 0] * a[1, 1] - a[0, 1] * a[1, 0]
        out[0, 0], out[0, 1] = a[1, 1] / det, -a[0, 1] / det
        out[1, 0], out[1, 1] = -a[1, 0] / det, a[0, 0] / det
        return det
    c0 = a[1, 1] * a[2, 2] - a[1, 2] * a[2, 1]
    c1 = a[1, 2] * a[2, 0] - a[1, 0] * a[2, 2]
    c2 = a[1, 0] * a[2, 1] - a[1, 1] * a[2, 0]
    det = a[0, 0] * c0 + a[0, 1] * c1 + a[0, 2] * c2
    out[0, 0], out[1, 0], out[2, 0] = c0 / det, c1 / det, c2 / det
    out[0, 1] = (a[0, 2] * a[2, 1] - a[0, 1] * a[2, 2]) / det
    out[1, 1] = (a[0, 0] * a[2, 2] - a[0, 2] * a[2, 0]) / det
    out[2, 1] = (a[0, 1] * a[2, 0] - a[0, 0] * a[2, 1]) / det
    out[0, 2] = (a[0, 1] * a[1, 2] - a[0, 2] * a[1, 1]) / det
    out[1, 2] = (a[0, 2] * a[1, 0] - a[0, 0] * a[1, 2]) / det
    out[2, 2] = (a[0, 0] * a[1, 1] - a[0, 1] * a[1, 0]) / det
    return det


@njit(cache=True, error_model="numpy")
def eliminate(a, b):  # type: ignore[no-untyped-def] # pragma: no cover
    """Solve ``a x = b`` for all columns of b in place, by Gauss with row pivots; False when a is singular."""
    n = len(a)
    for k in range(n):
        pivot = k
        for i in range(k + 1, n):
            if abs(a[i, k]) > abs(a[pivot, k]):
                pivot = i
        if not abs(a[pivot, k]) > 0.0:
            return False
        if pivot != k:
            for j in range(n):
                a[k, j], a[pivot, j] = a[pivot, j], a[k, j]
            for j in range(b.shape[1]):
                b[k, j], b[pivot, j] = b[pivot, j], b[k, j]
        for i in range(k + 1, n):
            factor = a[i, k] / a[k, k]
            if factor != 0.0:
                for j in range(k + 1, n):
                    a[i, j] -= factor * a[k, j]
                for j in range(b.shape[1]):
                    b[i, j] -= factor * b[k, j]
    for k in range(n - 1, -1, -1):
        for j in range(b.shape[1]):
            value = b[k, j]
            for i in range(k + 1, n):
                value -= a[k, i] * b[i, j]
            b[k, j] = value / a[k, k]
    return True


@njit(cache=True)
def product(a, b, out):  # type: ignore[no-untyped-def] # pragma: no cover
    """``a b`` into ``out``, for ``a`` that may have many zeros."""
    for i in range(a.shape[0]):
        for j in range(b.shape[1]):
            out[i, j] = 0.0
        for k in range(a.shape[1]):
            factor = a[i, k]
            if factor != 0.0:
                for j in range(b.shape[1]):
                    out[i, j] += factor * b[k, j]
