"""Wedges from swept bricks: every quad of the outline cut in two. A wedge is a brick with an upright edge pair
collapsed (nodes 2 and 3, 6 and 7 are one), so that bricks and wedges stand in one mesh; shape functions are exactly
those of the linear wedge (Zienkiewicz and Taylor 2000, section 8.8). They fill where bricks do not fit; thin parts in
bending are far too stiff in them."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.volume import VolumeMesh, check_mesh

Ids = NDArray[np.int64]


def split_into_wedges(mesh: VolumeMesh) -> VolumeMesh:
    """The same swept solid in wedges, each quad across z cut along its shorter diagonal; faces keep their names.

    Raises
    ------
    MeshError : a wedge turned inside out, where a brick is badly warped.
    """
    bricks = mesh.cells
    p = mesh.nodes[bricks[:, :4]]
    first, second = (np.linalg.norm(p[:, a] - p[:, b], axis=1) for a, b in ((0, 2), (1, 3)))
    # Lengths through the height differ by rounding only.
    along_first = first <= second * (1 + 1e-9)
    halves = [
        np.where(along_first[:, None], [*a, *(np.array(a) + 4)], [*b, *(np.array(b) + 4)])
        for a, b in (((0, 1, 2, 2), (0, 1, 3, 3)), ((0, 2, 3, 3), (1, 2, 3, 3)))
    ]
    cells = np.vstack([np.take_along_axis(bricks, half, axis=1) for half in halves])
    cut = {
        tuple(sorted(level)): frozenset((level[0], level[2]) if is_first else (level[1], level[3]))
        for side in (bricks[:, :4], bricks[:, 4:])
        for level, is_first in zip(side.tolist(), along_first.tolist(), strict=True)
    }
    faces = {name: _cut_facets(quads, cut) for name, quads in mesh.faces.items()}
    above = np.concatenate([mesh.cut_above, mesh.cut_above + len(bricks)])
    out = replace(mesh, cells=cells, faces=faces, cut_above=above)
    check_mesh(out)
    return out


def _cut_facets(quads: Ids, cut: dict[tuple[int, ...], frozenset[int]]) -> Ids:
    out: list[list[int]] = []
    for a, b, c, d in quads.tolist():
        diagonal = cut.get(tuple(sorted((a, b, c, d))))
        if diagonal is None:
            out.append([a, b, c, d])
        elif diagonal == {a, c}:
            out += [[a, b, c, c], [a, c, d, d]]
        else:
            out += [[a, b, d, d], [b, c, d, d]]
    return np.array(out, np.int64)
