"""What a verification case is: an ordinary study, solved the ordinary way, against a closed form."""

import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from ulmek.core.errors import SolveError
from ulmek.runs.solve import Outcome, solve_study
from ulmek.store.results import ResultReader
from ulmek.study.schema import StudyDocument, read_study


@dataclass(frozen=True)
class Check:
    """One quantity of a case: reference and computed value, and the largest relative error allowed.

    A reference of 0 makes the error absolute, in units of ``scale``.
    """

    quantity: str
    unit: str
    reference: float
    computed: float
    limit: float
    scale: float = 0.0

    @property
    def error(self) -> float:
        """Relative error."""
        size = abs(self.reference) or self.scale
        return abs(self.computed - self.reference) / size

    @property
    def inside(self) -> bool:
        """Whether the error is within the limit."""
        return self.error <= self.limit


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
        return all(c.inside for c in self.checks) and self.closing_error < 1e-6

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

    @property
    def last(self) -> dict[str, Any]:
        """Summary of the last increment."""
        return self.outcome.summaries[-1]


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
        s["pairs"][p.id]["max_penetration"]
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
        closing_error=max(s["balance"]["closing_error"] for s in summaries),
        penetration=max(exact, default=0.0),
        increments=sum(s.increments for s in steps),
        iterations=sum(s.iterations for s in steps),
        cutbacks=sum(s.cutbacks for s in steps),
    )


def base_document(name: str, title: str, *, poisson: float = 0.3) -> dict[str, Any]:
    """A study with one steel and nothing else yet."""
    return {
        "format": "ulmek-study",
        "version": 1,
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
