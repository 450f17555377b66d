"""Pinned joints: a pin through holes in line, kept in place, and what it carries."""

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.handcalc.fits import fit_limits
from ulmek.core.handcalc.pins import pin_limits
from ulmek.study.items import Material, RecipeUse
from ulmek.study.items.contact import Law
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.joint import Pinned
from ulmek.study.items.pair import PairUse
from ulmek.study.items.spring import SpringUse
from ulmek.study.items.support import SupportUse
from ulmek.study.joints.axes import components_along, written
from ulmek.study.joints.made import Maker
from ulmek.study.joints.shapes import Shapes
from ulmek.study.joints.stack import Stack, brought_together, seat, stack_of
from ulmek.study.mating import least_turn, placement_of
from ulmek.study.units import value_of

# In diameters: how far a pin stands out, its heads; elements across it; search distance over a clearance.
OVERHANG, HEAD_WIDE, HEAD_HIGH, ACROSS, SEARCH = 0.15, 1.5, 0.3, 5.0, 3.0
SHIGLEY = "Shigley and Mischke 1989, ch. 8"
# Heat-treated C45 up to 40 mm across has at least this yield stress (EN 10083-2:2006).
STEEL = Material(
    id="pin-steel", name="Pin steel C45", young="210 GPa", poisson=0.3, yield_stress="430 MPa", density="7850 kg/m^3"
)


def make_pinned(make: Maker, ask: Pinned) -> None:
    """Fill ``make`` with the pieces, places and closed form of a pinned joint.

    Raises
    ------
    UlmekError : holes that are none, not in line, or of a fit that leaves no room.
    """
    study = make.study
    if ask.keep_together and len(ask.holes) > 1:
        study = brought_together(study, ask.holes, spread=True)
        make.keep_places(study)
    shapes = Shapes(study)
    stack = stack_of(shapes, ask.holes)
    diameter = stack.narrowest
    play = _play(ask, diameter)
    make.made.told.append(
        f"pin {diameter:.4g} mm, as wide as the holes" if not play else f"pin {diameter:.4g} mm, play {play:.3g} mm"
    )
    _pin(make, ask, stack, diameter)
    _pairs(make, ask, shapes, stack, play)
    _keep(make, ask, stack, diameter, play)
    _work_out(make, shapes, stack, diameter)


def _play(ask: Pinned, diameter: float) -> float:
    """Clearance of the diameters (mm)."""
    if ask.fit == "snug":
        return 0.0
    if ask.fit == "clearance":
        play = value_of(ask.clearance, "length")
    else:
        limits = fit_limits(ask.fit_class, diameter)
        play = -(limits.least_overlap + limits.most_overlap)
    if play < 0:
        raise InputError(
            f"the pin is {-play:.3g} mm wider than its holes.", where="fit", hint="Make it a pressed joint."
        )
    return play


def _pin(make: Maker, ask: Pinned, stack: Stack, diameter: float) -> None:
    steel = make.material(STEEL)
    stands = 0.0 if ask.kept_by == "heads" else OVERHANG * diameter
    head = HEAD_HIGH * diameter if ask.kept_by == "heads" else 0.0
    dims: dict[str, str | int | float] = {
        "shank_diameter": f"{diameter:.6g} mm",
        "length": f"{stack.grip + 2 * stands:.6g} mm",
        "head_diameter": f"{HEAD_WIDE * diameter:.4g} mm",
        "head_length": f"{head:.4g} mm",
        "foot_length": f"{head:.4g} mm",
    }
    turn = least_turn(np.array([0.0, 0.0, 1.0]), stack.direction)
    place = placement_of(stack.at(stack.holes[0].start - stands - head), turn)
    make.part("pin", "Pin", RecipeUse(kind="pin", dimensions=dims), steel, diameter / ACROSS, [place])


def _pairs(make: Maker, ask: Pinned, shapes: Shapes, stack: Stack, play: float) -> None:
    pin, law = make.id("parts", "pin"), Law(mu=ask.mu)
    for hole in stack.holes:
        wide = (hole.diameter - stack.narrowest) / 2
        fit = {"fit": "closed-up"} if not play else {"fit": "value", "interference": f"{-play / 2 - wide:.6g} mm"}
        several = sum(h.body == hole.body for h in stack.holes) > 1
        name = f"{shapes.part(hole.body).name}{f' {hole.face}' if several else ''} – pin"
        search = f"{max(SEARCH * (play / 2 + wide), 0.1):.3g} mm"
        make.add("pairs", f"hole:{hole.reference}", PairUse(
            id="p", name=name[:80], a=[hole.reference], b=[f"{pin}/shank"], law=law, search=search, **fit))  # fmt: skip
    gaps: list[str] = []
    for k, (one, other) in enumerate(zip(stack.holes, stack.holes[1:], strict=False)):
        gap = other.start - one.end
        faces = seat(shapes, stack, k, at_end=True), seat(shapes, stack, k + 1, at_end=False)
        if gap > 1e-3:
            gaps.append(f"{gap:.3g} mm")
        elif faces[0] is not None and faces[1] is not None and one.body != other.body:
            a, b = [f"{one.body}/{faces[0]}"], [f"{other.body}/{faces[1]}"]
            if not make.is_paired(a, b):
                name = f"{shapes.part(one.body).name} – {shapes.part(other.body).name}"
                make.add("pairs", f"sides:{k}", PairUse(id="p", name=name[:80], a=a, b=b, law=law))
    if gaps:
        make.made.told.append(f"{' and '.join(gaps)} between the sides: no pair there")
    if ask.kept_by == "heads":
        ends = (("foot", "foot.shoulder", 0, False), ("head", "shoulder", len(stack.holes) - 1, True))
        for role, face, position, at_end in ends:
            below = seat(shapes, stack, position, at_end=at_end)
            if below is not None:
                body = stack.holes[position].body
                name = f"Pin {role} – {shapes.part(body).name}"
                make.add("pairs", role, PairUse(id="p", name=name, a=[f"{pin}/{face}"], b=[f"{body}/{below}"], law=law))


def _keep(make: Maker, ask: Pinned, stack: Stack, diameter: float, play: float) -> None:
    """What keeps the pin where it is while nothing presses on it."""
    pin = make.id("parts", "pin")
    if ask.kept_by == "heads" and not play:
        return
    ends = [f"{pin}/bottom", f"{pin}/top"]
    middle = stack.at((stack.holes[0].start + stack.holes[-1].end) / 2)
    handle = make.add(
        "handles", "pin", HandleUse(id="h", name="Pin, middle", at=written(middle), faces=ends, kind="averaging")
    )
    if ask.kept_by == "guide":
        along = components_along(stack.direction)
        make.add(
            "supports",
            "guide",
            SupportUse(
                id="s",
                name="Guide of the pin",
                handle=handle,
                kind="components",
                components=[along.motion, along.turn],
                axes=along.axes,
            ),
        )
    if ask.kept_by != "guide" or play:
        soft = value_of(ask.soft, "stiffness")
        arm = (stack.grip + diameter) / 2
        turning = f"{soft * arm**2:.4g} N*mm/rad"
        make.add(
            "springs",
            "pin",
            SpringUse(
                id="s",
                name="Soft spring of the pin",
                a=handle,
                stiffness=(ask.soft, ask.soft, ask.soft),
                turning=(turning, turning, turning),
            ),
        )


def _pin_yield(make: Maker) -> float:
    """Yield stress (MPa) of the pin: of its own material where it is there, else of the one that it gets."""
    part = make.taken_part("pin")
    steel = next((m for m in make.whole.materials if part is not None and m.id == part.material), STEEL)
    return value_of(steel.yield_stress or STEEL.yield_stress or "", "stress")


def _work_out(make: Maker, shapes: Shapes, stack: Stack, diameter: float) -> None:
    holes, pin_yield = stack.holes, _pin_yield(make)
    weakest = min((y for h in holes if (y := shapes.yields_at(h.body)) is not None), default=pin_yield)
    if len(holes) == 3 and holes[0].body != holes[1].body:
        outer, middle = (holes[0].thickness, holes[2].thickness), holes[1].thickness
        gap = max(holes[1].start - holes[0].end, holes[2].start - holes[1].end, 0.0)
        limits = pin_limits(diameter, middle, outer, gap, pin_yield=pin_yield, hole_yield=weakest)
        alike = abs(outer[0] - outer[1]) < 1e-6
        make.figure(
            "Share of a load in each ear", "share", 0.5, holds=alike, why="the ears are not alike", source="statics"
        )
        make.figure("Pin shears (2 planes) at", "force", limits.shear, source=SHIGLEY)
        make.figure("Pin yields in bending at", "force", limits.bending, source=SHIGLEY)
        make.figure("Holes are crushed at", "force", limits.bearing, source=SHIGLEY)
    else:
        thick = min(h.thickness for h in holes)
        planes = max(len({h.body for h in holes}) - 1, 1)
        shear = planes * np.pi / 4 * diameter**2 * pin_yield / np.sqrt(3)
        make.figure(f"Pin shears ({planes} plane{'s' if planes > 1 else ''}) at", "force", float(shear), source=SHIGLEY)
        make.figure("Holes are crushed at", "force", thick * diameter * weakest, source=SHIGLEY)
