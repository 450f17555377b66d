"""STEP files to parts of a study, read in a process of its own: a hostile file takes nothing else down.

`python -m ulmek.study.step_files` reads a file on its standard input and answers with JSON.
"""

import base64
import hashlib
import json
import resource
import subprocess
import sys
import tempfile
import zlib
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel

from ulmek.core.errors import GeometryError, UlmekError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.kernel import Shape
from ulmek.core.geometry.recognise import recognise
from ulmek.core.geometry.revolved import RevolvedSolid
from ulmek.core.geometry.stored import to_plain
from ulmek.core.mesh.surface import mesh_surface
from ulmek.study.items import FileUse, SweptShape

Kind = Literal["extruded", "revolved", "free-form"]
# Seconds and bytes of memory that reading one file may take.
SECONDS, MEMORY = 120, 6 << 30
# Larger or smaller than this (mm), a part is likely written in another unit than its author thought.
LARGEST, SMALLEST = 30_000.0, 0.2
# Edges shorter than this (mm) are slips of the drawing.
SHORTEST = 1e-3
# Triangles along the length of a solid in its picture.
ALONG = 20


class FileSkin(BaseModel):
    """Triangles on the faces of a solid: coordinates of the nodes (mm) and corners of the triangles in a row, and the
    face that each triangle is of."""

    nodes: list[float]
    triangles: list[int]
    face: list[int]


class FileSolid(BaseModel):
    """One solid of a file: its name, size of the box about it (mm), volume (mm³), what it was recognised as, its
    faces, what to look at, and the part that it makes, or for a free-form solid its skin alone."""

    name: str
    size: tuple[float, float, float]
    volume: float
    kind: Kind
    faces: int
    notes: list[str]
    part: FileUse | None
    skin: FileSkin | None


class StepFile(BaseModel):
    """What a file holds. unit: of length, as the file names it."""

    name: str
    unit: str
    solids: list[FileSolid]


def read_step_file(content: bytes, name: str) -> StepFile:
    """The solids of a STEP file.

    Raises
    ------
    GeometryError : the file cannot be read, has no solid, or takes too long; says what to do.
    """
    command = [sys.executable, "-m", "ulmek.study.step_files", name[:120]]
    try:
        done = subprocess.run(command, input=content, capture_output=True, timeout=SECONDS, check=False)
    except subprocess.TimeoutExpired:
        raise GeometryError(
            f"reading '{name}' was given up after {SECONDS} s.", hint="Export fewer or simpler parts to a file."
        ) from None
    try:
        answer = json.loads(done.stdout)
    except ValueError:
        raise GeometryError(
            f"'{name}' broke the reader: the file is damaged.", hint="Export it again, as AP214 for instance."
        ) from None
    if "message" in answer:
        raise GeometryError(answer["message"], hint=answer["hint"])
    return StepFile.model_validate(answer)


def _read(content: bytes, name: str) -> StepFile:
    found, unit = kernel.read_step(content)
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
            notes.append(f"it is {max(size):.3g} mm long: is {unit.lower()} the unit that was meant?")
        label = solid.name or (Path(name).stem if len(found) == 1 else f"{Path(name).stem} {index + 1}")
        use: FileUse | None
        use, kind = use_of_shape(solid.shape, name=name, digest=digest, index=index)
        skin = None
        if kind == "free-form":
            skin = _skin(solid.shape, float(max(size)))
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
        return base64.b64encode(zlib.compress(path.read_bytes(), 9)).decode()


def _skin(shape: Shape, length: float) -> FileSkin | None:
    """The skin of a solid for its picture, None where its faces do not close."""
    try:
        mesh = mesh_surface(shape, size=length / ALONG)
    except UlmekError:
        return None
    return FileSkin(
        nodes=[round(c, 6) for c in mesh.nodes.ravel().tolist()], triangles=mesh.triangles.ravel().tolist(),
        face=mesh.face.tolist(),
    )  # fmt: skip


def _main() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    answer: dict[str, Any]
    try:
        answer = _read(sys.stdin.buffer.read(), sys.argv[1]).model_dump(mode="json")
    except UlmekError as error:
        answer = {"message": error.message, "hint": error.hint}
    except MemoryError:
        answer = {"message": "the file takes more memory than one part may.", "hint": "Export fewer parts to a file."}
    sys.stdout.write(json.dumps(answer))


if __name__ == "__main__":
    _main()
