"""Whether what is measured is settled: its values on finer and finer meshes, where they go, and the next mesh."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.spatial import cKDTree

from ulmek.core.errors import MeshError
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.review.refine import (
    Doubt,
    RunEnd,
    covering,
    energy_doubt,
    evenly,
    is_at_edge,
    pair_doubt,
    reach_of,
    size_at_nodes,
    sliding_doubt,
    stress_doubt,
    swept_around,
    within_reach,
)
from ulmek.core.review.singular import SingularPlace
from ulmek.core.review.summary import Summary
from ulmek.study.awake import awake
from ulmek.study.items import Part, Patch, StudyDocument
from ulmek.study.items.item import part_of
from ulmek.study.items.part import MOST_FOUND, FoundSize
from ulmek.study.ledger import COLUMNS, Cell, Row, build_ledger
from ulmek.study.ledger.pairs import RESOLVED
from ulmek.study.ledger.parts import singular_name
from ulmek.study.ledger.purpose import AT_A_POINT, INSTEAD, are_beams
from ulmek.study.limits import grows, limit_of
from ulmek.study.meshes import found_points
from ulmek.study.resolved import hertz_of
from ulmek.study.solids import is_free_form, part_solid
from ulmek.study.translate import body_names, placed_axes, translate_parts
from ulmek.study.units import value_of

Array = NDArray[np.float64]

# Meshes that are solved at most, and unknowns of the last where no budget is given.
MOST_MESHES, BUDGET = 7, 200_000
# Share by which what is settled may still change.
WITHIN = 0.05
# What changes by less than a share of this is nothing that is judged: MPa, µm, µm, share of strength.
FLOORS = {"pressure": 1.0, "penetration": 0.1, "sliding": 0.5, "yielding": 0.3}
NAMES = {"pressure": "peak pressure", "penetration": "penetration", "sliding": "sliding", "yielding": "use of strength"}
# What is tried where all of it passes the budget: where energy is wrong too or not, and how much of the wanted change
# of size.
ATTEMPTS = ((True, 1.0), (False, 1.0), (False, 0.6), (False, 0.35))
# Elements no smaller than this share of those before, where Hertz knows how wide it presses.
JUMP = 1 / 24
# A size that nothing is coarser than (mm): it asks for nothing.
ANY = 1e6
# A place is that of a singularity when it is no further from it than so many elements.
BESIDE = 4

State = Literal["settled", "singular", "open"]


class OnMesh(BaseModel):
    """A measure on one mesh: its value, its band there, and the size (mm) of the elements where it is highest."""

    value: float
    band: tuple[float, float | None] | None
    size: float


class SettledMeasure(BaseModel):
    """One cell of the ledger at the end of a step (from 0), on all meshes so far.

    limit: the value that finer meshes go to, with its band. order: that at which they do, seen on the last three.
    told: what is to be said of it.
    """

    row: str
    column: str
    step: int = 0
    name: str
    unit: str
    values: list[OnMesh | None]
    state: State = "open"
    limit: float | None = None
    band: tuple[float, float | None] | None = None
    order: float | None = None
    told: str = ""


class SolvedMesh(BaseModel):
    """One mesh: its unknowns, elements, and the seconds that its solution took."""

    unknowns: int
    elements: int
    seconds: float


class Settled(BaseModel):
    """How far a study is settled within a share, on meshes up to a budget of unknowns. found: points of finer
    elements by part, of mesh number ``planned``, which is the last or goes on. reach: how far (mm)
    singular places reach by their keys, on every mesh alike. ended: why there is no next."""

    within: float
    budget: int
    meshes: list[SolvedMesh] = []
    measures: list[SettledMeasure] = []
    found: dict[str, list[FoundSize]] = {}
    planned: int = 0
    reach: dict[str, float] = {}
    ended: str = ""

    @property
    def cost(self) -> float:
        """Seconds of all meshes over those of the last."""
        return sum(m.seconds for m in self.meshes) / self.meshes[-1].seconds

    @property
    def is_settled(self) -> bool:
        """Whether nothing is open any more."""
        return bool(self.measures) and all(m.state != "open" for m in self.measures)


Key = tuple[str, str]


def measured(study: StudyDocument, summaries: list[Summary], step: int) -> dict[Key, tuple[Row, Cell]]:
    """The cells of the ledger at the end of a step that a verdict rests on, by row and column."""
    at = max(i for i, s in enumerate(summaries) if s.step == step)
    ledger = build_ledger(study, summaries, at)
    cells = {(row.id, column): (row, getattr(row, column)) for row in ledger.rows for column in COLUMNS}
    # Faces that are enforced exactly do not cross.
    exact = {(p.id, "penetration") for p in awake(study).pairs if p.enforcement.method == "exact"}
    return {
        k: (r, c)
        for k, (r, c) in cells.items()
        if c is not None and c.value is not None and c.grade != "none" and k not in exact
    }


class Judge:
    """Judges, mesh after mesh, what is settled, and says where the next has to be finer. A measure is taken at the end
    of the step at which it is highest on the first mesh that has it."""

    def __init__(self, study: StudyDocument, settled: Settled) -> None:
        self.study, self.settled = awake(study), settled
        self._ends: dict[int, RunEnd] = {}
        self._left_out: dict[int, NDArray[np.bool_]] = {}

    def take(self, ends: Mapping[int, RunEnd], summaries: list[Summary], mesh: SolvedMesh) -> None:
        """Take up what a mesh gave at the ``ends`` of its steps."""
        done = self.settled
        done.meshes.append(mesh)
        count = len(done.meshes)
        self._ends = dict(ends)
        for end in ends.values():
            done.reach = reach_of(end) | done.reach
        self._left_out = {step: within_reach(end, done.reach) for step, end in ends.items()}
        cells = {step: measured(self.study, summaries, step) for step in ends}
        known = {(m.row, m.column): m for m in done.measures}
        for key in dict.fromkeys(k for of_step in cells.values() for k in of_step):
            if key in known:
                continue
            highest = max((s for s in cells if key in cells[s]), key=lambda s: cells[s][key][1].value or 0.0)
            row, cell = cells[highest][key]
            at = f", end of step {highest + 1}" if len(cells) > 1 else ""
            known[key] = SettledMeasure(
                row=key[0], column=key[1], step=highest, name=f"{row.name}, {NAMES[key[1]]}{at}", unit=cell.unit,
                values=[None] * (count - 1),
            )  # fmt: skip
            done.measures.append(known[key])
        for key, measure in known.items():
            found = cells.get(measure.step, {}).get(key)
            if found is None:
                measure.values.append(None)
                continue
            doubt = self._doubt(measure)
            size = doubt.now if doubt is not None else float(mesh.elements) ** (-1 / 3)
            cell = found[1]
            value = cell.value if doubt is None or doubt.use is None else doubt.use
            assert value is not None
            measure.values.append(OnMesh(value=value, band=cell.band, size=size))
            self._judge(measure, doubt)

    def next_study(self) -> StudyDocument | None:
        """The study on the next mesh; None, with the reason in `Settled.ended`, where there is none."""
        done = self.settled
        if done.is_settled:
            done.ended = "Every measure is settled, or singular."
            return None
        if len(done.meshes) >= MOST_MESHES:
            done.ended = f"{MOST_MESHES} meshes are solved, and some measures still change."
            return None
        doubts = [(d, m) for m in done.measures if m.state == "open" and (d := self._doubt(m)) is not None]
        spread = [(d, None) for end in self._ends.values() if (d := energy_doubt(end)) is not None]
        refused = ""
        for with_energy, part_of_it in ATTEMPTS:
            wanted = self._wanted([*doubts, *spread * with_energy]) or self._wanted([(evenly(self._ends[0]), None)])
            study = self._finer(wanted, part_of_it)
            try:
                bodies = translate_parts(study)
            except MeshError as error:
                refused = f"The next mesh could not be made: {error.message}"
                continue
            unknowns = 3 * sum(len(b.mesh.nodes) for b in bodies)
            if [len(b.mesh.nodes) for b in bodies] == [len(b.mesh.nodes) for b in self._ends[0].path.model.bodies]:
                refused = "The next mesh would be no finer."
                continue
            if unknowns <= done.budget:
                done.found = {p.id: list(p.mesh.found) for p in study.parts if p.mesh.found}
                return study
            refused = f"The next mesh would have {unknowns} unknowns, more than the budget of {done.budget}."
        done.ended = refused
        return None

    def _doubt(self, measure: SettledMeasure) -> Doubt | None:
        """Where a measure is read."""
        row, column, end = measure.row, measure.column, self._ends[measure.step]
        within = self.settled.within
        pairs = {p.id: i for i, p in enumerate(self.study.pairs)}
        if row in pairs:
            index, now = pairs[row], end.summary.pairs[row]
            if column == "sliding":
                return sliding_doubt(end, index, within=within, band=now.sliding_band)
            if column != "yielding":
                return pair_doubt(end, index, within=within, band=now.pressure_band, across=now.across)
            pair = end.path.model.pairs[index]
            nodes = np.unique(
                np.concatenate([end.increment.state.interfaces[index].node, end.path.model.nodes_of(pair.side_b)])
            )
            sides = {part_of(ref) for ref in (*self.study.pairs[index].a, *self.study.pairs[index].b)}
            judged = {p.judged for p in self.study.parts if p.id in sides}
            left_out = None if "everywhere" in judged else self._left_out[measure.step]
            return stress_doubt(end, nodes, within=within, left_out=left_out)
        part = next((p for p in self.study.parts if p.id == row), None)
        if part is None:
            return None
        offsets, model = end.path.model.offsets(), end.path.model
        here = [model.body_index(name) for name in body_names(part) if name not in model.beam_bodies]
        if not here:
            return None
        nodes = np.concatenate([np.arange(offsets[i], offsets[i + 1]) for i in here])
        left_out = None if part.judged == "everywhere" else self._left_out[measure.step]
        return stress_doubt(end, nodes, within=within, left_out=left_out)

    def _judge(self, measure: SettledMeasure, doubt: Doubt | None) -> None:
        """State, limit and words of a measure that has one more value."""
        end = self._ends[measure.step]
        seen = [v for v in measure.values if v is not None]
        values, sizes = np.array([v.value for v in seen]), np.array([v.size for v in seen])
        measure.state, measure.told = "open", ""
        pairs = {p.id: i for i, p in enumerate(self.study.pairs)}
        is_pressure = measure.row in pairs and measure.column in ("pressure", "penetration")
        if is_pressure and is_at_edge(end, pairs[measure.row]):
            measure.state, measure.limit, measure.band, measure.order = "singular", None, seen[-1].band, None
            measure.told = "Presses hardest along an edge, where pressure grows with every finer mesh: round the edge."
            return
        if is_pressure and are_beams(self.study, next(p for p in self.study.pairs if p.id == measure.row)):
            measure.state, measure.limit, measure.band, measure.order = "singular", None, None, None
            measure.told = f"{AT_A_POINT[0].upper()}{AT_A_POINT[1:]} {INSTEAD}"
            return
        measure.limit, measure.band, measure.order = limit_of(sizes, values)
        if len(seen) < 2:
            return
        floor = FLOORS[measure.column]
        least = self.settled.within * max(abs(values[-1]), floor)
        if len(seen) >= 3 and grows(sizes, values, least):
            corner = self._corner(end, doubt)
            # Where geometry knows of nothing, growth has to be seen twice.
            if corner is not None or (len(seen) >= 4 and grows(sizes[:-1], values[:-1], least)):
                measure.state, measure.limit, measure.band = "singular", None, (float(values[-1]), None)
                measure.told = f"Grows with every finer mesh: {corner or 'its place is singular'}."
                return
        change = abs(values[-1] - values[-2]) / max(abs(values[-1]), floor)
        across = end.summary.pairs[measure.row].across if is_pressure else None
        if across is not None and across < RESOLVED:
            measure.told = f"Presses over {across} elements, where it takes {RESOLVED}."
        elif change <= self.settled.within:
            measure.state, measure.told = "settled", f"Changed by {change:.1%} on the last mesh."
            if doubt is not None and doubt.beside is not None:
                self._tell_beside(measure, doubt.beside)
        else:
            measure.told = f"Still changed by {change:.0%} on the last mesh."

    def _tell_beside(self, measure: SettledMeasure, place: SingularPlace) -> None:
        """What is settled away from a singular place, at which it is higher."""
        measure.state = "singular"
        where = singular_name(self.study, place.kind, place.name)
        far = self.settled.reach[place.key]
        measure.told = f"Grows with every finer mesh at {where}; {far:.2g} mm from there it is settled. {measure.told}"

    def _corner(self, end: RunEnd, doubt: Doubt | None) -> str | None:
        """The singular place that a doubt is beside, in words; None beside none."""
        if doubt is not None:
            nodes, top = end.path.model.nodes(), doubt.nodes[doubt.sizes.argmin()]
            for place in end.judged.places:
                away, _ = cKDTree(nodes[place.nodes]).query(nodes[top])
                if away <= BESIDE * doubt.now:
                    return singular_name(self.study, place.kind, place.name)
        return None

    def _wanted(self, doubts: Sequence[tuple[Doubt, SettledMeasure | None]]) -> "dict[str, _Asked]":
        """By part, where it has to be finer."""
        model = self._ends[0].path.model
        nodes, size, offsets = model.nodes(), size_at_nodes(model), model.offsets()
        pairs = {p.name: p for p in model.pairs}
        asked: dict[str, list[Array]] = {}
        for doubt, measure in doubts:
            at = nodes[doubt.nodes]
            owner = np.searchsorted(offsets, doubt.nodes, side="right") - 1
            for body in np.unique(owner):
                here = owner == body
                asked.setdefault(model.bodies[body].name, []).append(np.column_stack([at[here], doubt.sizes[here]]))
            pair = pairs.get(measure.row) if measure is not None and measure.column != "yielding" else None
            if measure is not None and pair is not None:
                wanted = np.minimum(doubt.sizes, self._by_hertz(measure, doubt))
                for name in {f.body for f in (*pair.side_a, *pair.side_b)}:
                    asked.setdefault(name, []).append(np.column_stack([at, wanted]))
        highest = np.max([e.judged.mises for e in self._ends.values()], axis=0)
        out: dict[str, _Asked] = {}
        for part in self.study.parts:
            own, axis = [], None
            if any(name in asked for name in body_names(part)):
                axis = _sweep_of(self.study, part)
            for place, name in zip(part.placements, body_names(part), strict=True):
                if name not in asked:
                    continue
                rows = np.vstack(asked[name])
                index = model.body_index(name)
                here = slice(int(offsets[index]), int(offsets[index + 1]))
                _, nearest = cKDTree(nodes[here]).query(rows[:, :3])
                shift, turned = np.array([value_of(c, "length") for c in place.at]), placed_axes(place)
                at = (rows[:, :3] - shift) @ turned
                now = size[here][nearest]
                across, high = now, np.full(len(now), np.inf)
                if axis is not None:
                    swept = swept_around(model.bodies[index].mesh, turned @ axis, highest[here])
                    across = swept.across[nearest]
                    high = np.where(swept.varies[nearest], swept.high[nearest], np.inf)
                own.append(np.column_stack([at, rows[:, 3] / now, across, high]))
            if own:
                every = np.vstack(own)
                every = every[every[:, 3] < 1 / 1.05]
                if len(every):
                    out[part.id] = _Asked(every[:, :3], every[:, 3], every[:, 4], every[:, 5], axis)
        return out

    def _by_hertz(self, measure: SettledMeasure, doubt: Doubt) -> float:
        """Size (mm) that shows a peak where Hertz knows how wide it is; infinite where he does not."""
        end = self._ends[measure.step]
        model, force = end.path.model, end.summary.pairs[measure.row].normal_force
        used = next(p for p in model.pairs if p.name == measure.row)
        hertz = hertz_of(model, used.side_a, used.side_b, force) if force > 0 and used.side_b else None
        if hertz is None:
            return float("inf")
        return max(2 * min(hertz.short, hertz.half_width) / (RESOLVED + 1), JUMP * doubt.now)

    def _finer(self, wanted: "dict[str, _Asked]", part_of_it: float) -> StudyDocument:
        """The study with what was found before, and ``part_of_it`` of the change that is wanted now."""
        parts = []
        for part in self.study.parts:
            before, new = self.settled.found.get(part.id, part.mesh.found), wanted.get(part.id)
            found = before
            if new is not None:
                found = _covered(np.vstack([found_points(before), new.rows(part_of_it)]), new.axis)
            parts.append(part.model_copy(update={"mesh": part.mesh.model_copy(update={"found": found})}))
        return self.study.model_copy(update={"parts": parts})


@dataclass(frozen=True)
class _Asked:
    """Where a part has to be finer: points (k, 3) mm of its own axes, size over that of now (k,), the size of now
    across (k,) and the height of its layers (k,) mm, infinite where they may stay, or where it has none. axis (3,):
    that it is swept along, in its own axes."""

    points: Array
    factor: Array
    across: Array
    high: Array
    axis: Array | None

    def rows(self, part_of_it: float) -> Array:
        """Points with sizes and heights of layers (k, 5) for a part of the change."""
        factor = self.factor**part_of_it
        size = factor * self.across
        high = size if self.axis is None else np.minimum(factor * self.high, ANY)
        return np.column_stack([self.points, size, high])


def _covered(rows: Array, axis: Array | None) -> list[FoundSize]:
    """Few points for many, of a part that is swept along ``axis`` or not at all: sizes across do not change along it,
    nor heights of layers across it."""
    alike = rows[:, 3] == rows[:, 4]
    if axis is None or alike.all():
        return [_found(*row) for row in covering(rows[:, :3], rows[:, 3], MOST_FOUND).tolist()]
    along = np.outer(rows[:, :3] @ axis, axis)
    out = []
    for column, at in ((3, rows[:, :3] - along), (4, along)):
        own = rows[:, column] < ANY
        if own.any():
            for x, y, z, size in covering(at[own], rows[own, column], MOST_FOUND // 2).tolist():
                out.append(_found(x, y, z, size, ANY) if column == 3 else _found(x, y, z, ANY, size))
    return out


def _found(x: float, y: float, z: float, size: float, high: float | None = None) -> FoundSize:
    five = (float(f"{v:.5g}") for v in (x, y, z, size, size if high is None else high))
    x, y, z, size, high = five
    return (x, y, z, size) if size == high else (x, y, z, size, high)


def _sweep_of(study: StudyDocument, part: Part) -> Array | None:
    """The direction (3,) along which a part is swept in straight layers, in its own axes; None where it is not."""
    if study.space != "solid" or is_free_form(part.recipe.model_dump()):
        return None
    found = part_solid(part)
    return found.rotation[:, 2] if isinstance(found.solid, LayeredSolid) else None


def keeping_found(study: StudyDocument, found: dict[str, list[FoundSize]]) -> Patch:
    """The patch by which the parts that are still there keep the points of finer elements that were found."""
    return [
        {"op": "add", "path": f"/parts/{i}/mesh/found", "value": found[part.id]}
        for i, part in enumerate(study.parts)
        if part.id in found
    ]


def with_found(study: StudyDocument, found: dict[str, list[FoundSize]]) -> StudyDocument:
    """The study with finer points found for some of its parts, by their ids."""
    parts = [
        part.model_copy(update={"mesh": part.mesh.model_copy(update={"found": found.get(part.id, part.mesh.found)})})
        for part in study.parts
    ]
    return study.model_copy(update={"parts": parts})
