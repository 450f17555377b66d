"""Triangles and edges drawn into an image by a depth buffer (Catmull 1974)."""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]
INK, PAPER = np.array([0.16, 0.17, 0.2]), np.array([0.984, 0.976, 0.953])
# Everything is drawn so many times larger and then averaged: smooth edges.
FINER = 2
MARGIN = 0.06
# How much of the light comes from everywhere.
AMBIENT = 0.62
# Edges are drawn where they lie at most this share of the depth of the scene behind what covers them.
IN_FRONT = 0.004


@dataclass(frozen=True)
class View:
    """Where it is looked at from: direction from the scene to the eye, and what is up."""

    towards: tuple[float, float, float] = (0.62, -0.68, 0.42)
    up: tuple[float, float, float] = (0.0, 0.0, 1.0)

    def axes(self) -> Array:
        """Right, up and towards the eye as rows (3, 3)."""
        back = np.array(self.towards) / np.linalg.norm(self.towards)
        up = np.array(self.up, float)
        if np.linalg.norm(np.cross(up, back)) < 1e-6 * np.linalg.norm(up):
            up = np.array([0.0, 1.0, 0.0]) if abs(back[1]) < 0.9 else np.array([1.0, 0.0, 0.0])
        right = np.cross(up, back)
        right /= np.linalg.norm(right)
        return np.array([right, np.cross(back, right), back])


@dataclass(frozen=True)
class Surface:
    """Triangles (t, 3) into points (n, 3), with normals (n, 3) and colours (n, 3) at the points, and edges (e, 2)."""

    points: Array
    triangles: NDArray[np.int64]
    normals: Array
    colours: Array
    edges: NDArray[np.int64]


def draw(surfaces: list[Surface], view: View, size: tuple[int, int], *, within: Array) -> NDArray[np.uint8]:
    """An image (height, width, 3) of the surfaces, all of them in sight, and points ``within`` (k, 3) too."""
    width, height = size[0] * FINER, size[1] * FINER
    axes = view.axes()
    seen = [s.points @ axes.T for s in surfaces]
    everything = np.vstack([*(s for s in seen if len(s)), within @ axes.T])
    low, high = everything.min(axis=0), everything.max(axis=0)
    span = np.maximum(high - low, 1e-9)
    per_mm = min(width * (1 - 2 * MARGIN) / span[0], height * (1 - 2 * MARGIN) / span[1])
    middle = (low + high) / 2
    image = np.empty((height, width, 3), np.float32)
    image[:] = PAPER
    depth = np.full((height, width), -np.inf)
    screens = []
    for points, surface in zip(seen, surfaces, strict=True):
        screen = np.column_stack(
            [
                width / 2 + (points[:, 0] - middle[0]) * per_mm,
                height / 2 - (points[:, 1] - middle[1]) * per_mm,
                points[:, 2],
            ]
        )
        screens.append(screen)
        light = AMBIENT + (1 - AMBIENT) * np.abs(surface.normals @ axes[2])
        _fill(screen, surface.triangles, surface.colours * light[:, None], image, depth)
    bias = IN_FRONT * float(np.linalg.norm(span))
    for screen, surface in zip(screens, surfaces, strict=True):
        _trace(screen, surface.edges, image, depth, bias, INK)
    shrunk = sum(image[i::FINER, j::FINER] for i in range(FINER) for j in range(FINER)) / FINER**2
    return np.asarray(np.round(255 * np.clip(shrunk, 0, 1)), np.uint8)


@njit(cache=True)
def _fill(screen, triangles, colours, image, depth):  # type: ignore[no-untyped-def]
    height, width = depth.shape
    for t in range(len(triangles)):
        a, b, c = triangles[t]
        ax, ay, bx, by, cx, cy = screen[a, 0], screen[a, 1], screen[b, 0], screen[b, 1], screen[c, 0], screen[c, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0:
            continue
        left, right = max(0, int(np.floor(min(ax, bx, cx)))), min(width - 1, int(np.ceil(max(ax, bx, cx))))
        top, bottom = max(0, int(np.floor(min(ay, by, cy)))), min(height - 1, int(np.ceil(max(ay, by, cy))))
        for y in range(top, bottom + 1):
            for x in range(left, right + 1):
                px, py = x + 0.5, y + 0.5
                u = ((bx - px) * (cy - py) - (by - py) * (cx - px)) / area
                v = ((cx - px) * (ay - py) - (cy - py) * (ax - px)) / area
                w = 1.0 - u - v
                if u < -1e-9 or v < -1e-9 or w < -1e-9:
                    continue
                z = u * screen[a, 2] + v * screen[b, 2] + w * screen[c, 2]
                if z > depth[y, x]:
                    depth[y, x] = z
                    for k in range(3):
                        image[y, x, k] = u * colours[a, k] + v * colours[b, k] + w * colours[c, k]


@njit(cache=True)
def _trace(screen, edges, image, depth, bias, ink):  # type: ignore[no-untyped-def]
    height, width = depth.shape
    for e in range(len(edges)):
        a, b = edges[e]
        steps = int(max(abs(screen[b, 0] - screen[a, 0]), abs(screen[b, 1] - screen[a, 1]))) + 1
        for i in range(steps + 1):
            s = i / steps
            x = int(screen[a, 0] + s * (screen[b, 0] - screen[a, 0]))
            y = int(screen[a, 1] + s * (screen[b, 1] - screen[a, 1]))
            z = screen[a, 2] + s * (screen[b, 2] - screen[a, 2])
            if 0 <= x < width and 0 <= y < height and z >= depth[y, x] - bias:
                for k in range(3):
                    image[y, x, k] = 0.35 * image[y, x, k] + 0.65 * ink[k]
