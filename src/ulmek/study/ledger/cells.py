"""What a ledger is made of, and when a verdict can be given."""

from collections.abc import Callable
from typing import Literal

from pydantic import BaseModel, Field

from ulmek.core.review.trust import Band
from ulmek.study.finding import Remedy
from ulmek.study.items import StudyDocument

COLUMNS = ("pressure", "penetration", "sliding", "yielding")
# unsure: it cannot be told on this mesh. none: there is nothing to judge.
Grade = Literal["good", "watch", "bad", "unsure", "none"]


class Remark(BaseModel):
    """A sentence that matters, of a row of the ledger; ``remedies``: what would mend it."""

    grade: Literal["watch", "bad"]
    row: str
    text: str
    remedies: list[Remedy] = Field(default_factory=list)


class Cell(BaseModel):
    """One entry of the ledger: the value now, its unit, its course, its verdict, and between what it lies on this mesh;
    no upper end where there is no saying how high, no band where an earlier version made the run."""

    value: float | None
    unit: str
    trend: list[float | None]
    grade: Grade
    verdict: str
    band: tuple[float, float | None] | None = None

    def judged(self, grade: Grade, verdict: str) -> "Cell":
        """The same with another verdict."""
        return self.model_copy(update={"grade": grade, "verdict": verdict})


class Row(BaseModel):
    """One pair, part or bolt group; ``joint``: the name of the joint that it is a piece of, if any; ``part``: of bolts
    that are solid, the part that they are copies of."""

    id: str
    name: str
    kind: Literal["pair", "part", "bolts"]
    pressure: Cell | None = None
    penetration: Cell | None = None
    sliding: Cell | None = None
    yielding: Cell | None = None
    shares: tuple[float, float, float] | None = None
    joint: str | None = None
    part: str | None = None


class Ledger(BaseModel):
    """All rows and the sentences that matter at one increment."""

    increment: int
    rows: list[Row]
    remarks: list[Remark]
    closing_error: float


def scaled(band: Band | None, factor: float = 1.0) -> Band | None:
    """A band in another unit."""
    if band is None:
        return None
    low, high = band
    return low * factor, None if high is None else high * factor


def between(band: Band, unit: str, say: Callable[[float], str] = "{:.3g}".format) -> str:
    """A band in words: "between 140 and 290 MPa", "at least 140 MPa", "anything from nothing up"."""
    low, high = band
    if high is None:
        return f"at least {say(low)} {unit}".rstrip() if low > 0 else "of any height"
    return f"between {say(low)} and {say(high)} {unit}".rstrip()


def use_cell(use: float | None, band: Band | None, trend: list[float | None], of: str, where: str = "") -> Cell:
    """Von Mises stress over what bears it; ``of``: "yield", "allowed" or "proof"; ``where``: added to the verdict. What
    is above is told as such; that it stays below is told only where the whole band does."""
    unit = f"of {of}"
    if use is None:
        return Cell(value=None, unit=unit, trend=trend, grade="none", verdict=f"No yield stress given.{where}")
    low, high = band if band is not None else (use, use)
    over = OVER[of]
    told: tuple[Grade, str]
    if low > 1:
        told = "bad", over
    elif high is None or high > 1:
        lies = between((low, high), f"of {of}")
        told = "unsure", f"Cannot tell on this mesh: it is {lies}. Mesh finer at the highest place."
    elif use > WATCHED:
        told = "watch", f"Close to {LIMITS[of]}."
    else:
        told = "good", f"Stays below {LIMITS[of]}."
    return Cell(value=use, unit=unit, trend=trend, grade=told[0], verdict=told[1] + where, band=band)


# Use of strength that is watched.
WATCHED = 0.9
OVER = {
    "yield": "Above the yield stress: metal yields here.",
    "allowed": "Above the allowable stress.",
    "proof": "Above the proof load.",
}
LIMITS = {"yield": "yield", "allowed": "what is allowed", "proof": "the proof load"}


def step_name(study: StudyDocument, step: int) -> str:
    """A step as it is told."""
    return f"step {step + 1}, {study.steps[step].name}"
