"""Routes that read tables: of sheets, as stress–strain curves, tests of rubber, courses of loads."""

from typing import Literal

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel

from ulmek.core.material.rubber_fit import Pull
from ulmek.core.model import LoadKind
from ulmek.study.items.load import SORTS
from ulmek.study.tables import Course, Curve, RubberConstantsFound, Sheet, course_of, curve_of, read_sheet, rubber_of

router = APIRouter(prefix="/api/tables", tags=["tables"])


class CurveAsked(BaseModel):
    """A sheet of strain and stress, and how it was measured."""

    sheet: Sheet
    strain: Literal["total", "plastic"] = "total"
    measure: Literal["engineering", "true"] = "engineering"
    young: str


class RubberAsked(BaseModel):
    """A sheet of engineering strain and stress of a rubber, and how it was pulled."""

    sheet: Sheet
    pull: Pull = "one way"


class CourseAsked(BaseModel):
    """A sheet of time and value, for a kind of load."""

    sheet: Sheet
    kind: LoadKind


@router.post("")
async def read_table(request: Request, name: str = "what was pasted") -> Sheet:
    """The numbers of a CSV or XLSX file, or of pasted text, sent as the body."""
    return await run_in_threadpool(read_sheet, await request.body(), name)


@router.post("/curve")
def read_curve(asked: CurveAsked) -> Curve:
    """A sheet as a stress–strain curve, and the hardening table that it gives."""
    return curve_of(asked.sheet, strain=asked.strain, measure=asked.measure, young=asked.young)


@router.post("/rubber")
def read_rubber(asked: RubberAsked) -> RubberConstantsFound:
    """A sheet as the test of a rubber, and the constants that come closest to it."""
    return rubber_of(asked.sheet, asked.pull)


@router.post("/course")
def read_course(asked: CourseAsked) -> Course:
    """A sheet as the course of a load within a step."""
    return course_of(asked.sheet, SORTS[asked.kind])
