"""What a hand calculation says along a path, beside what was computed there."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ulmek.study.checks.check import At
from ulmek.study.checks.fits import Tight, fit_check, tight_fit
from ulmek.study.checks.hertzian import hertz_check, planes_through
from ulmek.study.items.pair import PairUse
from ulmek.study.resolved import hertz_of

Array = NDArray[np.float64]


class ByHand(BaseModel):
    """Values (MPa) by hand along a path, None where the formula does not speak of a place; what formula, and whether
    all that it rests on is met."""

    name: str
    values: list[float | None]
    holds: bool


# Fields of the parts that thick rings know, from radial, hoop and axial stress.
RINGS: dict[str, Callable[[Array, Array, Array], Array]] = {
    "stress_radial": lambda radial, hoop, axial: radial,
    "stress_hoop": lambda radial, hoop, axial: hoop,
    "von_mises": lambda radial, hoop, axial: np.sqrt(
        ((radial - hoop) ** 2 + (hoop - axial) ** 2 + (axial - radial) ** 2) / 2
    ),
}

# What any formula here knows: that below a contact is von Mises stress, which rings know too.
KNOWN = frozenset(RINGS)

# What presses on a pair: contact nodes (n, 3) mm and their pressure (n,) MPa.
Pressed = Callable[[str], tuple[Array, Array]]
# A path is below what presses where it is no further off its middle than this share of the half width.
BELOW = 0.1


def by_hand_along(
    at: At, points: Array, bodies: Sequence[str | None], field: str, pressed: Pressed
) -> ByHand | None:  # fmt: skip
    """A field at ``points`` (n, 3) mm within ``bodies`` by the closed form of the press fit that they are parts of, or
    below what presses by Hertz; None where there is none, or it does not know the field."""
    for pair in (p for p in at.study.pairs if p.id in at.pairs):
        if not {f.body for side in at.pairs[pair.id] for f in side} & set(bodies):
            continue
        fit, check = tight_fit(at, pair), fit_check(at, pair)
        if fit is not None and check is not None and field in RINGS:
            values = _in_rings(at, fit, points, bodies, field)
            return _told(f"{check.title} (Lamé 1852)", values, holds=check.holds)
        check = hertz_check(at, pair)
        if check is not None and field == "von_mises":
            values = _below(at, pair, points, bodies, *pressed(pair.id))
            if not np.isnan(values).all():
                return _told(f"{check.title}, below its middle (Johnson 1985)", values, holds=check.holds)
    return None


def _told(name: str, values: Array, *, holds: bool) -> ByHand:
    return ByHand(name=name, values=[None if np.isnan(v) else float(v) for v in values], holds=holds)


def _below(
    at: At, pair: PairUse, points: Array, bodies: Sequence[str | None], nodes: Array, pressure: Array
) -> Array:  # fmt: skip
    """Von Mises stress (n,) MPa straight below the middle of what presses, not a number elsewhere: Johnson (1985),
    eq. 4.46 for a line, 3.45 for a point."""
    out = np.full(len(points), np.nan)
    side_a, side_b = at.pairs[pair.id]
    planes = planes_through(at, pair.id)
    force = np.array(at.now.pairs[pair.id].force)
    hertz = hertz_of(at.model, side_a, side_b, 2 ** len(planes) * at.now.pairs[pair.id].normal_force)
    if hertz is None or not pressure.sum() > 0 or not (hertz.is_line or hertz.is_point):
        return out
    middle = (nodes * pressure[:, None]).sum(axis=0) / pressure.sum()
    for point, normal in planes:
        middle = middle - ((middle - point) @ normal) * normal
        force = force - (force @ normal) * normal
    down = force / np.linalg.norm(force)
    arm = points - middle
    depth = arm @ down
    aside = arm - np.outer(depth, down)
    is_line = hertz.is_line
    if is_line:
        round_face = next(s for f in (*side_a, *side_b) if (s := at.shape(f)) is not None and s.kind == "round")
        aside = aside - np.outer(aside @ round_face.direction, round_face.direction)
    a, p0 = hertz.half_width, hertz.peak
    z = np.abs(depth)
    poisson = np.array([0.3 if b is None else at.model.bodies[at.model.body_index(b)].material.poisson for b in bodies])
    if is_line:
        root = np.hypot(a, z)
        across, along = -p0 / a * ((a**2 + 2 * z**2) / root - 2 * z), -p0 * a / root
        third = poisson * (across + along)
    else:
        along = -p0 / (1 + (z / a) ** 2)
        across = third = -p0 * ((1 + poisson) * (1 - z / a * np.arctan2(a, z)) - 0.5 / (1 + (z / a) ** 2))
    mises = RINGS["von_mises"](across, along, third)
    names = {f.body for f in (*side_a, *side_b)}
    here = (np.linalg.norm(aside, axis=1) < BELOW * a) & np.array([b in names for b in bodies])
    out[here] = mises[here]
    return out


def _in_rings(at: At, fit: Tight, points: Array, bodies: Sequence[str | None], field: str) -> Array:
    """Values (n,) in shaft and hub, not a number elsewhere: σ = A ∓ B/r² under p inside the hub and outside the shaft
    (Timoshenko and Goodier 1970, art. 28)."""
    radius = np.maximum(fit.seat.away(points), 1e-9)
    out = np.full(len(points), np.nan)
    along = (points - fit.seat.point) @ fit.seat.axis
    is_along = (along >= fit.seat.span[0] - 1e-6) & (along <= fit.seat.span[1] + 1e-6)
    is_along |= at.model.space.startswith("plane")
    for face, (inner, outer), load in (
        (fit.seat.hole, (fit.b, fit.c), fit.pressure * fit.b**2 / (fit.c**2 - fit.b**2)),
        (fit.seat.shaft, (fit.a, fit.b), -fit.pressure * fit.b**2 / (fit.b**2 - fit.a**2)),
    ):
        here = is_along & np.array([b == face.body for b in bodies])
        free = outer if face == fit.seat.hole else inner
        radial, hoop = load * (1 - free**2 / radius**2), load * (1 + free**2 / radius**2)
        poisson = at.body(face).material.poisson if at.model.space == "plane-strain" else 0.0
        out[here] = RINGS[field](radial, hoop, poisson * (radial + hoop))[here]
    return out
