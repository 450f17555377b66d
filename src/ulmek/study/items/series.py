"""Series: the study solved again and again, with inputs that are not known well."""

from typing import Annotated, Literal

from pydantic import Field, StrictBool, StrictFloat, StrictInt

from ulmek.study.items.item import Identifier, Item, Label
from ulmek.study.items.variant import EntryPath

# As it is written in the document ("42 kN", 0.15), or as a share of what stands there ("75 %").
Written = StrictInt | StrictFloat | Annotated[str, Field(min_length=1, max_length=60)]
Count = Annotated[int, Field(ge=2, le=100)]
Plan = Literal["grid", "one-at-a-time", "corners", "latin-hypercube", "sobol"]
MOST_SAMPLES = 5000


class Listed(Item):
    """One of some values, each as likely."""

    kind: Literal["listed"] = "listed"
    values: Annotated[list[StrictBool | Written], Field(min_length=2, max_length=100)]


class Even(Item):
    """Anything between two values, all as likely; a grid takes ``count`` of them."""

    kind: Literal["even"] = "even"
    low: Written
    high: Written
    count: Count = 5


class Normal(Item):
    """Mostly in the middle: 95 % of all lie between two values (normal distribution)."""

    kind: Literal["normal"] = "normal"
    low: Written
    high: Written
    count: Count = 5


class Triangular(Item):
    """Between two values, most likely at ``peak``, which may be one of them."""

    kind: Literal["triangular"] = "triangular"
    low: Written
    peak: Written
    high: Written
    count: Count = 5


Spread = Annotated[Listed | Even | Normal | Triangular, Field(discriminator="kind")]


class InputUse(Item):
    """An input that is varied: the entries that have its value, and how that scatters."""

    id: Identifier
    name: Label
    paths: Annotated[list[EntryPath], Field(min_length=1, max_length=50)]
    spread: Spread


class SeriesUse(Item):
    """Inputs, and at which of their values the study is solved: all combinations (``grid``), each for itself with the
    others as they stand, the corners of their ranges, or ``samples`` spread over all of them."""

    id: Identifier
    name: Label
    inputs: Annotated[list[InputUse], Field(min_length=1, max_length=30)]
    plan: Plan = "latin-hypercube"
    samples: Annotated[int, Field(ge=2, le=MOST_SAMPLES)] = 50
    seed: Annotated[int, Field(ge=0, le=2**31)] = 1
