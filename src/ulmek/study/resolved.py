"""Contacts whose peak the mesh will not show: told before the run, where Hertz knows how wide they press."""

import numpy as np

from ulmek.core.contact.interface import PairInterface
from ulmek.core.errors import InputError
from ulmek.core.handcalc.hertz import (
    Hertz,
    contact_modulus,
    ellipse_contact,
    line_contact,
    point_contact,
    relative_radii,
)
from ulmek.core.mesh.facets import corners_of
from ulmek.core.mesh.fitted import FaceShape, face_shape
from ulmek.core.model import Body, Face, Model
from ulmek.study.finding import Finding
from ulmek.study.items import StudyDocument
from ulmek.study.ledger.pairs import RESOLVED
from ulmek.study.ledger.purpose import purpose_of

# Axes within this of each other (cosine) are parallel, and within this of a right angle (cosine) crossed.
PARALLEL, CROSSED = float(np.cos(np.radians(2.0))), float(np.sin(np.radians(2.0)))
# A patch wider than this share of the radius is no Hertzian contact.
SMALL = 0.4


def unresolved(study: StudyDocument, model: Model, interfaces: list[PairInterface]) -> list[Finding]:
    """Findings on pairs of round faces and balls that would press over too few elements if all forces went through
    them: with less they press over fewer."""
    forces = [[abs(load.number(v)) for v in load.values.values()] for load in study.loads if load.kind == "force"]
    force = sum(max(values, default=0.0) for values in forces)
    uses = {p.id: p for p in study.pairs}
    found = []
    for interface in interfaces:
        pair, use = interface.pair, uses[interface.pair.name]
        # A shank in its hole bears only when the joint has slipped.
        if use.meant == "to-carry-nothing" or purpose_of(study, use) == "bolted":
            continue
        hertz = hertz_of(model, pair.side_a, pair.side_b, force) if force > 0 and pair.side_b else None
        if hertz is None:
            continue
        width = 2 * min(hertz.short, hertz.half_width)
        size = _finest(model, pair.side_a)
        if size <= 1.5 * width / RESOLVED:
            continue
        text = (
            f"{use.name}: under {force / 1000:.3g} kN, all that acts, it presses over {width:.3g} mm by Hertz. "
            f"Its elements are {size:.3g} mm; its peak takes {width / RESOLVED:.2g} mm."
        )
        hint = "Mesh finer where it touches; else its peak pressure and the stress below cannot be told."
        found.append(Finding(grade="watch", code="coarse-contact", text=text, where=f"pairs/{pair.name}", hint=hint))
    return found


def hertz_of(model: Model, a: tuple[Face, ...], b: tuple[Face, ...], force: float) -> Hertz | None:
    """The contact of two sides under a ``force`` (N) by Hertz; None where they are neither flat, round nor balls, or do
    not touch along a line, at a point or in a small ellipse."""
    bodies = [model.bodies[model.body_index(side[0].body)] for side in (a, b)]
    if model.space == "axisymmetric" or {body.name for body in bodies} & model.beam_bodies:
        return None
    shapes = [_shape(body, side[0].name) for body, side in zip(bodies, (a, b), strict=True)]
    one, two = shapes
    if one is None or two is None or one.kind == two.kind == "flat":
        return None
    curves = [0.0 if s.kind == "flat" else (-1.0 if s.is_hollow else 1.0) / s.radius for s in (one, two)]
    curve = sum(curves)
    modulus = contact_modulus(*(v for body in bodies for v in (body.material.young, body.material.poisson)))
    if curve <= 0:
        return None
    kinds = {one.kind, two.kind}
    if kinds <= {"ball", "flat"} or kinds == {"ball"}:
        hertz = point_contact(force, 1 / curve, modulus)
    elif kinds == {"ball", "round"} or (kinds == {"round"} and not _is_line(one, two)):
        # A ball bends all ways alike, a cylinder across its axis alone.
        first, second = ((c, c if s.kind == "ball" else 0.0) for s, c in zip((one, two), curves, strict=True))
        angle = float(np.arccos(np.clip(abs(one.direction @ two.direction), 0, 1))) if kinds == {"round"} else 0.0
        radii = relative_radii(first, second, angle)
        if radii is None:
            return None
        hertz = ellipse_contact(force, *radii, modulus)
    elif kinds <= {"round", "flat"} and _is_line(one, two):
        axis = one.direction if one.kind == "round" else two.direction
        along = [_corners(body, side[0].name) @ axis for body, side in zip(bodies, (a, b), strict=True)]
        spans = [(float(v.min()), float(v.max())) for v in along]
        length = min(s[1] for s in spans) - max(s[0] for s in spans) if model.space == "solid" else model.thickness
        if length <= 0:
            return None
        hertz = line_contact(force / length, 1 / curve, modulus)
    else:
        return None
    smallest = min(s.radius for s in (one, two) if s.kind != "flat")
    return hertz if hertz.half_width < SMALL * smallest else None


def _is_line(one: FaceShape, two: FaceShape) -> bool:
    cosine = abs(float(one.direction @ two.direction))
    return cosine > PARALLEL if one.kind == two.kind else cosine < CROSSED


def _shape(body: Body, name: str) -> FaceShape | None:
    try:
        return face_shape(body.mesh, name)
    except InputError:
        return None


def _corners(body: Body, name: str) -> np.ndarray:
    return body.mesh.nodes[np.unique(corners_of(body.mesh.faces[name]))]


def _finest(model: Model, side: tuple[Face, ...]) -> float:
    """The shortest edge of the facets of a side (mm)."""
    corners = corners_of(model.quads(side))
    p = model.nodes()[corners]
    return float(np.linalg.norm(p - np.roll(p, -1, axis=1), axis=2).min())
