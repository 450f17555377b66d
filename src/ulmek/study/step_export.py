"""A study's assembly as a STEP file."""

from pathlib import Path

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Shape
from ulmek.study.items import Part, Placement, StudyDocument
from ulmek.study.solids import free_shape, part_solid
from ulmek.study.translate import body_names, placed_axes
from ulmek.study.units import value_of


def write_assembly(study: StudyDocument, path: Path) -> None:
    """Write every copy of every part, exact and in place, in millimetres.

    Raises
    ------
    UlmekError : a plane study, which has no solids, or a part that cannot be made.
    """
    if study.space != "solid":
        raise InputError("a plane study has no solids to write.", where="space", hint="Write its result as vtu or csv.")
    shapes = []
    for part in study.parts:
        for body, placement in zip(body_names(part), part.placements, strict=True):
            name = part.name if len(part.placements) == 1 else f"{part.name} {body.split('#')[1]}"
            shapes.append((name, placed_shape(part, placement)))
    kernel.write_step(shapes, path)


def placed_shape(part: Part, placement: Placement) -> Shape:
    """The exact shape of one copy of a part, in place; raises as `part_solid` and `free_shape`."""
    if part.recipe.file is not None and part.recipe.file.content is not None:
        shape = free_shape(part.recipe.file)
    else:
        own = part_solid(part)
        shape = kernel.moved(kernel.shape_of(own.solid), own.rotation, own.shift)
    at = np.array([value_of(c, "length") for c in placement.at])
    return kernel.moved(shape, placed_axes(placement), at)
