"""Seated, guided and hinged joints, and those on a datum wall."""

import numpy as np

from ulmek.core.contact.finder import find_touching
from ulmek.core.errors import InputError
from ulmek.core.handcalc.hertz import contact_modulus, line_contact, point_contact
from ulmek.core.material.elastic import Elastic
from ulmek.core.model import Body
from ulmek.study.items.contact import Law
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.joint import Guided, Hinged, OnWall, Seated
from ulmek.study.items.link import LinkUse
from ulmek.study.items.pair import PairUse
from ulmek.study.items.support import Component, SupportUse
from ulmek.study.items.wall import WallUse
from ulmek.study.joints.axes import coaxial, components_along, plain, written
from ulmek.study.joints.made import Maker
from ulmek.study.joints.shapes import Shapes, across, place_of, with_place
from ulmek.study.mating import mated
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

# Distance (mm) and angle (degrees) within which faces that rest on each other are looked for.
NEAR, FACING = 1.0, 40.0
COMPONENTS: tuple[Component, ...] = ("x", "y", "z", "turn-x", "turn-y", "turn-z")
HERTZ = "Hertz: Johnson 1985, ch. 4"


def make_seated(make: Maker, ask: Seated) -> None:
    """Fill ``make`` with the pair, places and closed form of faces that rest on each other; raises as `mated`."""
    first, other = ask.a[0], ask.b[0]
    shapes = Shapes(make.study)
    kinds = [shapes.shape(*shapes.split(f)) for f in (first, other)]
    if ask.keep_together and all(k is not None for k in kinds):
        flush = all(k is not None and k.kind == "flat" for k in kinds)
        index, copy, place = mated(make.study, first, other, "flush" if flush else "tangent")
        body = shapes.split(first)[0]
        at = np.array([value_of(c, "length") for c in place.at])
        if make.study.parts[index].placements[copy] != place:
            make.keep_places(with_place(make.study, body, at, placed_axes(place)))
            shapes = Shapes(make.study)
        if flush and _sides(shapes, ask)[2] == 0:
            # They came flush beside each other: then middle on middle.
            one, two = (shapes.shape(*shapes.split(f)) for f in (first, other))
            assert one is not None
            assert two is not None
            at, axes = place_of(make.study, body)
            make.keep_places(with_place(make.study, body, at + two.point - one.point, axes))
            shapes = Shapes(make.study)
    names = [shapes.part(shapes.split(f)[0]).name for f in (first, other)]
    force = value_of(ask.force, "force")
    a, b, area = _sides(shapes, ask)
    make.add("pairs", "seat", PairUse(id="p", name=f"{names[0]} – {names[1]}"[:80], a=a, b=b, law=Law(mu=ask.mu)))
    one, two = shapes.shape(*shapes.split(first)), shapes.shape(*shapes.split(other))
    if one is None or two is None:
        make.made.told.append("the faces are neither flat, nor round, nor part of a ball: no closed form.")
    elif one.kind == two.kind == "flat":
        make.figure("Area that is covered", "area", area)
        make.figure(
            f"Mean pressure at {ask.force}",
            "stress",
            force / area if area else 0.0,
            holds=area > 0,
            why="the faces do not cover each other",
            source="F/A",
        )
    else:
        _hertz(make, ask, shapes, force)
    make.figure(f"Slides at {ask.force} and µ {ask.mu:g} across at", "force", ask.mu * force, source="Coulomb: µ F")


def _sides(shapes: Shapes, ask: Seated) -> tuple[list[str], list[str], float]:
    """The sides of the pair, the better covered first, and the area (mm²) that is covered."""
    bodies = [shapes.split(ask.a[0])[0], shapes.split(ask.b[0])[0]]
    steel = Elastic(1.0, 0.3)
    found = find_touching([Body(b, shapes.mesh(b), steel) for b in bodies], distance=NEAR, angle=FACING)
    wanted = {tuple(shapes.split(f)) for f in (*ask.a, *ask.b)}
    met = [t for t in found if {(f.body, f.name) for f in (*t.a, *t.b)} & wanted]
    if len(met) == 1 and met[0].a[0].body == bodies[1]:
        return ask.b, ask.a, met[0].area
    return ask.a, ask.b, sum(t.area for t in met)


def _hertz(make: Maker, ask: Seated, shapes: Shapes, force: float) -> None:
    """Pressure and approach of round faces and balls."""
    faces = [shapes.split(ask.a[0]), shapes.split(ask.b[0])]
    one, two = (shapes.shape(*f) for f in faces)
    assert one is not None
    assert two is not None
    curve = sum((-1.0 if s.is_hollow else 1.0) / s.radius for s in (one, two) if s.kind != "flat")
    modulus = contact_modulus(*(v for b, _ in faces for v in (shapes.young(b), shapes.poisson(b))))
    if curve <= 0:
        make.made.told.append("one face lies in the other all over: no Hertzian contact.")
        return
    if "ball" in (one.kind, two.kind) and "round" not in (one.kind, two.kind):
        peak, size = point_contact(force, 1 / curve, modulus), 1 / curve
    elif {one.kind, two.kind} <= {"round", "flat"}:
        rounds = [(f, s) for f, s in zip(faces, (one, two), strict=True) if s.kind == "round"]
        spans = [shapes.extent(*f, rounds[0][1].point, rounds[0][1].direction) for f, _ in rounds]
        length = min(s[1] for s in spans) - max(s[0] for s in spans)
        peak, size = line_contact(force / length, 1 / curve, modulus), 1 / curve
    else:
        make.made.told.append("a ball on a round face presses on an ellipse: no closed form here.")
        return
    is_small = peak.half_width < 0.2 * size
    why = "the pressed patch is no longer small beside the radii"
    make.figure(f"Peak pressure at {ask.force}", "stress", peak.peak, holds=is_small, why=why, source=HERTZ)
    make.figure("Half width of what presses", "length", peak.half_width, holds=is_small, why=why, source=HERTZ)


def make_guided(make: Maker, ask: Guided) -> None:
    """Fill ``make`` with the pair, places and closed form of a shank that slides in a bore.

    Raises
    ------
    UlmekError : a bore or shank that is none, or a negative clearance.
    """
    study = make.study
    if ask.keep_together:
        study = coaxial(study, ask.shank, ask.bore, own_hollow=False)
        make.keep_places(study)
    play = value_of(ask.clearance, "length")
    if play < 0:
        raise InputError(f"the clearance is {ask.clearance}.", where="clearance", hint="Give one that is not negative.")
    shapes = Shapes(study)
    bore = shapes.round_face(ask.bore, hollow=True)
    low, high = shapes.extent(*shapes.split(ask.bore), bore.point, bore.direction)
    ends = shapes.extent(*shapes.split(ask.shank), bore.point, bore.direction)
    length = min(high, ends[1]) - max(low, ends[0])
    names = [shapes.part(shapes.split(f)[0]).name for f in (ask.shank, ask.bore)]
    law = Law(mu=ask.mu) if ask.mu else Law(may_slide="freely")
    make.add(
        "pairs",
        "guide",
        PairUse(
            id="p",
            name=f"{names[0]} in {names[1]}"[:80],
            a=[ask.bore],
            b=[ask.shank],
            law=law,
            fit="value",
            meant="to-slide",
            interference=f"{-play / 2:.6g} mm",
            search=f"{max(3 * play, 0.2):.3g} mm",
        ),
    )
    force = value_of(ask.force, "force")
    make.figure("Play across", "length", play, source="clearance of the diameters")
    make.figure("Tilt within the play", "angle", float(np.arctan2(play, length)), source="play over length")
    make.figure(f"Mean pressure at {ask.force} across", "stress", force / (2 * bore.radius * length), source="F/(d L)")


def make_hinged(make: Maker, ask: Hinged) -> None:
    """Fill ``make`` with the handles and the link, or the support, of a hinge.

    Raises
    ------
    UlmekError : faces that are not round about one axis.
    """
    shapes = Shapes(make.study)
    faces = [("a", ask.a), *([("b", ask.b)] if ask.b is not None else [])]
    rounds = []
    for role, face in faces:
        body, name = shapes.split(face)
        shape = shapes.shape(body, name)
        if shape is None or shape.kind != "round":
            raise InputError(f"{face} is not round about an axis.", where=role, hint="Pick a hole or a shank.")
        rounds.append((role, face, body, shape))
    first = rounds[0][3]
    along = components_along(first.direction)
    low, high = shapes.extent(*shapes.split(ask.a), first.point, first.direction)
    middle = first.point + (low + high) / 2 * first.direction
    for role, face, body, shape in rounds:
        away = shape.point - middle
        if np.linalg.norm(across(away, first.direction)) > 0.05 * first.radius:
            raise InputError(f"{face} is not in line with {ask.a}.", where=role, hint="Mate the two coaxial first.")
        make.add(
            "handles",
            role,
            HandleUse(id="h", name=f"{shapes.part(body).name}, axis", at=written(middle), faces=[face], kind=ask.ends),
        )
    if ask.b is None:
        make.add(
            "supports",
            "ground",
            SupportUse(
                id="s",
                name=f"{shapes.part(rounds[0][2]).name}, hinge",
                handle=make.id("handles", "a"),
                kind="components",
                components=[c for c in COMPONENTS if c != along.turn],
                axes=along.axes,
            ),
        )
    else:
        names = [shapes.part(b).name for _, _, b, _ in rounds]
        make.add("links", "hinge", LinkUse(
            id="l", name=f"{names[0]} – {names[1]}"[:80], a=make.id("handles", "a"), b=make.id("handles", "b"),
            kind="hinge", axis=along.link_axis))  # fmt: skip
    make.figure("Moment carried about the axis", "moment", 0.0, source="a hinge turns freely")


def make_on_wall(make: Maker, ask: OnWall) -> None:
    """Fill ``make`` with the wall, the pair and the closed form of faces that rest on a datum wall.

    Raises
    ------
    UlmekError : faces that do not lie in one plane.
    """
    shapes = Shapes(make.study)
    found = [(f, shapes.shape(*shapes.split(f))) for f in ask.faces]
    first = found[0][1]
    for face, shape in found:
        if shape is None or first is None or shape.kind != "flat":
            raise InputError(f"{face} is not flat.", where="faces", hint="Pick flat faces of one plane.")
        if (
            np.linalg.norm(np.cross(shape.direction, first.direction)) > 1e-6
            or abs(float((shape.point - first.point) @ first.direction)) > 1e-3
        ):
            raise InputError(
                f"{face} lies in another plane than {ask.faces[0]}.",
                where="faces",
                hint="Pick flat faces of one plane.",
            )
    assert first is not None
    owner = shapes.part(shapes.split(ask.faces[0])[0])
    wall = make.add(
        "walls",
        "wall",
        WallUse(
            id="w",
            name=f"Wall of {owner.name}"[:80],
            kind="plane",
            at=written(first.point),
            direction=plain(-first.direction),
        ),
    )
    make.add(
        "pairs", "wall", PairUse(id="p", name=f"{owner.name} – wall", a=ask.faces, b=[], wall=wall, law=Law(mu=ask.mu))
    )
    area = sum(shapes.area(*shapes.split(f)) for f in ask.faces)
    force = value_of(ask.force, "force")
    make.figure("Area that rests", "area", area)
    make.figure(f"Mean pressure at {ask.force}", "stress", force / area, source="F/A")
    make.figure(f"Slides at {ask.force} and µ {ask.mu:g} across at", "force", ask.mu * force, source="Coulomb: µ F")
