"""What preflight says of a study."""

from typing import Any, Literal

from pydantic import BaseModel, Field


class Remedy(BaseModel):
    """What would mend a finding: what it does, in words, and the edit, a JSON Patch that is ready to apply."""

    does: str
    edit: list[dict[str, Any]]


class Finding(BaseModel):
    """One result of preflight. ``stop`` prevents a run, ``watch`` is worth knowing, ``good`` reassures.

    ``remedies``: the ways to mend it that are known, the likeliest first.
    """

    grade: Literal["stop", "watch", "good"]
    code: str
    text: str
    where: str = ""
    hint: str = ""
    motion: list[float] | None = None
    body: str | None = None
    remedies: list[Remedy] = Field(default_factory=list)
