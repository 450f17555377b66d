"""What the written values of loads and preloads amount to, step by step, in internal units: what the board draws."""

from pydantic import BaseModel, Field

from ulmek.study.items import StudyDocument


class Amounts(BaseModel):
    """loads: of each load, its value at the end of each step that it names. courses: the points (share of the step,
    value) that it passes there. bolts: preload (N) of each in the steps in which it is tightened, of what is modelled
    of it, which is that share of the whole."""

    loads: dict[str, dict[str, float]]
    courses: dict[str, dict[str, list[tuple[float, float]]]]
    bolts: dict[str, dict[str, float]]
    shares: dict[str, float] = Field(default_factory=dict)


def amounts(study: StudyDocument) -> Amounts:
    """The values of a study, each in the internal unit of what it measures."""
    shares: dict[str | None, float] = {p.id: p.recipe.share for p in study.parts}
    return Amounts(
        loads={ld.id: {step: ld.number(value) for step, value in ld.values.items()} for ld in study.loads},
        courses={
            ld.id: {step: [(p.at, ld.number(p.value)) for p in course] for step, course in ld.courses.items()}
            for ld in study.loads
        },
        bolts={b.id: {step: b.force_in(step, shares.get(b.part, 1.0)) for step in b.preload} for b in study.bolts},
        shares={b.id: shares.get(b.part, 1.0) for b in study.bolts},
    )
