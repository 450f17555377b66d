"""What a solution will take, from the number of its unknowns, before anything is assembled or factored."""

import math
import os

from ulmek.core.model import Model, Path

# Entries of a factor as so many times n^(4/3), which nested dissection of a solid needs; of an unsymmetric one with
# contact rows (measured on the bolted demo at 58,000 and 210,000 unknowns).
ENTRIES, ENTRIES_IN_FULL = 22, 88
# Dense arrays of the size of the joint that live at once; bytes for each unknown of the matrices beside a factor, and
# of everything where nothing is factored; and what the process holds anyway (measured).
DENSE_COPIES, MATRICES, WITHOUT_FACTOR, BASE = 3, 2_000, 8_500, 2.7e8
# Share of the memory of the machine that a solution may plan for.
ROOM = 0.6


def unknowns_of(model: Model) -> int:
    """Unknowns of the nodes and handles, held ones included."""
    solid = sum(len(b.mesh.nodes) for b in model.bodies if b.name not in model.beam_bodies)
    return 3 * solid + 6 * len(model.handles)


def joint_unknowns_of(model: Model) -> int:
    """Unknowns of the joints at most, as if all nodes of all sides A had some."""
    joint = len(model.bolts)
    for pair in model.pairs:
        faces = [model.bodies[model.body_index(face.body)].mesh.faces[face.name] for face in pair.side_a]
        nodes = {(face.body, int(n)) for face, quads in zip(pair.side_a, faces, strict=True) for n in quads.flat}
        joint += len(nodes) * (3 if pair.law.has_tangents else 1)
    return joint


def memory_of(path: Path, unknowns: int, joint: int) -> float:
    """Bytes of memory that a solution on a ``path`` needs, about."""
    if path == "iterative":
        return BASE + WITHOUT_FACTOR * unknowns
    if path == "condensed":
        values = ENTRIES * _filled(unknowns) + DENSE_COPIES * joint**2
    else:
        values = ENTRIES_IN_FULL * _filled(unknowns + joint)
    return BASE + MATRICES * unknowns + 8 * values


def _filled(unknowns: int) -> float:
    return math.pow(unknowns, 4 / 3)


def room() -> float:
    """Bytes of memory that a solution may plan for on this machine."""
    return ROOM * os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
