"""The values at which a series solves its study: what is written of an input as numbers, and plans over all of them."""

import itertools
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import pint
from numpy.typing import NDArray
from scipy.stats import norm, qmc, triang

from ulmek.core.errors import InputError, UlmekError
from ulmek.study.items import StudyDocument
from ulmek.study.items.series import MOST_SAMPLES, InputUse, Listed, Normal, SeriesUse, Triangular, Written
from ulmek.study.items.variant import Change
from ulmek.study.units import WRITTEN, quantity_of
from ulmek.study.variants import entry_at

Array = NDArray[np.float64]
Value = bool | int | float | str

SHARE = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+))\s*%\s*$")
PERCENT = "%"
# Of a normal distribution 95 % lie within so many deviations, and what lies beyond three is cut off.
DEVIATIONS, CUT = 1.959963984540054, 3.0
# Digits of what is written into the document.
DIGITS = 10


@dataclass(frozen=True)
class Sample:
    """One solution of a series: its number, and values of inputs by their ids; of inputs that stay as they stand
    none."""

    number: int
    values: dict[str, Value]


@dataclass(frozen=True)
class Input:
    """An input of a series on a study: how it is used, what stands at its entries now, and the unit that its values are
    numbers in ("" of numbers, "%" of what stands at several entries)."""

    use: InputUse
    now: tuple[Value, ...]
    unit: str

    @property
    def is_choice(self) -> bool:
        """Whether it is one of some values."""
        return isinstance(self.use.spread, Listed)

    @cached_property
    def ends(self) -> tuple[float, float]:
        """Lowest and highest that is written of it, as numbers."""
        spread = self.use.spread
        if isinstance(spread, Listed):
            return 0.0, len(spread.values) - 1.0
        return self._number(spread.low), self._number(spread.high)

    @cached_property
    def nominal(self) -> float:
        """What stands there now, as a number: among the values of a choice its place, −1 of none of them."""
        spread = self.use.spread
        if isinstance(spread, Listed):
            return float(spread.values.index(self.now[0])) if self.now[0] in spread.values else -1.0
        return 100.0 if self.unit == PERCENT else _number(self.now[0], self.unit)

    def at(self, u: Array) -> list[Value]:
        """Values at shares ``u`` (n,) of all cases, from 0 to 1."""
        spread = self.use.spread
        if isinstance(spread, Listed):
            last = len(spread.values) - 1
            return [spread.values[min(int(x * len(spread.values)), last)] for x in u]
        low, high = self.ends
        if isinstance(spread, Normal):
            deviation = (high - low) / (2 * DEVIATIONS)
            tail = norm.cdf(-CUT)
            return self._written((low + high) / 2 + deviation * norm.ppf(tail + u * (1 - 2 * tail)))
        if isinstance(spread, Triangular):
            peak = (self._number(spread.peak) - low) / (high - low)
            return self._written(np.asarray(triang.ppf(u, peak, loc=low, scale=high - low)))
        return self._written(low + u * (high - low))

    def between(self, share: float) -> Value:
        """The value at a share of its range, however it scatters; not of choices."""
        low, high = self.ends
        return self._written(np.array([low + share * (high - low)]))[0]

    def steps(self) -> list[Value]:
        """Its values on a grid."""
        spread = self.use.spread
        return (
            list(spread.values) if isinstance(spread, Listed) else self._written(np.linspace(*self.ends, spread.count))
        )

    def corners(self) -> list[Value]:
        """Its lowest and highest; all values of a choice."""
        spread = self.use.spread
        return list(spread.values) if isinstance(spread, Listed) else self._written(np.array(self.ends))

    def number_of(self, value: Value | None) -> float:
        """A value as a number; of none what stands there now."""
        if value is None:
            return self.nominal
        spread = self.use.spread
        return float(spread.values.index(value)) if isinstance(spread, Listed) else _number(value, self.unit)

    def changes(self, value: Value) -> list[Change]:
        """The changes that give its entries a value."""
        return [
            Change(path=path, value=self._at_entry(value, now))
            for path, now in zip(self.use.paths, self.now, strict=True)
        ]

    def _at_entry(self, value: Value, now: Value) -> Value:
        if self.unit != PERCENT or self.is_choice:
            return value
        return _written(_number(value, PERCENT) / 100 * _number(now, (unit := _unit_of(now))), unit, now)

    def _number(self, written: Written) -> float:
        share = SHARE.match(written) if isinstance(written, str) else None
        if share is None or self.unit == PERCENT:
            return _number(written, self.unit)
        return float(share[1]) / 100 * _number(self.now[0], self.unit)

    def _written(self, numbers: Array) -> list[Value]:
        like = "" if self.unit == PERCENT else self.now[0]
        return [_written(float(x), self.unit, like) for x in numbers]


def _written(number: float, unit: str, like: Value) -> Value:
    """A number as it is written into the document, where something ``like`` it stands."""
    if unit:
        return f"{number:.{DIGITS}g} {unit}"
    return round(number) if isinstance(like, int) and not isinstance(like, bool) else float(f"{number:.{DIGITS}g}")


def _unit_of(value: Value) -> str:
    match = WRITTEN.match(value) if isinstance(value, str) else None
    return match[2].strip() if match else ""


def _number(value: Value, unit: str) -> float:
    """A value as a number of a unit."""
    if isinstance(value, str):
        share = SHARE.match(value)
        if share is not None and unit == PERCENT:
            return float(share[1])
        if share is None and unit and unit != PERCENT and WRITTEN.match(value):
            try:
                return float(quantity_of(value.replace("·", "*"), "").to(unit.replace("·", "*")).magnitude)
            except pint.PintError:
                pass
    elif not unit and not isinstance(value, bool):
        return float(value)
    told = f"a value in {unit}" if unit else "a number"
    raise InputError(f"'{value}' is not {told}.", hint="Write it as what stands there, or as a share of it like 75 %.")


def inputs_of(study: StudyDocument, series: SeriesUse) -> list[Input]:
    """The inputs of a series on a study.

    Raises
    ------
    UlmekError : an entry is not there, or is nothing that can have such values; with its place.
    """
    out: list[Input] = []
    taken: dict[str, str] = {}
    for use in series.inputs:
        place = f"series/{series.id}/inputs/{use.id}"
        for path in use.paths:
            if path in taken:
                raise InputError(f"'{path}' is varied twice, by {taken[path]} too.", where=place)
            taken[path] = use.name
        try:
            made = _input(study, use)
            if not made.is_choice and not made.ends[0] < made.ends[1]:
                raise InputError("the lowest value is not below the highest.", hint="Give a range.")
            if isinstance(use.spread, Triangular):
                low, high = made.ends
                if not low <= made._number(use.spread.peak) <= high:
                    raise InputError("the most likely value is outside of the range.", hint="Give one between.")
            _ = made.nominal, made.corners()
        except UlmekError as error:
            raise error.at(place) if not error.where.startswith("series/") else error from None
        out.append(made)
    if len({i.use.id for i in out}) < len(out):
        raise InputError("two inputs have the same id.", where=f"series/{series.id}/inputs")
    return out


def _input(study: StudyDocument, use: InputUse) -> Input:
    now = tuple(entry_at(study, path) for path in use.paths)
    if any(not isinstance(value, bool | int | float | str) for value in now):
        raise InputError(f"'{use.paths[0]}' is no single value.", hint="Vary an entry that has one.")
    spread = use.spread
    if isinstance(spread, Listed):
        return Input(use, now, "")
    ends = (spread.low, spread.high)
    shares = [isinstance(e, str) and SHARE.match(e) is not None for e in ends]
    if all(shares):
        return Input(use, now, PERCENT if len(now) > 1 else _unit_of(now[0]))
    if any(shares):
        raise InputError("one end is a share and the other is not.", hint="Write both ends alike.")
    return Input(use, now, _unit_of(spread.low))


def samples_of(study: StudyDocument, series: SeriesUse) -> list[Sample]:
    """What a series solves, in order; raises as `inputs_of`, and where there would be more than `MOST_SAMPLES`."""
    inputs = inputs_of(study, series)
    rows: list[Sequence[Value | None]] = []
    as_it_stands: list[Value | None] = [None] * len(inputs)
    if series.plan == "one-at-a-time":
        rows.append(as_it_stands)
        for k, one in enumerate(inputs):
            rows += [[*as_it_stands[:k], value, *as_it_stands[k + 1 :]] for value in one.steps()]
    elif series.plan in ("grid", "corners"):
        columns = [i.steps() if series.plan == "grid" else i.corners() for i in inputs]
        number = int(np.prod([len(c) for c in columns], dtype=float))
        if number > MOST_SAMPLES:
            raise InputError(
                f"that would be {number} samples; {MOST_SAMPLES} are taken at most.", where=f"series/{series.id}/plan",
                hint="Vary fewer inputs, or spread samples over them.",
            )  # fmt: skip
        rows += (
            [as_it_stands, *itertools.product(*columns)] if series.plan == "corners" else itertools.product(*columns)
        )
    else:
        u = _spread_out(series, len(inputs))
        rows += list(zip(*(i.at(u[:, k]) for k, i in enumerate(inputs)), strict=True))
    return [
        Sample(n, {i.use.id: v for i, v in zip(inputs, row, strict=True) if v is not None})
        for n, row in enumerate(rows)
    ]


def _spread_out(series: SeriesUse, dimensions: int) -> Array:
    """Points (n, dimensions) between 0 and 1. Those of Sobol' (1967; scrambled after Owen 1998) stay when more are
    wanted; of a Latin hypercube (McKay, Beckman and Conover 1979) each row and column has one."""
    if series.plan == "latin-hypercube":
        return np.asarray(qmc.LatinHypercube(dimensions, rng=series.seed).random(series.samples))
    power = int(np.ceil(np.log2(series.samples)))
    return np.asarray(qmc.Sobol(dimensions, rng=series.seed).random_base2(power)[: series.samples])


def changes_of(inputs: Sequence[Input], sample: Sample) -> list[Change]:
    """The changes that make the study of a sample."""
    return [c for i in inputs if i.use.id in sample.values for c in i.changes(sample.values[i.use.id])]
