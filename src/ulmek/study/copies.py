"""Copies of a part in rows, rings and mirror images, moved one by one."""

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.spatial.transform import Rotation

from ulmek.core.errors import InputError, UnknownNameError, located
from ulmek.study.items import Part, Patch, Placement, StudyDocument
from ulmek.study.items.item import AXES
from ulmek.study.items.part import MOST_COPIES
from ulmek.study.mating import placement_of
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

Array = NDArray[np.float64]


class InRow(BaseModel):
    """``count`` places in a row, the first where the copy stands, each ``step`` (x, y, z) from the one before."""

    kind: Literal["row"] = "row"
    count: Annotated[int, Field(ge=2, le=MOST_COPIES)]
    step: tuple[str, str, str]


class OnRing(BaseModel):
    """``count`` places on a ring about an ``axis`` ``through`` a point, the first where the copy stands, each turned
    with the ring: evenly spread over ``angle``, of a full turn without the end, which is the first again."""

    kind: Literal["ring"] = "ring"
    count: Annotated[int, Field(ge=2, le=MOST_COPIES)]
    axis: Literal["x", "y", "z"] = "z"
    through: tuple[str, str, str] = ("0 mm", "0 mm", "0 mm")
    angle: str = "360 deg"


class MirrorImage(BaseModel):
    """One place: the image of the copy in a mirror across an ``axis`` of the study, ``at`` a length along it."""

    kind: Literal["mirror"] = "mirror"
    axis: Literal["x", "y", "z"] = "x"
    at: str = "0 mm"


Pattern = InRow | OnRing | MirrorImage


def copies(study: StudyDocument, part_id: str, copy: int, pattern: Pattern) -> Patch:
    """The patch that adds the copies of a pattern that begins at one copy (counted from 1) of a part.

    Raises
    ------
    UnknownNameError : no such part or copy. InputError, UnitError : copies on each other, or more than a part may have.
    """
    index, part = copied_part(study, part_id, copy)
    count = 2 if isinstance(pattern, MirrorImage) else pattern.count
    if len(part.placements) + count - 1 > MOST_COPIES:
        raise InputError(
            f"a part has at most {MOST_COPIES} copies.", where="count", hint="Make fewer, or another part."
        )
    begin = part.placements[copy - 1]
    at, axes = np.array([value_of(c, "length") for c in begin.at]), placed_axes(begin)
    if isinstance(pattern, InRow):
        step = np.array([located("step", value_of, c, "length") for c in pattern.step])
        if not step.any():
            raise InputError("the copies would stand on each other.", where="step", hint="Give a distance.")
        places = [placement_of(at + n * step, axes) for n in range(1, pattern.count)]
    elif isinstance(pattern, OnRing):
        places = _on_ring(pattern, at, axes)
    else:
        places = [_mirrored(pattern, at, axes)]
    return [
        {"op": "add", "path": f"/parts/{index}/placements/-", "value": p.model_dump(mode="json")} for p in places
    ]  # fmt: skip


def moved(study: StudyDocument, part_id: str, copy: int, by: tuple[float, float, float]) -> Patch:
    """The patch that moves one copy (counted from 1) of a part by (x, y, z) mm.

    Raises
    ------
    UnknownNameError : no such part or copy.
    """
    index, part = copied_part(study, part_id, copy)
    begin = part.placements[copy - 1]
    at = np.array([value_of(c, "length") for c in begin.at]) + np.array(by)
    value = placement_of(at, np.eye(3)).model_dump(mode="json")["at"]
    return [{"op": "replace", "path": f"/parts/{index}/placements/{copy - 1}/at", "value": value}]


def copied_part(study: StudyDocument, part_id: str, copy: int) -> tuple[int, Part]:
    """Position and part of an id that has a copy of that number (from 1); UnknownNameError where there is none."""
    index = next((i for i, p in enumerate(study.parts) if p.id == part_id), None)
    if index is None or not 1 <= copy <= len(study.parts[index].placements):
        raise UnknownNameError(f"there is no copy {copy} of a part '{part_id}'.", where="parts")
    return index, study.parts[index]


def _on_ring(ring: OnRing, at: Array, axes: Array) -> list[Placement]:
    through = np.array([located("through", value_of, c, "length") for c in ring.through])
    angle = located("angle", value_of, ring.angle, "angle")
    if angle == 0:
        raise InputError("the copies would stand on each other.", where="angle", hint="Give an angle.")
    is_closed = bool(np.isclose(abs(angle), 2 * np.pi))
    pitch = angle / (ring.count if is_closed else ring.count - 1)
    places = []
    for n in range(1, ring.count):
        turn = Rotation.from_rotvec(n * pitch * np.eye(3)[AXES[ring.axis]]).as_matrix()
        places.append(placement_of(through + turn @ (at - through), turn @ axes))
    return places


def _mirrored(mirror: MirrorImage, at: Array, axes: Array) -> Placement:
    normal = np.eye(3)[AXES[mirror.axis]]
    reflected = np.eye(3) - 2 * np.outer(normal, normal)
    plane = located("at", value_of, mirror.at, "length")
    return placement_of(reflected @ at + 2 * plane * normal, reflected @ axes)
