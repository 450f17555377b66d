"""Bars that bend as beams: held at their ends by supports, loaded by forces that statics knows."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.coupling.loads import load_forces
from ulmek.core.element.section import Section
from ulmek.core.element.straight import Bent, StraightBeam
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.layout import lay_out
from ulmek.core.model import Body, Face
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.part import Part, Placement, RecipeUse
from ulmek.study.solids import is_free_form, part_solid
from ulmek.study.translate import body_names, placed_axes, section_of_part
from ulmek.study.units import value_of

Array = NDArray[np.float64]
SOURCE = "Timoshenko 1921: bending and shear of straight beams"
# A bar is this many times as long as it is deep. Places along it that are reckoned, beside those where forces act.
SLENDER, STATIONS = 5.0, 65
# Lengths that differ by less than this share of the bar's are the same.
SAME = 1e-6
# Cosines of directions that are the same, or across each other.
ALONG, ACROSS = 1 - 1e-6, 1e-6


@dataclass(frozen=True)
class Bar:
    """A body of one section: start (3,) mm, the centroid of one end; frame (3, 3): rows along it and along the
    principal axes of its section; length (mm)."""

    section: Section
    start: Array
    frame: Array
    length: float

    def along(self, points: Array) -> Array:
        """How far (n,) mm along it points (n, 3) lie."""
        return np.asarray((points - self.start) @ self.frame[0])


def beam_check(at: At, part: Part) -> HandCheck | None:
    """The bar that is stressed most of the copies of a part; None of what is none, or is held otherwise than at its
    ends by supports and motions of whole faces."""
    found = [
        f for name, place in zip(body_names(part), part.placements, strict=True) if (f := _bent(at, part, name, place))
    ]
    if not found:
        return None
    bar, bent, body = max(found, key=lambda f: _stress(f[0].section, f[1]))
    now = at.now.parts[body.name]
    stress: float | None = now.max_von_mises
    if now.singular is not None:
        bears = body.allowable if body.allowable is not None else body.material.yield_stress
        stress = now.use * bears if now.use is not None and bears is not None else None
    forces = now.section_forces
    deep = _depth(bar.section)
    title = part.name if len(part.placements) == 1 else f"{part.name} ({body.name})"
    conditions = [
        Condition(text=f"It is straight, of one section, and {bar.length / deep:.1f} times as long as deep", met=True),
        Condition(text="No metal has yielded", met=now.max_plastic_strain == 0),
        Condition(text="What holds its ends gives nothing", met=None),
        Condition(text="What presses on it is short beside its length", met=None),
    ]
    if now.singular is not None:
        conditions.append(Condition(text="Its stress is read beside singular places, at its ends too", met=None))
    return HandCheck(
        kind="part",
        id=part.id,
        title=f"{title}: bar that bends",
        values=[
            CheckedValue(
                name="Largest bending moment", quantity="moment",
                hand=float(np.hypot(bent.forces[..., 4], bent.forces[..., 5]).max()),
                computed=None if forces is None else forces.bending, source=SOURCE,
            ),
            CheckedValue(
                name="Highest stress", quantity="stress", hand=_stress(bar.section, bent), computed=stress,
                band=now.stress_band if now.singular is None else None, source="N/A + M/W, with shear and torsion",
            ),
            CheckedValue(
                name="Largest displacement", quantity="length",
                hand=float(np.linalg.norm(bent.moved[:, :3], axis=1).max()), computed=now.max_displacement,
                source=SOURCE,
            ),
        ],
        conditions=conditions,
    )  # fmt: skip


def _bent(at: At, part: Part, name: str, place: Placement) -> tuple[Bar, Bent, Body] | None:
    """What a body does as a beam; None where it is none, or what acts on it is not known."""
    body = at.model.bodies[at.model.body_index(name)]
    bar = bar_of(part, place) if at.model.space == "solid" and not body.material.law().is_rubber else None
    if bar is None or at.model.steps[at.now.step].dynamics is not None:
        return None
    acting = _acting(at, body)
    if acting is None or not any(np.any(f) for _, f, _ in acting):
        return None
    stations = np.unique(np.concatenate([np.linspace(0, bar.length, STATIONS), _apart(bar, acting)]))
    held = _held(at, body, bar, len(stations))
    if not held:
        return None
    on = np.zeros((len(stations), 6))
    places = bar.start + stations[:, None] * bar.frame[0]
    for point, force, moment in acting:
        k = int(np.abs(stations - bar.along(point)).argmin())
        on[k, :3] += force
        on[k, 3:] += moment + np.cross(point - places[k], force)
    law = body.material
    beam = StraightBeam(bar.section, law.young, law.young / (2 * (1 + law.poisson)), bar.frame, stations)
    bent = beam.under(on, held)
    return None if bent is None else (bar, bent, body)


def _apart(bar: Bar, acting: list[tuple[Array, Array, Array]]) -> Array:
    """Places along a bar where few forces act each by itself."""
    along = np.array([float(bar.along(point)) for point, _, _ in acting])
    few = np.unique(np.round(along, 6))
    return few[(few > 0) & (few < bar.length)] if len(few) < STATIONS else np.zeros(0)


def bar_of(part: Part, place: Placement) -> Bar | None:
    """The bar that a part is where it stands; None of what is none."""
    if place.mirrored or is_free_form(part.recipe.model_dump()):
        return None
    found = part_solid(part)
    solid = found.solid
    if not isinstance(solid, LayeredSolid) or len(solid.layers) != 1:
        return None
    outline = np.vstack([s.polyline() for s in solid.partition.segments])
    low = np.array([*outline.min(axis=0), solid.layers[0].bottom])
    high = np.array([*outline.max(axis=0), solid.layers[0].top])
    sizes = high - low
    turned = placed_axes(place)
    shift = np.array([value_of(c, "length") for c in place.at])
    own = turned @ found.rotation
    origin = turned @ found.shift + shift
    if sizes[2] >= SLENDER * float(np.linalg.norm(sizes[:2])):
        section = section_of_part(part)
        across = np.column_stack([section.axes, np.zeros(2)])
        start = np.array([*section.centroid, low[2]])
        rows = np.vstack([[0.0, 0.0, 1.0], across])
        return Bar(section, origin + own @ start, rows @ own.T, float(sizes[2]))
    if abs(solid.volume() / float(np.prod(sizes)) - 1) > SAME:
        return None
    # A block that is long in its outline: its section is a rectangle.
    longest = int(sizes.argmax())
    first, second = (i for i in range(3) if i != longest)
    if sizes[longest] < SLENDER * float(np.hypot(sizes[first], sizes[second])):
        return None
    wide = {"length": f"{sizes[first]} mm", "depth": f"{sizes[second]} mm", "height": "1 mm"}
    section = section_of_part(part.model_copy(update={"recipe": RecipeUse(kind="block", dimensions=wide)}))
    start = (low + high) / 2
    start[longest] = low[longest]
    unit = np.eye(3)
    rows = np.vstack([unit[longest], section.axes @ unit[[first, second]]])
    # Rows along it and across it turn to the right.
    rows[2] *= np.sign(np.linalg.det(rows))
    return Bar(section, origin + own @ start, rows @ own.T, float(sizes[longest]))


def _acting(at: At, body: Body) -> list[tuple[Array, Array, Array]] | None:
    """Points (3,) mm, forces (3,) N and moments (3,) N·mm about them that act on a body, beside what holds it; None
    where something acts of which statics does not know how much goes into the body."""
    model, now, out = at.model, at.now, []
    led = {h.name for h in model.handles if body.name in {f.body for f in h.faces}}
    fastened = {n for s in model.springs for n in (s.a, s.b)} | {n for k in model.links for n in (k.a, k.b)}
    fastened |= {n for b in model.bolts for n in (b.head, b.foot)} | {w.handle for w in model.walls}
    fastened |= {s.handle for s in model.supports} | {m.handle for m in model.loads if m.prescribes}
    if led & fastened or any(b.body == body.name for b in model.bolts):
        return None
    layout = lay_out(model)
    columns = load_forces(model, layout) if model.loads else np.zeros((3 * layout.n_total, 1))
    first, last = (int(v) for v in model.offsets()[model.body_index(body.name) :][:2])
    for load, column in zip(model.loads, columns.T, strict=False):
        value = now.values[load.name]
        if load.prescribes or value == 0:
            continue
        if load.kind == "spin":
            return None
        if load.handle is not None:
            handle = next(h for h in model.handles if h.name == load.handle)
            if handle.name in led:
                if handle.kind == "radial" or handle.bodies != {body.name}:
                    return None
                whole = value * np.array(load.direction) / np.linalg.norm(load.direction)
                nothing = np.zeros(3)
                force, moment = (nothing, whole) if load.kind == "moment" else (whole, nothing)
                out.append((np.array(handle.at), force, moment))
            continue
        forces = value * column.reshape(-1, 3)[first:last]
        loaded = np.flatnonzero(np.any(forces != 0, axis=1))
        out += [(body.mesh.nodes[i], forces[i], np.zeros(3)) for i in loaded]
    for pair in model.pairs:
        sides = [{f.body for f in side} for side in (pair.side_a, pair.side_b)]
        found = now.pairs[pair.name]
        for names, sign in zip(sides, (1.0, -1.0), strict=True):
            if body.name not in names or found.about is None or found.moment is None:
                continue
            if names != {body.name} or sides[0] == sides[1]:
                return None
            out.append((np.array(found.about), sign * np.array(found.force), sign * np.array(found.moment)))
    return out


def _held(at: At, body: Body, bar: Bar, stations: int) -> list[tuple[int, Array, float]] | None:
    """How the ends of a bar are held and moved; None where it is held elsewhere, or askew."""
    model = at.model
    out: list[tuple[int, Array, float]] = []
    asked: list[tuple[tuple[Face, ...], Array, float]] = []
    for support in model.supports:
        if support.is_symmetry and any(f.body == body.name for f in support.faces):
            return None
        if support.axes is not None and any(f.body == body.name for f in support.faces):
            return None
        asked += [(support.faces, np.eye(3)[i], 0.0) for i, held in enumerate(support.components) if held]
    for load in model.loads:
        if load.prescribes and any(f.body == body.name for f in load.faces):
            if load.kind != "displacement":
                return None
            unit = np.array(load.direction) / np.linalg.norm(load.direction)
            asked.append((load.faces, unit, at.now.values[load.name]))
    ends: dict[int, list[tuple[Array, float]]] = {}
    for faces, direction, value in asked:
        for face in (f for f in faces if f.body == body.name):
            along = bar.along(body.mesh.nodes[np.unique(body.mesh.faces[face.name])])
            if float(np.ptp(along)) > SAME * bar.length:
                return None
            ends.setdefault(0 if along[0] < bar.length / 2 else stations - 1, []).append((direction, value))
    for end, rows in ends.items():
        told = _in_frame(bar.frame, np.array([d for d, _ in rows]), np.array([v for _, v in rows]))
        if told is None:
            return None
        out += [(end, row, value) for row, value in told]
    return out


def _in_frame(frame: Array, directions: Array, values: Array) -> list[tuple[Array, float]] | None:
    """What is asked of the motion and turn (6,) of an end whose face moves by ``values`` (k,) mm along ``directions``
    (k, 3); None where these stand askew to the bar."""
    if np.linalg.matrix_rank(directions, tol=ACROSS) == 3:
        moved, *_ = np.linalg.lstsq(directions, values, rcond=None)
        directions, values = frame, frame @ moved
    none, out, across = np.zeros(3), [], 0
    for direction, value in zip(directions, values.tolist(), strict=True):
        cosine = abs(float(direction @ frame[0]))
        if ACROSS < cosine < ALONG:
            return None
        out.append((np.concatenate([direction, none]), value))
        if cosine >= ALONG:
            # A whole face that does not move along the bar does not tilt.
            out += [(np.concatenate([none, axis]), 0.0) for axis in frame[1:]]
        else:
            across += 1
    if across > 1:
        # One that is held across in both ways does not twist.
        out.append((np.concatenate([none, frame[0]]), 0.0))
    return out


def _depth(section: Section) -> float:
    return float(np.ptp(section.points, axis=0).max())


def _stress(section: Section, bent: Bent) -> float:
    """The highest von Mises stress (MPa) anywhere."""
    normal, shear = section.stress(section.points, bent.forces.reshape(-1, 1, 6))
    return float(np.sqrt(normal**2 + 3 * (shear**2).sum(axis=-1)).max())
