"""Points at which the mesh of a part is finer, given where they are seen."""

import numpy as np

from ulmek.core.errors import InputError
from ulmek.study.copies import copied_part
from ulmek.study.items import Patch, StudyDocument
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

# How much finer the mesh is at a new point than elsewhere in the part.
FINER = 0.5


def finer_at(study: StudyDocument, part_id: str, copy: int, at: tuple[float, float, float]) -> Patch:
    """The patch that makes the mesh of a part finer around ``at`` (mm, in the study's axes) on one copy of it, counted
    from 1: as in all of them.

    Raises
    ------
    UnknownNameError : no such part or copy. InputError : a free-form solid, which has no such points.
    """
    index, part = copied_part(study, part_id, copy)
    if part.recipe.file is not None and part.recipe.file.content is not None:
        raise InputError("a free-form solid has no finer points.", where="mesh/spots", hint="Refine a face.")
    place = part.placements[copy - 1]
    shift = np.array([value_of(c, "length") for c in place.at])
    own = (np.array(at) - shift) @ placed_axes(place)
    value = {
        "at": [f"{round(float(c), 3) + 0.0:g} mm" for c in own],
        "size": f"{FINER * value_of(part.mesh.size, 'length'):.4g} mm",
    }
    return [{"op": "add", "path": f"/parts/{index}/mesh/spots/-", "value": value}]
