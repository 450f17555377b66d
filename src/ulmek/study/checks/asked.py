"""Hand calculations that are asked for: of one face that is picked or two, under a force, before anything is solved."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from ulmek.core.errors import InputError, UnknownNameError, located
from ulmek.core.handcalc.belts import belt_ratio
from ulmek.core.handcalc.rings import press_fit_grip, press_fit_pressure, ring_hoop_stress
from ulmek.core.mesh.facets import facet_areas
from ulmek.core.model import Face, Model
from ulmek.study.checks.beams import Bar, bar_of
from ulmek.study.checks.belts import SOURCE as BELT
from ulmek.study.checks.belts import angle_of, is_band
from ulmek.study.checks.check import At, CheckedValue, Condition, Reckoning
from ulmek.study.checks.fits import FILLED, LAME, Seat, in_plane, seat_between
from ulmek.study.checks.hertzian import SOURCE as HERTZ
from ulmek.study.checks.hertzian import title_of, values_of
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import part_of
from ulmek.study.resolved import hertz_of
from ulmek.study.translate import body_names, translate_parts
from ulmek.study.units import Kind, value_of

BEAM = "Gere and Timoshenko 1984, appendix G"
# Overlap and play of a fit that are less than this share of the radius are none.
NO_PLAY = 1e-6
# Normals of faces that face each other, by their cosine; distance of axes that are one, as a share of the radius.
FACING, ONE_AXIS = -0.999, 1e-3


class Asked(NamedTuple):
    """Faces such as ``bracket/back``, one or two; a force as it is written; a coefficient of friction."""

    faces: Sequence[str]
    force: str
    mu: float


def reckoned(study: StudyDocument, asked: Asked) -> list[Reckoning]:
    """All that a formula says of the faces; nothing where none knows them.

    Raises
    ------
    UlmekError : no face or more than two, one that is not there, a force that is none, or parts that cannot be made.
    """
    if not 1 <= len(asked.faces) <= 2 or len(set(asked.faces)) != len(asked.faces):
        raise InputError("pick one face, or two.", where="faces", hint="Name them like bracket/back.")
    force = located("force", value_of, asked.force, "force")
    if not 0 < force < float("inf"):
        raise InputError(f"a force of {asked.force} is none.", where="force", hint="Give one above 0 N.")
    if not 0 <= asked.mu <= 10:
        raise InputError(f"µ = {asked.mu:g} is no coefficient of friction.", where="mu", hint="Give 0 to 10.")
    bodies = translate_parts(study)
    thickness = value_of(study.thickness, "length") if study.space.startswith("plane") else 1.0
    at = At(study, Model(bodies, (), (), (), (), (), space=study.space, thickness=thickness), [])
    known = {b.name: b for b in bodies}
    faces = []
    for reference in asked.faces:
        body, _, name = reference.partition("/")
        if body not in known or name not in known[body].mesh.faces:
            has = f"Faces of {body}: {', '.join(sorted(known[body].mesh.faces))}." if body in known else ""
            hint = has or f"Name one like {next(iter(known), 'bracket')}/top."
            raise UnknownNameError(f"there is no face '{reference}'.", where="faces", hint=hint)
        faces.append(Face(body, name))
    return [found for formula in FORMULAS if (found := formula(at, faces, force, asked.mu)) is not None]


def _value(name: str, quantity: Kind, hand: float, source: str) -> CheckedValue:
    return CheckedValue(name=name, quantity=quantity, hand=hand, source=source)


def _hertz(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """Two faces that touch along a line, at a point or in an ellipse."""
    hertz = hertz_of(at.model, (faces[0],), (faces[1],), force) if len(faces) == 2 else None
    if hertz is None:
        return None
    values = values_of(hertz)
    if hertz.approach is not None:
        values.append(_value("They come closer by", "length", hertz.approach, HERTZ))
    yields = min((y for f in faces if (y := at.body(f).material.yield_stress) is not None), default=None)
    if yields is not None:
        # Shear at yield is half of the yield stress (Tresca), as is usual for rolling contact.
        values.append(
            CheckedValue(
                name="Shear stress at which the weaker yields", quantity="stress", hand=yields / 2,
                computed=hertz.shear, sense="below", source="Tresca; Johnson 1985, ch. 6",
            )
        )  # fmt: skip
    return Reckoning(
        title=title_of(hertz).capitalize(),
        values=values,
        conditions=[
            Condition(text="What presses is narrow beside the radii", met=True),
            Condition(text="They touch here, and nothing else carries the force", met=None),
        ],
    )


def _seat(at: At, faces: list[Face]) -> Seat | None:
    seat = seat_between(at, *faces) if len(faces) == 2 and faces[0].body != faces[1].body else None
    if seat is None or at.model.space == "axisymmetric":
        return seat
    other = at.shape(seat.shaft)
    assert other is not None
    away = other.point - seat.point
    off = float(np.linalg.norm(away - (away @ seat.axis) * seat.axis))
    return seat if off < max(ONE_AXIS * seat.radius, 2 * abs(seat.overlap)) else None


def _overlap(at: At, seat: Seat) -> tuple[float, str]:
    """By how much (mm) a shaft is thicker than its hole in radius, and where that is from."""
    pressed = {f"{face.body}/{face.name}" for face in (seat.hole, seat.shaft)}
    for pair in at.study.pairs:
        if pair.fit == "value" and {*pair.a, *pair.b} == pressed:
            return value_of(pair.interference, "length"), f"fit of {pair.name}"
    return (seat.overlap if abs(seat.overlap) > NO_PLAY * seat.radius else 0.0), "as drawn"


def _fit(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """A hole that is narrower than its shaft."""
    seat = _seat(at, faces)
    if seat is None or seat.rim <= seat.radius:
        return None
    overlap, source = _overlap(at, seat)
    if overlap <= NO_PLAY * seat.radius:
        return None
    shaft, hub = (in_plane(at, at.body(face)) for face in (seat.shaft, seat.hole))
    bore = 0.0 if seat.bore < 1e-3 * seat.radius else seat.bore
    pressure = press_fit_pressure(overlap, bore, seat.radius, seat.rim, shaft=shaft, hub=hub)
    push, torque = press_fit_grip(pressure, seat.radius, seat.length, mu)
    return Reckoning(
        title="Press fit of rings",
        values=[
            _value("Overlap of the radii", "length", overlap, source),
            _value("Mean pressure in the fit", "stress", pressure, LAME),
            _value(
                "Hoop stress at the bore of the hub", "stress",
                ring_hoop_stress(pressure, seat.radius, seat.rim, seat.radius), LAME,
            ),
            CheckedValue(
                name="Push along the axis that it holds", quantity="force", hand=push, computed=force, sense="below",
                source="µ p 2π b L",
            ),
            _value("Torque that it holds", "moment", torque, "µ p 2π b² L"),
        ],
        conditions=[
            Condition(text="The hub is a ring round the shaft", met=seat.is_ring),
            Condition(text="No metal yields", met=None),
        ],
    )  # fmt: skip


def _pin(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """A shaft that bears in a hole across its axis."""
    seat = _seat(at, faces)
    if seat is None or at.model.space == "axisymmetric" or is_band(at, seat):
        return None
    overlap, source = _overlap(at, seat)
    if overlap > NO_PLAY * seat.radius:
        return None
    mean = force / (2 * seat.radius * seat.length)
    values = [
        _value("Play of the diameters", "length", -2 * overlap, source),
        _value("Mean bearing pressure F/(d L)", "stress", mean, "F/(d L)"),
        _value("Peak of a neat pin", "stress", 4 / np.pi * mean, "cosine over half the hole: 4 F/(π d L)"),
    ]
    limits = [y for f in faces if (y := at.body(f).material.yield_stress) is not None]
    if limits:
        values.append(
            CheckedValue(
                name="Bearing pressure at which the weaker yields", quantity="stress", hand=min(limits), computed=mean,
                sense="below", source="Shigley and Mischke 1989, ch. 8",
            )
        )  # fmt: skip
    return Reckoning(
        title="Pin in a hole",
        values=values,
        conditions=[
            Condition(text="The pin fills the hole", met=-overlap < FILLED * seat.radius),
            Condition(text="It bears evenly along its length", met=None),
        ],
    )


def _band(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """A thin band round a drum, whose tight side pulls with the force."""
    seat = _seat(at, faces)
    if seat is None or not is_band(at, seat):
        return None
    angle = angle_of(seat)
    ratio = belt_ratio(mu, angle)
    return Reckoning(
        title="Band round a drum, its tight side pulled",
        values=[
            _value("Slack side, at least", "force", force / ratio, BELT),
            _value("Round the drum, at most", "moment", force * (1 - 1 / ratio) * seat.radius, BELT),
            _value("Pressure at the tight side", "stress", force / (seat.radius * seat.length), "T₁/(r b)"),
        ],
        conditions=[
            Condition(text=f"It lies on all {np.degrees(angle):.0f}° of the drum", met=None),
            Condition(text="It bends easily", met=None),
        ],
    )


def _flat(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """One flat face, or two that face each other."""
    shapes = [at.shape(f) for f in faces]
    if any(s is None or s.kind != "flat" for s in shapes) or at.model.space == "axisymmetric":
        return None
    if len(faces) == 2:
        one, two = (s.direction for s in shapes if s is not None)
        if float(one @ two) > FACING or faces[0].body == faces[1].body:
            return None
    area = min(_area(at, face) for face in faces)
    values = [_value("Mean pressure F/A", "stress", force / area, "F/A")]
    if len(faces) == 2:
        values.append(_value("Holds along the faces, at most", "force", mu * force, "Coulomb: µ F"))
    return Reckoning(
        title="Pressed flat" if len(faces) == 2 else "Pressed evenly",
        values=values,
        conditions=[Condition(text="All of the smaller face is pressed alike", met=None)],
    )


def _area(at: At, face: Face) -> float:
    mesh = at.body(face).mesh
    return float(facet_areas(mesh.nodes, mesh.faces[face.name], thickness=at.model.thickness, turned=False).sum())


def _bar(at: At, faces: list[Face], force: float, mu: float) -> Reckoning | None:
    """Both ends of a bar, which is pulled, pressed and bent about its weaker axis."""
    if len(faces) != 2 or faces[0].body != faces[1].body or at.model.space != "solid":
        return None
    part = next(p for p in at.study.parts if p.id == part_of(f"{faces[0].body}/"))
    bar = bar_of(part, part.placements[body_names(part).index(faces[0].body)])
    if bar is None or not _are_ends(at, bar, faces):
        return None
    law, section, length = at.body(faces[0]).material, bar.section, bar.length
    weak = int(np.argmin(section.second))
    second = float(section.second[weak])
    modulus = second / float(np.abs(section.points[:, 1 - weak]).max())
    bend = law.young * second
    return Reckoning(
        title=f"Bar {length:g} mm long",
        values=[
            _value("Pulled: stress F/A", "stress", force / section.area, "F/A"),
            _value("Pulled: longer by", "length", force * length / (law.young * section.area), "F L/(E A)"),
            _value("Pressed, hinged: buckles at", "force", np.pi**2 * bend / length**2, "Euler 1744: π² E I/L²"),
            _value("Held at one end, F at the other: stress", "stress", force * length / modulus, BEAM),
            _value("Held at one end, F at the other: bends by", "length", force * length**3 / (3 * bend), BEAM),
            _value("Held at both ends, F in the middle: stress", "stress", force * length / (8 * modulus), BEAM),
            _value("Held at both ends, F in the middle: bends by", "length", force * length**3 / (192 * bend), BEAM),
            _value("Laid on both ends, F in the middle: stress", "stress", force * length / (4 * modulus), BEAM),
            _value("Laid on both ends, F in the middle: bends by", "length", force * length**3 / (48 * bend), BEAM),
        ],
        conditions=[
            Condition(text="It bends about its weaker axis, by bending alone", met=None),
            Condition(text="No metal yields", met=None),
        ],
    )


def _are_ends(at: At, bar: Bar, faces: list[Face]) -> bool:
    along = [bar.along(at.nodes(face)) for face in faces]
    wanted = sorted(float(a.mean()) for a in along)
    flat = all(float(np.ptp(a)) < 1e-6 * bar.length for a in along)
    return flat and np.allclose(wanted, [0.0, bar.length], atol=1e-6 * bar.length)


FORMULAS: tuple[Callable[[At, list[Face], float, float], Reckoning | None], ...] = (
    _hertz, _fit, _pin, _band, _flat, _bar,
)  # fmt: skip
