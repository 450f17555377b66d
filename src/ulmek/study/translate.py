"""Study document → core model: values in internal units, meshes in place, faces looked up."""

import json
from functools import lru_cache

import numpy as np
from scipy.spatial.transform import Rotation

from ulmek.core.element.section import Section, section_of
from ulmek.core.errors import InputError, UnknownNameError, located
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.solid import mesh_flat
from ulmek.core.mesh.volume import PLANE
from ulmek.core.model import (
    Beam,
    Body,
    Bolt,
    Dynamics,
    Face,
    Handle,
    Increments,
    Link,
    Load,
    Model,
    Pair,
    PairLaw,
    Spring,
    Step,
    Support,
    Wall,
)
from ulmek.core.model import Material as CoreMaterial
from ulmek.study.beams import PlacedBeam, beams_of
from ulmek.study.meshes import no_face, part_mesh
from ulmek.study.schema import Material, Part, Placement, StudyDocument
from ulmek.study.schema.acting import HandleUse, LinkUse, LoadUse, SpringUse, StepUse, SupportUse
from ulmek.study.schema.joint import BoltUse, LineBolt, PairUse, WallUse
from ulmek.study.solids import is_free_form, solid_of_use
from ulmek.study.units import value_of

AXES = {"x": 0, "y": 1, "z": 2}
# Mesh of a beam's cross-section: elements along the ratio of its area to its outline, and round a turn.
SECTION_ELEMENTS, SECTION_PER_TURN = 5, 96


def translate(study: StudyDocument) -> Model:
    """The core model of a study.

    Raises
    ------
    UlmekError : anything in the study that no model can have, with its place.
    """
    if not study.steps:
        raise InputError("the study has no steps.", where="steps", hint="Add a step to the sequence.")
    bodies = translate_parts(study)
    faces = _FaceBook(study, bodies)
    own_handles = tuple(located(f"handles/{h.id}", _handle, h, faces) for h in study.handles)
    beams, stations = translate_beams(study, own_handles)
    handles = (*own_handles, *stations)
    thickness = value_of(study.thickness, "length")
    if thickness <= 0:
        raise InputError(f"the thickness is {study.thickness}.", where="thickness", hint="Give one above zero.")
    return Model(
        bodies=bodies,
        pairs=tuple(located(f"pairs/{p.id}", _pair, p, faces) for p in study.pairs),
        bolts=tuple(bolt for use in study.bolts for bolt in _bolts(use, study)),
        handles=handles,
        springs=tuple(_spring(s) for s in study.springs),
        links=tuple(_link(ln) for ln in study.links),
        walls=tuple(_wall(w) for w in study.walls),
        beams=beams,
        space=study.space,
        thickness=thickness if study.space.startswith("plane") else 1.0,
        path=study.path,
        supports=tuple(located(f"supports/{s.id}", _support, s, faces, bodies) for s in study.supports),
        loads=tuple(located(f"loads/{ld.id}", _load, ld, faces) for ld in study.loads),
        steps=tuple(located(f"steps/{s.id}", _step, s, study) for s in study.steps),
    )


def translate_parts(study: StudyDocument) -> tuple[Body, ...]:
    """The bodies of a study, every copy of every part, meshed and in place; raises as `translate`."""
    if not study.parts:
        raise InputError("the study has no parts.", where="parts", hint="Add a part first.")
    materials = {m.id: located(f"materials/{m.id}", _material, m) for m in study.materials}
    section = study.space != "solid"
    allowed = {m.id: located(f"materials/{m.id}", _allowable, m) for m in study.materials}
    return tuple(
        body
        for part in study.parts
        for body in _bodies(part, materials[part.material], allowable=allowed[part.material], section=section)
    )


def true_bodies(study: StudyDocument) -> dict[str, Body]:
    """The bodies of a study by name, swept parts in bricks: all corners of their faces lie on the true surface, which
    those of wedges and tetrahedra cut from bricks do not. Raises as `translate_parts`."""

    def in_bricks(part: Part) -> Part:
        is_cut = part.mesh.elements in ("wedges", "tets") and not is_free_form(part.recipe.model_dump())
        mesh = part.mesh.model_copy(update={"elements": "bricks"})
        return part.model_copy(update={"mesh": mesh}) if is_cut else part

    plain = study.model_copy(update={"parts": [in_bricks(p) for p in study.parts]})
    return {body.name: body for body in translate_parts(plain)}


def body_names(part: Part) -> list[str]:
    """Names of the bodies that a part's copies become: its id, or id#1, id#2 …"""
    if len(part.placements) == 1:
        return [part.id]
    return [f"{part.id}#{i + 1}" for i in range(len(part.placements))]


@lru_cache(maxsize=64)
def _section(recipe: str, part_id: str) -> Section:
    """Cross-section of a recipe of one layer, on a mesh fine enough for its warping."""
    solid = solid_of_use(json.loads(recipe), part_id)
    outlines = [region.polygon() for region in solid.partition.regions]
    thin = sum(o.area for o in outlines) / sum(o.length for o in outlines)
    mesh = mesh_flat(solid, size=thin / SECTION_ELEMENTS, per_turn=SECTION_PER_TURN)
    return section_of(mesh.nodes[:, :2], mesh.cells)


def _material(m: Material) -> CoreMaterial:
    density = value_of(m.density, "density") if m.density else 0.0
    if m.rubber is not None:
        c10, c01, bulk = (value_of(v, "stress") for v in (m.rubber.c10, m.rubber.c01, m.rubber.bulk))
        return Rubber(c10, c01, bulk, density)
    assert m.young is not None
    assert m.poisson is not None
    young = value_of(m.young, "stress")
    if m.hardening is not None:
        table = tuple((row.strain, value_of(row.stress, "stress")) for row in m.hardening.table)
        return Plastic(young, m.poisson, table, m.hardening.kinematic_share, density)
    return Elastic(young, m.poisson, value_of(m.yield_stress, "stress") if m.yield_stress else None, density)


def _allowable(m: Material) -> float | None:
    if m.allowable is None:
        return None
    found = value_of(m.allowable, "stress")
    if found <= 0:
        raise InputError(f"the allowable stress is {m.allowable}.", where="allowable", hint="It must be above zero.")
    return found


def placed_rotation(placement: Placement) -> np.ndarray:
    """Rotation (3, 3) of a placement."""
    if placement.turn is None:
        return np.eye(3)
    angle = value_of(placement.turn.angle, "angle")
    if not isinstance(placement.turn.axis, str):
        axis = np.array(placement.turn.axis)
        if not axis.any():
            raise InputError("the axis of a turn has no direction.", where="placements", hint="Give one, not all zero.")
        matrix = Rotation.from_rotvec(angle * axis / np.linalg.norm(axis)).as_matrix()
        # Right angles exactly, so that symmetry finds its planes.
        return np.where(np.abs(matrix) < 1e-15, 0.0, matrix)
    i = AXES[placement.turn.axis]
    j, k = (i + 1) % 3, (i + 2) % 3
    out = np.eye(3)
    out[j, j] = out[k, k] = np.cos(angle)
    out[j, k], out[k, j] = -np.sin(angle), np.sin(angle)
    return out


def _bodies(part: Part, material: CoreMaterial, *, allowable: float | None, section: bool) -> list[Body]:
    mesh = part_mesh(part, section=section)
    if section and any(p.turn is not None and p.turn.axis != "z" for p in part.placements):
        raise InputError(
            "a part of a plane study turns about z only.", where=f"parts/{part.id}/placements", hint="Turn it about z."
        )
    out = []
    for name, placement in zip(body_names(part), part.placements, strict=True):
        at = np.array([value_of(c, "length") for c in placement.at])
        out.append(Body(name, mesh.placed(placed_rotation(placement), at), material, allowable))
    return out


def translate_beams(study: StudyDocument, handles: tuple[Handle, ...]) -> tuple[tuple[Beam, ...], tuple[Handle, ...]]:
    """The beams among the bodies, and the handles of those stations that none of the study's ``handles`` leads."""
    placed = []
    for part in study.parts:
        if part.mesh.elements != "beam":
            continue
        material = next(m for m in study.materials if m.id == part.material)
        if material.rubber is not None or material.hardening is not None:
            raise InputError(
                f"the beam '{part.id}' is of a material that yields or is rubber.", where=f"parts/{part.id}/material",
                hint="A beam stays elastic: choose bricks for it, or take the hardening away.",
            )  # fmt: skip
        section, mesh = _section(part.recipe.model_dump_json(), part.id), part_mesh(part)
        for name, placement in zip(body_names(part), part.placements, strict=True):
            at = np.array([value_of(c, "length") for c in placement.at])
            placed.append(PlacedBeam(name, section, mesh, placed_rotation(placement), at))
    return beams_of(placed, handles)


def own_axes(study: StudyDocument) -> dict[str, tuple[np.ndarray, np.ndarray]]:
    """Origin (mm) and direction of the own z axis of every body: recipes turn about it."""
    return {
        name: (np.array([value_of(c, "length") for c in placement.at]), placed_rotation(placement)[:, 2])
        for part in study.parts
        for name, placement in zip(body_names(part), part.placements, strict=True)
    }


class _FaceBook:
    """Looks up face references such as ``bracket/back`` or ``bolts#2/head.bearing``."""

    def __init__(self, study: StudyDocument, bodies: tuple[Body, ...]) -> None:
        self.meshes = {b.name: b.mesh for b in bodies}
        self.copies = {p.id: body_names(p) for p in study.parts}

    def body(self, name: str) -> str:
        """The one body that ``name`` means: a part with one copy, or a copy."""
        found = self.copies.get(name, [name])
        if len(found) != 1 or found[0] not in self.meshes:
            raise UnknownNameError(
                f"there is no single part '{name}' to be rigid.",
                where="part",
                hint=f"Name one of {', '.join(sorted(self.meshes))}.",
            )
        return found[0]

    def find(self, references: list[str], place: str) -> tuple[Face, ...]:
        out: list[Face] = []
        for position, reference in enumerate(references):
            where = f"{place}/{position}"
            owner, name = reference.split("/", 1)
            bodies = self.copies.get(owner, [owner] if owner in self.meshes else [])
            if not bodies:
                raise UnknownNameError(
                    f"there is no part '{owner}' for face '{reference}'.",
                    where=where,
                    hint=f"Known parts: {', '.join(self.copies)}.",
                )
            for body in bodies:
                if name not in self.meshes[body].faces:
                    raise no_face(name, owner, self.meshes[body]).at(where)
                out.append(Face(body, name))
        return tuple(out)


def _pair(p: PairUse, faces: _FaceBook) -> Pair:
    mu = p.law.mu if p.law.may_slide == "friction" else 0.0
    search = value_of(p.search, "length")
    if search <= 0:
        raise InputError(f"the search distance is {p.search}.", where="search", hint="Give a distance above zero.")
    side_a, side_b = faces.find(p.a, "a"), faces.find(p.b, "b")
    both = set(side_a) & set(side_b)
    if both:
        face = next(iter(both))
        raise InputError(f"face '{face.body}/{face.name}' is on both sides.", where="b", hint="Take it off one side.")
    return Pair(
        name=p.id,
        side_a=side_a,
        side_b=side_b,
        law=PairLaw(p.law.may_open, p.law.may_slide, mu),
        search=search,
        enforcement=p.enforcement.method,
        penalty=p.enforcement.stiffness,
        wall=p.wall,
        allowed=value_of(p.enforcement.allowed, "length"),
        fit=p.fit,
        interference=value_of(p.interference, "length"),
    )


def _handle(h: HandleUse, faces: _FaceBook) -> Handle:
    x, y, z = (value_of(c, "length") for c in h.at)
    mass = value_of(h.mass, "mass")
    if mass < 0:
        raise InputError(f"the mass is {h.mass}.", where="mass", hint="It must not be negative.")
    body = None if h.part is None else faces.body(h.part)
    return Handle(h.id, (x, y, z), faces.find(h.faces, "faces"), h.kind, mass, body)


def _spring(s: SpringUse) -> Spring:
    along = [value_of(k, "stiffness") for k in s.stiffness]
    about = [value_of(k, "turning stiffness") for k in s.turning]
    if min(*along, *about) < 0 or max(*along, *about) == 0:
        raise InputError(
            "a spring needs stiffnesses that are not negative, and one above zero.", where=f"springs/{s.id}/stiffness"
        )
    return Spring(s.id, s.a, s.b, (along[0], along[1], along[2]), (about[0], about[1], about[2]))


def _wall(w: WallUse) -> Wall:
    x, y, z = (value_of(c, "length") for c in w.at)
    return Wall(w.id, w.kind, (x, y, z), w.direction, value_of(w.radius, "length"), w.hollow, w.handle)


def _link(link: LinkUse) -> Link:
    held = [True] * 6
    if link.kind == "hinge":
        held[3 + AXES[link.axis]] = False
    elif link.kind == "slider":
        held[AXES[link.axis]] = False
    return Link(link.id, link.a, link.b, (held[0], held[1], held[2], held[3], held[4], held[5]))


def _line_bolt(use: BoltUse, line: LineBolt, study: StudyDocument) -> Bolt:
    places = {h.id: np.array([value_of(c, "length") for c in h.at]) for h in study.handles}
    axis = places[line.head] - places[line.foot] if line.foot is not None else np.array(line.direction, float)
    length = float(np.linalg.norm(axis))
    if length == 0:
        raise InputError(
            "head and foot of the bolt lie at one point.", where=f"bolts/{use.id}/line", hint="Move one of the handles."
        )
    axis = axis / length
    stiffness = value_of(line.stiffness, "stiffness")
    if stiffness <= 0:
        raise InputError(f"the stiffness is {line.stiffness}.", where=f"bolts/{use.id}/line/stiffness")
    return Bolt(
        use.id, (float(axis[0]), float(axis[1]), float(axis[2])), head=line.head, foot=line.foot, stiffness=stiffness
    )


def _bolts(use: BoltUse, study: StudyDocument) -> list[Bolt]:
    if use.line is not None:
        return [_line_bolt(use, use.line, study)]
    part = next(p for p in study.parts if p.id == use.part)
    if not len(part_mesh(part).cut_nodes):
        raise InputError(
            f"part '{part.id}' is no bolt: it has no cut at which it could be tightened.",
            where=f"bolts/{use.id}/part",
            hint="Choose a part made by the recipe 'bolt'.",
        )
    bolts = []
    for name, placement in zip(body_names(part), part.placements, strict=True):
        axis = placed_rotation(placement) @ np.array([0.0, 0.0, 1.0])
        bolts.append(Bolt(name, (float(axis[0]), float(axis[1]), float(axis[2])), body=name))
    return bolts


def _support(s: SupportUse, faces: _FaceBook, bodies: tuple[Body, ...]) -> Support:
    found = faces.find(s.faces, "faces")
    held = [s.kind == "fixed" or axis in s.components for axis in "xyz"]
    turns = [s.handle is not None and (s.kind == "fixed" or f"turn-{axis}" in s.components) for axis in "xyz"]
    if s.kind in ("fixed", "components"):
        if not any(held) and not any(turns):
            raise InputError("no direction is held.", where="components", hint="Name x, y or z.")
        return Support(s.id, found, (held[0], held[1], held[2]), s.handle, (turns[0], turns[1], turns[2]))
    if s.handle is not None:
        raise InputError("a handle lies on no plane of symmetry.", where="kind", hint="Hold its components instead.")
    return Support(s.id, found, _plane_normal(found, bodies), is_symmetry=True)


def _plane_normal(found: tuple[Face, ...], bodies: tuple[Body, ...]) -> tuple[bool, bool, bool]:
    meshes = {b.name: b.mesh for b in bodies}
    at = np.vstack([meshes[f.body].nodes[np.unique(meshes[f.body].faces[f.name])] for f in found])
    flat = np.ptp(at, axis=0) < 1e-6 * max(1.0, float(np.abs(at).max()))
    if meshes[found[0].body].kind in PLANE:
        flat[2] = False
    if flat.sum() != 1:
        raise InputError(
            "the faces do not lie in one plane across a coordinate axis.",
            where="faces",
            hint="Symmetry needs flat faces in one such plane.",
        )
    return bool(flat[0]), bool(flat[1]), bool(flat[2])


def _load(ld: LoadUse, faces: _FaceBook) -> Load:
    x, y, z = (value_of(c, "length") for c in ld.centre)
    found = faces.find(ld.faces, "faces")
    return Load(ld.id, ld.kind, found, ld.direction or (0.0, 0.0, 0.0), ld.handle, (x, y, z))


def _step(s: StepUse, study: StudyDocument) -> Step:
    inc = s.increments
    loads, courses = {}, {}

    def number(load: LoadUse, written: str) -> float:
        return 0.0 if written == "off" else value_of(written, load.quantity)

    for load in study.loads:
        if s.id in load.values:
            loads[load.id] = number(load, load.values[s.id])
        if s.id in load.courses:
            courses[load.id] = tuple((p.at, number(load, p.value)) for p in load.courses[s.id])
    parts = {p.id: p for p in study.parts}
    preloads = {
        body: bolt.force_in(s.id)
        for bolt in study.bolts
        if s.id in bolt.preload
        for body in (body_names(parts[bolt.part]) if bolt.part is not None else [bolt.id])
    }
    acting: list[PairUse | SupportUse | LoadUse] = [*study.pairs, *study.supports, *study.loads]
    dynamics = None
    if s.dynamics is not None:
        dynamics = Dynamics(value_of(s.dynamics.duration, "time"), s.dynamics.damping)
        if dynamics.duration <= 0:
            raise InputError(f"the duration is {s.dynamics.duration}.", where="dynamics/duration")
    return Step(
        s.id,
        loads,
        preloads,
        Increments(inc.start, inc.least, inc.largest, inc.most),
        frozenset(item.id for item in acting if s.id in item.released),
        courses,
        s.large_motion,
        dynamics,
    )
