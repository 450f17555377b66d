"""What a hand calculation says along a path, beside what was computed there."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ulmek.study.checks.check import At
from ulmek.study.checks.fits import Tight, fit_check, tight_fit

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


def by_hand_along(at: At, points: Array, bodies: Sequence[str | None], field: str) -> ByHand | None:
    """A field at ``points`` (n, 3) mm within ``bodies`` by the closed form of the press fit that they are parts of;
    None where there is none, or it does not know the field."""
    if field not in RINGS:
        return None
    for pair in (p for p in at.study.pairs if p.id in at.pairs):
        fit, check = tight_fit(at, pair), fit_check(at, pair)
        if fit is None or check is None or not {fit.seat.hole.body, fit.seat.shaft.body} & set(bodies):
            continue
        values = _in_rings(at, fit, points, bodies, field)
        told = [None if np.isnan(v) else float(v) for v in values]
        return ByHand(name=f"{check.title} (Lamé 1852)", values=told, holds=check.holds)
    return None


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
