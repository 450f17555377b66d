"""Supports: faces or handles that are held."""

from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from ulmek.core.errors import InputError
from ulmek.core.mesh.volume import PLANE
from ulmek.core.model import Body, Face, Support
from ulmek.study.items.item import FaceRef, HandleId, Identifier, Item, Label, StepId
from ulmek.study.items.kind import Around, Kind

Component = Literal["x", "y", "z", "turn-x", "turn-y", "turn-z"]


class SupportUse(Item):
    """Faces held in the marked directions, or on a symmetry plane (held along its normal); or a handle."""

    id: Identifier
    name: Label
    faces: list[FaceRef] = Field(default_factory=list)
    handle: HandleId | None = None
    kind: Literal["fixed", "components", "symmetry"] = "fixed"
    components: list[Component] = Field(default_factory=list)
    released: list[StepId] = Field(default_factory=list)

    @model_validator(mode="after")
    def _check(self) -> "SupportUse":
        if bool(self.faces) == (self.handle is not None):
            raise ValueError("a support holds faces or a handle: give one of them.")
        return self


def _translated(s: SupportUse, around: Around) -> tuple[Support]:
    found = around.faces(s.faces, "faces")
    held = [s.kind == "fixed" or axis in s.components for axis in "xyz"]
    turns = [s.handle is not None and (s.kind == "fixed" or f"turn-{axis}" in s.components) for axis in "xyz"]
    if s.kind in ("fixed", "components"):
        if not any(held) and not any(turns):
            raise InputError("no direction is held.", where="components", hint="Name x, y or z.")
        return (Support(s.id, found, (held[0], held[1], held[2]), s.handle, (turns[0], turns[1], turns[2])),)
    if s.handle is not None:
        raise InputError("a handle lies on no plane of symmetry.", where="kind", hint="Hold its components instead.")
    return (Support(s.id, found, _plane_normal(found, around.bodies), is_symmetry=True),)


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


KIND = Kind("support", "Support", "supports", SupportUse, "supports", _translated)
