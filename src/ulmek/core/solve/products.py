"""Products of large sparse matrices and vectors, shared out to the cores."""

from typing import TypeVar

import numpy as np
import scipy.sparse as sp
from numba import njit
from numpy.typing import NDArray

from ulmek.core.shared_out import share_out

Real = TypeVar("Real", np.float32, np.float64)


def product(matrix: sp.csr_matrix, x: NDArray[Real]) -> NDArray[Real]:
    """``matrix x`` (m,) for ``x`` (n,) of the precision of the matrix."""
    out = np.empty(matrix.shape[0], x.dtype)
    share_out(_rows, len(out), matrix.indptr, matrix.indices, matrix.data, x, out)
    return out


@njit(cache=True, nogil=True)
def _rows(first, last, indptr, indices, data, x, out):  # type: ignore[no-untyped-def] # pragma: no cover
    for i in range(first, last):
        total = x[0] * 0
        for k in range(indptr[i], indptr[i + 1]):
            total += data[k] * x[indices[k]]
        out[i] = total
