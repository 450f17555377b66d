"""What preflight says of a study."""

from typing import Any, Literal

from pydantic import BaseModel


class Finding(BaseModel):
    """One result of preflight. ``stop`` prevents a run, ``watch`` is worth knowing, ``good`` reassures.

    ``edit``: the remedy as a JSON Patch, ready to apply, where there is one; ``remedy``: what it does, in words.
    """

    grade: Literal["stop", "watch", "good"]
    code: str
    text: str
    where: str = ""
    hint: str = ""
    motion: list[float] | None = None
    body: str | None = None
    edit: list[dict[str, Any]] | None = None
    remedy: str = ""
