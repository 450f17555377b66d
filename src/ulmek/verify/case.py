"""What a verification case is: an ordinary study, solved the ordinary way, against a closed form."""

import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import SolveError
from ulmek.core.review.fields import PAIR_STORED
from ulmek.core.review.inside import cells_of_vtk, places
from ulmek.core.review.summary import Summary
from ulmek.runs.solve import Outcome, solve_study
from ulmek.store.results import ResultReader
from ulmek.study.items import StudyDocument, read_study


@dataclass(frozen=True)
class Check:
    """One quantity of a case: reference and computed value, and the largest relative error allowed; without a limit
    it is reported only.

    A reference of 0 makes the error absolute, in units of ``scale``.
    """

    quantity: str
    unit: str
    reference: float
    computed: float
    limit: float | None
    scale: float = 0.0

    @property
    def error(self) -> float:
        """Relative error."""
        size = abs(self.reference) or self.scale
        return abs(self.computed - self.reference) / size

    @property
    def inside(self) -> bool:
        """Whether the error is within the limit."""
        return self.limit is None or bool(self.error <= self.limit)


@dataclass(frozen=True)
class CaseResult:
    """All checks of one case with the time it took, and what every solved case also reports."""

    case: str
    checks: list[Check]
    seconds: float
    closing_error: float
    penetration: float
    increments: int
    iterations: int
    cutbacks: int

    @property
    def inside(self) -> bool:
        """Whether every check is within its limit and the balance closes."""
        return all(c.inside for c in self.checks) and bool(self.closing_error < 1e-6)

    def as_dict(self) -> dict[str, Any]:
        """Plain dict for JSON, errors and verdicts included."""
        return {
            **asdict(self),
            "inside": self.inside,
            "checks": [{**asdict(c), "error": c.error, "inside": c.inside} for c in self.checks],
        }


@dataclass(frozen=True)
class Solved:
    """A solved study with access to its stored fields."""

    study: StudyDocument
    outcome: Outcome
    folder: Path

    def reader(self) -> ResultReader:
        """Open the result file."""
        return ResultReader(self.folder / "result.h5")

    def fields(self, part: str, increment: int = -1) -> dict[str, NDArray[np.float64]]:
        """Nodal fields of one part at an increment: points, displacement, stress, plastic_strain."""
        with self.reader() as result:
            names, offsets = result.bodies()
            here = slice(*offsets[names.index(part) :][:2])
            at = increment % result.count()
            out = {name: result.point_field(name, at)[here] for name in ("displacement", "stress", "plastic_strain")}
            return {"points": result.points()[here], **out}

    def along(self, points: NDArray[np.float64], increment: int = -1) -> NDArray[np.float64]:
        """Von Mises stress (k,) MPa at points (k, 3) mm, as a path of the review reads it."""
        with self.reader() as result:
            _, offsets = result.bodies()
            found = places(result.points(), cells_of_vtk(*result.cells(), offsets), points)
            return np.asarray(found.weights @ result.point_field("von_mises", increment % result.count()))

    def pair(self, pair: str, increment: int = -1) -> dict[str, NDArray[np.float64]]:
        """Points of the contact nodes of a pair, and its fields at an increment."""
        with self.reader() as result:
            node, _ = result.pair_patch(pair)
            at = increment % result.count()
            fields = {name: result.pair_field(pair, name, at) for name in PAIR_STORED}
            return {"points": result.points()[node], **fields}

    def end_of(self, step: int) -> int:
        """Number of the last increment of a step, counted from 0."""
        return max(i for i, s in enumerate(self.outcome.summaries) if s.step == step)

    @property
    def last(self) -> Summary:
        """Summary of the last increment."""
        return self.outcome.summaries[-1]


# What the elements of a plane study are called, by the settings that make them.
PLANE_ELEMENTS = {"bricks": "4-node quads", "second-order": "8-node quads", "tets": "triangles"}
# Enforcements that a contact case is solved with.
METHODS = ("exact", "augmented", "penalty")


def enforced(study: dict[str, Any], method: str) -> dict[str, Any]:
    """The study with every pair enforced by ``method``, augmented ones to within a millionth of a millimetre."""
    enforcement = {"method": method, "allowed": "1e-6 mm"} if method == "augmented" else {"method": method}
    return {**study, "pairs": [{**pair, "enforcement": enforcement} for pair in study["pairs"]]}


Solve = Callable[[dict[str, Any]], Solved]
Case = Callable[[Solve], list[Check]]


def run_case(name: str, case: Case) -> CaseResult:
    """Run one case; every study it solves counts towards its totals.

    Raises
    ------
    SolveError : a study of the case did not converge.
    """
    began = time.perf_counter()
    solved: list[Solved] = []
    with tempfile.TemporaryDirectory() as place:

        def solve(document: dict[str, Any]) -> Solved:
            folder = Path(place) / str(len(solved))
            study = read_study(document)
            outcome = solve_study(study, folder=folder)
            if outcome.status != "solved":
                raise SolveError(f"case '{name}': {outcome.message}")
            solved.append(Solved(study, outcome, folder))
            return solved[-1]

        checks = case(solve)
    summaries = [s for run in solved for s in run.outcome.summaries]
    exact = [
        s.pairs[p.id].max_penetration
        for run in solved
        for s in run.outcome.summaries
        for p in run.study.pairs
        if p.enforcement.method == "exact"
    ]
    steps = [step for run in solved for step in run.outcome.steps]
    return CaseResult(
        case=name,
        checks=checks,
        seconds=time.perf_counter() - began,
        closing_error=max(s.balance.closing_error for s in summaries),
        penetration=max(exact, default=0.0),
        increments=sum(s.increments for s in steps),
        iterations=sum(s.iterations for s in steps),
        cutbacks=sum(s.cutbacks for s in steps),
    )


def base_document(name: str, title: str, *, poisson: float = 0.3) -> dict[str, Any]:
    """A study with one steel and nothing else yet."""
    return {
        "format": "ulmek-study",
        "version": 2,
        "name": name,
        "title": title,
        "materials": [
            {"id": "steel", "name": "Steel", "young": "210 GPa", "poisson": poisson, "yield_stress": "355 MPa"}
        ],
        "parts": [],
        "pairs": [],
        "supports": [],
        "loads": [],
        "bolts": [],
        "steps": [],
    }


def part(
    name: str, recipe: str, dimensions: dict[str, Any], mesh: dict[str, Any], *, at: tuple[float, float] = (0.0, 0.0),
    material: str = "steel", turn: str = "",
) -> dict[str, Any]:  # fmt: skip
    """A part by recipe; plain numbers of dimensions are lengths in mm, ``sector`` is in degrees."""
    written = {k: v if k == "sector" else f"{v} mm" for k, v in dimensions.items()}
    place: dict[str, Any] = {"at": [f"{at[0]} mm", f"{at[1]} mm", "0 mm"]}
    if turn:
        axis, angle = turn.split()
        place["turn"] = {"axis": axis, "angle": f"{angle} deg"}
    return {
        "id": name, "name": name.capitalize(), "material": material,
        "recipe": {"kind": recipe, "dimensions": written}, "mesh": mesh, "placements": [place],
    }  # fmt: skip


def spot(at: tuple[float, float, float], size: float) -> dict[str, Any]:
    """A finer place of a mesh (mm)."""
    return {"at": [f"{c} mm" for c in at], "size": f"{size} mm"}


def symmetry(name: str, *faces: str) -> dict[str, Any]:
    """A plane of symmetry."""
    return {"id": name, "name": name.capitalize(), "kind": "symmetry", "faces": list(faces)}


def hold(name: str, components: list[str], *faces: str, **more: Any) -> dict[str, Any]:
    """Faces (or a handle) held in some components."""
    return {"id": name, "name": name, "kind": "components", "components": components, "faces": list(faces), **more}


def load(name: str, kind: str, values: dict[str, str], *faces: str, **more: Any) -> dict[str, Any]:
    """A load with its values by step."""
    return {"id": name, "name": name.capitalize(), "kind": kind, "faces": list(faces), "values": values, **more}


def step(name: str, size: float = 1.0, **more: Any) -> dict[str, Any]:
    """A step in increments of ``size``."""
    increments = {"start": size, "largest": size, "least": min(0.01, size), "most": 1000}
    return {"id": name, "name": name.capitalize(), "increments": increments, **more}


def block_part(
    part: str, size: tuple[float, float, float], mesh: float, at: float = 0.0, **more: Any
) -> dict[str, Any]:
    """A block part of ``size`` (mm) with its bottom at height ``at`` (mm)."""
    length, depth, height = size
    dimensions = {"length": f"{length} mm", "depth": f"{depth} mm", "height": f"{height} mm"}
    return {
        "id": part,
        "name": part.capitalize(),
        "material": "steel",
        "recipe": {"kind": "block", "dimensions": dimensions},
        "mesh": {"size": f"{mesh} mm", **more},
        "placements": [{"at": ["0 mm", "0 mm", f"{at} mm"]}],
    }
