"""Press fits as thick rings (Lamé 1852), and pins in holes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.handcalc.rings import press_fit_grip, press_fit_pressure, ring_hoop_stress
from ulmek.core.mesh.facets import facet_areas
from ulmek.core.mesh.fitted import FaceShape
from ulmek.core.model import Body, Face
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.pair import PairUse
from ulmek.study.ledger.purpose import purpose_of
from ulmek.study.units import value_of

Array = NDArray[np.float64]
LAME = "Lamé 1852: thick rings"
# Radii of the outside of a ring differ by less than this share all round.
ROUND = 0.01
# A pin fills a hole that is no wider than by this share of its radius.
FILLED = 0.002


class Seat:
    """A hole and what is in it: axis, radius b, length that overlaps, radii of bore and rim."""

    def __init__(self, at: At, hole: Face, shaft: Face, shapes: tuple[FaceShape, FaceShape] | None) -> None:
        self.at, self.hole, self.shaft = at, hole, shaft
        if shapes is None:
            # An axisymmetric section: x is the radius, y the axis.
            self.point, self.axis = np.zeros(3), np.array([0.0, 1.0, 0.0])
            self.radius = float(at.nodes(hole)[:, 0].mean())
            self.overlap = float(at.nodes(shaft)[:, 0].mean()) - self.radius
        else:
            self.point, self.axis, self.radius = shapes[0].point, shapes[0].direction, shapes[0].radius
            self.overlap = shapes[1].radius - shapes[0].radius
        spans = [self._along(at.nodes(face)) for face in (hole, shaft)]
        self.span = max(s[0] for s in spans), min(s[1] for s in spans)
        is_plane = at.model.space.startswith("plane")
        self.length = at.model.thickness if is_plane else self.span[1] - self.span[0]
        self.bore = float(self.away(self._within(at.true_body(shaft))).min(initial=self.radius))
        self.rim, self.is_ring = self._outside(at.true_body(hole))

    def _along(self, points: Array) -> tuple[float, float]:
        along = (points - self.point) @ self.axis
        return float(along.min()), float(along.max())

    def away(self, points: Array) -> Array:
        arm = points - self.point
        return np.asarray(np.linalg.norm(arm - np.outer(arm @ self.axis, self.axis), axis=1))

    def _within(self, body: Body) -> Array:
        along = (body.mesh.nodes - self.point) @ self.axis
        return np.asarray(body.mesh.nodes[(along >= self.span[0] - 1e-6) & (along <= self.span[1] + 1e-6)])

    def _outside(self, body: Body) -> tuple[float, bool]:
        """Radius at which the hub ends, the least of all directions, and whether it is round all along."""
        points = self._within(body)
        away = self.away(points)
        across = points - self.point - np.outer((points - self.point) @ self.axis, self.axis)
        first = across[away.argmax()]
        first = first / np.linalg.norm(first)
        angle = np.arctan2(across @ np.cross(self.axis, first), across @ first)
        sectors = np.round(angle / (2 * np.pi / 16)).astype(int)
        rims = [float(away[sectors == s].max()) for s in np.unique(sectors)]
        return min(rims), bool(np.ptp(rims) < ROUND * max(rims) + 1e-9)

    def area(self) -> float:
        """Area (mm²) of the hole that is modelled, over the length that overlaps."""
        model = self.at.model
        turned = model.space == "axisymmetric"
        own = self.at.true_body(self.hole).mesh
        whole = float(facet_areas(own.nodes, own.faces[self.hole.name], thickness=model.thickness, turned=turned).sum())
        low, high = self._along(self.at.nodes(self.hole))
        return whole * (self.length / (high - low) if model.space in ("solid", "axisymmetric") else 1.0)


def seat_of(at: At, pair: PairUse) -> Seat | None:
    """The seat of a pair of one hole and one shaft; None where it has none."""
    sides = at.pairs[pair.id]
    if any(len(side) != 1 for side in sides) or at.model.beam_bodies & {f.body for s in sides for f in s}:
        return None
    return seat_between(at, sides[0][0], sides[1][0])


def seat_between(at: At, one: Face, two: Face) -> Seat | None:
    """The seat of a hole and a shaft, in whatever order; None where they are not both."""
    if at.model.space == "axisymmetric":
        upright = [float(np.ptp(at.nodes(f)[:, 0])) < 1e-6 for f in (one, two)]
        if not all(upright):
            return None
        inner = [float(at.true_body(f).mesh.nodes[:, 0].mean()) for f in (one, two)]
        hole, shaft = (one, two) if inner[0] > inner[1] else (two, one)
        seat = Seat(at, hole, shaft, None)
        return seat if seat.length > 0 else None
    shapes = {f: s for f in (one, two) if (s := at.shape(f)) is not None and s.kind == "round"}
    if len(shapes) < 2 or shapes[one].is_hollow == shapes[two].is_hollow:
        return None
    hole, shaft = (one, two) if shapes[one].is_hollow else (two, one)
    if abs(float(shapes[hole].direction @ shapes[shaft].direction)) < 0.999:
        return None
    seat = Seat(at, hole, shaft, (shapes[hole], shapes[shaft]))
    return seat if seat.length > 0 else None


@dataclass(frozen=True)
class Tight:
    """A press fit as thick rings: bore of the shaft a, joint b and rim of the hub c (mm), and the pressure (MPa)."""

    seat: Seat
    a: float
    b: float
    c: float
    pressure: float


def tight_fit(at: At, pair: PairUse) -> Tight | None:
    """The press fit that a pair is; None where it is none, or nothing presses."""
    seat = seat_of(at, pair) if at.now.pairs[pair.id].normal_force > 0 else None
    if seat is None:
        return None
    overlap = value_of(pair.interference, "length") if pair.fit == "value" else seat.overlap
    if overlap <= 1e-6 * seat.radius:
        return None
    shaft, hub = (in_plane(at, at.body(face)) for face in (seat.shaft, seat.hole))
    b = seat.radius
    bore = 0.0 if seat.bore < 1e-3 * b else seat.bore
    return Tight(seat, bore, b, seat.rim, press_fit_pressure(overlap, bore, b, seat.rim, shaft=shaft, hub=hub))


def fit_check(at: At, pair: PairUse) -> HandCheck | None:
    """A press fit; None where the pair is none, or it is not tight."""
    fit = tight_fit(at, pair)
    if fit is None:
        return None
    now, seat, b, pressure = at.now.pairs[pair.id], fit.seat, fit.b, fit.pressure
    area = seat.area()
    share = area / (2 * np.pi * b * seat.length)
    hoop = ring_hoop_stress(pressure, b, seat.rim, b)
    values = [
        CheckedValue(
            name="Mean pressure in the fit", quantity="stress", hand=pressure, computed=now.normal_force / area,
            source=LAME,
        ),
        CheckedValue(name="Hoop stress at the bore of the hub", quantity="stress", hand=hoop, source=LAME),
    ]  # fmt: skip
    if pair.law.may_slide == "friction":
        push, torque = press_fit_grip(pressure, b, seat.length, pair.law.mu)
        about = np.array(now.moment or (0.0, 0.0, 0.0))
        values += [
            CheckedValue(
                name="Push along the axis that it holds", quantity="force", hand=share * push, sense="below",
                computed=abs(float(np.array(now.force) @ seat.axis)), source="µ p 2π b L",
            ),
            CheckedValue(
                name="Torque that it holds", quantity="moment", hand=share * torque, sense="below",
                computed=abs(float(about @ seat.axis)), source="µ p 2π b² L",
            ),
        ]  # fmt: skip
    in_part = "" if share > 0.99 else f", {share:.0%} of the circle as modelled"
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: press fit of rings",
        values=values,
        conditions=[
            Condition(text=f"The hub is a ring round the shaft{in_part}", met=seat.is_ring),
            Condition(text="No metal has yielded", met=not at.has_yielded(pair)),
            Condition(text="Both are free to widen: nothing holds them round about", met=_free(at, seat)),
            Condition(text="Neither stands out of the fit, which stiffens its ends", met=_flush(at, seat)),
        ],
    )


def in_plane(at: At, body: Body) -> tuple[float, float]:
    """Young's modulus (MPa) and Poisson's ratio of a body in the plane: those of plane strain stand for E/(1 − ν²) and
    ν/(1 − ν) (Timoshenko and Goodier 1970, art. 16)."""
    young, poisson = body.material.young, body.material.poisson
    return (young / (1 - poisson**2), poisson / (1 - poisson)) if at.model.space == "plane-strain" else (young, poisson)


def _free(at: At, seat: Seat) -> bool:
    """Whether no round face of hub or shaft is held or led by a rigid handle."""
    held = [s.faces for s in at.model.supports if not s.is_symmetry]
    held += [h.faces for h in at.model.handles if h.kind == "rigid"]
    bodies = {seat.hole.body, seat.shaft.body}
    faces = {f for group in held for f in group if f.body in bodies}
    return not any((shape := at.shape(f)) is not None and shape.kind == "round" for f in faces)


def _flush(at: At, seat: Seat) -> bool:
    """Whether neither body stands out of the fit; in a plane section none does."""
    return at.model.space.startswith("plane") or all(
        float(np.ptp((at.true_body(face).mesh.nodes - seat.point) @ seat.axis)) < 1.02 * seat.length
        for face in (seat.hole, seat.shaft)
    )


def pin_check(at: At, pair: PairUse) -> HandCheck | None:
    """A pin that bears in a hole across its axis; None where the pair is none."""
    now = at.now.pairs[pair.id]
    if now.normal_force <= 0 or purpose_of(at.study, pair) != "pinned":
        return None
    seat = seat_of(at, pair)
    if seat is None:
        return None
    force = np.array(now.force)
    across = float(np.linalg.norm(force - (force @ seat.axis) * seat.axis))
    share = seat.area() / (2 * np.pi * seat.radius * seat.length)
    # Of a half or quarter the modelled part carries its share of the force.
    mean = across / share / (2 * seat.radius * seat.length) if share > 0 else 0.0
    limits = [b.material.yield_stress for b in (at.body(seat.hole), at.body(seat.shaft))]
    yields = min((v for v in limits if v is not None), default=None)
    values = [CheckedValue(name="Mean bearing pressure F/(d L)", quantity="stress", hand=mean, source="F/(d L)")]
    if yields is not None:
        values.append(
            CheckedValue(
                name="Bearing pressure at which the weaker yields",
                quantity="stress",
                hand=yields,
                computed=mean,
                sense="below",
                source="Shigley and Mischke 1989, ch. 8",
            )
        )
    values.append(
        CheckedValue(
            name="Peak of a neat pin",
            quantity="stress",
            hand=4 / np.pi * mean,
            computed=now.peak_pressure,
            band=now.pressure_band,
            source="cosine over half the hole: 4 F/(π d L)",
        )
    )
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: pin in a hole",
        values=values,
        conditions=[
            Condition(text="The pin fills the hole", met=-seat.overlap < FILLED * seat.radius),
            Condition(text="It bears evenly along its length", met=None),
            Condition(text="No metal has yielded", met=not at.has_yielded(pair)),
        ],
    )
