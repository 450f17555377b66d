"""What begins at a point of a part, given where it is seen: finer meshes, and regions of faces."""

import itertools

import numpy as np

from ulmek.study.copies import copied_part
from ulmek.study.items import Part, Patch, StudyDocument
from ulmek.study.meshes import no_face, part_mesh
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

# How much finer the mesh is at a new point than elsewhere in the part.
FINER = 0.5
# How far a new region reaches, as a share of the longest side of its face.
REACH = 0.2


def finer_at(study: StudyDocument, part_id: str, copy: int, at: tuple[float, float, float]) -> Patch:
    """The patch that makes the mesh of a part finer around ``at`` (mm, in the study's axes) on one copy of it, counted
    from 1: as in all of them.

    Raises
    ------
    UnknownNameError : no such part or copy.
    """
    index, part = copied_part(study, part_id, copy)
    value = {
        "at": _own_place(part, copy, at),
        "size": f"{FINER * value_of(part.mesh.size, 'length'):.4g} mm",
    }
    return [{"op": "add", "path": f"/parts/{index}/mesh/spots/-", "value": value}]


def region_at(study: StudyDocument, part_id: str, copy: int, face: str, at: tuple[float, float, float]) -> Patch:
    """The patch that cuts a region out of a face of a part, about ``at`` (mm, in the study's axes) on one copy of it.

    Raises
    ------
    UnknownNameError : no such part, copy or face.
    """
    index, part = copied_part(study, part_id, copy)
    mesh = part_mesh(part, section=study.space != "solid")
    if face not in mesh.faces:
        raise no_face(face, part_id, mesh)
    name = next(n for k in itertools.count(1) if (n := f"region.{k}") not in mesh.faces)
    reach = REACH * float(np.ptp(mesh.nodes[np.unique(mesh.faces[face])], axis=0).max())
    value = {"name": name, "of": face, "at": _own_place(part, copy, at), "reach": f"{reach:.2g} mm"}
    return [{"op": "add", "path": f"/parts/{index}/regions/-", "value": value}]


def _own_place(part: Part, copy: int, at: tuple[float, float, float]) -> list[str]:
    """A point of the study in the own axes of a part."""
    place = part.placements[copy - 1]
    shift = np.array([value_of(c, "length") for c in place.at])
    own = (np.array(at) - shift) @ placed_axes(place)
    return [f"{round(float(c), 3) + 0.0:g} mm" for c in own]
