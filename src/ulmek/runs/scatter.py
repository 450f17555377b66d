"""What the samples of a series tell: how sure each verdict is, what matters, where it turns, and which is the worst."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.stats import beta

from ulmek.runs.sample import Measured, SampleResult
from ulmek.study.ledger.cells import Grade
from ulmek.study.sampling import Input

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

# Row and column of whether it is held at all.
HELD = ("", "held")
# How sure a share is told.
CONFIDENCE = 0.95
# From the best to the worst; what was not solved comes last.
WORSE: tuple[Grade, ...] = ("none", "good", "watch", "unsure", "bad")
# Places along an input where a verdict may turn; what two conditions must tell better than one; below what nothing
# simple tells it.
TURNS, BETTER, TOLD = 24, 0.05, 0.5
# Samples that a fit takes beyond its own coefficients.
SPARE = 4


class Condition(BaseModel):
    """An input below or above a value in a unit."""

    input: str
    name: str
    side: Literal["below", "above"]
    value: float
    unit: str


class TurnsWhere(BaseModel):
    """Where a verdict turns: it fails where all conditions are met. Of how many samples that fail they tell so many,
    and so many of those that hold are there too."""

    conditions: list[Condition]
    fails_there: int
    fails: int
    holds_there: int
    holds: int
    text: str


class Effect(BaseModel):
    """What an input does to a measure by itself: its change at the low end and at the high end of the input, in the
    unit of the measure, from where the input is in its middle."""

    input: str
    name: str
    low: float
    high: float

    @property
    def range(self) -> float:
        """How much of the measure the input commands."""
        return max(abs(self.low), abs(self.high), abs(self.high - self.low))


class Sure(BaseModel):
    """A measure over all samples, at the end of the step where it is highest (its grade: the worst of all steps).

    holds, fails, unsure: samples of which that can be said, ``of`` those that were solved. low, high: between what the
    share that holds lies with 95 % confidence. fit: share of the scatter that the effects foretell.
    """

    row: str
    column: str
    step: int
    name: str
    unit: str
    holds: int
    fails: int
    unsure: int
    of: int
    low: float | None
    high: float | None
    least: float
    middle: float
    most: float
    worst: int
    effects: list[Effect]
    fit: float | None
    turn: TurnsWhere | None


class Findings(BaseModel):
    """What a series found: of how many samples how many were solved, and every verdict; where some were not, whether it
    is held at all stands first."""

    samples: int
    solved: int
    failed: list[int]
    verdicts: list[Sure]


@dataclass(frozen=True)
class _Table:
    """Solved samples as rows: inputs as numbers (n, d)."""

    results: Sequence[SampleResult]
    inputs: Sequence[Input]
    numbers: Array

    @classmethod
    def of(cls, results: Sequence[SampleResult], inputs: Sequence[Input]) -> "_Table":
        solved = [r for r in results if r.status == "solved"]
        rows = [[i.number_of(r.values.get(i.use.id)) for i in inputs] for r in solved]
        return cls(solved, inputs, np.array(rows, float).reshape(len(solved), len(inputs)))


def findings(results: Sequence[SampleResult], inputs: Sequence[Input]) -> Findings:
    """What a series found, the least sure verdict first."""
    table = _Table.of(results, inputs)
    keys = dict.fromkeys((m.row, m.column) for r in table.results for m in r.measures)
    found = [s for key in keys if (s := _sure(table, key)) is not None]
    failed = [r.number for r in results if r.status != "solved"]
    found.sort(key=lambda s: (s.holds - s.fails) / max(s.of, 1))
    if failed:
        found.insert(0, _held(results, inputs))
    return Findings(samples=len(results), solved=len(table.results), failed=failed, verdicts=found)


def _sure(table: _Table, key: tuple[str, str]) -> Sure | None:
    cells = [[m for m in r.measures if (m.row, m.column) == key] for r in table.results]
    if not all(cells):
        # Not every sample has it, such as one in which nothing presses: what is there is told.
        kept = [n for n, c in enumerate(cells) if c]
        table = _Table([table.results[n] for n in kept], table.inputs, table.numbers[kept])
        cells = [cells[n] for n in kept]
    if not cells:
        return None
    step = _highest_step(cells)
    at = [next((m for m in c if m.step == step), c[-1]) for c in cells]
    values = np.array([m.value for m in at])
    grades = np.array([max(WORSE.index(m.grade) for m in c) for c in cells])
    holds, fails = grades < WORSE.index("unsure"), grades == WORSE.index("bad")
    low, high = share_between(int(holds.sum()), int(fails.sum()))
    effects, fit = effects_of(table.numbers, values, table.inputs)
    worst = max(range(len(at)), key=lambda n: (grades[n], values[n]))
    return Sure(
        row=key[0], column=key[1], step=step, name=at[0].name, unit=at[0].unit,
        holds=int(holds.sum()), fails=int(fails.sum()), unsure=int((~holds & ~fails).sum()), of=len(at),
        low=low, high=high, least=float(values.min()), middle=float(np.median(values)), most=float(values.max()),
        worst=table.results[worst].number, effects=effects, fit=fit,
        turn=turn_of(table.numbers, holds, fails, table.inputs),
    )  # fmt: skip


def whether_held(result: SampleResult) -> Measured:
    """Whether a sample is held at all, as a measure: 0 where it is, 1 where nothing holds it."""
    grade: Grade = "good" if result.status == "solved" else "bad" if result.is_loose else "unsure"
    return Measured(
        row=HELD[0], column=HELD[1], step=0, name="All of it", unit="", value=float(grade != "good"), band=None,
        grade=grade, told=result.message,
    )  # fmt: skip


def _held(results: Sequence[SampleResult], inputs: Sequence[Input]) -> Sure:
    """Whether it is held at all, over all samples."""
    told = [
        SampleResult(number=r.number, values=r.values, status="solved", measures=[whether_held(r)]) for r in results
    ]
    found = _sure(_Table.of(told, inputs), HELD)
    assert found is not None
    return found


def step_of(results: Sequence[SampleResult], row: str, column: str) -> int:
    """The step (from 0) at whose end a measure is highest over all samples that have it."""
    cells = [[m for m in r.measures if (m.row, m.column) == (row, column)] for r in results]
    return _highest_step(kept) if (kept := [c for c in cells if c]) else 0


def _highest_step(cells: list[list[Measured]]) -> int:
    by_step: dict[int, list[float]] = {}
    for m in (m for c in cells for m in c):
        by_step.setdefault(m.step, []).append(m.value)
    return max(by_step, key=lambda step: (float(np.median(by_step[step])), step))


def share_between(holds: int, fails: int) -> tuple[float | None, float | None]:
    """Between what the share of all cases lies that hold, where so many of the samples did and so many did not, with
    95 % confidence (Clopper and Pearson 1934, Biometrika 26, 404–413); nothing of no samples."""
    if holds + fails == 0:
        return None, None
    tail = (1 - CONFIDENCE) / 2
    low = 0.0 if holds == 0 else float(beta.ppf(tail, holds, fails + 1))
    high = 1.0 if fails == 0 else float(beta.ppf(1 - tail, holds + 1, fails))
    return low, high


def effects_of(numbers: Array, values: Array, inputs: Sequence[Input]) -> tuple[list[Effect], float | None]:
    """What each input does to a measure by itself, the most first, from lines or parabolas without products, whichever
    foretell each sample best from all others, and the share of its scatter that they foretell (below 0: nothing).

    numbers (n, d), values (n,); nothing where there are too few samples or nothing scatters.
    """
    spread = float(((values - values.mean()) ** 2).sum()) if len(values) else 0.0
    varies = [k for k in range(numbers.shape[1]) if np.ptp(numbers[:, k]) > 0] if len(values) else []
    if spread <= 0 or not varies:
        return [], None
    ends = np.array([inputs[k].ends for k in varies])
    x = 2 * (numbers[:, varies] - ends[:, 0]) / (ends[:, 1] - ends[:, 0]) - 1
    fits = [f for columns in (x, np.hstack([x, x**2])) if (f := _fitted(columns, values)) is not None]
    if not fits:
        return [], None
    found, off = min(fits, key=lambda f: f[1])
    fit = 1 - off / spread
    slope = found[1 : len(varies) + 1]
    bend = found[len(varies) + 1 :] if len(found) > len(varies) + 1 else np.zeros(len(varies))
    effects = [
        Effect(input=inputs[k].use.id, name=inputs[k].use.name, low=float(b - s), high=float(b + s))
        for k, s, b in zip(varies, slope, bend, strict=True)
    ]
    return sorted(effects, key=lambda e: -e.range), fit


def _fitted(columns: Array, values: Array) -> tuple[Array, float] | None:
    """Coefficients of columns (n, k), a constant before them, that fit values (n,) best, and the sum of squares by
    which each is off when it is foretold from all others (Allen 1974, Technometrics 16, 125–127); None of too few."""
    if len(values) < columns.shape[1] + 1 + SPARE:
        return None
    columns = np.hstack([np.ones((len(values), 1)), columns])
    found, *_ = np.linalg.lstsq(columns, values)
    leverage = np.einsum("ni,in->n", columns, np.linalg.pinv(columns))
    off = (values - columns @ found) / np.maximum(1 - leverage, 1e-9)
    return np.asarray(found), float((off**2).sum())


def turn_of(numbers: Array, holds: Mask, fails: Mask, inputs: Sequence[Input]) -> TurnsWhere | None:
    """Where a verdict turns, in one condition or two that tell the samples which fail from those that hold best (by the
    share of what they name rightly of all that they name or should); None where nothing simple tells it.

    numbers (n, d); holds, fails (n,): neither of samples of which it cannot be said.
    """
    if not fails.any() or not holds.any():
        return None
    conditions = [c for k in range(len(inputs)) for c in _conditions(numbers[:, k], k, TURNS)]
    if not conditions:
        return None
    met = np.array([_is_met(numbers, c) for c in conditions], float)
    there, others = met[:, fails], met[:, holds]
    # Two conditions are met where both are; on the diagonal stands one alone.
    score = there @ there.T / (fails.sum() + others @ others.T)
    alone = int(np.diag(score).argmax())
    first, second = np.unravel_index(int(score.argmax()), score.shape)
    chosen = [conditions[alone]]
    if score[first, second] > score[alone, alone] + BETTER:
        chosen = [conditions[n] for n in sorted((int(first), int(second)))]
    # Between all samples, one condition after the other.
    for n in range(len(chosen)):
        chosen[n] = max(
            (c for c in _conditions(numbers[:, chosen[n][0]], chosen[n][0]) if c[1] == chosen[n][1]),
            key=lambda c: _score(numbers, [*chosen[:n], c, *chosen[n + 1 :]], holds, fails),
        )
    if _score(numbers, chosen, holds, fails) < TOLD:
        return None
    found = [_condition(c, inputs) for c in chosen]
    inside = _all_met(numbers, chosen)
    where = " and ".join(f"{c.name} is {c.side} {c.value:.3g} {c.unit}".rstrip() for c in found)
    counts = [int(mask.sum()) for mask in (inside & fails, fails, inside & holds, holds)]
    return TurnsWhere(
        conditions=found, fails_there=counts[0], fails=counts[1], holds_there=counts[2], holds=counts[3],
        text=f"Fails where {where}: {counts[0]} of {counts[1]} that fail, {counts[2]} of {counts[3]} that hold.",
    )  # fmt: skip


# An input, by its number, is above a value or not.
_Side = tuple[int, bool, float]


def _conditions(column: Array, k: int, most: int | None = None) -> list[_Side]:
    """Conditions on an input at places where a verdict may turn: between samples, at ``most`` so many."""
    values = np.unique(column)
    between = (values[1:] + values[:-1]) / 2
    if most is not None and len(between) > most:
        between = between[np.unique(np.linspace(0, len(between) - 1, most).round().astype(int))]
    return [(k, is_above, float(t)) for t in between for is_above in (False, True)]


def _is_met(numbers: Array, condition: _Side) -> Mask:
    k, is_above, value = condition
    return np.asarray((numbers[:, k] > value) == is_above)


def _all_met(numbers: Array, conditions: Sequence[_Side]) -> Mask:
    return np.asarray(np.all([_is_met(numbers, c) for c in conditions], axis=0))


def _score(numbers: Array, conditions: Sequence[_Side], holds: Mask, fails: Mask) -> float:
    inside = _all_met(numbers, conditions)
    return float((inside & fails).sum() / (fails.sum() + (inside & holds).sum()))


def _condition(condition: _Side, inputs: Sequence[Input]) -> Condition:
    k, is_above, value = condition
    use = inputs[k].use
    return Condition(
        input=use.id, name=use.name, side="above" if is_above else "below", value=value, unit=inputs[k].unit
    )
