"""The parts of a study as joints see them: coarse meshes in place, and what their faces are."""

import json
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.facets import facet_areas
from ulmek.core.mesh.fitted import FaceShape, face_shape
from ulmek.core.mesh.size import suggested_mesh
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items import MeshSettings, Part, StudyDocument
from ulmek.study.mating import placement_of
from ulmek.study.meshes import part_mesh
from ulmek.study.solids import is_free_form, solid_of_use
from ulmek.study.translate import body_names, placed_axes
from ulmek.study.units import value_of

Array = NDArray[np.float64]
# Parts that are off by less (mm) stay where they are.
MOVED = 1e-7
# A joint looks at shapes, not at meshes: so much coarser than a new part, and elements to the turn.
COARSER, PER_TURN = 3.0, 16


def coarse_mesh(part: Part) -> VolumeMesh:
    """A mesh of a part in its own axes, all corners of whose faces lie on the true surface."""
    use = part.recipe.model_dump()
    return part_mesh(part) if is_free_form(use) else _swept(json.dumps(use), part.id)


@lru_cache(maxsize=256)
def _swept(use: str, part_id: str) -> VolumeMesh:
    recipe = json.loads(use)
    size = COARSER * suggested_mesh(solid_of_use(recipe, part_id))[0]
    mesh = MeshSettings(size=f"{size:g} mm", per_turn=PER_TURN)
    return part_mesh(Part(id=part_id, name=part_id, recipe=recipe, material="any", mesh=mesh))


def across(away: Array, direction: Array) -> Array:
    """What of a vector (3,) lies across a direction (3,)."""
    return np.asarray(away - (away @ direction) * direction)


class Shapes:
    """Every copy of every part of a study in place."""

    def __init__(self, study: StudyDocument) -> None:
        if study.space != "solid":
            raise InputError(
                "joints are made in studies of solids.",
                where="space",
                hint="In a plane study, find the pairs and hold what is not drawn.",
            )
        self.study = study
        self._parts = {name: (part, i) for part in study.parts for i, name in enumerate(body_names(part))}
        self._meshes: dict[str, VolumeMesh] = {}
        self._shapes: dict[str, FaceShape | None] = {}

    @property
    def bodies(self) -> list[str]:
        """Names of all copies."""
        return list(self._parts)

    def part(self, body: str) -> Part:
        """The part that a body is a copy of."""
        return self._parts[body][0]

    def young(self, body: str) -> float:
        """Young's modulus of a body (MPa); of rubber at small strains."""
        material = next(m for m in self.study.materials if m.id == self.part(body).material)
        if material.rubber is not None:
            return 6 * (value_of(material.rubber.c10, "stress") + value_of(material.rubber.c01, "stress"))
        return value_of(material.young or "210 GPa", "stress")

    def poisson(self, body: str) -> float:
        """Poisson's ratio of a body."""
        material = next(m for m in self.study.materials if m.id == self.part(body).material)
        return 0.499 if material.poisson is None else material.poisson

    def yields_at(self, body: str) -> float | None:
        """Yield stress of a body (MPa), None where its material has none."""
        material = next(m for m in self.study.materials if m.id == self.part(body).material)
        if material.yield_stress is not None:
            return value_of(material.yield_stress, "stress")
        return None if material.hardening is None else value_of(material.hardening.table[0].stress, "stress")

    def mesh(self, body: str) -> VolumeMesh:
        """A body in place."""
        if body not in self._meshes:
            part, copy = self._parts[body]
            place = part.placements[copy]
            at = np.array([value_of(c, "length") for c in place.at])
            self._meshes[body] = coarse_mesh(part).placed(placed_axes(place), at)
        return self._meshes[body]

    def split(self, reference: str) -> tuple[str, str]:
        """Body and face of a reference to one copy.

        Raises
        ------
        UnknownNameError : there is no such copy or face.
        """
        body, name = reference.split("/", 1)
        if body not in self._parts or name not in self.mesh(body).faces:
            raise UnknownNameError(
                f"there is no face '{reference}'.",
                where="joints",
                hint="Name one copy of a part and one of its faces.",
            )
        return body, name

    def shape(self, body: str, name: str) -> FaceShape | None:
        """What a face is, None where it is neither flat nor round nor part of a ball."""
        key = f"{body}/{name}"
        if key not in self._shapes:
            try:
                self._shapes[key] = face_shape(self.mesh(body), name)
            except InputError:
                self._shapes[key] = None
        return self._shapes[key]

    def round_face(self, reference: str, *, hollow: bool) -> FaceShape:
        """A hole, or a shank, by its reference; InputError where it is none."""
        body, name = self.split(reference)
        shape = self.shape(body, name)
        if shape is None or shape.kind != "round" or shape.is_hollow != hollow:
            what = "round hole" if hollow else "round shank"
            raise InputError(f"{reference} is no {what}.", where="joints", hint=f"Pick a {what}.")
        return shape

    def extent(self, body: str, name: str, point: Array, direction: Array) -> tuple[float, float]:
        """Where along an axis a face begins and ends (mm)."""
        mesh = self.mesh(body)
        along = (mesh.nodes[np.unique(mesh.faces[name])] - point) @ direction
        return float(along.min()), float(along.max())

    def area(self, body: str, name: str) -> float:
        """Area of a face (mm²)."""
        mesh = self.mesh(body)
        return float(facet_areas(mesh.nodes, mesh.faces[name], thickness=1.0, turned=False).sum())


def with_place(study: StudyDocument, body: str, at: Array, axes: Array) -> StudyDocument:
    """The study with one copy of a part at another place."""
    parts = list(study.parts)
    index = next(i for i, p in enumerate(parts) if body in body_names(p))
    placements = list(parts[index].placements)
    placements[body_names(parts[index]).index(body)] = placement_of(at, axes)
    parts[index] = parts[index].model_copy(update={"placements": placements})
    return study.model_copy(update={"parts": parts})


def place_of(study: StudyDocument, body: str) -> tuple[Array, Array]:
    """Where a copy stands (3,) mm, and its axes (3, 3)."""
    part = next(p for p in study.parts if body in body_names(p))
    place = part.placements[body_names(part).index(body)]
    return np.array([value_of(c, "length") for c in place.at]), placed_axes(place)
