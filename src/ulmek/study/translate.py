"""Study document → core model: values in internal units, meshes in place, faces looked up."""

import dataclasses
import json
from collections.abc import Callable
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np

from ulmek.core.errors import InputError, UlmekError, UnknownNameError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Body, Bolt, Face, Increments, Load, Model, Pair, PairLaw, Step, Support
from ulmek.study.schema import LoadUse, Material, PairUse, Part, Placement, StepUse, StudyDocument, SupportUse
from ulmek.study.units import value_of

Made = TypeVar("Made")
AXES = {"x": 0, "y": 1, "z": 2}


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
    return Model(
        bodies=bodies,
        pairs=tuple(_at(f"pairs/{p.id}", _pair, p, faces) for p in study.pairs),
        bolts=tuple(bolt for use in study.bolts for bolt in _bolts(use.part, use.id, study)),
        supports=tuple(_at(f"supports/{s.id}", _support, s, faces, bodies) for s in study.supports),
        loads=tuple(_at(f"loads/{ld.id}", _load, ld, faces) for ld in study.loads),
        steps=tuple(_at(f"steps/{s.id}", _step, s, study) for s in study.steps),
    )


def translate_parts(study: StudyDocument) -> tuple[Body, ...]:
    """The bodies of a study, every copy of every part, meshed and in place; raises as `translate`."""
    if not study.parts:
        raise InputError("the study has no parts.", where="parts", hint="Add a part first.")
    materials = {m.id: _at(f"materials/{m.id}", _material, m) for m in study.materials}
    return tuple(body for part in study.parts for body in _bodies(part, materials[part.material]))


def body_names(part: Part) -> list[str]:
    """Names of the bodies that a part's copies become: its id, or id#1, id#2 …"""
    if len(part.placements) == 1:
        return [part.id]
    return [f"{part.id}#{i + 1}" for i in range(len(part.placements))]


def part_mesh(part: Part) -> VolumeMesh:
    """Mesh of one part in its own axes; made once for the same recipe and settings.

    Raises
    ------
    UlmekError : with the place inside the study.
    """
    key = json.dumps([part.recipe.model_dump(), part.mesh.model_dump()], sort_keys=True)
    return _cached_mesh(key, part.id)


@lru_cache(maxsize=64)
def _cached_mesh(key: str, part_id: str) -> VolumeMesh:
    recipe_use, settings = json.loads(key)
    recipe = RECIPES.get(recipe_use["kind"])
    if recipe is None:
        raise UnknownNameError(
            f"there is no recipe '{recipe_use['kind']}'.",
            where=f"parts/{part_id}/recipe/kind",
            hint=f"Known: {', '.join(RECIPES)}.",
        )
    place = f"parts/{part_id}/recipe/dimensions"
    lengths = {d.name for d in recipe.dimensions if d.kind == "length"}
    values = {}
    for name, written in recipe_use["dimensions"].items():
        if name in lengths:
            values[name] = _at(f"{place}/{name}", value_of, str(written), "length")
        elif isinstance(written, int) or name not in {d.name for d in recipe.dimensions}:
            values[name] = float(written) if isinstance(written, int) else 0.0
        else:
            raise InputError(f"'{written}' is not a whole number.", where=f"{place}/{name}")
    solid = _at(place, recipe.solid, values)
    sizes = {n: value_of(v, "length") for n, v in settings["faces"].items()}
    size = value_of(settings["size"], "length")
    for name, wanted in {"size": size, **{f"faces/{n}": v for n, v in sizes.items()}}.items():
        if wanted <= 0:
            raise InputError(
                f"the mesh size is {wanted:g} mm.", where=f"parts/{part_id}/mesh/{name}", hint="Give a size above zero."
            )
    mesh = _at(
        f"parts/{part_id}/mesh",
        lambda: mesh_layered(
            solid, size=size, layers=settings["layers"], face_sizes=sizes, per_turn=settings["per_turn"]
        ),
    )
    for name in sizes:
        if name not in mesh.faces:
            raise _no_face(name, part_id, mesh).at(f"parts/{part_id}/mesh/faces")
    return mesh


def _at(place: str, function: Callable[..., Made], *args: Any) -> Made:
    """Call, with ``place`` put before the place of any error raised."""
    try:
        return function(*args)
    except UlmekError as error:
        raise error if error.where.startswith(place.split("/")[0] + "/") else error.at(place) from None


def _no_face(name: str, part_id: str, mesh: VolumeMesh) -> UnknownNameError:
    return UnknownNameError(
        f"part '{part_id}' has no face '{name}'.", hint=f"Its faces are {', '.join(sorted(mesh.faces))}."
    )


def _material(m: Material) -> Elastic:
    limit = value_of(m.yield_stress, "stress") if m.yield_stress else None
    return Elastic(value_of(m.young, "stress"), m.poisson, limit)


def _rotation(placement: Placement) -> np.ndarray:
    if placement.turn is None:
        return np.eye(3)
    angle = value_of(placement.turn.angle, "angle")
    i = AXES[placement.turn.axis]
    j, k = (i + 1) % 3, (i + 2) % 3
    out = np.eye(3)
    out[j, j] = out[k, k] = np.cos(angle)
    out[j, k], out[k, j] = -np.sin(angle), np.sin(angle)
    return out


def _bodies(part: Part, material: Elastic) -> list[Body]:
    mesh = part_mesh(part)
    out = []
    for name, placement in zip(body_names(part), part.placements, strict=True):
        at = np.array([value_of(c, "length") for c in placement.at])
        out.append(Body(name, dataclasses.replace(mesh, nodes=mesh.nodes @ _rotation(placement).T + at), material))
    return out


class _FaceBook:
    """Looks up face references such as ``bracket/back`` or ``bolts#2/head.bearing``."""

    def __init__(self, study: StudyDocument, bodies: tuple[Body, ...]) -> None:
        self.meshes = {b.name: b.mesh for b in bodies}
        self.copies = {p.id: body_names(p) for p in study.parts}

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
                    raise _no_face(name, owner, self.meshes[body]).at(where)
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
        fit=p.fit,
        interference=value_of(p.interference, "length"),
    )


def _bolts(part_id: str, bolt_id: str, study: StudyDocument) -> list[Bolt]:
    part = next(p for p in study.parts if p.id == part_id)
    if not len(part_mesh(part).cut_nodes):
        raise InputError(
            f"part '{part_id}' is no bolt: it has no cut at which it could be tightened.",
            where=f"bolts/{bolt_id}/part",
            hint="Choose a part made by the recipe 'bolt'.",
        )
    bolts = []
    for name, placement in zip(body_names(part), part.placements, strict=True):
        axis = _rotation(placement) @ np.array([0.0, 0.0, 1.0])
        bolts.append(Bolt(name, name, (float(axis[0]), float(axis[1]), float(axis[2]))))
    return bolts


def _support(s: SupportUse, faces: _FaceBook, bodies: tuple[Body, ...]) -> Support:
    found = faces.find(s.faces, "faces")
    if s.kind == "fixed":
        return Support(s.id, found, (True, True, True))
    if s.kind == "components":
        if not s.components:
            raise InputError("no direction is held.", where="components", hint="Name x, y or z.")
        held = [axis in s.components for axis in "xyz"]
        return Support(s.id, found, (held[0], held[1], held[2]))
    return Support(s.id, found, _plane_normal(found, bodies))


def _plane_normal(found: tuple[Face, ...], bodies: tuple[Body, ...]) -> tuple[bool, bool, bool]:
    meshes = {b.name: b.mesh for b in bodies}
    at = np.vstack([meshes[f.body].nodes[np.unique(meshes[f.body].faces[f.name])] for f in found])
    flat = np.ptp(at, axis=0) < 1e-6 * max(1.0, float(np.abs(at).max()))
    if flat.sum() != 1:
        raise InputError(
            "the faces do not lie in one plane across a coordinate axis.",
            where="faces",
            hint="Symmetry needs flat faces in one such plane.",
        )
    return bool(flat[0]), bool(flat[1]), bool(flat[2])


def _load(ld: LoadUse, faces: _FaceBook) -> Load:
    return Load(ld.id, ld.kind, faces.find(ld.faces, "faces"), ld.direction or (0.0, 0.0, 0.0))


def _step(s: StepUse, study: StudyDocument) -> Step:
    inc = s.increments
    loads = {}
    for load in study.loads:
        if s.id in load.values:
            written = load.values[s.id]
            loads[load.id] = 0.0 if written == "off" else value_of(written, load.quantity)
    parts = {p.id: p for p in study.parts}
    preloads = {
        body: value_of(bolt.preload[s.id], "force")
        for bolt in study.bolts
        if s.id in bolt.preload
        for body in body_names(parts[bolt.part])
    }
    return Step(s.id, loads, preloads, Increments(inc.start, inc.least, inc.largest, inc.most))
