"""Bolted joints: fasteners through holes in line, what they press on, their tightening, and the closed form."""

import itertools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.handcalc.bolted_joint import (
    bolt_stiffness,
    cone_stiffness,
    joint_forces,
    load_factor,
    preload_of_torque,
)
from ulmek.core.handcalc.fasteners import Hexagon, hexagon, size_for_hole, thread_for_hole
from ulmek.core.handcalc.threads import proof_load, yield_strength
from ulmek.study.items import Material, Placement, RecipeUse
from ulmek.study.items.bolt import BoltUse, LineBolt, Tightening
from ulmek.study.items.contact import Law
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.joint import Bolted
from ulmek.study.items.pair import PairUse
from ulmek.study.items.step import IncrementSettings, StepUse
from ulmek.study.items.support import SupportUse
from ulmek.study.items.wall import WallUse
from ulmek.study.joints.axes import plain, written
from ulmek.study.joints.made import Maker
from ulmek.study.joints.shapes import Shapes
from ulmek.study.joints.stack import Hole, Stack, brought_together, pattern_of, seat, stack_of
from ulmek.study.mating import least_turn, placement_of
from ulmek.study.units import value_of

Array = NDArray[np.float64]
# Length of thread engaged in a tapped hole or the ground, in diameters; elements across a shank; bearing of a head over
# its size across flats; search distance of shanks over their clearance.
ENGAGED, ACROSS, BEARING, SEARCH = 1.0, 4.0, 0.95, 3.0
# Where a pull enters the parts, as a share of the grip: half way, as where flanges are loaded all over.
INTRODUCED = 0.5
SHIGLEY, VDI, ISO = "Shigley and Mischke 1989, ch. 8", "VDI 2230:2015, part 1", "ISO 898-1:2013"


def make_bolted(make: Maker, ask: Bolted) -> None:
    """Fill ``make`` with the pieces, places and closed form of a bolted joint.

    Raises
    ------
    UlmekError : holes that are none or not in line, or too narrow for the fastener asked for.
    """
    study = make.study
    if ask.keep_together and len(ask.holes) > 1:
        study = brought_together(study, ask.holes)
        make.keep_places(study)
    shapes = Shapes(study)
    stack = stack_of(shapes, ask.holes, flipped=ask.flipped)
    size, says = _size(ask, stack)
    make.made.told.append(says)
    stacks, alone = pattern_of(shapes, stack) if ask.whole_pattern else ([stack], 0)
    if alone:
        holes = "1 hole has" if alone == 1 else f"{alone} holes have"
        make.made.told.append(f"{holes} no counterpart in line: no bolt there.")
    joint = _Bolting(make, ask, shapes, stacks, size)
    joint.make()
    joint.work_out()


def _size(ask: Bolted, stack: Stack) -> tuple[Hexagon, str]:
    """The fastener, and in words why it is this one."""
    free = stack.holes[1:] if ask.far_end == "thread" else stack.holes
    narrow = min(h.diameter for h in free) if free else None
    if ask.diameter is not None:
        size = hexagon(value_of(ask.diameter, "length"))
        if narrow is not None and narrow < size.diameter:
            raise InputError(
                f"M{size.diameter:g} does not go through a hole of {narrow:.4g} mm.",
                where="diameter",
                hint="Take a smaller one, or leave the size to the hole.",
            )
        return size, "" if narrow is None else f"hole {narrow:.4g} mm"
    if ask.far_end == "thread":
        tapped = stack.holes[0].diameter
        thread = thread_for_hole(tapped)
        if thread is None:
            raise InputError(
                f"a hole of {tapped:.4g} mm is drilled for no metric thread.",
                where="holes",
                hint="Choose a nut, or give the size of the thread.",
            )
        return hexagon(thread), f"thread hole {tapped:.4g} mm (ISO 724)"
    found = size_for_hole(narrow or 0.0)
    if found is None:
        raise InputError(
            f"a hole of {narrow:.4g} mm is for no metric bolt.", where="holes", hint="Give the size of the bolt."
        )
    return hexagon(found[0]), f"hole {narrow:.4g} mm: {found[1]} fit of M{found[0]:g} (ISO 273)"


class _Bolting:
    """A bolted joint while it is made."""

    def __init__(self, make: Maker, ask: Bolted, shapes: Shapes, stacks: list[Stack], size: Hexagon) -> None:
        self.m, self.ask, self.shapes, self.stacks, self.size = make, ask, shapes, stacks, size
        self.stack = stacks[0]
        self.is_tapped, self.has_nut = ask.far_end == "thread", ask.far_end == "nut"
        # A tapped hole is beyond the grip.
        self.clamped = self.stack.holes[1:] if self.is_tapped else self.stack.holes
        if not self.clamped:
            raise InputError(
                "a thread alone clamps nothing.", where="holes", hint="Pick a hole of the part that is clamped too."
            )
        self.low, self.high = self.clamped[0].start, self.clamped[-1].end
        self.washers_under = {"none": (0, 0), "head": (0, 1), "both": (int(self.has_nut), 1)}[ask.washers]
        below, above = (size.washer.thickness * n for n in self.washers_under)
        self.low, self.high = self.low - below, self.high + above
        self.grip = self.high - self.low
        self.count = len(stacks)
        self.proof = proof_load(size.diameter, ask.strength)
        self.preload = self._preload()

    def _preload(self) -> float:
        if self.ask.tightened_by == "use":
            return self.ask.use * self.proof
        if self.ask.tightened_by == "force":
            return value_of(self.ask.force, "force")
        return preload_of_torque(value_of(self.ask.torque, "moment"), self.ask.nut_factor, self.size.diameter)

    def make(self) -> None:
        """Parts or lines, pairs, tightening."""
        step = self.m.add(
            "steps", "tighten", StepUse(id="step", name="Tighten", increments=IncrementSettings(start=0.5, largest=0.5))
        )
        self._faces_between()
        self._wall()
        if self.ask.modelled == "solid":
            self._solid(step)
        else:
            self._lines(step)

    def _pair(self, role: str, name: str, a: list[str], b: list[str], law: Law, **more: str) -> None:
        if a and b and not self.m.is_paired(a, b):
            self.m.add("pairs", role, PairUse(id="pair", name=name[:80], a=a, b=b, law=law, **more))

    def _name(self, hole: Hole) -> str:
        return self.shapes.part(hole.body).name

    def _seats(self, position: int, *, at_end: bool) -> list[str]:
        """The flat faces round the mouths of all holes at a position of the stacks, each once."""
        found = [
            f"{stack.holes[position].body}/{name}"
            for stack in self.stacks
            if (name := seat(self.shapes, stack, position, at_end=at_end)) is not None
        ]
        return list(dict.fromkeys(found))

    def _area(self, faces: list[str]) -> float:
        return sum(self.shapes.area(*self.shapes.split(f)) for f in faces)

    def _faces_between(self) -> None:
        """What the parts press on each other with, between one hole and the next."""
        for k, (one, other) in enumerate(itertools.pairwise(self.stack.holes)):
            if one.body == other.body:
                continue
            sides = [self._seats(k, at_end=True), self._seats(k + 1, at_end=False)]
            if not all(sides):
                self.m.made.told.append(f"{self._name(one)} and {self._name(other)} meet in no flat face there.")
                continue
            a, b = sorted(sides, key=self._area)
            name = f"{self._name(other)} – {self._name(one)}"
            self._pair(f"faces:{one.body}:{other.body}", name, a, b, Law(mu=self.ask.mu))

    def _wall(self) -> None:
        """A datum wall under the first part."""
        if not self.ask.wall:
            return
        first = self.stack.holes[0]
        faces = self._seats(0, at_end=False)
        if not faces:
            raise InputError(
                f"{self._name(first)} has no flat face round the hole to rest on a wall.", where="wall",
                hint="Turn the joint round, or hold the part by a support.",
            )  # fmt: skip
        plane = WallUse(
            id="wall", name="Wall", kind="plane", at=written(self.stack.at(first.start)),
            direction=plain(self.stack.direction),
        )  # fmt: skip
        wall = self.m.add("walls", "wall", plane)
        pair = PairUse(
            id="pair", name=f"{self._name(first)} – wall", a=faces, b=[], wall=wall, law=Law(mu=self.ask.mu)
        )  # fmt: skip
        self.m.add("pairs", "wall", pair)

    def _placements(self, along: float) -> list[Placement]:
        """Of parts whose own z axis goes along the stack from ``along`` (mm) up, one at each."""
        turn = least_turn(np.array([0.0, 0.0, 1.0]), self.stack.direction)
        return [placement_of(s.at(along), turn) for s in self.stacks]

    def _preloads(self, step: str) -> tuple[dict[str, str], Tightening | None]:
        if self.ask.tightened_by == "torque":
            return {step: self.ask.torque}, Tightening(
                nut_factor=self.ask.nut_factor, diameter=f"{self.size.diameter:g} mm"
            )
        force = self.ask.force if self.ask.tightened_by == "force" else f"{self.preload / 1000:.4g} kN"
        return {step: force}, None

    def _bolt(self, name: str, step: str, **what: Any) -> BoltUse:
        preload, torque = self._preloads(step)
        return BoltUse(id="b", name=name, preload=preload, torque=torque, strength=self.ask.strength, **what)

    def _solid(self, step: str) -> None:
        size, d = self.size, self.size.diameter
        steel = self.m.material(_steel(self.ask.strength))
        dims: dict[str, str | int | float] = {
            "diameter": f"{d:g} mm",
            "grip": f"{self.grip:.6g} mm",
            "across_flats": f"{size.across_flats:g} mm",
            "head_height": f"{size.head_height:g} mm",
        }
        if self.has_nut:
            recipe = RecipeUse(kind="bolt", dimensions={**dims, "nut_height": f"{size.nut_height:g} mm"})
        else:
            tapped = self.stack.holes[0] if self.is_tapped else None
            thread, engaged = d, ENGAGED * d
            if tapped is not None:
                thread, engaged = min(d, tapped.diameter), min(ENGAGED * d, tapped.thickness)
            foot = {"thread_diameter": f"{thread:.6g} mm", "engaged": f"{engaged:.6g} mm"}
            recipe = RecipeUse(kind="screw", dimensions={**dims, **foot})
        places = self._placements(self.low)
        bolts = self.m.part("bolts", f"Bolts M{d:g}", recipe, steel, d / ACROSS, places)
        named = f"Bolts M{d:g}" + (f" ×{self.count}" if self.count > 1 else "")
        self.m.add("bolts", "bolts", self._bolt(named, step, part=bolts))
        self._washers(steel)
        self._bearings(bolts)
        self._shanks(bolts)

    def _washers(self, steel: str) -> None:
        washer = self.size.washer
        dims: dict[str, str | int | float] = {
            "inner_diameter": f"{washer.inner:g} mm",
            "outer_diameter": f"{washer.outer:g} mm",
            "thickness": f"{washer.thickness:g} mm",
        }
        for under, is_there, at in (
            ("nuts", self.washers_under[0], self.low),
            ("heads", self.washers_under[1], self.high - washer.thickness),
        ):
            if is_there:
                self.m.part(
                    f"washers:{under}",
                    f"Washers under {under}",
                    RecipeUse(kind="washer", dimensions=dims),
                    steel,
                    self.size.diameter / ACROSS,
                    self._placements(at),
                )

    def _bearings(self, bolts: str) -> None:
        """Heads and nuts on what they press on, with washers between or without; threads in their holes."""
        law = Law(mu=self.ask.mu_heads)
        last, first = len(self.stack.holes) - 1, int(self.is_tapped)
        ends = [("heads", "head.bearing", last, True, self.washers_under[1])]
        if self.has_nut:
            ends.append(("nuts", "nut.bearing", first, False, self.washers_under[0]))
        for what, face, position, at_end, on_washer in ends:
            hole = self.stack.holes[position]
            ground = self._seats(position, at_end=at_end)
            if not ground:
                self.m.made.told.append(f"{self._name(hole)} has no flat face under the {what}.")
                continue
            if on_washer:
                washers = self.m.id("parts", f"washers:{what}")
                up, down = ("top", "bottom") if at_end else ("bottom", "top")
                self._pair(what, f"{what.capitalize()} – washers", [f"{bolts}/{face}"], [f"{washers}/{up}"], law)
                self._pair(f"washers:{what}", f"Washers – {self._name(hole)}", [f"{washers}/{down}"], ground, law)
            else:
                self._pair(what, f"{what.capitalize()} – {self._name(hole)}", [f"{bolts}/{face}"], ground, law)
        if self.is_tapped:
            threads = [s.holes[0].reference for s in self.stacks]
            name = f"Threads – {self._name(self.stack.holes[0])}"
            self._pair("threads", name, [f"{bolts}/thread"], threads, Law(may_open=False, may_slide="no"))
        if self.ask.far_end == "ground":
            self.m.add(
                "supports",
                "feet",
                SupportUse(
                    id="s",
                    name=f"Feet of bolts M{self.size.diameter:g}",
                    faces=[f"{bolts}/thread", f"{bolts}/foot.end"],
                ),
            )

    def _shanks(self, bolts: str) -> None:
        if self.ask.shanks == "left-out":
            return
        law = Law(mu=self.ask.mu) if self.ask.shanks == "friction" else Law(may_slide="freely")
        # A joint that holds by friction keeps its shanks clear.
        meant = "to-hold" if self.ask.shanks == "friction" else "to-carry-nothing"
        for k, hole in enumerate(self.stack.holes):
            if self.is_tapped and k == 0:
                continue
            clearance = (hole.diameter - self.size.diameter) / 2
            holes = [s.holes[k].reference for s in self.stacks]
            search = f"{max(SEARCH * clearance, 0.1):.3g} mm"
            name = f"Shanks – {self._name(hole)}"
            self._pair(f"shanks:{hole.reference}", name, holes, [f"{bolts}/shank"], law, search=search, meant=meant)

    def _lines(self, step: str) -> None:
        """Bolts that are lines between handles on the outermost holes."""
        stiffness = f"{self._stiffness() / 1000:.5g} kN/mm"
        kind = "rigid" if self.ask.modelled == "line-stiff" else "averaging"
        for n, stack in enumerate(self.stacks, 1):
            last, first = stack.holes[-1], stack.holes[0]
            ends = {"head": (last, self.high), "foot": (first, self.low)}
            if self.is_tapped:
                ends["foot"] = (first, first.end - min(ENGAGED * self.size.diameter, first.thickness) / 2)
            if self.ask.far_end == "ground":
                del ends["foot"]
            for end, (hole, along) in ends.items():
                name = f"{end.capitalize()} {n}"
                handle = HandleUse(id="h", name=name, at=written(stack.at(along)), faces=[hole.reference], kind=kind)
                self.m.add("handles", f"{end}:{n}", handle)
            line = LineBolt(
                head=self.m.id("handles", f"head:{n}"),
                foot=self.m.id("handles", f"foot:{n}") if "foot" in ends else None,
                direction=None if "foot" in ends else plain(stack.direction),
                stiffness=stiffness,
            )
            name = f"Bolt M{self.size.diameter:g} {n}"
            self.m.add(
                "bolts",
                f"line:{n}",
                self._bolt(name, step, line=line),
            )

    def _stiffness(self) -> float:
        young = value_of(_steel(self.ask.strength).young or "", "stress")
        return bolt_stiffness(self.size.diameter, self.grip, young, has_nut=self.has_nut)

    def work_out(self) -> None:
        """The closed form: what one bolt is tightened to, and what the joint carries before it opens or slides."""
        m, ask, size, f0 = self.m, self.ask, self.size, self.preload
        spread = (1 - ask.scatter, 1 + ask.scatter)
        layers = [(h.thickness, self.shapes.young(h.body)) for h in self.clamped]
        layers = [(size.washer.thickness, 210e3)] * self.washers_under[0] + layers
        layers += [(size.washer.thickness, 210e3)] * self.washers_under[1]
        hole = min(h.diameter for h in self.clamped)
        bearing = BEARING * size.across_flats
        clamped = cone_stiffness(max(bearing, 1.05 * hole), hole, layers, from_both=self.has_nut)
        phi = INTRODUCED * load_factor(self._stiffness(), clamped)
        opens = self.count * joint_forces(f0, 0.0, phi).opens_at
        each = f" (each of {self.count})" if self.count > 1 else ""
        m.figure(f"Tightened to{each}", "force", f0, least=f0 * spread[0], most=f0 * spread[1])
        m.figure(
            f"Tightening moment at K {ask.nut_factor:g}", "moment", f0 * ask.nut_factor * size.diameter, source=SHIGLEY
        )
        m.figure(
            "Use of the proof load",
            "share",
            f0 / self.proof,
            most=f0 * spread[1] / self.proof,
            holds=f0 * spread[1] <= self.proof,
            why="beyond the proof load at the upper end of the scatter",
            source=ISO,
        )
        m.figure("Share of a pull in the bolt", "share", phi, source=f"{VDI}, entering half way (n = 0.5); {SHIGLEY}")
        m.figure(
            "Opens at a central pull of", "force", opens, least=opens * spread[0], most=opens * spread[1], source=VDI
        )
        planes = [(a, b) for a, b in zip(self.stack.holes, self.stack.holes[1:], strict=False) if a.body != b.body]
        if planes or ask.wall:
            slides = ask.mu * self.count * f0
            m.figure(
                f"Slides at µ {ask.mu:g} across at",
                "force",
                slides,
                least=slides * spread[0],
                most=slides * spread[1],
                source="Coulomb: µ ΣF",
            )
        top = self.clamped[-1]
        on_washer = np.pi / 4 * (size.washer.outer**2 - top.diameter**2)
        area = on_washer if self.washers_under[1] else size.bearing_area(top.diameter)
        if ask.modelled == "solid" and area > 0:
            limit = self.shapes.yields_at(top.body)
            pressure = f0 * spread[1] / area
            m.figure(
                "Pressure under heads",
                "stress",
                f0 / area,
                most=pressure,
                source="F/A",
                holds=limit is None or pressure <= limit,
                why=f"{self._name(top)} yields there",
            )


def _steel(strength: str) -> Material:
    limit = yield_strength(strength)
    return Material(
        id="steel",
        name=f"Bolt steel {strength}",
        young="210 GPa",
        poisson=0.3,
        yield_stress=f"{limit:g} MPa",
        density="7850 kg/m^3",
    )
