"""Geared joints: placed in mesh with backlash, the flanks that meet, what holds and turns the axes, and Hertz."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.spatial.transform import Rotation

from ulmek.core.contact.finder import find_touching
from ulmek.core.errors import InputError
from ulmek.core.geometry.involute import Gearing, involute, working_distance
from ulmek.core.geometry.recipes.gears import gearing
from ulmek.core.handcalc.hertz import contact_modulus, line_contact
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.facets import facet_normals
from ulmek.core.model import Body
from ulmek.study.items.contact import Law
from ulmek.study.items.handle import HandleUse
from ulmek.study.items.joint import Geared
from ulmek.study.items.load import LoadUse
from ulmek.study.items.pair import PairUse
from ulmek.study.items.step import IncrementSettings, StepUse
from ulmek.study.items.support import Component, SupportUse
from ulmek.study.joints.axes import components_along, plain, written
from ulmek.study.joints.made import Maker
from ulmek.study.joints.shapes import Shapes, across, place_of, with_place
from ulmek.study.meshing_gears import Placed, in_mesh, teeth_of
from ulmek.study.units import value_of

Array = NDArray[np.float64]
# Flanks meet where they come closer than this (modules) in one of so many places of the turn.
CLOSE, PLACES = 0.04, 9
# Elements of flanks to the module, in sections and in solids: of a section, moments are passed on to 0.3 % then
# (case `gears-in-mesh`).
TO_THE_MODULE = {True: 20.0, False: 5.0}
COMPONENTS: tuple[Component, ...] = ("x", "y", "z", "turn-x", "turn-y", "turn-z")


@dataclass(frozen=True)
class _Mesh:
    """Two gears in mesh: the teeth of the one that stays and of the one that moved; their bodies, the distance of their
    axes (mm), the working pressure angle (rad), and where the axes stand."""

    teeth: tuple[Gearing, Gearing]
    bodies: tuple[str, str]
    distance: float
    angle: float
    points: tuple[Array, Array]
    axis: Array

    @property
    def radii(self) -> tuple[float, float]:
        """Working pitch radii (mm)."""
        z = self.teeth[0].teeth + self.teeth[1].teeth
        return self.distance * self.teeth[0].teeth / z, self.distance * self.teeth[1].teeth / z


def make_geared(make: Maker, ask: Geared) -> None:
    """Fill ``make`` with the pieces, places and closed form of a geared joint.

    Raises
    ------
    UlmekError : parts without teeth, or unlike teeth.
    """
    mesh = _placed(make, ask)
    shapes = Shapes(make.study)
    own, other = _flanks(shapes, mesh, ask)
    names = [shapes.part(b).name for b in mesh.bodies]
    law = Law(mu=ask.mu) if ask.mu else Law(may_slide="freely")
    search = f"{max(0.25 * mesh.teeth[1].module, 4 * value_of(ask.backlash, 'length')):.3g} mm"
    if mesh.teeth[1].teeth < mesh.teeth[0].teeth:
        # Side A bends less: its normals change less from node to node.
        own, other = other, own
    make.add(
        "pairs",
        "flanks",
        # Flanks are arcs along the involute: what they overlap by is no interference.
        PairUse(
            id="p",
            name=f"Flanks {names[1]} – {names[0]}"[:80],
            a=own,
            b=other,
            law=law,
            search=search,
            fit="overlap-removed",
        ),
    )
    size = mesh.teeth[1].module / TO_THE_MODULE[make.study.space != "solid"]
    for reference in (*own, *other):
        make.made.sizes[reference] = size
    _drive(make, ask, shapes, mesh)
    _work_out(make, ask, shapes, mesh)


def _placed(make: Maker, ask: Geared) -> _Mesh:
    """Bring the moved gear in mesh, with the backlash, its driving flanks on those of the other."""
    study = make.study
    shapes = Shapes(study)
    stays, moved = shapes.split(ask.stays)[0], shapes.split(ask.moved)[0]
    if stays.split("#")[0] == moved.split("#")[0] and stays == moved:
        raise InputError("both faces are of one part.", where="moved", hint="Pick a tooth of another part.")
    parts = shapes.part(stays), shapes.part(moved)
    values = teeth_of(parts[0]), teeth_of(parts[1])
    if "gear-rack" in (parts[0].recipe.kind, parts[1].recipe.kind):
        raise InputError(
            "a rack is not joined as a whole yet.",
            where="stays",
            hint="Place it with its teeth in mesh, find the pairs, and hold and move it yourself.",
        )
    (at, axes), (base, base_axes) = place_of(study, moved), place_of(study, stays)
    found = in_mesh(parts[1], Placed(axes, at), parts[0], Placed(base_axes, base))
    teeth = gearing(values[0]), gearing(values[1])
    nominal = working_distance(*teeth)
    wanted = value_of(ask.backlash, "length")
    distance, angle = _distance(teeth, nominal, max(wanted - teeth[0].thinning - teeth[1].thinning, 0.0))
    axis = base_axes[:, 2]
    away = found.shift - base
    aside = across(away, axis)
    shift = found.shift + aside / np.linalg.norm(aside) * (distance - nominal)
    # Half of the play, turned against the drive: then the flanks that drive touch.
    play = (
        2 * distance * (involute(angle) - involute(_angle_at(teeth, nominal))) + teeth[0].thinning + teeth[1].thinning
    )
    radius = distance * teeth[1].teeth / (teeth[0].teeth + teeth[1].teeth)
    turn = Rotation.from_rotvec(play / 2 / radius * axis).as_matrix()
    make.keep_places(with_place(study, moved, shift, turn @ found.rotation))
    return _Mesh(teeth, (stays, moved), distance, angle, (base, shift), axis)


def _angle_at(teeth: tuple[Gearing, Gearing], distance: float) -> float:
    """Working pressure angle (rad) at a distance of the axes (mm)."""
    return float(np.arccos((teeth[0].base_radius + teeth[1].base_radius) / distance))


def _distance(teeth: tuple[Gearing, Gearing], nominal: float, backlash: float) -> tuple[float, float]:
    """Distance of the axes (mm) at which gears that mesh without play at ``nominal`` have the ``backlash`` on
    their working pitch circles, and the pressure angle (rad) there: j = 2a (inv α − inv α₀); Niemann and
    Winter 2003, 21.5."""
    start = _angle_at(teeth, nominal)
    if backlash <= 0:
        return nominal, start

    def off(distance: float) -> float:
        return 2 * distance * (involute(_angle_at(teeth, distance)) - involute(start)) - backlash

    found = float(brentq(off, nominal, nominal + 4 * backlash + teeth[0].module))
    return found, _angle_at(teeth, found)


def _flanks(shapes: Shapes, mesh: _Mesh, ask: Geared) -> tuple[list[str], list[str]]:
    """The driving flanks of the moved gear and those of the other that come close within the turn."""
    stays, moved = mesh.bodies
    drives = _driving(shapes, mesh, moved)
    turn = value_of(ask.turn, "angle") if ask.driven == "turned" else 0.0
    steel = Elastic(1.0, 0.3)
    own: set[str] = set()
    other: set[str] = set()
    ratio = mesh.teeth[1].teeth / mesh.teeth[0].teeth
    for share in np.linspace(0, 1, PLACES if turn else 1):
        bodies = []
        for body, point, by in ((moved, mesh.points[1], turn * share), (stays, mesh.points[0], -turn * share * ratio)):
            rotation = Rotation.from_rotvec(by * mesh.axis).as_matrix()
            placed = shapes.mesh(body).placed(rotation, point - rotation @ point)
            bodies.append(Body(body, placed, steel))
        for met in find_touching(bodies, distance=CLOSE * mesh.teeth[0].module, angle=30.0):
            faces = {f.body: {g.name for g in (*met.a, *met.b) if g.body == f.body} for f in (*met.a, *met.b)}
            driving = faces.get(moved, set()) & drives
            if driving:
                own |= driving
                other |= {n for n in faces.get(stays, set()) if n.endswith((".left", ".right"))}
    if not own or not other:
        raise InputError(
            "no flanks meet there.", where="turn", hint="Want more teeth of the gears, or turn by a smaller angle."
        )
    return [f"{moved}/{n}" for n in sorted(own)], [f"{stays}/{n}" for n in sorted(other)]


def _driving(shapes: Shapes, mesh: _Mesh, body: str) -> set[str]:
    """Flanks of the moved gear that push ahead when it turns about the axis."""
    nodes, found = shapes.mesh(body).nodes, set()
    for name, facets in shapes.mesh(body).faces.items():
        if name.endswith((".left", ".right")):
            arm = nodes[facets[:, :4]].mean(axis=1) - mesh.points[1]
            speed = np.einsum("ij,ij->i", facet_normals(nodes, facets), np.cross(mesh.axis, arm))
            if speed.mean() > 0:
                found.add(name)
    return found


def _drive(make: Maker, ask: Geared, shapes: Shapes, mesh: _Mesh) -> None:
    """Handles in both bores; one is turned or loaded, the other held or loaded."""
    is_turned = ask.driven == "turned"
    around = components_along(mesh.axis)
    step = make.add(
        "steps",
        "drive",
        StepUse(
            id="s",
            name="Turn" if is_turned else "Drive",
            large_motion=is_turned,
            increments=IncrementSettings(start=0.1, largest=0.1) if is_turned else IncrementSettings(),
        ),
    )
    free = [c for c in COMPONENTS if c != around.turn]
    for role, body, point in zip(("stays", "moved"), mesh.bodies, mesh.points, strict=True):
        part = shapes.part(body)
        low, high = shapes.extent(body, "bore", point, mesh.axis)
        handle = make.add(
            "handles",
            role,
            HandleUse(
                id="h",
                name=f"{part.name}, axis",
                at=written(point + (low + high) / 2 * mesh.axis),
                faces=[f"{body}/bore"],
            ),
        )
        is_held = role == "stays" and not is_turned
        make.add(
            "supports",
            role,
            SupportUse(
                id="s",
                name=f"{part.name}, {'held' if is_held else 'bearing'}",
                handle=handle,
                kind="fixed" if is_held else "components",
                components=[] if is_held else free,
                axes=None if is_held else around.axes,
            ),
        )
    moved, stays = make.id("handles", "moved"), make.id("handles", "stays")
    along, back = plain(mesh.axis), plain(mesh.axis)
    if is_turned:
        make.add(
            "loads",
            "turn",
            LoadUse(id="l", name="Turn", kind="rotation", handle=moved, direction=along, values={step: ask.turn}),
        )
        # Both turn against each other: what resists the other turns the way of the first.
        make.add(
            "loads",
            "torque",
            LoadUse(id="l", name="Torque", kind="moment", handle=stays, direction=back, values={step: ask.torque}),
        )
    else:
        make.add(
            "loads",
            "torque",
            LoadUse(id="l", name="Torque", kind="moment", handle=moved, direction=along, values={step: ask.torque}),
        )


def _work_out(make: Maker, ask: Geared, shapes: Shapes, mesh: _Mesh) -> None:
    torque = value_of(ask.torque, "moment")
    loaded = 0 if ask.driven == "turned" else 1
    force = torque / mesh.teeth[loaded].base_radius
    stays, moved = mesh.bodies
    widths = [shapes.extent(b, "bore", mesh.points[0], mesh.axis) for b in mesh.bodies]
    width = min(w[1] for w in widths) - max(w[0] for w in widths)
    make.figure("Distance of the axes", "length", mesh.distance, source="Niemann and Winter 2003, ch. 21")
    make.figure("Force across the flanks", "force", force, source="T over the base radius")
    make.figure("Force along the pitch line", "force", torque / mesh.radii[loaded], source="T over the pitch radius")
    if width <= 0:
        make.made.told.append("the gears stand beside each other along their axes: move one along.")
        return
    bend = [r * np.sin(mesh.angle) for r in mesh.radii]
    modulus = contact_modulus(shapes.young(stays), shapes.poisson(stays), shapes.young(moved), shapes.poisson(moved))
    peak = line_contact(force / width, bend[0] * bend[1] / sum(bend), modulus).peak
    make.figure(
        "Pressure at the pitch point", "stress", peak, source="Hertz: Johnson 1985, eq. 4.45, one pair of teeth"
    )
    a, b = (np.sqrt(t.tip_radius**2 - t.base_radius**2) for t in mesh.teeth)
    pitch = np.pi * mesh.teeth[0].module * np.cos(mesh.teeth[0].pressure_angle)
    ratio = float((a + b - mesh.distance * np.sin(mesh.angle)) / pitch)
    make.figure(
        "Pairs of teeth in mesh, on average",
        "share",
        ratio,
        holds=ratio > 1,
        why="the teeth let go of each other before the next meet",
        source="Niemann and Winter 2003, ch. 21",
    )
