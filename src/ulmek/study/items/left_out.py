"""Faces that shall be no pair."""

from typing import Annotated

from pydantic import Field

from ulmek.study.items.item import FaceRef, Item
from ulmek.study.items.kind import Kind


class LeftOut(Item):
    """Faces that touch or come close and shall be no pair."""

    a: Annotated[list[FaceRef], Field(min_length=1)]
    b: Annotated[list[FaceRef], Field(min_length=1)]


KIND = Kind("left-out", "Left out", "left_out", LeftOut, is_named=False)
