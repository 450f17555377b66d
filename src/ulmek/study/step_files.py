"""STEP files to parts of a study, read in a process of its own: a hostile file takes nothing else down.

Readers are forked from a process that has loaded the kernel once: loading takes longer than reading most files.
"""

import hashlib
import json
import re
import resource
import tempfile
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

import numpy as np
from pydantic import BaseModel

from ulmek.core.errors import GeometryError, UlmekError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Shape, Unit
from ulmek.core.geometry.recognise import recognise
from ulmek.core.geometry.revolved import RevolvedSolid
from ulmek.core.geometry.stored import to_plain
from ulmek.core.mesh.surface import mesh_surface
from ulmek.study.aside import forked
from ulmek.study.items import FileUse, SweptShape
from ulmek.study.solids import packed

Kind = Literal["extruded", "revolved", "free-form"]
# Seconds and bytes of memory that reading one file may take.
SECONDS, MEMORY = 120, 6 << 30
# Larger or smaller than this (mm), a part is likely written in another unit than its author thought.
LARGEST, SMALLEST = 30_000.0, 0.2
# Edges shorter than this (mm) are slips of the drawing.
SHORTEST = 1e-3
# The time of writing in the head of a STEP file.
_WHEN = re.compile(rb"'\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d'")
# Triangles along the length of a solid in its picture.
ALONG = 20


class FileSolid(BaseModel):
    """One solid of a file: its name, size of the box about it (mm), volume (mm³), what it was recognised as, its
    faces, what to look at, the part that it makes, and for a free-form solid the key of its picture."""

    name: str
    size: tuple[float, float, float]
    volume: float
    kind: Kind
    faces: int
    notes: list[str]
    part: FileUse | None
    skin: str | None


class StepFile(BaseModel):
    """What a file holds. unit: of length, as the file names it."""

    name: str
    unit: str
    solids: list[FileSolid]


def read_step_file(content: bytes, name: str, *, skins: Path, meant: Unit | None = None) -> StepFile:
    """The solids of a STEP file; pictures of free-form ones are left in the folder ``skins``, see `_write_skin`.
    ``meant``: the unit that its numbers are taken for, whatever it says.

    Raises
    ------
    GeometryError : the file cannot be read, has no solid, or takes too long; says what to do.
    """
    ours, theirs = forked().Pipe(duplex=False)
    reader = forked().Process(target=_answer, args=(theirs, content, name[:120], skins, meant), daemon=True)
    reader.start()
    theirs.close()
    try:
        if not ours.poll(SECONDS):
            raise GeometryError(
                f"reading '{name}' was given up after {SECONDS} s.", hint="Export fewer or simpler parts to a file."
            )
        text = ours.recv_bytes()
    except EOFError:
        text = b""
    finally:
        ours.close()
        reader.kill()
        reader.join()
    try:
        answer = json.loads(text)
    except ValueError:
        raise GeometryError(
            f"'{name}' broke the reader: the file is damaged.", hint="Export it again, as AP214 for instance."
        ) from None
    if "message" in answer:
        raise GeometryError(answer["message"], hint=answer["hint"])
    return StepFile.model_validate(answer)


def _read(content: bytes, name: str, skins: Path, meant: Unit | None) -> StepFile:
    found, unit = kernel.read_step(content, meant)
    digest = hashlib.sha256(content).hexdigest()
    solids = []
    for index, solid in enumerate(found):
        size = solid.box[1] - solid.box[0]
        notes = [f"{fault}; mend it where it was drawn" for fault in kernel.faults(solid.shape)]
        shortest, at = kernel.shortest_edge(solid.shape)
        if shortest < SHORTEST:
            place = ", ".join(f"{c:.4g}" for c in at)
            notes.append(f"it has an edge of only {shortest:.2g} mm near ({place}) mm")
        if max(size) > LARGEST or max(size) < SMALLEST:
            notes.append(f"it is {max(size):.3g} mm long: is {meant or unit.lower()} the unit that was meant?")
        label = solid.name or (Path(name).stem if len(found) == 1 else f"{Path(name).stem} {index + 1}")
        use: FileUse | None
        use, kind = use_of_shape(solid.shape, name=name, digest=digest, index=index)
        skin = None
        if kind == "free-form":
            skin = _write_skin(solid.shape, float(max(size)), skins / f"{digest}-{index}{meant or ''}.npz")
            if skin is None or kernel.faults(solid.shape):
                notes.append("it cannot be meshed: its faces do not close")
                use = None
        solids.append(
            FileSolid(
                name=label[:80], size=tuple(size.tolist()), volume=solid.volume, kind=kind,
                faces=len(kernel.faces_of(solid.shape)), notes=notes, part=use, skin=skin,
            )
        )  # fmt: skip
    return StepFile(name=name, unit=unit, solids=solids)


def use_of_shape(shape: Shape, *, name: str, digest: str, index: int) -> tuple[FileUse, Kind]:
    """A solid as parts keep it: swept where it is recognised, with its content where it is not; and which."""
    swept = None if kernel.faults(shape) else recognise(shape)
    if swept is None:
        return FileUse(name=name, digest=digest, solid=index, content=_alone(shape)), "free-form"
    use = FileUse(name=name, digest=digest, solid=index, shape=SweptShape.model_validate(to_plain(swept)))
    return use, "revolved" if isinstance(swept.solid, RevolvedSolid) else "extruded"


def _alone(shape: Shape) -> str:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "solid.step"
        kernel.write_step([("solid", shape)], path)
        # Solids are kept by their digest: when one was read is no part of it.
        return packed(_WHEN.sub(b"'1970-01-01T00:00:00'", path.read_bytes(), count=1))


def _write_skin(shape: Shape, length: float, path: Path) -> str | None:
    """Write a solid's skin for its picture and give its key, None where its faces do not close.

    nodes (n, 3) mm, triangles (m, 3), face (m,): which face each triangle is of.
    """
    try:
        mesh = mesh_surface(shape, size=length / ALONG)
    except UlmekError:
        return None
    np.savez_compressed(path, nodes=mesh.nodes, triangles=mesh.triangles, face=mesh.face)
    return path.stem


def _answer(pipe: Connection, content: bytes, name: str, skins: Path, meant: Unit | None) -> None:
    """Read a file, in a process of its own: what it holds, or why it cannot be read, as JSON."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    answer: dict[str, Any]
    try:
        answer = _read(content, name, skins, meant).model_dump(mode="json")
    except UlmekError as error:
        answer = {"message": error.message, "hint": error.hint}
    except MemoryError:
        answer = {"message": "the file takes more memory than one part may.", "hint": "Export fewer parts to a file."}
    pipe.send_bytes(json.dumps(answer).encode())
