"""What requests carry and what answers hold."""

from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from ulmek.api.errors import Problem
from ulmek.runs.settle import Wanted
from ulmek.study.amounts import Amounts
from ulmek.study.copies import Pattern
from ulmek.study.items import FileUse, KindName, RecipeUse, StudyDocument
from ulmek.study.items.drawn import DrawnShape
from ulmek.study.items.part import Vector
from ulmek.study.ledger import Remark
from ulmek.study.mating import Manner
from ulmek.study.rematch import FaceMatch


class DimensionInfo(BaseModel):
    """One dimension of a recipe: lengths in mm, angles in degrees; and the feature that is left out where it is 0."""

    name: str
    label: str
    default: float
    low: float
    high: float
    kind: str
    drops: str | None


class RecipeInfo(BaseModel):
    """A recipe as the inspector offers it, with the kinds of study that it has a part for."""

    kind: str
    label: str
    summary: str
    dimensions: list[DimensionInfo]
    spaces: list[str]


class NewPart(BaseModel):
    """A part to add: its recipe and dimensions, or with a name for it a solid of a file, or a drawing or bent bar as
    ``recipe``, ``on`` a plane (xy, yz, zx) or flat face, or beside the others."""

    kind: str
    dimensions: dict[str, str | int | float] = Field(default_factory=dict)
    file: FileUse | None = None
    recipe: RecipeUse | None = None
    on: Annotated[str, Field(max_length=120)] | None = None
    name: Annotated[str, Field(min_length=1, max_length=80)] = "Part"


class Redrawing(BaseModel):
    """Another drawing, runs or dimensions for a part, and its faces that were renamed: old names to new ones."""

    recipe: RecipeUse
    renamed: dict[str, str] = Field(default_factory=dict)


class Sketch(BaseModel):
    """A drawing to be traced, with the dimensions that it speaks of."""

    drawn: DrawnShape
    dimensions: dict[str, str | int | float] = Field(default_factory=dict)


class Mating(BaseModel):
    """Two faces to bring together: the part of ``own`` moves to ``other``, to lie on it, touch it, or be in mesh."""

    own: str
    other: str
    manner: Manner = "flush"


class Copying(BaseModel):
    """Copies to make of one copy of a part, counted from 1."""

    copy_number: int = 1
    pattern: Annotated[Pattern, Field(discriminator="kind")]


class Moving(BaseModel):
    """How far (mm) one copy of a part, counted from 1, is moved."""

    copy_number: int = 1
    by: Vector


class Finer(BaseModel):
    """Where (mm, in the study's axes) the mesh is to be finer, on one copy of a part, counted from 1."""

    copy_number: int = 1
    at: Vector


class RegionAt(BaseModel):
    """Where (mm, in the study's axes) a region is to be cut out of a face, on one copy of a part, counted from 1."""

    copy_number: int = 1
    face: str
    at: Vector


class FitInfo(BaseModel):
    """Overlap of the radii (mm) that a fit of hole and shaft has, negative for a clearance."""

    least: float
    mean: float
    most: float


class ThreadInfo(BaseModel):
    """A metric thread and a bolt with it: pitch (mm), stress area (mm²), proof load (N) of the property class."""

    pitch: float
    stress_area: float
    proof_load: float


class DemoInfo(BaseModel):
    """A demo study that can be started from."""

    name: str
    title: str
    notes: str


class RunInfo(BaseModel):
    """A run and its state: queued, running, solved, not-converged, stopped or failed. variant: the name of the variant
    that it solves; asked_of: the run of which it is a what-if."""

    id: int
    study_id: int
    revision: int
    status: str
    message: str
    where: str
    hint: str
    created: datetime
    started: datetime | None
    ended: datetime | None
    pid: int | None
    resumed_from: int | None = None
    name: str = ""
    note: str = ""
    increments: int = 0
    may_resume: bool = False
    settling: Wanted | None = None
    variant: str = ""
    asked_of: int | None = None


class KeptSizes(BaseModel):
    """The run whose found sizes of elements a study shall keep."""

    run_id: int


class RunNaming(BaseModel):
    """What a run shall be called, and what is said of it; what is not given stays."""

    name: str | None = Field(default=None, max_length=80)
    note: str | None = Field(default=None, max_length=2000)


class StudySummary(BaseModel):
    """A study on the shelf: its latest run and the remarks of that run's ledger.

    ``problem``: why its document or its result cannot be read.
    """

    id: int
    title: str
    machine: str
    notes: str
    revision: int
    updated: datetime
    parts: int
    bolts: int
    bolt_parts: list[str]
    pairs: int
    run: RunInfo | None = None
    remarks: list[Remark] = Field(default_factory=list)
    is_current: bool = False
    problem: Problem | None = None


class StudyInfo(BaseModel):
    """A study on the bench, with what its written values amount to, and ids of what sleeps, by kind."""

    id: int
    revision: int
    document: StudyDocument
    amounts: Amounts
    asleep: dict[str, list[str]] = Field(default_factory=dict)
    undo: str | None = None
    redo: str | None = None


class SolvedStudy(BaseModel):
    """A study as a run solved it, with what its written values amounted to."""

    document: StudyDocument
    amounts: Amounts


class TakingOut(BaseModel):
    """An item to take out of a study; a joint with its pieces, or leaving them."""

    kind: KindName
    id: str
    with_pieces: bool = False


class ToldEdit(BaseModel):
    """The study after an edit that took more with it, and what, in words."""

    study: StudyInfo
    told: str


class NewStudy(BaseModel):
    """Start from a demo, or from a document."""

    demo: str | None = None
    document: dict[str, Any] | None = None


class Edit(BaseModel):
    """A JSON Patch made against a revision."""

    base_revision: int
    label: str = Field(default="Edit", max_length=120)
    patch: list[dict[str, Any]] = Field(max_length=500)


class FileReplaced(BaseModel):
    """The study after a part got another file: faces found again, those of them to look at, and lost ones."""

    study: StudyInfo
    matched: int
    unsure: list[FaceMatch]
    lost: list[str]
