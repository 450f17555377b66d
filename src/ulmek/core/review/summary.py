"""Everything the ledger and the lanes need from one increment, as plain numbers."""

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.meetings import Meeting
from ulmek.core.model import Body, Model
from ulmek.core.review.balance import Carrier, balance_of
from ulmek.core.review.beams import LargestForces, largest_forces, section_forces
from ulmek.core.review.bolt_cuts import BoltCut, worst_cut
from ulmek.core.review.components import strength
from ulmek.core.review.pair_fields import PairSummary, summarise_pair
from ulmek.core.review.recover import Recovered, von_mises
from ulmek.core.review.singular import SingularKind
from ulmek.core.review.trust import Band, Known, band_of_stress
from ulmek.core.solve.history import Increment, Path

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SingularTop:
    """The singular place with the highest stress of a part: why, of which pair, support or handle, and the von Mises
    stress read there (MPa), which is that of the mesh."""

    kind: SingularKind
    name: str
    stress: float


@dataclass(frozen=True)
class PartSummary:
    """One body at one increment (MPa, mm).

    yield_share: highest von Mises stress over the yield stress, None without one. safety: `strength` over the
    highest stress, None without one. stress_error: see `Recovered`. section_forces: of beams only.
    turn, bow: see `_far`. use: highest von Mises stress over `strength` away from singular places, None without one;
    use_anywhere: at these too. Bands: between what the highest stress and the uses lie on this mesh. singular: where
    the highest stress is singular. All these are None in results of earlier versions.
    """

    max_von_mises: float
    max_displacement: float
    max_plastic_strain: float
    yield_share: float | None
    safety: float | None
    stress_error: float
    section_forces: LargestForces | None = None
    turn: float = 0.0
    bow: float = 0.0
    stress_band: Band | None = None
    use: float | None = None
    use_band: Band | None = None
    use_anywhere: float | None = None
    use_anywhere_band: Band | None = None
    singular: SingularTop | None = None


@dataclass(frozen=True)
class BoltSummary:
    """One bolt at one increment: its force (N), how much it is shortened (mm), and what passes through the cut of its
    shank that is stressed most; None of a line, and in results of earlier versions."""

    force: float
    shortening: float
    worst: BoltCut | None = None


@dataclass(frozen=True)
class Closing:
    """How the forces close; see `Balance`."""

    closing_error: float
    applied: tuple[float, float, float]
    scale: float
    parts: dict[str, float]


@dataclass(frozen=True)
class Energies:
    """Energy of motion, and what each spring holds, weak stabilising ones among them (N·mm)."""

    kinetic: float
    springs: dict[str, float]


@dataclass(frozen=True)
class Largest:
    """Largest displacement (mm) and von Mises stress (MPa) of the whole."""

    displacement: float
    von_mises: float


@dataclass(frozen=True)
class Summary:
    """One increment in numbers (N, MPa, mm, N·mm), by the names of loads, pairs, bodies and bolts.

    step: counted from 0. number: of the increment, from 1. time: share of the step. met: faces that are in no pair and
    have met by now; None in results of earlier versions.
    """

    step: int
    number: int
    time: float
    iterations: int
    values: dict[str, float]
    pairs: dict[str, PairSummary]
    parts: dict[str, PartSummary]
    bolts: dict[str, BoltSummary]
    carriers: tuple[Carrier, ...]
    balance: Closing
    energy: Energies
    largest: Largest
    met: tuple[Meeting, ...] | None = None

    def carrier(self, name: str) -> Carrier:
        """The first carrier of force of that name: a support, a motion, a wall, a spring …"""
        return next(c for c in self.carriers if c.name == name)


def summarise(path: Path, increment: Increment, fields: Recovered, known: Known) -> Summary:
    """Summary of one increment with its nodal ``fields``; known: from the start, see there."""
    model = path.model
    mises = von_mises(fields.stress)
    stress = Judged(model, increment, fields, mises, known)
    moved = np.linalg.norm(increment.state.u[: model.offsets()[-1]], axis=1)
    b = balance_of(path.system.constraints, model, increment)
    return Summary(
        step=increment.step,
        number=increment.number,
        time=increment.time,
        iterations=increment.iterations,
        values={load.name: float(v) for load, v in zip(model.loads, increment.values, strict=True)},
        pairs=_pairs(path, increment, fields, stress, known),
        parts=_parts(path, increment, fields, stress, moved),
        bolts=_bolts(model, increment, fields),
        carriers=b.carriers,
        balance=Closing(b.closing_error, b.applied, b.scale, b.parts),
        energy=_energies(path, increment),
        largest=Largest(float(moved.max()), float(mises.max())),
        met=known.meetings.found(increment.state.u),
    )


def _parts(
    path: Path, increment: Increment, fields: Recovered, stress: "Judged", moved: Array
) -> dict[str, PartSummary]:
    model = path.model
    limit, offsets, mises = _yield_at_nodes(model), model.offsets(), stress.mises
    beams = {beam.body: beam for beam in model.beams}
    out = {}
    for i, body in enumerate(model.bodies):
        here = slice(int(offsets[i]), int(offsets[i + 1]))
        beam, forces = beams.get(body.name), None
        turn, bow = _far(body.mesh.nodes, increment.state.u[here])
        if beam is not None:
            forces = largest_forces(section_forces(path.system.structure, beam, increment))
        out[body.name] = PartSummary(
            max_von_mises=float(mises[here].max()),
            max_displacement=float(moved[here].max()),
            max_plastic_strain=float(fields.plastic_strain[here].max()),
            yield_share=_share(mises[here], limit[here]),
            safety=_safety(body, float(mises[here].max()), float(fields.plastic_strain[here].max())),
            stress_error=float(fields.stress_error[here].max()),
            section_forces=forces,
            turn=turn,
            stress_band=band_of_stress(mises[here], fields.stress_error[here]),
            singular=stress.singular(np.arange(here.start, here.stop)),
            **stress.uses(np.arange(here.start, here.stop)),
            bow=bow,
        )
    return out


def _far(nodes: Array, u: Array) -> tuple[float, float]:
    """About how far (rad) a body of ``nodes`` (n, 3) mm turns somewhere with displacements ``u`` (n, 3) mm, and how far
    it moves beside its middle over its least extent: neither counts motion as a whole, of which small motion is true.
    """
    extents = np.ptp(nodes, axis=0)
    beside = float(np.linalg.norm(u - u.mean(axis=0), axis=1).max())
    return 2 * beside / float(extents.max()), beside / float(extents[extents > 0].min())


def _pairs(
    path: Path, increment: Increment, fields: Recovered, stress: "Judged", known: Known
) -> dict[str, PairSummary]:
    model, limit, mises = path.model, _yield_at_nodes(path.model), stress.mises
    out = {}
    for i, pair in enumerate(model.pairs):
        patch = np.unique(np.concatenate([increment.state.interfaces[i].node, model.nodes_of(pair.side_b)]))
        out[pair.name] = replace(
            summarise_pair(model, path.system.nodes, increment, i, known.pairs[i]),
            yield_share=_share(mises[patch], limit[patch]),
            bears=stress.least_strength(patch),
            **stress.uses(patch),
            max_plastic_strain=float(fields.plastic_strain[patch].max(initial=0.0)),
        )
    return out


def _bolts(model: Model, increment: Increment, fields: Recovered) -> dict[str, BoltSummary]:
    out = {}
    for bolt, force, shortening in zip(model.bolts, increment.bolt_force, increment.shortening, strict=True):
        if bolt.spring is None:
            cut = None
            if bolt.body is not None:
                cut = worst_cut(model, bolt, increment.state.u, fields.force, large=increment.large)
            out[bolt.name] = BoltSummary(float(force), float(shortening), cut)
    return out


def _energies(path: Path, increment: Increment) -> Energies:
    u, layout = increment.state.u, path.system.constraints.layout
    springs = {}
    for spring in path.model.springs:
        a = layout.handles[spring.a]
        stretch = np.concatenate([u[a], u[a + 1]])
        if spring.b is not None:
            b = layout.handles[spring.b]
            stretch = stretch - np.concatenate([u[b], u[b + 1]])
        springs[spring.name] = float(np.array([*spring.stiffness, *spring.turning]) @ stretch**2 / 2)
    for bolt, force in zip(path.model.bolts, increment.bolt_force, strict=True):
        if bolt.spring is not None:
            springs[bolt.spring] = float(force**2 / bolt.stiffness / 2)
    return Energies(increment.state.kinetic, springs)


def _yield_at_nodes(model: Model) -> Array:
    limits = [b.material.yield_stress if b.material.yield_stress is not None else np.inf for b in model.bodies]
    return np.repeat(limits, np.diff(model.offsets()))


def _strength_at_nodes(model: Model) -> Array:
    limits = [np.inf if (bears := strength(b)) is None else bears for b in model.bodies]
    return np.repeat(limits, np.diff(model.offsets()))


def _safety(body: Body, stress: float, plastic: float) -> float | None:
    """None too where a part has yielded and only its yield stress is known: today's stress says nothing then."""
    if plastic > 0 and body.allowable is None:
        return None
    limit = strength(body)
    return limit / stress if limit is not None and stress > 0 else None


class Judged:
    """Von Mises stress at the nodes as it is judged: with what bears it, its error, and where it is singular."""

    def __init__(self, model: Model, increment: Increment, fields: Recovered, mises: Array, known: Known) -> None:
        self.mises, self.error = mises, fields.stress_error
        self.strength = _strength_at_nodes(model)
        presses = {
            pair.name: bool(increment.joint.traction[increment_nodes, 2].max(initial=0.0) > 0)
            for pair, increment_nodes in zip(model.pairs, _nodes_of_pairs(increment), strict=True)
        }
        self.places = [p for p in known.singular if p.kind != "contact-edge" or presses.get(p.name, False)]
        self.is_singular = np.zeros(len(mises), bool)
        for place in self.places:
            self.is_singular[place.around] = True

    def uses(self, at: NDArray[np.int64]) -> dict[str, Any]:
        """Use of strength at nodes, away from singular places and anywhere, with bands."""
        away = at[~self.is_singular[at]]
        return {
            "use": _share(self.mises[away], self.strength[away]),
            "use_band": _share_band(self.mises[away], self.error[away], self.strength[away]),
            "use_anywhere": _share(self.mises[at], self.strength[at]),
            "use_anywhere_band": _share_band(self.mises[at], self.error[at], self.strength[at]),
        }

    def least_strength(self, at: NDArray[np.int64]) -> float | None:
        """The least of what bears the stress at nodes (MPa), None where nothing is given."""
        least = float(self.strength[at].min(initial=np.inf))
        return least if np.isfinite(least) else None

    def singular(self, at: NDArray[np.int64]) -> SingularTop | None:
        """The singular place where the highest stress at nodes is; None where it is elsewhere."""
        top = int(at[self.mises[at].argmax()])
        for place in self.places:
            if top in place.around:
                return SingularTop(place.kind, place.name, float(self.mises[top]))
        return None


def _nodes_of_pairs(increment: Increment) -> list[slice]:
    """Where the contact nodes of each pair are among all."""
    ends = np.cumsum([0, *(len(f.node) for f in increment.state.interfaces)])
    return [slice(int(a), int(b)) for a, b in pairwise(ends)]


def _share_band(stress: Array, error: Array, limit: Array) -> Band | None:
    known = np.isfinite(limit)
    return band_of_stress(stress[known], error[known], limit[known]) if known.any() else None


def _share(stress: Array, limit: Array) -> float | None:
    known = np.isfinite(limit)
    return float((stress[known] / limit[known]).max()) if known.any() else None
