"""Placing gears and racks in mesh: distance of their axes, and a tooth of one in a gap of the other."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ulmek.core.errors import InputError
from ulmek.core.geometry.involute import working_distance
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.recipes.gears import gearing
from ulmek.study.items import Part
from ulmek.study.recipe_values import recipe_values

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Placed:
    """Where a part stands: turned, then moved (mm)."""

    rotation: Array
    shift: Array


def in_mesh(part: Part, at: Placed, other: Part, other_at: Placed) -> Placed:
    """Where ``part`` stands when its teeth mesh with those of ``other``, which stays; it keeps its height along the
    axis and the side on which it is, and turns by the least angle.

    Raises
    ------
    InputError : a part without teeth by recipe, unlike teeth, or two racks.
    """
    own, their = teeth_of(part), teeth_of(other)
    for key, unit in (("module", " mm"), ("pressure_angle", "°")):
        if abs(own[key] - their[key]) > 1e-9 * their[key]:
            raise InputError(
                f"a {key.replace('_', ' ')} of {own[key]:g}{unit} does not mesh with one of {their[key]:g}{unit}.",
                where="faces", hint="Give both parts the same.",
            )  # fmt: skip
    is_rack = part.recipe.kind == "gear-rack"
    if is_rack and other.recipe.kind == "gear-rack":
        raise InputError("two racks cannot mesh.", where="faces", hint="Pick a gear and a rack, or two gears.")
    flat = _beside(at, other_at)
    if other.recipe.kind == "gear-rack":
        angle, centre = _gear_on_rack(own, their, flat)
    elif is_rack:
        angle, centre = _rack_on_gear(own, their, flat)
    else:
        angle, centre = _gear_on_gear(own, their, flat)
    turn = flat.flip @ Rotation.from_euler("z", angle).as_matrix()
    shift = other_at.shift + other_at.rotation @ np.array([centre[0], centre[1], flat.height])
    return Placed(other_at.rotation @ turn, shift)


@dataclass(frozen=True)
class _Beside:
    """A part in the axes of another, its axis along theirs or against it (``flip``): its place across the axis, its
    height along it, and its own turn (rad) about it."""

    flip: Array
    place: Array
    height: float
    angle: float

    @property
    def sense(self) -> float:
        """1 where the part's own angles count as theirs, -1 where it is flipped."""
        return float(self.flip[2, 2])


def _beside(at: Placed, other_at: Placed) -> _Beside:
    inside = other_at.rotation.T @ at.rotation
    place = other_at.rotation.T @ (at.shift - other_at.shift)
    flip = np.diag([1.0, 1.0, 1.0]) if inside[2, 2] >= 0 else np.diag([1.0, -1.0, -1.0])
    plane = flip @ inside
    return _Beside(
        flip, place[:2], float(place[2]), float(np.arctan2(plane[1, 0] - plane[0, 1], plane[0, 0] + plane[1, 1]))
    )


def teeth_of(part: Part) -> dict[str, float]:
    """Values of a part that has teeth by recipe; InputError for others."""
    if part.recipe.kind not in ("gear", "gear-rack") or part.recipe.file is not None:
        raise InputError(
            f"{part.name} has no teeth by recipe.", where="faces", hint="Pick gears, toothed sectors or racks."
        )
    recipe = RECIPES[part.recipe.kind]
    return recipe.complete(recipe_values(recipe, part.recipe.dimensions, part.recipe.dropped))


def _gaps(v: dict[str, float]) -> Array:
    """Own angles (rad) of the middles of a gear's gaps between teeth."""
    pitch, wanted = 2 * np.pi / v["teeth"], int(v["wanted"]) or int(v["teeth"])
    if wanted == v["teeth"]:
        return np.asarray((np.arange(wanted) - wanted / 2) * pitch, np.float64)
    return np.asarray((np.arange(1, wanted) - wanted / 2) * pitch, np.float64)


def _teeth(v: dict[str, float]) -> Array:
    """Own angles (rad) of the middles of a gear's teeth."""
    pitch, wanted = 2 * np.pi / v["teeth"], int(v["wanted"]) or int(v["teeth"])
    return np.asarray((np.arange(wanted) - (wanted - 1) / 2) * pitch, np.float64)


def _wrapped(angle: Array | float) -> Array:
    return np.asarray((np.asarray(angle) + np.pi) % (2 * np.pi) - np.pi)


def _nearest_turn(marks: Array, goal: float, flat: _Beside) -> float:
    """The part's own turn nearest to what it has that brings one of its ``marks`` to the direction ``goal``."""
    if not len(marks):
        raise InputError("it has a single tooth, and no gap.", where="faces", hint="Take two teeth or more.")
    turns = flat.sense * goal - marks
    return float(flat.angle + min(_wrapped(turns - flat.angle), key=abs))


def _gear_on_gear(own: dict[str, float], their: dict[str, float], flat: _Beside) -> tuple[float, Array]:
    a, b = gearing(their), gearing(own)
    toward = float(np.arctan2(flat.place[1], flat.place[0]))
    offsets = _wrapped(_teeth(their) - toward)
    if np.abs(offsets).min() > np.pi / a.teeth * (1 + 1e-9) or not np.linalg.norm(flat.place):
        # Its teeth point another way: the part goes to where they point.
        toward = 0.0
        offsets = _wrapped(_teeth(their))
    offset = float(min(offsets, key=abs))
    centre = working_distance(a, b) * np.array([np.cos(toward), np.sin(toward)])
    # Rolling: the gap lags behind the tooth by the ratio of the teeth.
    return _nearest_turn(_gaps(own), toward + np.pi - offset * a.teeth / b.teeth, flat), centre


def _gear_on_rack(own: dict[str, float], their: dict[str, float], flat: _Beside) -> tuple[float, Array]:
    teeth = gearing(own)
    pitch, n = np.pi * teeth.module, int(their["teeth"])
    middles = (np.arange(1, n + 1) - (n + 1) / 2) * pitch
    x = float(np.clip(flat.place[0], middles[0], middles[-1]))
    offset = float(middles[np.abs(middles - x).argmin()] - x)
    height = teeth.pitch_radius + teeth.shift * teeth.module
    return _nearest_turn(_gaps(own), -np.pi / 2 + offset / teeth.pitch_radius, flat), np.array([x, height])


def _rack_on_gear(own: dict[str, float], their: dict[str, float], flat: _Beside) -> tuple[float, Array]:
    teeth = gearing(their)
    pitch, n = np.pi * teeth.module, int(own["teeth"])
    toward = float(np.arctan2(flat.place[1], flat.place[0]))
    marks = toward + _wrapped(_gaps(their) - toward)
    if not len(marks):
        raise InputError("the gear has a single tooth, and no gap.", where="faces", hint="Take two teeth or more.")
    # The tooth of the rack nearest its middle goes straight into a gap.
    gap = float(marks[np.abs(marks - toward).argmin()])
    out = np.array([np.cos(gap), np.sin(gap)])
    middle = 0.0 if n % 2 else pitch / 2
    # Its teeth (+y) point to the axis of the gear.
    angle = flat.sense * (gap + np.pi) - np.pi / 2
    along = np.array([np.cos(angle), flat.sense * np.sin(angle)])
    return angle, (teeth.pitch_radius + teeth.shift * teeth.module) * out - middle * along
