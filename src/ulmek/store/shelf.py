"""Solids of STEP files, kept once by the digest of their content; documents that are stored or sent only name them.

A document that stands alone (a file, a run's folder) carries the content of its free-form solids. In the database, in
undo and in every answer a reference stands in its place (`FileUse.content`).
"""

import hashlib
import re
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from ulmek.core.errors import GeometryError, InputError
from ulmek.study.items import FileUse, Part, StudyDocument
from ulmek.study.items.part import REFERENCE
from ulmek.study.solids import packed, unpacked

# Seconds for which a solid or a picture of a file that was read waits to be made a part of.
PATIENCE = 86_400.0
_REFERENCES = re.compile(f"{REFERENCE}([0-9a-f]{{64}})")
_SKIN_KEY = re.compile(r"[0-9a-f]{64}-\d{1,5}")


class GeometryShelf:
    """The folder of contents."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.skins = folder / "skins"
        self.skins.mkdir(parents=True, exist_ok=True)

    def absorbed(self, value: Any) -> Any:
        """Plain JSON values with a reference in the place of every content, which is kept; damaged ones stay."""
        if isinstance(value, list):
            return [self.absorbed(v) for v in value]
        if not isinstance(value, dict):
            return value
        if _is_solid_of_file(value):
            return value | {"content": self._kept(value["content"])}
        return {key: self.absorbed(v) for key, v in value.items()}

    def absorbed_study(self, study: StudyDocument) -> StudyDocument:
        """``study`` with references, as `absorbed`."""
        return _with_files(study, lambda file: file.model_copy(update={"content": self._kept(file.content or "")}))

    def whole_study(self, study: StudyDocument) -> StudyDocument:
        """``study`` with its contents.

        Raises
        ------
        InputError : a content that a part names is not here.
        """
        return _with_files(study, self.whole)

    def whole_part(self, part: Part) -> Part:
        """``part`` with its content; raises as `whole_study`."""
        return _with_file(part, self.whole)

    def whole(self, file: FileUse) -> FileUse:
        """``file`` with its content; raises as `whole_study`."""
        digest = _digest_in(file.content)
        if digest is None:
            return file
        try:
            return file.model_copy(update={"content": packed(self._path(digest).read_bytes())})
        except OSError:
            raise InputError(
                f"the solid from '{file.name}' is not kept here.", where="content",
                hint="Read its STEP file again, and replace the part by it.",
            ) from None  # fmt: skip

    def skin(self, key: str) -> Path:
        """Where the reader has left the picture of a solid.

        Raises
        ------
        InputError : it is not there (any more).
        """
        path = self.skins / f"{key}.npz"
        if not _SKIN_KEY.fullmatch(key) or not path.is_file():
            raise InputError("there is no such picture of a solid.", where="skin", hint="Read the file again.")
        return path

    def sweep(self, texts: Callable[[], Iterable[str]]) -> None:
        """Let go what none of ``texts`` names and nobody has read lately; they are asked for only where it matters."""
        files = [*self.folder.glob("*.step"), *self.skins.glob("*.npz")]
        old = [path for path in files if time.time() - path.stat().st_mtime > PATIENCE]
        named = {digest for text in texts() for digest in _REFERENCES.findall(text)} if old else set()
        for path in old:
            if path.stem not in named:
                path.unlink(missing_ok=True)

    def _kept(self, content: str) -> str:
        if _digest_in(content) is not None:
            return content
        try:
            step = unpacked(content)
        except GeometryError:
            # Whoever needs the solid is told; the rest of its document lives on.
            return content
        digest = hashlib.sha256(step).hexdigest()
        path = self._path(digest)
        if path.exists():
            path.touch()
        else:
            half = path.with_suffix(".part")
            half.write_bytes(step)
            half.replace(path)
        return REFERENCE + digest

    def _path(self, digest: str) -> Path:
        return self.folder / f"{digest}.step"


def _digest_in(content: str | None) -> str | None:
    found = _REFERENCES.fullmatch(content or "")
    return found and found[1]


def _is_solid_of_file(value: dict[str, Any]) -> bool:
    return {"digest", "solid"} <= value.keys() and isinstance(value.get("content"), str)


def _with_files(study: StudyDocument, change: Callable[[FileUse], FileUse]) -> StudyDocument:
    if not any(p.recipe.file and p.recipe.file.content for p in study.parts):
        return study
    return study.model_copy(update={"parts": [_with_file(part, change) for part in study.parts]})


def _with_file(part: Part, change: Callable[[FileUse], FileUse]) -> Part:
    if part.recipe.file is None or part.recipe.file.content is None:
        return part
    recipe = part.recipe.model_copy(update={"file": change(part.recipe.file)})
    return part.model_copy(update={"recipe": recipe})
