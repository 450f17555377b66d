"""Pressed joints: a shaft in a bore with an overlap, what presses there, and the torque or push that it holds."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.handcalc.fits import fit_limits
from ulmek.core.handcalc.rings import press_fit_grip, press_fit_pressure, ring_hoop_stress
from ulmek.study.grades import GRADES
from ulmek.study.items import RecipeUse
from ulmek.study.items.contact import Law
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.item import part_of
from ulmek.study.items.joint import Pressed
from ulmek.study.items.load import LoadUse
from ulmek.study.items.pair import PairUse
from ulmek.study.items.step import IncrementSettings, StepUse
from ulmek.study.items.support import SupportUse
from ulmek.study.joints.axes import coaxial, plain, written
from ulmek.study.joints.made import Maker
from ulmek.study.joints.shapes import Array, Shapes, across
from ulmek.study.joints.stack import holes_in_line
from ulmek.study.mating import least_turn, placement_of
from ulmek.study.units import Kind, value_of

# How far a shaft that is made stands out, in diameters of the bore; elements across it.
OVERHANG, ACROSS = 0.4, 7.0
LAME = "Lamé: Timoshenko and Goodier 1970, art. 28"


@dataclass(frozen=True)
class _Bore:
    """The bore of a pressed joint: its part, axis, radius (mm), and where along the axis it begins and ends."""

    body: str
    point: Array
    direction: Array
    radius: float
    start: float
    end: float


def make_pressed(make: Maker, ask: Pressed) -> None:
    """Fill ``make`` with the pieces, places and closed form of a pressed joint.

    Raises
    ------
    UlmekError : a bore or shaft that is none, or a fit that is not in the tables.
    """
    study = make.study
    if ask.shaft is not None and ask.keep_together:
        study = coaxial(study, ask.shaft, ask.bore, own_hollow=False)
        make.keep_places(study)
    shapes = Shapes(study)
    face = shapes.round_face(ask.bore, hollow=True)
    body, name = shapes.split(ask.bore)
    bore = _Bore(body, face.point, face.direction, face.radius, *shapes.extent(body, name, face.point, face.direction))
    overlap, least, most = _overlap(ask, 2 * bore.radius)
    shaft_face, end, steel = _shaft(make, ask, shapes, bore)
    make.add(
        "pairs",
        "fit",
        PairUse(
            id="p",
            name=f"{shapes.part(body).name} – {_shaft_name(ask, shapes)}"[:80],
            a=[ask.bore],
            b=[shaft_face],
            law=Law(mu=ask.mu),
            fit="value",
            interference=f"{overlap:.6g} mm",
            search=f"{max(1.0, 4 * abs(overlap)):g} mm",
        ),
    )
    make.add("steps", "press", StepUse(id="s", name="Press", increments=IncrementSettings(start=0.5, largest=0.5)))
    _hold(make, shapes, bore, end)
    _ask_for(make, ask, shapes, bore)
    _work_out(make, ask, shapes, bore, (overlap, least, most), steel)


def _shaft_name(ask: Pressed, shapes: Shapes) -> str:
    return "Shaft" if ask.shaft is None else shapes.part(shapes.split(ask.shaft)[0]).name


def _overlap(ask: Pressed, diameter: float) -> tuple[float, float, float]:
    """Overlap of the radii (mm) that is modelled, and its least and most."""
    if ask.by == "overlap":
        found = value_of(ask.overlap, "length")
        least, most = found, found
    else:
        limits = fit_limits(ask.fit_class, diameter)
        least, most = limits.least_overlap, limits.most_overlap
        found = {"least": least, "mean": (least + most) / 2, "most": most}[ask.limit]
    if found <= 0:
        raise InputError(
            f"the shaft has {-2 * found:.3g} mm of play in the bore.", where="fit", hint="Take a fit with an overlap."
        )
    return found, least, most


def _shaft(make: Maker, ask: Pressed, shapes: Shapes, bore: _Bore) -> tuple[str, str, tuple[float, float, float]]:
    """The face in the bore, one at an end of the shaft, and Young's modulus, Poisson's ratio and inner radius."""
    if ask.shaft is not None:
        body = shapes.split(ask.shaft)[0]
        hollow = holes_in_line(shapes, body, bore.point, bore.direction, 0.02 * bore.radius)
        inner = max((h.diameter / 2 for h in hollow), default=0.0)
        return ask.shaft, _end_of(shapes, body, bore), (shapes.young(body), shapes.poisson(body), inner)
    steel = make.material(GRADES[0])
    stands = OVERHANG * 2 * bore.radius
    length = bore.end - bore.start + 2 * stands
    dims: dict[str, str | int | float] = {
        "shank_diameter": f"{2 * bore.radius:.6g} mm",
        "length": f"{length:.6g} mm",
        "head_length": "0 mm",
    }
    turn = least_turn(np.array([0.0, 0.0, 1.0]), bore.direction)
    place = placement_of(bore.point + (bore.start - stands) * bore.direction, turn)
    shaft = make.part(
        "shaft", "Shaft", RecipeUse(kind="pin", dimensions=dims), steel, 2 * bore.radius / ACROSS, [place]
    )
    return f"{shaft}/shank", f"{shaft}/bottom", (210e3, 0.3, 0.0)


def _end_of(shapes: Shapes, body: str, bore: _Bore) -> str:
    """The flat face at the end of a shaft that is farthest from the bore."""
    best, away = "", -1.0
    for name in shapes.mesh(body).faces:
        shape = shapes.shape(body, name)
        if shape is not None and shape.kind == "flat" and abs(abs(float(shape.direction @ bore.direction)) - 1) < 1e-6:
            along = float((shape.point - bore.point) @ bore.direction)
            off = max(along - bore.end, bore.start - along)
            if off > away:
                best, away = f"{body}/{name}", off
    if not best:
        raise InputError(
            f"{shapes.part(body).name} has no flat end beyond the bore to hold it by.",
            where="shaft",
            hint="Hold it by a support of your own first.",
        )
    return best


def _holders(make: Maker) -> set[str]:
    """Parts that supports hold, directly or by a handle."""
    handles = {h.id: h for h in make.study.handles}
    faces = [f for s in make.study.supports for f in (s.faces or (handles[s.handle].faces if s.handle else []))]
    return {part_of(f) for f in faces}


def _hold(make: Maker, shapes: Shapes, bore: _Bore, end: str) -> None:
    """Hold the end of the shaft, where nothing holds it or the hub."""
    parts = {bore.body.split("#")[0], part_of(end)}
    if not parts & _holders(make):
        make.add("supports", "hold", SupportUse(id="s", name="Shaft end", faces=[end]))


def _rim(shapes: Shapes, bore: _Bore) -> tuple[str | None, float]:
    """The face of the hub that is farthest out round the bore, None where it is not round; and the least radius (mm)
    at which the hub ends over the length of the bore."""
    round_faces = []
    for name in shapes.mesh(bore.body).faces:
        shape = shapes.shape(bore.body, name)
        if shape is None or shape.kind != "round" or shape.is_hollow:
            continue
        away = shape.point - bore.point
        off = np.linalg.norm(across(away, bore.direction))
        if abs(abs(float(shape.direction @ bore.direction)) - 1) < 1e-6 and off < 0.02 * bore.radius:
            start, end = shapes.extent(bore.body, name, bore.point, bore.direction)
            if min(end, bore.end) - max(start, bore.start) > 0:
                round_faces.append((shape.radius, name))
    if round_faces:
        return f"{bore.body}/{max(round_faces)[1]}", min(round_faces)[0]
    nodes = shapes.mesh(bore.body).nodes - bore.point
    away = np.linalg.norm(nodes - np.outer(nodes @ bore.direction, bore.direction), axis=1)
    return None, float(away[away > 1.05 * bore.radius].min())


def _ask_for(make: Maker, ask: Pressed, shapes: Shapes, bore: _Bore) -> None:
    """The torque or push that the joint is to hold, on the rim of the hub."""
    if ask.asked == "nothing":
        return
    rim, _ = _rim(shapes, bore)
    if rim is None:
        raise InputError(
            f"{shapes.part(bore.body).name} has no round face outside to be loaded by.",
            where="asked",
            hint="Ask for nothing, and load the part yourself.",
        )
    middle = bore.point + (bore.start + bore.end) / 2 * bore.direction
    handle = make.add(
        "handles",
        "rim",
        HandleUse(
            id="h", name=f"{shapes.part(bore.body).name}, middle", at=written(middle), faces=[rim], kind="averaging"
        ),
    )
    step = make.add("steps", "ask", StepUse(id="s", name="Torque" if ask.asked == "torque" else "Push"))
    load: dict[str, Any] = {"kind": "moment", "values": {step: ask.torque}, "name": "Torque asked for"}
    if ask.asked == "push":
        load = {"kind": "force", "values": {step: ask.push}, "name": "Push asked for"}
    make.add("loads", "asked", LoadUse(id="l", handle=handle, direction=plain(bore.direction), **load))


def _work_out(
    make: Maker,
    ask: Pressed,
    shapes: Shapes,
    bore: _Bore,
    overlaps: tuple[float, float, float],
    shaft: tuple[float, float, float],
) -> None:
    rim, outer = _rim(shapes, bore)
    hub = shapes.young(bore.body), shapes.poisson(bore.body)
    length, b = bore.end - bore.start, bore.radius

    def pressure(overlap: float) -> float:
        return press_fit_pressure(max(overlap, 0.0), shaft[2], b, outer, shaft=shaft[:2], hub=hub)

    p, least, most = (pressure(v) for v in overlaps)
    is_round, why = rim is not None, "the hub is not round: taken for a ring as thin as its thinnest place"
    make.figure("Overlap of the radii", "length", overlaps[0], least=overlaps[1], most=overlaps[2], source="ISO 286-1")
    make.figure("Pressure in the fit", "stress", p, least=least, most=most, holds=is_round, why=why, source=LAME)
    hoop = ring_hoop_stress(p, b, outer, b)
    mises = float(np.sqrt(hoop**2 + p**2 + hoop * p))
    limit = shapes.yields_at(bore.body)
    make.figure(
        "Von Mises at the bore",
        "stress",
        mises,
        holds=limit is None or mises < limit,
        why="the hub yields: the pressure stays below this",
        source=LAME,
    )
    push, torque = (np.array([press_fit_grip(v, b, length, ask.mu)[k] for v in (p, least, most)]) for k in (0, 1))
    grips: list[tuple[str, Kind, Array]] = [("Held along the axis", "force", push), ("Torque held", "moment", torque)]
    for name, quantity, found in grips:
        make.figure(
            f"{name} at µ {ask.mu:g}",
            quantity,
            float(found[0]),
            least=float(found[1]),
            most=float(found[2]),
            holds=is_round,
            why=why,
            source="µ p 2π b L",
        )
    if ask.asked != "nothing":
        wanted, held = value_of(ask.torque, "moment"), torque
        if ask.asked == "push":
            wanted, held = value_of(ask.push, "force"), push
        make.figure(
            "Use of what it holds", "share", wanted / float(held[0]), holds=wanted < float(held[0]), why="it slips"
        )
