"""The best value of inputs, within bounds and as long as verdicts hold: what is sought is least or most there."""

from collections.abc import Callable, Sequence
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from scipy.optimize import minimize, minimize_scalar

from ulmek.core.errors import InputError, UlmekError
from ulmek.runs.sample import Measured, measures_of
from ulmek.runs.scatter import WORSE
from ulmek.runs.solve import Kept, solve_study
from ulmek.study.items import StudyDocument
from ulmek.study.preflight import require_runnable
from ulmek.study.sampling import Input, Sample, Value, changes_of
from ulmek.study.variants import with_changes

Array = NDArray[np.float64]
UNSURE = WORSE.index("unsure")
# What a try that does not hold or is not solved counts more than any that is.
BEYOND = 1e9
# Share of the range of an input within which its best value is found; tries at most.
WITHIN, TRIES = 1e-3, 60
# A value nearer to an end of its range than this share is at it: the best may lie beyond.
AT_END = 5e-3


class Goal(BaseModel):
    """What is sought: the largest of ``measures`` ("row/column" of the ledger) at the ends of all steps is to be least,
    or the smallest of them most, while the verdicts of ``holds`` hold."""

    measures: list[str] = Field(min_length=1)
    sense: Literal["least", "most"] = "least"
    holds: list[str] = []


class Tried(BaseModel):
    """A try: values of the inputs by their ids, what the goal was (None: not solved), whether all held, and how far off
    they were (0 to 1: the larger what fails, the further)."""

    values: dict[str, Value]
    goal: float | None
    holds: bool
    off: float = 0.0
    message: str = ""


class Best(BaseModel):
    """The best of all tries, None where none held; ``at_end``: inputs whose best lies at an end of their range."""

    best: Tried | None
    at_end: list[str]
    tries: list[Tried]


def find_best(
    study: StudyDocument, inputs: Sequence[Input], goal: Goal, *, tries: int = TRIES,
    tell: Callable[[Tried], None] = lambda _: None,
) -> Best:  # fmt: skip
    """Seek the best values of inputs: of one by golden sections and parabolas (Brent 1973), of several by a simplex
    (Nelder and Mead 1965) from the middle of their ranges.

    Raises
    ------
    InputError : an input is a choice, or the ledger has no such measure.
    """
    for i in inputs:
        if i.is_choice:
            raise InputError(f"'{i.use.name}' is one of some values, which have no best between them.", where=i.use.id)
    search = _Search(study, inputs, goal, tell)
    if len(inputs) == 1:
        minimize_scalar(
            lambda u: search.at(np.array([u])), bounds=(0.0, 1.0), method="bounded",
            options={"xatol": WITHIN, "maxiter": tries},
        )  # fmt: skip
    else:
        middle, ends = np.full(len(inputs), 0.5), [(0.0, 1.0)] * len(inputs)
        minimize(
            search.at, middle, bounds=ends, method="Nelder-Mead",
            options={"xatol": WITHIN, "fatol": 1e-6, "maxfev": tries},
        )  # fmt: skip
    held = [(t, u) for t, u in zip(search.tried, search.places, strict=True) if t.holds and t.goal is not None]
    if not held:
        return Best(best=None, at_end=[], tries=search.tried)
    sign = 1 if goal.sense == "least" else -1
    best, place = min(held, key=lambda tried: sign * (tried[0].goal or 0.0))
    at_end = [i.use.id for i, u in zip(inputs, place, strict=True) if min(u, 1 - u) < AT_END]
    return Best(best=best, at_end=at_end, tries=search.tried)


class _Search:
    """Tries values, each a share of the range of its input."""

    def __init__(
        self, study: StudyDocument, inputs: Sequence[Input], goal: Goal, tell: Callable[[Tried], None]
    ) -> None:
        self.study, self.inputs, self.goal, self.tell = study, inputs, goal, tell
        self.kept = Kept()
        self.tried: list[Tried] = []
        self.places: list[Array] = []

    def at(self, u: Array) -> float:
        """What is to be least at shares ``u`` (n,)."""
        values = {i.use.id: i.between(float(x)) for i, x in zip(self.inputs, u, strict=True)}
        tried = self._try(values)
        self.tried.append(tried)
        self.places.append(np.asarray(u))
        self.tell(tried)
        if tried.goal is None:
            return 2 * BEYOND
        sought = tried.goal if self.goal.sense == "least" else -tried.goal
        return sought if tried.holds else BEYOND * (1 + tried.off)

    def _try(self, values: dict[str, Value]) -> Tried:
        try:
            study = with_changes(self.study, changes_of(self.inputs, Sample(0, values)))
            if not self.tried:
                require_runnable(study)
            self.kept.landmarks = []
            outcome = solve_study(study, kept=self.kept, ends_only=True)
        except UlmekError as error:
            if not self.tried:
                raise
            return Tried(values=values, goal=None, holds=False, message=error.message)
        if outcome.status != "solved":
            return Tried(values=values, goal=None, holds=False, message=outcome.message)
        measures = measures_of(study, outcome.summaries)
        found = [m.value for m in self._named(measures, self.goal.measures)]
        failing = [m.value for m in self._named(measures, self.goal.holds) if WORSE.index(m.grade) >= UNSURE]
        off = max((abs(v) / (1 + abs(v)) for v in failing), default=0.0)
        best = max(found) if self.goal.sense == "least" else min(found)
        return Tried(values=values, goal=best, holds=not failing, off=off)

    def _named(self, measures: list[Measured], names: list[str]) -> list[Measured]:
        known: dict[str, Any] = {}
        for m in measures:
            known.setdefault(f"{m.row}/{m.column}", []).append(m)
        for name in names:
            if name not in known:
                raise InputError(
                    f"the ledger has no '{name}'.", where="goal", hint=f"There: {', '.join(sorted(known))}."
                )
        return [m for name in names for m in known[name]]
