"""Better tetrahedra: corners moved, edges taken out and faces opened wherever an element is flat.

Quality is the least dihedral angle. Edges are removed over the best triangulation of the ring about them (Klincsek
1980, Freitag and Ollivier-Gooch 1997).
"""

import itertools

import numpy as np
from numba import njit
from numpy.typing import NDArray

Array = NDArray[np.float64]
Ids = NDArray[np.int64]
Tet = tuple[int, int, int, int]

# Rings about an edge that are triangulated anew have at most so many corners.
LONGEST_RING = 7
# Directions tried for a corner, and shares of the shortest edge about it that it moves.
DIRECTIONS, REACHES = 14, (0.25, 0.1, 0.04)
ROUNDS = 8
# An element on the skin flatter than this (degrees) adds nothing but a bad shape.
FLAT = 6.0


@njit(cache=True)
def least_dihedral(p):  # type: ignore[no-untyped-def] # pragma: no cover
    """Least dihedral angle (degrees) of the tetrahedron of corners ``p`` (4, 3); where it is inside out, minus what it
    holds over the cube of its longest edge, in hundredths: the less inside out, the better."""
    inner = np.dot(np.cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0])
    if inner <= 0:
        longest = 0.0
        for i in range(4):
            for j in range(i):
                longest = max(longest, np.sqrt(np.dot(p[i] - p[j], p[i] - p[j])))
        return max(-180.0, 100.0 * inner / max(longest**3, 1e-300) - 1e-6)
    normal = np.empty((4, 3))
    for i in range(4):
        a, b, c = (i + 1) % 4, (i + 2) % 4, (i + 3) % 4
        u, v, w = p[b] - p[a], p[c] - p[a], p[i] - p[a]
        n = np.cross(u, v)
        if np.dot(n, w) > 0:
            n = -n
        size = np.sqrt(np.dot(n, n))
        if size < 1e-300:
            return -180.0
        normal[i] = n / size
    least = 180.0
    for i in range(4):
        for j in range(i):
            cosine = min(max(-np.dot(normal[i], normal[j]), -1.0), 1.0)
            least = min(least, np.degrees(np.arccos(cosine)))
    return least


@njit(cache=True)
def dihedrals(nodes, tets):  # type: ignore[no-untyped-def] # pragma: no cover
    """Least dihedral angle (m,) of each tetrahedron, degrees."""
    out = np.empty(len(tets))
    for i in range(len(tets)):
        out[i] = least_dihedral(nodes[tets[i]])
    return out


class Improver:
    """A mesh of tetrahedra that is being improved. ``is_free``: corners that may move."""

    def __init__(
        self, nodes: Array, tets: Ids, is_free: NDArray[np.bool_], faces: list[frozenset[int]], normals: Array
    ) -> None:
        """``faces``: the faces of the solid that each corner lies on. normals (n, 3): across which a corner that is
        free must not move, of the flat face that it lies on; zero elsewhere."""
        self.nodes, self.is_free, self.faces, self.normals = nodes, is_free, faces, normals
        self.tets: dict[int, Tet] = {i: tuple(t) for i, t in enumerate(tets.tolist())}
        self.star: list[set[int]] = [set() for _ in range(len(nodes))]
        for i, t in self.tets.items():
            for n in t:
                self.star[n].add(i)
        self._next = len(self.tets)
        rng = np.random.default_rng(7)
        self._directions = rng.normal(size=(DIRECTIONS, 3))
        self._directions /= np.linalg.norm(self._directions, axis=1)[:, None]

    def improve(self, wanted: float) -> Ids:
        """Work on all elements below ``wanted`` degrees; returns the tetrahedra (m, 4)."""
        for _ in range(ROUNDS):
            numbers = np.array(list(self.tets))
            found = dihedrals(self.nodes, np.array(list(self.tets.values()), np.int64))
            bad = np.flatnonzero(found < wanted)
            if not len(bad):
                break
            changed = False
            for i in numbers[bad[np.argsort(found[bad], kind="stable")]].tolist():
                if i in self.tets:
                    changed |= self._mend(i, wanted)
            if not changed:
                break
        return np.array(list(self.tets.values()), np.int64)

    def worst(self) -> tuple[float, Array]:
        """Least dihedral angle of all (degrees), and the middle of its element."""
        tets = np.array(list(self.tets.values()), np.int64)
        found = dihedrals(self.nodes, np.ascontiguousarray(tets))
        return float(found.min()), np.asarray(self.nodes[tets[found.argmin()]].mean(axis=0))

    def _quality(self, t: Tet) -> float:
        return float(least_dihedral(self.nodes[list(t)]))

    def _mend(self, i: int, wanted: float) -> bool:
        t = self.tets[i]
        if self._peel(i):
            return True
        for edge in itertools.combinations(t, 2):
            if self._remove_edge(*edge):
                return True
        for face in itertools.combinations(t, 3):
            if self._open_face(face):
                return True
        moved = False
        for n in t:
            if self.is_free[n] and i in self.tets and self._quality(self.tets[i]) < wanted:
                moved |= self._move(n)
        return moved

    def _peel(self, i: int) -> bool:
        """Take away an element that lies flat on one face of the solid, two of its own on the skin."""
        t = self.tets[i]
        if not frozenset.intersection(*(self.faces[n] for n in t)) or self._quality(t) > FLAT:
            return False
        skin = [
            f for f in itertools.combinations(t, 3) if len(self.star[f[0]] & self.star[f[1]] & self.star[f[2]]) == 1
        ]
        if len(skin) != 2 or any(len(self.star[n]) == 1 for n in t):
            return False
        self._replace([i], [])
        return True

    def _replace(self, old: list[int], new: list[Tet]) -> None:
        for i in old:
            for n in self.tets.pop(i):
                self.star[n].discard(i)
        for t in new:
            self.tets[self._next] = t
            for n in t:
                self.star[n].add(self._next)
            self._next += 1

    def _is_better(self, old: list[int], new: list[Tet]) -> bool:
        before = min(self._quality(self.tets[i]) for i in old)
        return all(self._quality(t) > before + 1e-3 for t in new)

    def _ring(self, a: int, b: int, about: set[int]) -> list[int] | None:
        """Corners round the edge a–b in the order of a turn about it, None where it is on the skin."""
        after = {}
        for i in about:
            t = self.tets[i]
            c, d = (n for n in t if n not in (a, b))
            if np.dot(np.cross(self.nodes[b] - self.nodes[a], self.nodes[c] - self.nodes[a]),
                      self.nodes[d] - self.nodes[a]) < 0:  # fmt: skip
                c, d = d, c
            if c in after:
                return None
            after[c] = d
        ring = [next(iter(after))]
        while len(ring) <= len(after):
            following = after.get(ring[-1])
            if following is None:
                return None
            if following == ring[0]:
                return ring if len(ring) == len(after) else None
            ring.append(following)
        return None

    def _remove_edge(self, a: int, b: int) -> bool:
        about = self.star[a] & self.star[b]
        if not 3 <= len(about) <= LONGEST_RING:
            return False
        ring = self._ring(a, b, about)
        if ring is None:
            return False
        before = min(self._quality(self.tets[i]) for i in about)
        found = self._triangulated(a, b, ring, before + 1e-3)
        if found is None or not self._fills(list(about), found):
            return False
        self._replace(list(about), found)
        return True

    def _triangulated(self, a: int, b: int, ring: list[int], least: float) -> list[Tet] | None:
        """Tetrahedra over the triangulation of the ring whose worst is best, None where it is not above ``least``."""
        n = len(ring)
        best: dict[tuple[int, int], tuple[float, int]] = {}
        for width in range(2, n):
            for i in range(n - width):
                j = i + width
                choice = (-360.0, -1)
                for k in range(i + 1, j):
                    own = min(
                        self._quality((ring[i], ring[k], ring[j], b)), self._quality((ring[i], ring[j], ring[k], a))
                    )
                    for x, y in ((i, k), (k, j)):
                        if y - x > 1:
                            own = min(own, best[x, y][0])
                    choice = max(choice, (own, k))
                best[i, j] = choice
        if best[0, n - 1][0] <= least:
            return None
        out: list[Tet] = []
        todo = [(0, n - 1)]
        while todo:
            i, j = todo.pop()
            if j - i < 2:
                continue
            k = best[i, j][1]
            out += [(ring[i], ring[k], ring[j], b), (ring[i], ring[j], ring[k], a)]
            todo += [(i, k), (k, j)]
        return out

    def _fills(self, old: list[int], new: list[Tet]) -> bool:
        def volume(t: Tet) -> float:
            p = self.nodes[list(t)]
            return float(np.dot(np.cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0]))

        was, now = sum(volume(self.tets[i]) for i in old), sum(volume(t) for t in new)
        return abs(was - now) < 1e-9 * abs(was) + 1e-300

    def _open_face(self, face: tuple[int, int, int]) -> bool:
        """Two tetrahedra on a face become three about the line between their tips."""
        a, b, c = face
        both = list(self.star[a] & self.star[b] & self.star[c])
        if len(both) != 2:
            return False
        tips = [next(n for n in self.tets[i] if n not in face) for i in both]
        if self.star[tips[0]] & self.star[tips[1]]:
            return False
        new: list[Tet] = []
        for x, y in ((a, b), (b, c), (c, a)):
            t: Tet = (x, y, tips[0], tips[1])
            p = self.nodes[list(t)]
            if np.dot(np.cross(p[1] - p[0], p[2] - p[0]), p[3] - p[0]) < 0:
                t = (y, x, tips[0], tips[1])
            new.append(t)
        if not self._is_better(both, new) or not self._fills(both, new):
            return False
        self._replace(both, new)
        return True

    def _move(self, n: int) -> bool:
        """Move a corner where the worst element about it gains most."""
        own = [self.tets[i] for i in self.star[n]]
        around = np.array(own)
        others = np.unique(around)
        edge = float(
            np.linalg.norm(
                np.delete(self.nodes[others], np.searchsorted(others, n), axis=0) - self.nodes[n], axis=1
            ).min()
        )
        start, best = self.nodes[n].copy(), float(dihedrals(self.nodes, around).min())
        first = best
        for reach in REACHES:
            for way in self._directions:
                direction = way - (way @ self.normals[n]) * self.normals[n]
                kept = self.nodes[n].copy()
                self.nodes[n] = kept + reach * edge * direction
                now = float(dihedrals(self.nodes, around).min())
                if now > best + 1e-3:
                    best = now
                else:
                    self.nodes[n] = kept
        if best <= first + 1e-2:
            self.nodes[n] = start
            return False
        return True
