"""What the page has to know of the tables behind documents and results, so that it keeps none of its own."""

from typing import Literal, get_args

from fastapi import APIRouter
from pydantic import BaseModel

from ulmek.core.model import PRESCRIBED, LoadKind
from ulmek.core.review.fields import FIELDS, Where
from ulmek.report.make import CHAPTERS
from ulmek.study.items import KINDS, KindName
from ulmek.study.items.load import SORTS
from ulmek.study.joints.fields import SORTS_IN_WORDS, JointSort
from ulmek.study.units import SYSTEMS, factor_to
from ulmek.study.units import Kind as Quantity

router = APIRouter(prefix="/api", tags=["vocabulary"])


class KindInfo(BaseModel):
    """A kind of item: its name, how it is called in words, and the list of the document that keeps it."""

    name: KindName
    label: str
    list: str


class LoadSortInfo(BaseModel):
    """A kind of load: what its values measure, what it acts on, whether it has a direction, whether that is an axis
    through its centre, and whether it moves."""

    kind: LoadKind
    label: str
    quantity: Quantity
    acts_on: Literal["faces", "handle", "faces or handle", "all"]
    has_direction: bool
    is_about_axis: bool
    prescribes: bool


class UnitInfo(BaseModel):
    """A unit that values of a quantity are read in: what internal values are multiplied by for it, and the least figure
    that it is used for."""

    unit: str
    factor: float
    least: float


class SystemInfo(BaseModel):
    """A unit system: for each quantity its units, the largest first."""

    name: str
    units: dict[Quantity, list[UnitInfo]]


class FieldInfo(BaseModel):
    """A field of results; ``factor``: what stored values are multiplied by to read in the ``spoken`` unit;
    ``quiet``: stored values up to this size are rounding; ``is_about_axis``: it is about each part's own
    axis or another."""

    name: str
    label: str
    where: Where
    unit: str
    spoken: str
    factor: float
    is_signed: bool
    quiet: float
    is_about_axis: bool


class ChapterInfo(BaseModel):
    """A chapter of a report."""

    name: str
    title: str


class Vocabulary(BaseModel):
    """All tables."""

    kinds: list[KindInfo]
    loads: list[LoadSortInfo]
    joints: list[JointSort]
    systems: list[SystemInfo]
    fields: list[FieldInfo]
    chapters: list[ChapterInfo]


@router.get("/vocabulary")
def vocabulary() -> Vocabulary:
    """Kinds of items, of loads and of joints, unit systems, fields of results, chapters of reports."""
    names = get_args(KindName)
    return Vocabulary(
        kinds=[KindInfo(name=n, label=KINDS[n].label, list=KINDS[n].list) for n in names],
        loads=[LoadSortInfo(kind=k, **vars(sort), prescribes=k in PRESCRIBED) for k, sort in SORTS.items()],
        joints=SORTS_IN_WORDS,
        systems=[
            SystemInfo(
                name=name,
                units={
                    q: [UnitInfo(unit=u, factor=factor_to(u, q), least=least) for u, least in units]
                    for q, units in of.items()
                },
            )
            for name, of in SYSTEMS.items()
        ],
        fields=[FieldInfo(**{k: getattr(f, k) for k in FieldInfo.model_fields}) for f in FIELDS],
        chapters=[ChapterInfo(name=n, title=t) for n, t in CHAPTERS.items()],
    )
