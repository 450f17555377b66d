"""Pairs that may sleep: clearances inside a clamped joint, which meet only when the joint slides far."""

from scipy.cluster.hierarchy import DisjointSet

from ulmek.core.contact.interface import PairInterface
from ulmek.core.model import Model

# Gap, as a share of the model, from which faces count as apart.
APART = 1e-6


def sleeping_pairs(model: Model, interfaces: tuple[PairInterface, ...]) -> frozenset[str]:
    """Names of pairs that start apart everywhere and whose parts are joined by pairs that touch.

    They need no unknowns until their gap closes; only then are they woken.
    """
    extent = float((model.nodes().max(axis=0) - model.nodes().min(axis=0)).max())
    apart = {
        f.pair.name
        for f in interfaces
        if f.pair.law.may_open and not f.pair.wall and len(f.gap) and f.gap.min() > APART * extent
    }
    joined = DisjointSet(body.name for body in model.bodies)
    for f in interfaces:
        if f.pair.name not in apart and not f.pair.wall:
            _join(joined, f)
    clamped = set()
    for f in interfaces:
        if f.pair.name in apart:
            bodies = [face.body for face in (*f.pair.side_a, *f.pair.side_b)]
            if all(joined.connected(bodies[0], b) for b in bodies):
                clamped.add(f.pair.name)
    return frozenset(clamped)


def _join(joined: DisjointSet, interface: PairInterface) -> None:
    bodies = [face.body for face in (*interface.pair.side_a, *interface.pair.side_b)]
    for body in bodies[1:]:
        joined.merge(bodies[0], body)
