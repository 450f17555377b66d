"""What a run says while it goes on, event by event: the lines of `events.jsonl` and what the page hears."""

from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from ulmek.core.review.summary import Summary
from ulmek.study.settling import Settled


class _Event(BaseModel):
    """``seconds`` since the run began; None where a dead worker's story was closed for it."""

    seconds: float | None = None


class Phase(_Event):
    """The run does something before its first step; what is known then comes with it."""

    kind: Literal["phase"] = "phase"
    phase: Literal["check", "mesh", "factor", "solve"]
    unknowns: int | None = None
    joint_unknowns: int | None = None
    backend: str | None = None
    path: str | None = None
    reason: str | None = None
    factor_seconds: float | None = None
    reused: bool | None = None


class Resumed(_Event):
    """It goes on after increment ``number`` of an earlier run, at a share ``time`` of a step, with the results of
    ``kept`` increments; of all of them in events of before 0.10.0."""

    kind: Literal["resumed"] = "resumed"
    step: int
    time: float
    number: int
    kept: int | None = None


class StepBegan(_Event):
    """A step begins."""

    kind: Literal["step"] = "step"
    step: int
    name: str


class Iterated(_Event):
    """One iteration; see `core.solve.state.Iteration`."""

    kind: Literal["iteration"] = "iteration"
    step: int
    time: float
    number: int
    change: float
    status_changes: int
    unknowns: int


class CutBack(_Event):
    """An increment did not settle and is made smaller: its new ``size`` as a share of the step; or ``slowly``: what the
    step has released is let go bit by bit from now on."""

    kind: Literal["cutback"] = "cutback"
    step: int
    time: float
    size: float
    slowly: bool = False


class Converged(_Event):
    """An increment converged; ``kept``: with all its results, not by this summary alone."""

    kind: Literal["increment"] = "increment"
    summary: Summary
    kept: bool = True


class Settling(_Event):
    """A mesh of a study that is being settled begins, counted from 1; what those before gave."""

    kind: Literal["settling"] = "settling"
    mesh: int
    settled: Settled


class LooseBody(BaseModel):
    """A body that nothing holds and a sample of its rigid motion: three translations (mm), three turns (rad) about its
    middle."""

    body: str
    motion: tuple[float, float, float, float, float, float]


class Ended(_Event):
    """The run is over. mechanism: what nothing held when it could not go on."""

    kind: Literal["end"] = "end"
    status: Literal["solved", "not-converged", "stopped", "failed"]
    message: str = ""
    where: str = ""
    hint: str = ""
    mechanism: list[LooseBody] = Field(default_factory=list)


def loose_bodies(mechanism: Iterable[tuple[str, tuple[float, ...]]]) -> list[LooseBody]:
    """A mechanism as an error has it, see `SolveError`."""
    return [LooseBody.model_validate({"body": body, "motion": motion}) for body, motion in mechanism]


RunEvent = Annotated[
    Phase | Resumed | StepBegan | Iterated | CutBack | Converged | Settling | Ended, Field(discriminator="kind")
]
