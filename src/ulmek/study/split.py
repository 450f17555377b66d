"""A part split by a plane into pieces, tied together where they were cut: each with a mesh, and a sweep, of its own."""

import hashlib
import itertools
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.errors import InputError
from ulmek.core.geometry import kernel
from ulmek.core.mesh.facets import facet_normals
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.aside import aside
from ulmek.study.items import FileUse, Part, Patch, Placement, RecipeUse, StudyDocument, with_references_changed
from ulmek.study.items.item import Refers
from ulmek.study.meshes import part_mesh
from ulmek.study.step_export import placed_shape
from ulmek.study.step_files import use_of_shape

Axis = Literal["x", "y", "z"]
# Nodes closer to the plane than this (mm) lie in it.
IN_PLANE = 1e-6
# Pieces that one plane may leave.
MOST_PIECES = 20


@dataclass(frozen=True)
class _Piece:
    """A new part, what its faces were, and its faces in the plane."""

    part: Part
    was: dict[str, str]
    cuts: list[str]
    mesh: VolumeMesh


def split_part(study: StudyDocument, part_id: str, axis: Axis, at: float) -> Patch:
    """The patch that puts the pieces of a part in its place, ties them, and leads what hung on its faces to theirs.

    The plane: coordinate ``axis`` of the part's own axes is ``at`` (mm).

    Raises
    ------
    InputError : a plane that does not cut the part, or a part that must stay whole. UlmekError : from meshing a piece.
    """
    index = next((i for i, p in enumerate(study.parts) if p.id == part_id), None)
    if index is None:
        raise InputError(f"there is no part '{part_id}'.", where="parts", hint="Pick a part that is there.")
    part = study.parts[index]
    _require_divisible(study, part)
    below, above = aside(part.name, _uses, part, "xyz".index(axis), at)
    if not below or not above:
        raise InputError(
            f"the plane {axis} = {at:g} mm does not cut {part.name}.", where=f"parts/{part_id}",
            hint="Give a place inside the part, in its own axes.",
        )  # fmt: skip
    free = (n for n in itertools.count(1) if f"{part_id}-{n}" not in {p.id for p in study.parts})
    sides = [[_piece(part, use, next(free), "xyz".index(axis), at) for use in uses] for uses in (below, above)]
    pieces = [*sides[0], *sides[1]]

    def led(refers: Refers, written: str) -> tuple[str, ...]:
        """Faces of the part become those of its pieces."""
        if not refers.is_of_faces or refers.target(written) != part_id:
            return (written,)
        owner, _, face = written.partition("/")
        copy = owner.removeprefix(part_id)
        return tuple(f"{p.part.id}{copy}/{n}" for p in pieces for n, o in p.was.items() if o == face)

    parts = [p.model_dump(mode="json") for p in study.parts]
    parts[index : index + 1] = [p.part.model_dump(mode="json") for p in pieces]
    patch: Patch = [{"op": "replace", "path": "/parts", "value": parts}]
    patch += with_references_changed(study, led)
    ties = _ties(part, sides[0], sides[1], {p.id for p in study.pairs})
    patch += [{"op": "add", "path": "/pairs/-", "value": tie} for tie in ties]
    return patch


def _require_divisible(study: StudyDocument, part: Part) -> None:
    why = None
    if study.space != "solid":
        why = "a plane study"
    elif part.mesh.elements == "beam":
        why = "a beam"
    elif any(b.part == part.id for b in study.bolts):
        why = "a bolt that is tightened"
    elif any((h.part or "").split("#")[0] == part.id for h in study.handles):
        why = "a part that is rigid as a whole"
    if why is not None:
        raise InputError(f"{why} cannot be split.", where=f"parts/{part.id}", hint="Split another part.")


def _uses(part: Part, axis: int, at: float) -> tuple[list[FileUse], list[FileUse]]:
    """The solids of a part below and above a plane, in its own axes."""
    sides = kernel.split(placed_shape(part, Placement()), axis, at)
    if len(sides[0]) + len(sides[1]) > MOST_PIECES:
        raise InputError(f"the plane leaves more than {MOST_PIECES} pieces.", where="at", hint="Cut elsewhere.")
    digest = hashlib.sha256(part.model_dump_json().encode()).hexdigest()
    name = f"{part.name}, split"
    below, above = (
        [use_of_shape(shape, name=name, digest=digest, index=i)[0] for i, shape in enumerate(side)] for side in sides
    )
    return below, above


def _piece(part: Part, use: FileUse, number: int, axis: int, at: float) -> _Piece:
    was_free = part.recipe.file is not None and part.recipe.file.content is not None
    elements = "tets" if use.shape is None else "bricks" if was_free else part.mesh.elements
    plain = part.mesh.model_copy(update={
        "faces": {}, "edges": {}, "spots": [], "layers": None, "layer_ratio": 1.0, "elements": elements,
    })  # fmt: skip
    new = part.model_copy(update={
        "id": f"{part.id}-{number}", "name": f"{part.name} {number}", "mesh": plain,
        "recipe": RecipeUse(kind="file", file=use),
    })  # fmt: skip
    mesh, whole = part_mesh(new), part_mesh(part)
    cuts = [n for n, f in mesh.faces.items() if np.abs(mesh.nodes[f][..., axis] - at).max() < IN_PLANE]
    was = _origin(mesh, whole, [n for n in mesh.faces if n not in cuts])
    sizes = {n: part.mesh.faces[o] for n, o in was.items() if o in part.mesh.faces}
    sized = new.model_copy(update={"mesh": plain.model_copy(update={"faces": sizes})})
    return _Piece(sized, was, cuts, part_mesh(sized))


def _origin(mesh: VolumeMesh, whole: VolumeMesh, names: list[str]) -> dict[str, str]:
    """Which face of the whole each face of a piece was part of: the one whose facets lie nearest and face its way."""
    own = [(n, np.hstack([_middles(whole, n), _normals(whole, n)])) for n in whole.faces]
    size = float(np.ptp(whole.nodes, axis=0).max())
    # A turned normal counts as far as the whole part is long.
    rows = np.vstack([r for _, r in own]) * [1, 1, 1, size, size, size]
    owner = np.repeat(np.arange(len(own)), [len(r) for _, r in own])
    tree = cKDTree(rows)
    out = {}
    for name in names:
        at = np.hstack([_middles(mesh, name), _normals(mesh, name) * size])
        out[name] = own[int(np.bincount(owner[tree.query(at)[1]]).argmax())][0]
    return out


def _middles(mesh: VolumeMesh, name: str) -> NDArray[np.float64]:
    return np.asarray(mesh.nodes[mesh.faces[name]].mean(axis=1))


def _normals(mesh: VolumeMesh, name: str) -> NDArray[np.float64]:
    return facet_normals(mesh.nodes, mesh.faces[name])


def _ties(part: Part, below: list[_Piece], above: list[_Piece], taken: set[str]) -> list[dict[str, Any]]:
    """A tied pair for every two pieces whose cut faces lie on each other; the finer side integrates."""
    found: list[dict[str, Any]] = []
    for one, other in itertools.product(below, above):
        sides = [(p, np.vstack([_middles(p.mesh, n) for n in p.cuts])) for p in (one, other)]
        (fine, at), (coarse, across) = sorted(sides, key=lambda s: -len(s[1]))
        # A facet of the finer side lies within one of the coarser.
        corners = np.vstack([coarse.mesh.nodes[coarse.mesh.faces[n][:, :3]] for n in coarse.cuts])
        reach = float(np.linalg.norm(np.ptp(corners, axis=1), axis=1).max())
        if not np.any(cKDTree(across).query(at)[0] < reach):
            continue
        stem = f"{part.id}-tie"[:40]
        name = next(n for k in itertools.count(1) if (n := stem if k == 1 else f"{stem}-{k}") not in taken)
        taken.add(name)
        found.append({
            "id": name, "name": f"{fine.part.name} – {coarse.part.name}"[:80],
            "a": [f"{fine.part.id}/{n}" for n in fine.cuts], "b": [f"{coarse.part.id}/{n}" for n in coarse.cuts],
            "law": {"may_open": False, "may_slide": "no"},
        })  # fmt: skip
    return found
