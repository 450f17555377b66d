"""Bodies that lie inside others, or twice in one place: slips of the drawing that no pair can mend."""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ulmek.core.geometry.winding import winding
from ulmek.core.model import Body

Array = NDArray[np.float64]
# Coordinates closer than this share of a body's size are the same.
SAME = 1e-6
# Elements of a body whose middles are looked for in another one.
SAMPLES = 24


def nested_bodies(bodies: Sequence[Body]) -> list[tuple[str, str, bool]]:
    """(inner, outer, is_doubled) for solid bodies that lie wholly in the material of another one, or are the same."""
    boxes = [np.stack([b.mesh.nodes.min(axis=0), b.mesh.nodes.max(axis=0)]) for b in bodies]
    found = []
    for i, j in itertools.permutations(range(len(bodies)), 2):
        slack = SAME * float(np.ptp(boxes[j], axis=0).max())
        if (boxes[i][0] < boxes[j][0] - slack).any() or (boxes[i][1] > boxes[j][1] + slack).any():
            continue
        same_box = bool(np.abs(boxes[i] - boxes[j]).max() <= slack)
        if same_box and i > j:
            continue
        mesh = bodies[i].mesh
        chosen = np.linspace(0, len(mesh.cells) - 1, min(SAMPLES, len(mesh.cells))).astype(int)
        middles = mesh.nodes[mesh.cells[chosen]].mean(axis=1)
        if (winding(middles, _skin(bodies[j])) > 0.5).all():
            volumes = [b.mesh.volume() for b in (bodies[i], bodies[j])]
            doubled = same_box and abs(volumes[0] - volumes[1]) < 0.02 * max(volumes)
            found.append((bodies[i].name, bodies[j].name, doubled))
    return found


def _skin(body: Body) -> Array:
    """Corners (m, 3, 3) of triangles on the faces of a body."""
    quads = np.vstack([f if f.shape[1] == 4 else f[:, [0, 1, 2, 2]] for f in body.mesh.faces.values()])
    return np.asarray(body.mesh.nodes[np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])])
