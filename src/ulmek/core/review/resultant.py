"""Force and moment over a cut through a part or over its faces, added up from the forces at the nodes."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def resultant(nodes: Array, forces: Array, chosen: NDArray[np.int64], about: Array) -> tuple[Array, Array]:
    """Force (3,) N of what acts from outside on the ``chosen`` nodes, and its moment (3,) N·mm about a point.

    nodes (n, 3) mm; forces (n, 3) N at them, see `Recovered`. With the nodes beyond a cut chosen, equilibrium makes it
    what passes through the cut, exactly as far as the solution is in equilibrium: stresses need not be integrated.
    """
    acting = forces[chosen]
    return acting.sum(axis=0), np.cross(nodes[chosen] - about, acting).sum(axis=0)
