"""One sample of a series, solved wherever a worker is: the study with its changes, and the ledger at the end of each
step."""

import time
from typing import Literal

from pydantic import BaseModel

from ulmek.core.errors import StoppedError, UlmekError
from ulmek.core.review.summary import Summary
from ulmek.runs.solve import Kept, solve_study
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.variant import Change
from ulmek.study.ledger.cells import Grade
from ulmek.study.preflight import require_runnable
from ulmek.study.sampling import Value
from ulmek.study.settling import measured
from ulmek.study.spoken import in_words
from ulmek.study.variants import with_changes


class Measured(BaseModel):
    """A cell of the ledger at the end of a step (from 0): its value, band, grade and verdict."""

    row: str
    column: str
    step: int
    name: str
    unit: str
    value: float
    band: tuple[float, float | None] | None
    grade: Grade
    told: str = ""


class SampleResult(BaseModel):
    """What a sample came to. is_loose: not solved, for nothing holds it; reused: with the factors of one before."""

    number: int
    values: dict[str, Value]
    status: Literal["solved", "not-converged", "failed"]
    message: str = ""
    where: str = ""
    measures: list[Measured] = []
    seconds: float = 0.0
    is_loose: bool = False
    reused: bool = False


class _Keeping:
    """What this process keeps of the last sample, for the next of the same study and the same stiffness."""

    key, kept = "", Kept()


def solve_sample(text: str, sample: str, changes: list[dict[str, object]], key: str, most: float) -> str:
    """Solve a sample (JSON of a `SampleResult` without its results) of a study (JSON) with changes, using what this
    process keeps of one before with the same ``key``, within ``most`` seconds; returns its `SampleResult` as JSON.

    What is wrong with the sample is in what it returns: nothing is raised that another try could mend.
    """
    began = time.perf_counter()
    result = SampleResult.model_validate_json(sample)
    is_first = _Keeping.key != key
    if is_first:
        _Keeping.key, _Keeping.kept = key, Kept()

    def watch(_: object) -> None:
        if time.perf_counter() - began > most:
            raise StoppedError(f"stopped after {most:.0f} s, many times what others took.")

    study = read_study(text)
    try:
        study = with_changes(study, [Change.model_validate(c) for c in changes])
        if is_first:
            require_runnable(study)
        # Without first trials: a sample comes to the same whichever was solved before it.
        _Keeping.kept.landmarks = []
        outcome = solve_study(study, tell=watch, kept=_Keeping.kept, ends_only=True)
        result.status = "solved" if outcome.status == "solved" else "not-converged"
        result.message, result.where, result.reused = outcome.message, outcome.where, outcome.reused
        result.is_loose = bool(outcome.mechanism)
        result.measures = measures_of(study, outcome.summaries)
    except UlmekError as error:
        _Keeping.key, _Keeping.kept = "", Kept()
        result.status, result.message, result.where = "failed", f"{error.message} {error.hint}".strip(), error.where
    except MemoryError:
        _Keeping.key, _Keeping.kept = "", Kept()
        result.status, result.message = "failed", "this sample needs more memory than its worker may take."
    result.message = in_words(study, result.message)
    result.seconds = time.perf_counter() - began
    return result.model_dump_json()


def measures_of(study: StudyDocument, summaries: list[Summary]) -> list[Measured]:
    """Every cell of the ledger that a verdict rests on, at the end of each step that was reached."""
    return [
        Measured(
            row=row, column=column, step=step, name=at.name, unit=cell.unit, value=cell.value or 0.0, band=cell.band,
            grade=cell.grade, told=cell.verdict,
        )
        for step in sorted({s.step for s in summaries if s.time == 1.0})
        for (row, column), (at, cell) in measured(study, summaries, step).items()
    ]  # fmt: skip
