"""Everything the ledger and the lanes need from one increment, as plain numbers."""

from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.model import Body, Model
from ulmek.core.review.balance import balance_of
from ulmek.core.review.beams import largest_forces, section_forces
from ulmek.core.review.components import strength
from ulmek.core.review.pair_fields import summarise_pair
from ulmek.core.review.recover import Recovered, von_mises
from ulmek.core.solve.history import Increment, Path

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Summary:
    """One increment in numbers (N, MPa, mm, N·mm).

    pairs: name → `PairSummary` as a dict, with ``yield_share``: highest von Mises stress on the
    pair's faces over the yield stress there, and their max_plastic_strain. parts: name → max_von_mises,
    max_displacement,
    yield_share (None without a yield stress), safety (`strength` over it; None without one), max_plastic_strain,
    stress_error (see `Recovered`); of beams section_forces, see `largest_forces`.
    supports: name → force, moment. energy: kinetic and per spring (N·mm). bolts: name → force, shortening.
    """

    step: int
    number: int
    time: float
    iterations: int
    values: dict[str, float]
    pairs: dict[str, dict[str, Any]]
    parts: dict[str, dict[str, Any]]
    bolts: dict[str, dict[str, float]]
    supports: dict[str, dict[str, list[float]]]
    balance: dict[str, Any]
    energy: dict[str, Any]
    largest: dict[str, float] = field(default_factory=dict)

    def as_dict(self) -> dict[str, Any]:
        """Plain nested dicts, ready for JSON."""
        return asdict(self)


def summarise(path: Path, increment: Increment, fields: Recovered) -> Summary:
    """Summary of one increment with its nodal ``fields``."""
    model, nodes = path.model, path.system.nodes
    mises = von_mises(fields.stress)
    limit = _yield_at_nodes(model)
    offsets = model.offsets()
    moved = np.linalg.norm(increment.state.u[: offsets[-1]], axis=1)
    parts: dict[str, dict[str, Any]] = {}
    for i, body in enumerate(model.bodies):
        here = slice(int(offsets[i]), int(offsets[i + 1]))
        parts[body.name] = {
            "max_von_mises": float(mises[here].max()),
            "max_displacement": float(moved[here].max()),
            "max_plastic_strain": float(fields.plastic_strain[here].max()),
            "yield_share": _share(mises[here], limit[here]),
            "safety": _safety(body, float(mises[here].max()), float(fields.plastic_strain[here].max())),
            "stress_error": float(fields.stress_error[here].max()),
        }
    for beam in model.beams:
        forces = section_forces(path.system.structure, beam, increment)
        parts[beam.body]["section_forces"] = largest_forces(forces)
    pairs = {}
    for i, pair in enumerate(model.pairs):
        patch = np.unique(np.concatenate([increment.state.interfaces[i].node, model.nodes_of(pair.side_b)]))
        pairs[pair.name] = {
            **asdict(summarise_pair(model, nodes, increment, i)),
            "yield_share": _share(mises[patch], limit[patch]),
            "max_plastic_strain": float(fields.plastic_strain[patch].max(initial=0.0)),
        }
    b = balance_of(path.system.constraints, model, increment)
    return Summary(
        step=increment.step,
        number=increment.number,
        time=increment.time,
        iterations=increment.iterations,
        values={load.name: float(v) for load, v in zip(model.loads, increment.values, strict=True)},
        pairs=pairs,
        parts=parts,
        bolts={
            bolt.name: {"force": float(f), "shortening": float(d)}
            for bolt, f, d in zip(model.bolts, increment.bolt_force, increment.shortening, strict=True)
        },
        supports={
            n: {"force": list(map(float, f)), "moment": list(map(float, m))} for n, (f, m) in b.reactions.items()
        },
        balance={
            "closing_error": b.closing_error,
            "applied": list(map(float, b.applied)),
            "scale": b.scale,
            "parts": b.parts,
        },
        energy=_energies(path, increment),
        largest={"displacement": float(moved.max()), "von_mises": float(mises.max())},
    )


def _energies(path: Path, increment: Increment) -> dict[str, Any]:
    """Kinetic energy, and what each spring holds, weak stabilising ones among them (N·mm)."""
    u, layout = increment.state.u, path.system.constraints.layout
    springs = {}
    for spring in path.model.springs:
        a = layout.handles[spring.a]
        stretch = np.concatenate([u[a], u[a + 1]])
        if spring.b is not None:
            b = layout.handles[spring.b]
            stretch = stretch - np.concatenate([u[b], u[b + 1]])
        springs[spring.name] = float(np.array([*spring.stiffness, *spring.turning]) @ stretch**2 / 2)
    return {"kinetic": increment.state.kinetic, "springs": springs}


def _yield_at_nodes(model: Model) -> Array:
    limits = [b.material.yield_stress if b.material.yield_stress is not None else np.inf for b in model.bodies]
    return np.repeat(limits, np.diff(model.offsets()))


def _safety(body: Body, stress: float, plastic: float) -> float | None:
    """None too where a part has yielded and only its yield stress is known: today's stress says nothing then."""
    if plastic > 0 and body.allowable is None:
        return None
    limit = strength(body)
    return limit / stress if limit is not None and stress > 0 else None


def _share(stress: Array, limit: Array) -> float | None:
    known = np.isfinite(limit)
    return float((stress[known] / limit[known]).max()) if known.any() else None
