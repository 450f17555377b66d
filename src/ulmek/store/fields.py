"""Fields of parts and pairs from a result file, by the table of fields."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.fields import PAIR_FIELDS, PART_FIELDS, Axis, Body, Field, Nodes, values_of
from ulmek.core.review.inside import cells_of_vtk
from ulmek.store.results import ResultReader
from ulmek.study.items import StudyDocument
from ulmek.study.translate import own_frames

Array = NDArray[np.float64]
# The pressure of all pairs as a field of the parts: it comes from the pairs, and no other field of parts does.
PAINTED = "contact_pressure"
# Nodes of side B take what the so many nearest of side A have.
NEAREST = 4


def part_field_named(name: str) -> Field:
    """A field of parts by its name.

    Raises
    ------
    InputError : there is none of that name.
    """
    if name not in PART_FIELDS:
        raise InputError(
            f"there is no part field '{name}'.", where="field", hint=f"Known: motion, {', '.join(PART_FIELDS)}."
        )
    return PART_FIELDS[name]


def values_at_nodes(
    study: StudyDocument, reader: ResultReader, name: str, increment: int, about: Axis | None = None
) -> Array:
    """A field of parts at all nodes (n,), as it is stored; ``study``: what was solved; ``about``: an axis (a point, mm,
    and a unit vector) in place of each part's own, or that of
    an axisymmetric study. Not a number where it cannot be told."""
    field = part_field_named(name)
    if name == PAINTED:
        return painted(study, reader, increment)
    stored = reader.point_field(field.source, increment)
    if field.rule in ("stored", "column", "length", "principal"):
        return values_of(field, stored, Nodes(np.zeros((0, 3)), np.zeros((0, 3)), [], []))
    (names, offsets), frames = reader.bodies(), own_frames(study)
    bodies = [
        Body(slice(int(a), int(b)), f.origin, f.axes, f.strength, f.material)
        for n, a, b in zip(names, offsets, offsets[1:], strict=False)
        for f in [frames[n]]
    ]
    groups = cells_of_vtk(*reader.cells(), offsets) if field.rule == "strain" else []
    moved = reader.point_field("displacement", increment)
    is_turned = study.space == "axisymmetric"
    if is_turned and about is None:
        about = (np.zeros(3), np.array([0.0, 1.0, 0.0]))
    nodes = Nodes(reader.points(), moved, bodies, groups, is_turned, about)
    return values_of(field, stored, nodes)


def painted(study: StudyDocument, reader: ResultReader, increment: int) -> Array:
    """Contact pressure (n,) MPa of all pairs on both their sides; side B has what the nearest places of side A say."""
    moved = reader.points() + reader.point_field("displacement", increment)
    out = np.zeros(len(moved))
    names, offsets = reader.bodies()
    sides = {pair.id: pair.b for pair in study.pairs}
    for pair in reader.pairs():
        node, _ = reader.pair_patch(pair)
        pressure = reader.pair_field(pair, "pressure", increment)
        if not pressure.any():
            continue
        out[node] = np.maximum(out[node], pressure)
        on_b = [nodes_of_face(reader, names, offsets, face) for face in sides.get(pair, [])]
        if not on_b:
            continue
        other = np.unique(np.concatenate(on_b))
        tree = cKDTree(moved[node])
        k = min(NEAREST, len(node))
        away, near = (np.asarray(found).reshape(len(other), k) for found in tree.query(moved[other], k=k))
        # No farther than the nodes of side A are from each other, else nothing touches there.
        spacing = np.asarray(tree.query(moved[node], k=min(2, len(node)))[0]).reshape(len(node), -1)[:, -1]
        weight = 1 / np.maximum(away, 1e-9)
        taken = (weight * pressure[near]).sum(axis=1) / weight.sum(axis=1)
        out[other] = np.maximum(out[other], np.where(away[:, 0] <= 1.5 * spacing[near[:, 0]], taken, 0.0))
    return out


def nodes_of_face(
    reader: ResultReader, names: list[str], offsets: NDArray[np.int64], reference: str
) -> NDArray[np.int64]:
    """Nodes of a face "part/face", of all copies of the part, or of one ("part#2/face").

    Raises
    ------
    UnknownNameError : there is no such face.
    """
    part, _, face = reference.rpartition("/")
    found = []
    for i, name in enumerate(names):
        if part in (name, name.split("#")[0]):
            faces = reader.faces(i)
            if face in faces:
                found.append(np.unique(faces[face]) + offsets[i])
    if not found:
        raise UnknownNameError(f"there is no face '{reference}'.", where="faces", hint="Name it as part/face.")
    return np.concatenate(found)


def friction_of(study: StudyDocument, pair: str) -> float | None:
    """The friction coefficient that a pair has, its own or that of its contact property; None without friction."""
    use = next(p for p in study.pairs if p.id == pair)
    law = next((c.law for c in study.contacts if c.id == use.contact), use.law)
    return law.mu if law.may_slide == "friction" else None


def pair_values(study: StudyDocument, reader: ResultReader, pair: str, name: str, increment: int) -> Array:
    """A field of a pair at its contact nodes (n,), as it is stored.

    Raises
    ------
    InputError : no such pair or field, or one that an earlier version did not keep.
    """
    use = next((p for p in study.pairs if p.id == pair), None)
    if use is None:
        raise UnknownNameError(f"there is no pair '{pair}'.", where="pair")
    if name not in PAIR_FIELDS:
        raise InputError(f"there is no pair field '{name}'.", where="field", hint=f"Known: {', '.join(PAIR_FIELDS)}.")
    field = PAIR_FIELDS[name]
    if field.rule == "once":
        return reader.pair_once(pair, name)
    if field.rule == "length":
        return np.asarray(np.linalg.norm(reader.pair_vector(pair, field.source, increment), axis=1))
    if field.rule == "of-friction":
        held = (friction_of(study, pair) or 0.0) * reader.pair_field(pair, "pressure", increment)
        rub = reader.pair_field(pair, "frictional_stress", increment)
        quiet = held <= PAIR_FIELDS["pressure"].quiet
        return np.where(quiet, 0.0, rub / np.where(quiet, 1.0, held))
    if field.rule == "work":
        total = np.zeros(len(reader.pair_field(pair, "sliding", 0)))
        rub, way = total, total
        for k in range(increment + 1):
            now, gone = reader.pair_field(pair, "frictional_stress", k), reader.pair_field(pair, "sliding", k)
            total = total + np.maximum(gone - way, 0.0) * (now + rub) / 2
            rub, way = now, gone
        return total
    return reader.pair_field(pair, field.source, increment)
