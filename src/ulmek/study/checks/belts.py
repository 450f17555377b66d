"""Bands round drums: how much more pulls at one end than at the other before the band slips."""

import numpy as np

from ulmek.core.handcalc.belts import belt_ratio
from ulmek.core.model import Face
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.checks.fits import Seat, seat_of
from ulmek.study.checks.spinning import share_of_turn
from ulmek.study.items.pair import PairUse

SOURCE = "Euler 1769, Eytelwein 1808: T₁/T₂ ≤ e^µθ"
# A band is no thicker than this share of the drum's radius, and goes round less than this share of a turn.
THIN, OPEN = 0.1, 0.98
# Share of what it goes round that its ends may lift off.
LIFTED = 0.02


def belt_check(at: At, pair: PairUse) -> HandCheck | None:
    """A thin band that is pulled round a drum at both ends; None where the pair is none, or nothing pulls."""
    now = at.now.pairs[pair.id]
    seat = seat_of(at, pair) if now.normal_force > 0 and pair.law.may_slide == "friction" else None
    seat = seat if seat is not None and is_band(at, seat) else None
    pulls = None if seat is None else _pulls(at, seat.hole)
    if seat is None or pulls is None or min(pulls) <= 0:
        return None
    slack, tight = min(pulls), max(pulls)
    angle = angle_of(seat)
    most = belt_ratio(pair.law.mu, angle)
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: band round a drum",
        values=[
            CheckedValue(
                name="Tight over slack side before it slips", quantity="share", hand=most, computed=tight / slack,
                sense="below", source=SOURCE,
            ),
            CheckedValue(
                name="Tight side before it slips", quantity="force", hand=most * slack, computed=tight, sense="below",
                source=SOURCE,
            ),
            CheckedValue(
                name="Pressure at the tight side", quantity="stress", hand=tight / (seat.radius * seat.length),
                source="T₁/(r b)",
            ),
        ],
        conditions=[
            Condition(text=f"It lies on all {np.degrees(angle):.0f}° of the drum", met=now.share_open < LIFTED),
            Condition(text="It is thin beside the drum, and bends easily", met=None),
            Condition(text="No metal has yielded", met=not at.has_yielded(pair)),
        ],
    )  # fmt: skip


def angle_of(seat: Seat) -> float:
    """How far (rad) a band goes round its drum."""
    return seat.area() / (seat.radius * seat.length)


def is_band(at: At, seat: Seat) -> bool:
    """Whether what has the hole is a thin band that goes round part of a drum."""
    if at.model.space == "axisymmetric" or seat.rim - seat.radius > THIN * seat.radius:
        return False
    points = at.nodes(seat.hole) - seat.point
    across = points - np.outer(points @ seat.axis, seat.axis)
    return share_of_turn(across, seat.axis) < OPEN


def _pulls(at: At, inside: Face) -> tuple[float, float] | None:
    """The two forces (N) that pull at a band, by loads, supports and motions; None where they are not two, or the band
    touches something else than its drum."""
    model, now, band = at.model, at.now, inside.body
    touching = [p for p in model.pairs if any(f.body == band for f in (*p.side_a, *p.side_b))]
    led = {h.name for h in model.handles if h.bodies == {band}}

    def acts_on_it(faces: tuple[Face, ...], handle: str | None) -> bool:
        return {f.body for f in faces} == {band} or handle in led

    forces = [
        abs(now.values[load.name])
        for load in model.loads
        if load.kind == "force" and now.values[load.name] and acts_on_it(load.faces, load.handle)
    ]
    held = [s.name for s in model.supports if acts_on_it(s.faces, s.handle)]
    held += [m.name for m in model.loads if acts_on_it(m.faces, m.handle)]
    for carrier in now.carriers:
        if carrier.kind in ("support", "motion") and carrier.name in held:
            size = float(np.linalg.norm(carrier.force))
            if size > 0:
                forces.append(size)
    return (forces[0], forces[1]) if len(forces) == 2 and len(touching) == 1 else None
