"""Features dropped from a solid of a file: holes, roundings and bosses, by the faces that bound them."""

import hashlib
from dataclasses import replace
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Shape
from ulmek.study.aside import aside
from ulmek.study.edits import difference
from ulmek.study.items import FileUse, Part, Patch, Placement, StudyDocument
from ulmek.study.meshes import part_mesh
from ulmek.study.pieces import made_piece, told_gone, with_pieces
from ulmek.study.step_export import placed_shape
from ulmek.study.step_files import use_of_shape

# A mesh node this close (mm, per mm of the part's length) to a face of the solid lies in it.
IN_FACE = 1e-6
# Facets of a named face by which the faces of the solid that it covers are found.
SAMPLED = 40


class Dropping(BaseModel):
    """The faces of a part that bound the features to leave out."""

    faces: Annotated[list[str], Field(min_length=1, max_length=200)]


def without_features(study: StudyDocument, part_id: str, dropping: Dropping) -> tuple[Patch, str]:
    """The patch that leaves features out of a solid of a file, and in words what went with them.

    Raises
    ------
    UnknownNameError : no such part or face. InputError : a recipe, which has switches. GeometryError : what is left
    does not close over the faces. UlmekError : from meshing it.
    """
    part = next((p for p in study.parts if p.id == part_id), None)
    if part is None:
        raise UnknownNameError(f"there is no part '{part_id}'.", where="parts")
    if part.recipe.file is None:
        raise InputError(
            f"the part '{part_id}' is made by a recipe.", where=f"parts/{part_id}/recipe",
            hint="Leave its features out by the switches under its dimensions.",
        )  # fmt: skip
    known = part_mesh(part).faces
    for face in dropping.faces:
        if face not in known:
            raise UnknownNameError(
                f"the part '{part_id}' has no face '{face}'.", where="faces", hint="Pick faces of it on the stage."
            )
    use = aside(part.name, _use_without, part, dropping.faces)
    whole = list(range(len(part.placements)))
    left = replace(made_piece(part, part, use), copies=whole)
    now = with_pieces(study, part, [left])
    return difference(study, now), told_gone(study, now, {part.id})


def _use_without(part: Part, faces: list[str]) -> FileUse:
    shape = placed_shape(part, Placement())
    mesh = part_mesh(part)
    all_faces = kernel.faces_of(shape)
    within = IN_FACE * float(np.ptp(mesh.nodes, axis=0).max())
    dropped = {i for name in faces for i in _covered(mesh.nodes, mesh.faces[name], all_faces, within)}
    digest = hashlib.sha256((part.model_dump_json() + "|".join(faces)).encode()).hexdigest()
    left = kernel.without_faces(shape, [all_faces[i] for i in sorted(dropped)])
    assert part.recipe.file is not None
    return use_of_shape(left, name=part.recipe.file.name, digest=digest, index=part.recipe.file.solid)[0]


def _covered(nodes: NDArray[np.float64], facets: NDArray[np.int64], faces: list[Shape], within: float) -> set[int]:
    """Which faces of the solid a face of its mesh covers: those that hold all corners of a facet."""
    corners = {4: 4, 6: 3}[facets.shape[1]]
    sample = facets[np.unique(np.linspace(0, len(facets) - 1, SAMPLED).astype(int)), :corners]
    boxes = [kernel.box(face) + np.array([[-within], [within]]) for face in faces]
    found: set[int] = set()
    for at in nodes[sample]:
        # Faces that were found hold most of the others; the distance to a face takes far longer than to its box.
        for i in sorted(range(len(faces)), key=lambda i: i not in found):
            low, high = boxes[i]
            if np.all((at >= low) & (at <= high)) and all(kernel.is_near(faces[i], p, within) for p in at):
                found.add(i)
                break
    return found
