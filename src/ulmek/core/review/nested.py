"""Bodies that lie inside others, or twice in one place: slips of the drawing that no pair can mend."""

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

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
        if (_winding(bodies[j], middles) > 0.5).all():
            volumes = [b.mesh.volume() for b in (bodies[i], bodies[j])]
            doubled = same_box and abs(volumes[0] - volumes[1]) < 0.02 * max(volumes)
            found.append((bodies[i].name, bodies[j].name, doubled))
    return found


def _winding(body: Body, points: Array) -> Array:
    """How often the skin of a body winds round each point (k, 3): 1 inside, 0 outside.

    Solid angles of triangles after Van Oosterom and Strackee (1983).
    """
    quads = np.vstack([f[:, :4] if f.shape[1] == 4 else f[:, [0, 1, 2, 2]] for f in body.mesh.faces.values()])
    triangles = np.vstack([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    corners = body.mesh.nodes[triangles]
    out = np.zeros(len(points))
    for k, point in enumerate(points):
        a, b, c = (corners[:, n] - point for n in range(3))
        la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
        triple = np.einsum("ij,ij->i", a, np.cross(b, c))
        below = (
            la * lb * lc
            + np.einsum("ij,ij->i", a, b) * lc
            + np.einsum("ij,ij->i", b, c) * la
            + np.einsum("ij,ij->i", c, a) * lb
        )
        out[k] = float(np.arctan2(triple, below).sum()) / (2 * np.pi)
    return out
