"""Supports: faces or handles that are held."""

from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from ulmek.core.axes import Axes
from ulmek.core.errors import InputError
from ulmek.core.mesh.volume import PLANE
from ulmek.core.model import Body, Face, Support
from ulmek.study.items.axes import AxesUse, axes_of
from ulmek.study.items.item import FaceRef, HandleId, Identifier, Item, Label, StepId
from ulmek.study.items.kind import Around, Kind

# Nodes off a plane by less than this share of their coordinates are in it.
FLAT = 1e-6

Component = Literal["x", "y", "z", "turn-x", "turn-y", "turn-z"]


class SupportUse(Item):
    """Faces held in the marked directions, or on a symmetry plane (held along its normal); or a handle.

    ``axes``: what x, y and z of the components stand for, those of the machine when None.
    """

    id: Identifier
    name: Label
    faces: list[FaceRef] = Field(default_factory=list)
    handle: HandleId | None = None
    kind: Literal["fixed", "components", "symmetry"] = "fixed"
    components: list[Component] = Field(default_factory=list)
    axes: AxesUse | None = None
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
        if s.handle is not None and s.axes is not None and s.axes.kind == "round":
            raise InputError(
                "a handle is a point: it has no radial direction.", where="axes", hint="Turn the axes instead."
            )
        own = axes_of(s.axes) if s.kind == "components" else None
        return (Support(s.id, found, (held[0], held[1], held[2]), s.handle, (turns[0], turns[1], turns[2]), axes=own),)
    if s.handle is not None:
        raise InputError("a handle lies on no plane of symmetry.", where="kind", hint="Hold its components instead.")
    components, axes = _across_plane(found, around.bodies)
    return (Support(s.id, found, components, is_symmetry=True, axes=axes),)


def _across_plane(found: tuple[Face, ...], bodies: tuple[Body, ...]) -> tuple[tuple[bool, bool, bool], Axes | None]:
    """The component across the one plane that faces lie in, and the axes that it is of."""
    meshes = {b.name: b.mesh for b in bodies}
    at = np.vstack([meshes[f.body].nodes[np.unique(meshes[f.body].faces[f.name])] for f in found])
    flat = np.ptp(at, axis=0) < FLAT * max(1.0, float(np.abs(at).max()))
    if meshes[found[0].body].kind in PLANE:
        flat[2] = False
    if flat.sum() == 1:
        return (bool(flat[0]), bool(flat[1]), bool(flat[2])), None
    middle = at.mean(axis=0)
    # The edges of a section lie in a plane across theirs.
    known = 2 if meshes[found[0].body].kind in PLANE else 3
    away = (at - middle)[:, :known]
    sizes, directions = np.linalg.eigh(away.T @ away)
    across = np.zeros(3)
    across[:known] = directions[:, 0]
    if sizes[1] <= 0 or np.abs((at - middle) @ across).max() > FLAT * max(1.0, float(np.abs(at).max())):
        raise InputError(
            "the faces do not lie in one plane.", where="faces", hint="Symmetry needs flat faces, all in one plane."
        )
    return (True, False, False), Axes.along((float(across[0]), float(across[1]), float(across[2])))


KIND = Kind("support", "Support", "supports", SupportUse, "supports", _translated)
