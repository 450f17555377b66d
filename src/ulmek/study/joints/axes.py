"""Axes of joints: parts brought onto one, and what holds or turns about it."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.study.items import StudyDocument
from ulmek.study.items.axes import AxesUse
from ulmek.study.items.item import AXES
from ulmek.study.items.support import Component
from ulmek.study.joints.shapes import MOVED, Shapes, across, place_of, with_place
from ulmek.study.mating import least_turn

Array = NDArray[np.float64]
# Directions that differ by less are one.
PARALLEL = 1e-6


def coaxial(study: StudyDocument, own: str, other: str, *, own_hollow: bool) -> StudyDocument:
    """The study with the part of a round face ``own`` on the axis of another one's ``other``; where the two faces do
    not cover each other along it, their middles come together."""
    shapes = Shapes(study)
    a, b = shapes.round_face(own, hollow=own_hollow), shapes.round_face(other, hollow=not own_hollow)
    body, name = shapes.split(own)
    sense = 1.0 if a.direction @ b.direction >= 0 else -1.0
    turn = least_turn(a.direction, sense * b.direction)
    at, axes = place_of(study, body)
    away = b.point - a.point
    slide = across(away, b.direction)
    mine = np.array(shapes.extent(body, name, a.point, a.direction)) * sense
    theirs = np.array(shapes.extent(*shapes.split(other), a.point, b.direction))
    if min(mine.max(), theirs.max()) <= max(mine.min(), theirs.min()):
        slide = away
    moved = a.point + turn @ (at - a.point) + slide
    if max(np.abs(moved - at).max(), np.abs(turn - np.eye(3)).max()) < MOVED:
        return study
    return with_place(study, body, moved, turn @ axes)


@dataclass(frozen=True)
class Along:
    """What a motion along a direction, and a turn about it, are called, of the machine's axes (``axes`` None) or of
    those that lie along it."""

    motion: Component
    turn: Component
    axes: AxesUse | None

    @property
    def link_axis(self) -> Literal["x", "y", "z"] | tuple[float, float, float]:
        """The direction as links have it."""
        return self.motion if self.axes is None else self.axes.x  # type: ignore[return-value]


def components_along(direction: Array) -> Along:
    """The components of a direction (3,)."""
    for name in AXES:
        if abs(abs(float(direction[AXES[name]])) - 1) < PARALLEL:
            return Along(name, f"turn-{name}", None)  # type: ignore[arg-type]
    return Along("x", "turn-x", AxesUse(x=plain(direction)))


def written(point: Array) -> tuple[str, str, str]:
    """A point (3,) mm as documents have it."""
    x, y, z = (f"{round(float(c), 6) + 0.0:g} mm" for c in point)
    return x, y, z


def plain(direction: Array) -> tuple[float, float, float]:
    """A direction (3,) as documents have it."""
    x, y, z = (round(float(c), 9) + 0.0 for c in direction)
    return x, y, z
