"""Study document → core model: values in internal units, meshes in place, faces looked up."""

import json
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.element.section import Section, section_of
from ulmek.core.errors import InputError, UnknownNameError, located
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.solid import mesh_flat
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Beam, Body, Face, Handle, Model
from ulmek.core.model import Material as CoreMaterial
from ulmek.study.awake import awake
from ulmek.study.beams import PlacedBeam, beams_of
from ulmek.study.items import KINDS, Material, Part, Placement, StudyDocument, Turn, items_of
from ulmek.study.items.item import AXES
from ulmek.study.items.kind import Kind
from ulmek.study.items.load import mean_handle
from ulmek.study.items.spring import one_way
from ulmek.study.meshes import no_face, part_mesh
from ulmek.study.solids import is_free_form, solid_of_use
from ulmek.study.units import value_of

# Mesh of a beam's cross-section: elements along the ratio of its area to its outline, and round a turn.
SECTION_ELEMENTS, SECTION_PER_TURN = 5, 96


def translate(study: StudyDocument) -> Model:
    """The core model of what is awake of a study.

    Raises
    ------
    UlmekError : anything in the study that no model can have, with its place.
    """
    if not study.steps:
        raise InputError("the study has no steps.", where="steps", hint="Add a step to the sequence.")
    thickness = value_of(study.thickness, "length")
    if thickness <= 0:
        raise InputError(f"the thickness is {study.thickness}.", where="thickness", hint="Give one above zero.")
    study = awake(study)
    bodies = translate_parts(study)
    around = _Around(study, bodies)
    made = {kind.becomes: _translated(kind, around) for kind in KINDS.values() if kind.translate is not None}
    beams, stations = translate_beams(study, made["handles"])
    means = [located(f"loads/{ld.id}", mean_handle, ld, around) for ld in study.loads if ld.on_average]
    lines = [located(f"springs/{s.id}", one_way, s, around) for s in study.springs if s.acts != "both"]
    return Model(
        bodies=bodies,
        beams=beams,
        space=study.space,
        thickness=thickness if study.space.startswith("plane") else 1.0,
        path=study.path,
        **{**made, "handles": (*made["handles"], *stations, *means), "bolts": (*made["bolts"], *lines)},
    )


def _translated(kind: Kind, around: "_Around") -> tuple[Any, ...]:
    """What the items of a kind become in the core model."""
    assert kind.translate is not None
    return tuple(
        made
        for item in items_of(around.study, kind.name)
        for made in located(f"{kind.list}/{item.id}", kind.translate, item, around)
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


def section_of_part(part: Part) -> Section:
    """Cross-section of a part of one layer."""
    return _section(part.recipe.model_dump_json(), part.id)


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
        return value_of(m.yield_stress, "stress") / m.safety if m.safety is not None and m.yield_stress else None
    found = value_of(m.allowable, "stress")
    if found <= 0:
        raise InputError(f"the allowable stress is {m.allowable}.", where="allowable", hint="It must be above zero.")
    return found


def placed_axes(placement: Placement) -> np.ndarray:
    """What the own axes of a part become where it is placed, column by column (3, 3): a rotation, or that of its mirror
    image in x = 0."""
    turned = np.eye(3) if placement.turn is None else _turned(placement.turn)
    return turned * [-1.0, 1.0, 1.0] if placement.mirrored else turned


def _turned(turn: Turn) -> np.ndarray:
    angle = value_of(turn.angle, "angle")
    if not isinstance(turn.axis, str):
        axis = np.array(turn.axis)
        if not axis.any():
            raise InputError("the axis of a turn has no direction.", where="placements", hint="Give one, not all zero.")
        matrix = Rotation.from_rotvec(angle * axis / np.linalg.norm(axis)).as_matrix()
        # Right angles exactly, so that symmetry finds its planes.
        return np.where(np.abs(matrix) < 1e-15, 0.0, matrix)
    i = AXES[turn.axis]
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
        out.append(Body(name, mesh.placed(placed_axes(placement), at), material, allowable))
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
        if any(p.mirrored for p in part.placements):
            raise InputError(
                f"a copy of the beam '{part.id}' is mirrored.", where=f"parts/{part.id}/placements",
                hint="Turn it instead, or choose bricks for it.",
            )  # fmt: skip
        section, mesh = section_of_part(part), part_mesh(part)
        for name, placement in zip(body_names(part), part.placements, strict=True):
            at = np.array([value_of(c, "length") for c in placement.at])
            placed.append(PlacedBeam(name, section, mesh, placed_axes(placement), at))
    return beams_of(placed, handles)


@dataclass(frozen=True)
class OwnFrame:
    """What a body is judged in and by: origin (mm) and axes of its part as placed (rows; recipes turn about the last),
    its material, and what its von Mises stress is judged against (MPa), if anything."""

    origin: np.ndarray
    axes: np.ndarray
    material: CoreMaterial
    strength: float | None


def own_frames(study: StudyDocument) -> dict[str, OwnFrame]:
    """The frame of every body by its name."""
    found = {}
    materials = {m.id: m for m in study.materials}
    for part in study.parts:
        material = _material(materials[part.material])
        allowable = _allowable(materials[part.material])
        strength = allowable if allowable is not None else material.yield_stress
        for name, placement in zip(body_names(part), part.placements, strict=True):
            origin = np.array([value_of(c, "length") for c in placement.at])
            found[name] = OwnFrame(origin, placed_axes(placement).T, material, strength)
    return found


class _Around:
    """What is around the items of a study while they are translated: see `items.kind.Around`."""

    def __init__(self, study: StudyDocument, bodies: tuple[Body, ...]) -> None:
        self.study, self.bodies = study, bodies
        self._meshes = {b.name: b.mesh for b in bodies}
        self._parts = {p.id: p for p in study.parts}
        self._copies = {p.id: body_names(p) for p in study.parts}

    def mesh(self, part: str) -> VolumeMesh:
        return part_mesh(self._parts[part])

    def copies(self, part: str) -> list[tuple[str, NDArray[np.float64]]]:
        use = self._parts[part]
        return [(n, placed_axes(p)) for n, p in zip(self._copies[part], use.placements, strict=True)]

    def body(self, name: str) -> str:
        found = self._copies.get(name, [name])
        if len(found) != 1 or found[0] not in self._meshes:
            raise UnknownNameError(
                f"there is no single part '{name}' to be rigid.",
                where="part",
                hint=f"Name one of {', '.join(sorted(self._meshes))}.",
            )
        return found[0]

    def faces(self, references: list[str], place: str) -> tuple[Face, ...]:
        """Faces such as ``bracket/back`` or ``bolts#2/head.bearing``."""
        out: list[Face] = []
        for position, reference in enumerate(references):
            where = f"{place}/{position}"
            owner, name = reference.split("/", 1)
            bodies = self._copies.get(owner, [owner] if owner in self._meshes else [])
            if not bodies:
                raise UnknownNameError(
                    f"there is no part '{owner}' for face '{reference}'.",
                    where=where,
                    hint=f"Known parts: {', '.join(self._copies)}.",
                )
            for body in bodies:
                if name not in self._meshes[body].faces:
                    raise no_face(name, owner, self._meshes[body]).at(where)
                out.append(Face(body, name))
        return tuple(out)
