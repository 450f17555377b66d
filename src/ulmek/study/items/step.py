"""Steps of the sequence."""

from typing import Annotated, Any

from pydantic import Field

from ulmek.core.errors import InputError
from ulmek.core.model import Dynamics, Increments, Step
from ulmek.study.items.item import Identifier, Item, Label, Time
from ulmek.study.items.kind import Around, Kind
from ulmek.study.units import value_of


class IncrementSettings(Item):
    """Sizes of increments as shares of the step, and how many at most. keep_every: of every how many the results are
    kept; those of the last of the step always are."""

    start: float = 0.25
    least: float = 0.01
    largest: float = 0.25
    most: Annotated[int, Field(ge=1, le=1000)] = 60
    keep_every: Annotated[int, Field(ge=1, le=1000)] = 1


class DynamicsSettings(Item):
    """Inertia in a step: its duration, and damping proportional to mass (1/s)."""

    duration: Time
    damping: Annotated[float, Field(ge=0)] = 0.0


class StepUse(Item):
    """One step of the sequence. ``large_motion`` follows large turns and strains; ``dynamics`` has inertia.
    ``in_analysis``: false where it is left out, as if it were not there."""

    id: Identifier
    name: Label
    increments: IncrementSettings = IncrementSettings()
    large_motion: bool = False
    dynamics: DynamicsSettings | None = None
    in_analysis: bool = True


def _translated(s: StepUse, around: Around) -> tuple[Step]:
    """The step with what loads, bolts and releases say of it."""
    study, inc = around.study, s.increments
    shares = {p.id: p.recipe.share for p in study.parts}
    preloads = {
        body: bolt.force_in(s.id, 1.0 if bolt.part is None else shares[bolt.part])
        for bolt in study.bolts
        if s.id in bolt.preload
        for body in ([n for n, _ in around.copies(bolt.part)] if bolt.part is not None else [bolt.id])
    }
    dynamics = None
    if s.dynamics is not None:
        dynamics = Dynamics(value_of(s.dynamics.duration, "time"), s.dynamics.damping)
        if dynamics.duration <= 0:
            raise InputError(f"the duration is {s.dynamics.duration}.", where="dynamics/duration")
    acting: list[Any] = [*study.pairs, *study.supports, *study.loads]
    step = Step(
        s.id,
        {load.id: load.number(load.values[s.id]) for load in study.loads if s.id in load.values},
        preloads,
        Increments(inc.start, inc.least, inc.largest, inc.most),
        frozenset(item.id for item in acting if s.id in item.released),
        {
            ld.id: tuple((p.at, ld.number(p.value)) for p in ld.courses[s.id])
            for ld in study.loads
            if s.id in ld.courses
        },
        s.large_motion,
        dynamics,
    )
    return (step,)


KIND = Kind("step", "Step", "steps", StepUse, "steps", _translated)
