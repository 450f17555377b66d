"""Study document → core model: values in internal units, meshes in place, faces looked up."""

import base64
import json
import zlib
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
from scipy.spatial.transform import Rotation

from ulmek.core.element.section import Section, section_of
from ulmek.core.errors import GeometryError, InputError, UlmekError, UnknownNameError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.cut import cut_solid
from ulmek.core.geometry.kernel import Shape
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import RECIPES, Solid
from ulmek.core.geometry.recognise import Recognised
from ulmek.core.geometry.stored import from_plain
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import PLANE, VolumeMesh
from ulmek.core.mesh.wedges import split_into_wedges
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
from ulmek.study.recipe_values import recipe_values
from ulmek.study.schema import (
    BoltUse,
    FileUse,
    HandleUse,
    LineBolt,
    LinkUse,
    LoadUse,
    Material,
    PairUse,
    Part,
    Placement,
    SpringUse,
    StepUse,
    StudyDocument,
    SupportUse,
    WallUse,
)
from ulmek.study.units import value_of

Made = TypeVar("Made")
# Bytes that the STEP text of one solid may have.
LARGEST_FILE = 64_000_000
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
    own_handles = tuple(_at(f"handles/{h.id}", _handle, h, faces) for h in study.handles)
    beams, stations = translate_beams(study, own_handles)
    handles = (*own_handles, *stations)
    thickness = value_of(study.thickness, "length")
    if thickness <= 0:
        raise InputError(f"the thickness is {study.thickness}.", where="thickness", hint="Give one above zero.")
    return Model(
        bodies=bodies,
        pairs=tuple(_at(f"pairs/{p.id}", _pair, p, faces) for p in study.pairs),
        bolts=tuple(bolt for use in study.bolts for bolt in _bolts(use, study)),
        handles=handles,
        springs=tuple(_spring(s) for s in study.springs),
        links=tuple(_link(ln) for ln in study.links),
        walls=tuple(_wall(w) for w in study.walls),
        beams=beams,
        space=study.space,
        thickness=thickness if study.space.startswith("plane") else 1.0,
        path=study.path,
        supports=tuple(_at(f"supports/{s.id}", _support, s, faces, bodies) for s in study.supports),
        loads=tuple(_at(f"loads/{ld.id}", _load, ld, faces) for ld in study.loads),
        steps=tuple(_at(f"steps/{s.id}", _step, s, study) for s in study.steps),
    )


def translate_parts(study: StudyDocument) -> tuple[Body, ...]:
    """The bodies of a study, every copy of every part, meshed and in place; raises as `translate`."""
    if not study.parts:
        raise InputError("the study has no parts.", where="parts", hint="Add a part first.")
    materials = {m.id: _at(f"materials/{m.id}", _material, m) for m in study.materials}
    section = study.space != "solid"
    allowed = {m.id: _at(f"materials/{m.id}", _allowable, m) for m in study.materials}
    return tuple(
        body
        for part in study.parts
        for body in _bodies(part, materials[part.material], allowable=allowed[part.material], section=section)
    )


def body_names(part: Part) -> list[str]:
    """Names of the bodies that a part's copies become: its id, or id#1, id#2 …"""
    if len(part.placements) == 1:
        return [part.id]
    return [f"{part.id}#{i + 1}" for i in range(len(part.placements))]


def part_mesh(part: Part, *, section: bool = False) -> VolumeMesh:
    """Mesh of one part in its own axes, or of its ``section``; made once for the same recipe and settings.

    Raises
    ------
    UlmekError : with the place inside the study.
    """
    key = json.dumps([part.recipe.model_dump(), part.mesh.model_dump()], sort_keys=True)
    return _cached_mesh(key, part.id, section)


def part_solid(part: Part) -> Recognised:
    """The solid of a part in axes of its own, and where these stand in the part's; raises as `part_mesh`."""
    use = part.recipe.model_dump()
    own = _read_solid(use) if use.get("file") else Recognised(_solid(use, part.id), np.eye(3), np.zeros(3))
    return replace(own, solid=_solid(use, part.id))


def _solid(recipe_use: dict[str, Any], part_id: str) -> Solid:
    """The solid of a recipe with its written dimensions."""
    kept = recipe_use.get("kept", "whole")
    if is_free_form(recipe_use):
        raise InputError("a free-form solid is not swept.", where=f"parts/{part_id}/recipe", hint="Use a solid study.")
    if recipe_use.get("file"):
        return _at(f"parts/{part_id}/recipe", lambda: cut_solid(_read_solid(recipe_use).solid, kept))
    recipe = RECIPES.get(recipe_use["kind"])
    if recipe is None:
        raise UnknownNameError(
            f"there is no recipe '{recipe_use['kind']}'.",
            where=f"parts/{part_id}/recipe/kind",
            hint=f"Known: {', '.join(RECIPES)}.",
        )
    place = f"parts/{part_id}/recipe/dimensions"
    values = _at(place, recipe_values, recipe, recipe_use["dimensions"])
    return _at(place, lambda: cut_solid(recipe.solid(values), kept))


def is_free_form(recipe_use: dict[str, Any]) -> bool:
    """Whether a part's solid comes from a file and is neither extruded nor revolved."""
    return bool(recipe_use.get("file") and recipe_use["file"].get("content"))


def free_shape(file: FileUse) -> Shape:
    """The exact shape of a free-form solid.

    Raises
    ------
    GeometryError : the content is damaged.
    """
    try:
        content = zlib.decompressobj().decompress(base64.b64decode(file.content or "", validate=True), LARGEST_FILE)
    except (ValueError, zlib.error):
        raise GeometryError("the solid of the file is damaged.", hint="Read the file again.") from None
    solids, _ = kernel.read_step(content)
    return solids[0].shape


def _free_mesh(
    recipe_use: dict[str, Any], settings: dict[str, Any], size: float, sizes: dict[str, float]
) -> VolumeMesh:
    """Tetrahedra of a free-form solid."""
    if settings["elements"] != "tets":
        raise InputError("a free-form solid has tetrahedra only.", where="elements", hint="Choose tetrahedra.")
    if settings["spots"]:
        raise InputError("a free-form solid has no finer spots.", where="spots", hint="Refine a face.")
    if recipe_use.get("kept", "whole") != "whole":
        raise InputError("a free-form solid is not cut here.", where="recipe/kept", hint="Cut it where it was drawn.")
    shape = free_shape(FileUse.model_validate(recipe_use["file"]))
    return mesh_free(shape, size=size, per_turn=settings["per_turn"], face_sizes=sizes)


def _read_solid(recipe_use: dict[str, Any]) -> Recognised:
    """The solid of a file, in axes of its own."""
    return from_plain(recipe_use["file"]["shape"])


@lru_cache(maxsize=64)
def _section(recipe: str, part_id: str) -> Section:
    """Cross-section of a recipe of one layer, on a mesh fine enough for its warping."""
    solid = _solid(json.loads(recipe), part_id)
    outlines = [region.polygon() for region in solid.partition.regions]
    thin = sum(o.area for o in outlines) / sum(o.length for o in outlines)
    mesh = mesh_flat(solid, size=thin / SECTION_ELEMENTS, per_turn=SECTION_PER_TURN)
    return section_of(mesh.nodes[:, :2], mesh.cells)


@lru_cache(maxsize=64)
def _cached_mesh(key: str, part_id: str, section: bool) -> VolumeMesh:
    recipe_use, settings = json.loads(key)
    is_free = is_free_form(recipe_use) and not section
    solid = None if is_free else _solid(recipe_use, part_id)
    sizes = {n: value_of(v, "length") for n, v in settings["faces"].items()}
    size = value_of(settings["size"], "length")
    spots = [[*(value_of(c, "length") for c in s["at"]), value_of(s["size"], "length")] for s in settings["spots"]]
    given = {f"faces/{n}": v for n, v in sizes.items()} | {f"spots/{i}/size": s[3] for i, s in enumerate(spots)}
    for name, wanted in {"size": size, **given}.items():
        if wanted <= 0:
            raise InputError(
                f"the mesh size is {wanted:g} mm.", where=f"parts/{part_id}/mesh/{name}", hint="Give a size above zero."
            )
    points = np.array(spots).reshape(-1, 4)
    own = _read_solid(recipe_use) if recipe_use.get("file") and not is_free else None
    if own is not None:
        points[:, :3] = (points[:, :3] - own.shift) @ own.rotation
    common: dict[str, Any] = {
        "size": size, "face_sizes": sizes, "per_turn": settings["per_turn"], "spots": points
    }  # fmt: skip

    def make() -> VolumeMesh:
        if solid is None:
            return _free_mesh(recipe_use, settings, size, sizes)
        if section:
            quads = mesh_flat(solid, **common)
            if settings["elements"] in ("beam", "wedges"):
                raise InputError(
                    f"a plane study has no {settings['elements'].rstrip('s')}s.", where="elements",
                    hint="Choose quads or triangles.",
                )  # fmt: skip
            if settings["elements"] == "bricks":
                return quads
            return split_into_triangles(quads) if settings["elements"] == "tets" else with_mid_sides(quads)
        is_bar = isinstance(solid, LayeredSolid) and len(solid.layers) == 1
        if settings["elements"] in ("beam", "wedges") and not isinstance(solid, LayeredSolid):
            raise InputError(
                "a revolved part has no layers to be cut along.", where="elements", hint="Choose bricks or tets."
            )
        if settings["elements"] == "beam" and own is not None:
            raise InputError("a part from a file cannot be a beam.", where="elements", hint="Make it by a recipe.")
        if settings["elements"] == "beam" and not is_bar:
            raise InputError(
                "a beam has one outline all along, and this recipe has several.", where="elements",
                hint="Choose bricks, or a recipe of one layer such as a block, a disc or a washer.",
            )  # fmt: skip
        if settings["elements"] == "second-order":
            raise InputError(
                "a solid has no second-order bricks.", where="elements", hint="Choose tets, which are second-order."
            )
        bricks = mesh_solid(solid, layers=settings["layers"], **common)
        if settings["elements"] == "tets" and len(bricks.cut_nodes):
            raise InputError(
                "a bolt is cut across its shank to be tightened, which needs bricks.", where="elements",
                hint="Choose bricks for it.",
            )  # fmt: skip
        if settings["elements"] == "wedges":
            return split_into_wedges(bricks)
        return split_bricks(bricks) if settings["elements"] == "tets" else bricks

    mesh = _at(f"parts/{part_id}/mesh", make)
    if own is not None and not section:
        mesh = mesh.placed(own.rotation, own.shift)
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
