"""Parts cut by a plane: in pieces that are tied or touch, or to the half on one side, with symmetry where it is cut."""

import hashlib
import itertools
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.spatial import cKDTree

from ulmek.core.errors import InputError, UnknownNameError, located
from ulmek.core.geometry import kernel
from ulmek.core.mesh.facets import facet_normals
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.aside import aside
from ulmek.study.edits import difference
from ulmek.study.items import (
    KINDS,
    FileUse,
    Part,
    Patch,
    Placement,
    RecipeUse,
    StudyDocument,
    SweptShape,
    items_of,
    read_study,
)
from ulmek.study.items.item import Refers
from ulmek.study.items.references import references, with_references
from ulmek.study.meshes import part_mesh
from ulmek.study.step_export import placed_shape
from ulmek.study.step_files import use_of_shape
from ulmek.study.take_out import closure, listed, told_of
from ulmek.study.translate import placed_rotation
from ulmek.study.units import value_of

Array = NDArray[np.float64]

# Nodes closer to the plane than this (mm) lie in it.
IN_PLANE = 1e-6
# What a face that a cut has left is called.
PARTING = "parting"
# Pieces that one plane may leave of a part.
MOST_PIECES = 20


class Cutting(BaseModel):
    """A plane across ``normal``, ``at`` a length along it from the origin of the study's axes, or of the parts' own.

    parts: which are cut, all where none is named. keep: both sides, or only what lies ahead of the plane (where the
    normal points) or behind it. leaves: what holds the faces that both sides leave (tied, touching), or one side
    leaves (symmetry, free).
    """

    parts: list[str] = []
    axes: Literal["study", "own"] = "study"
    normal: tuple[float, float, float]
    at: str
    keep: Literal["both", "ahead", "behind"] = "both"
    leaves: Literal["tied", "touching", "symmetry", "free"] = "tied"


@dataclass(frozen=True)
class _Plane:
    """A unit normal (3,) and the distance (mm) along it."""

    normal: Array
    at: float

    def heights(self, points: Array) -> Array:
        return np.asarray(points @ self.normal - self.at)

    def own(self, placement: Placement) -> "_Plane":
        """The plane in the own axes of what is placed."""
        shift = np.array([value_of(c, "length") for c in placement.at])
        normal = placed_rotation(placement).T @ self.normal
        return _Plane(np.where(np.abs(normal) < 1e-12, 0.0, normal), float(self.at - self.normal @ shift))

    def key(self) -> tuple[float, ...]:
        return (*np.round(self.normal, 9), round(self.at, 6))


@dataclass(frozen=True)
class _Piece:
    """A part that is left, which copies of the one that it was part of it stands for, what its faces were there, and
    its faces in the plane, on the side ``is_ahead``."""

    part: Part
    copies: list[int]
    was: dict[str, str]
    cuts: list[str] = field(default_factory=list)
    is_ahead: bool = True


def cut_parts(study: StudyDocument, cutting: Cutting) -> tuple[Patch, str]:
    """The patch that cuts parts, and leads what hung on their faces to those of the pieces; and in words what goes
    with what is cut away, and what now acts on a share only.

    Raises
    ------
    InputError : a plane that cuts nothing or leaves nothing, or a part that must stay whole. UlmekError : from
        meshing a piece.
    """
    plane = _plane(study, cutting)
    unknown = next((n for n in cutting.parts if n not in {p.id for p in study.parts}), None)
    if unknown is not None:
        raise UnknownNameError(f"there is no part '{unknown}'.", where="parts", hint="Pick a part that is there.")
    now, cut, left = study, [], set()
    for part in study.parts:
        if not cutting.parts or part.id in cutting.parts:
            now, pieces = _cut_one(now, part, plane, cutting)
            cut += [p for p in pieces if p.cuts]
            left |= {part.id for _ in pieces}
    if now == study:
        who = " and ".join(p.name for p in study.parts if p.id in cutting.parts) or "any part"
        raise InputError(f"the plane does not cut {who}.", where="at", hint="Give a place inside, in the axes chosen.")
    if not now.parts:
        raise InputError("the plane leaves nothing.", where="keep", hint="Keep the other side.")
    if cutting.leaves == "symmetry":
        now = _held(now, [f"{p.part.id}/{name}" for p in cut for name in p.cuts], cutting)
    return difference(study, now), _told(study, now, cut, left, cutting)


def _plane(study: StudyDocument, cutting: Cutting) -> _Plane:
    if study.space != "solid":
        raise InputError("a plane study has no solids to cut.", where="space", hint="Model half of the outline.")
    if (cutting.keep == "both") != (cutting.leaves in ("tied", "touching")):
        raise InputError(
            f"what keeps {cutting.keep} cannot leave its cut {cutting.leaves}.", where="leaves",
            hint="Both sides are tied or touch; one side is held as symmetry or left free.",
        )  # fmt: skip
    normal = np.array(cutting.normal)
    length = float(np.linalg.norm(normal))
    if not np.isfinite(length) or length == 0:
        raise InputError("the normal of the plane has no direction.", where="normal", hint="Give one, not all zero.")
    return _Plane(normal / length, located("at", value_of, cutting.at, "length"))


def _cut_one(study: StudyDocument, part: Part, plane: _Plane, cutting: Cutting) -> tuple[StudyDocument, list[_Piece]]:
    """The study with what is left of one part in its place, and that; the same study where it is not reached."""
    nodes = part_mesh(part).nodes
    whole: list[int] = []
    groups: dict[tuple[float, ...], tuple[_Plane, list[int]]] = {}
    for copy, placement in enumerate(part.placements):
        own = plane.own(placement) if cutting.axes == "study" else plane
        heights = own.heights(nodes)
        if heights.min() < -IN_PLANE and heights.max() > IN_PLANE:
            groups.setdefault(own.key(), (own, []))[1].append(copy)
        elif cutting.keep in ("both", "ahead" if heights.max() > IN_PLANE else "behind"):
            whole.append(copy)
    if len(whole) == len(part.placements):
        return study, []
    taken = {p.id for p in study.parts}
    free = (n for n in itertools.count(1) if f"{part.id}-{n}" not in taken)
    pieces = []
    if whole:
        stays = part.model_copy(update={"placements": [part.placements[c] for c in whole]})
        pieces.append(_Piece(stays, whole, {n: n for n in part_mesh(part).faces}))
    for own, copies in groups.values():
        pieces += _pieces(part, own, cutting, copies, free)
    if len(pieces) == 1:
        only = pieces[0]
        same = only.part.model_copy(update={"id": part.id, "name": part.name})
        pieces = [_Piece(same, only.copies, only.was, only.cuts, only.is_ahead)]
    _require_divisible(study, part, pieces)
    return _with_pieces(study, part, pieces, cutting), pieces


def _require_divisible(study: StudyDocument, part: Part, pieces: list[_Piece]) -> None:
    why = None
    if part.mesh.elements == "beam" and any(p.cuts for p in pieces):
        why = "a beam"
    elif len({p.is_ahead for p in pieces if p.cuts}) == 2 and any(b.part == part.id for b in study.bolts):
        why = "a bolt that is tightened"
    elif len(pieces) > 1 and any((h.part or "").split("#")[0] == part.id for h in study.handles):
        why = "a part that is rigid as a whole"
    if why is not None:
        raise InputError(f"{why} cannot be cut so.", where=f"parts/{part.id}", hint="Cut another part.")


def _pieces(part: Part, plane: _Plane, cutting: Cutting, copies: list[int], free: Iterator[int]) -> list[_Piece]:
    """What the plane, in the part's own axes, leaves of some of its copies."""
    at = {"placements": [part.placements[c] for c in copies]}
    halved = _by_recipe(part, plane, cutting)
    if halved is not None:
        mesh = part_mesh(halved)
        cuts = [n for n, f in mesh.faces.items() if np.abs(plane.heights(mesh.nodes[f])).max() < IN_PLANE]
        number = next(free)
        named = halved.model_copy(update={**at, "id": f"{part.id}-{number}", "name": f"{part.name} {number}"})
        return [_Piece(named, copies, {n: n for n in mesh.faces if n not in cuts}, cuts, cutting.keep == "ahead")]
    sides = aside(part.name, _uses, part, plane.normal, plane.at)
    if sum(map(len, sides)) > MOST_PIECES:
        raise InputError(f"the plane leaves more than {MOST_PIECES} pieces.", where="at", hint="Cut elsewhere.")
    found = []
    for is_ahead, uses in zip((False, True), sides, strict=True):
        if cutting.keep in ("both", "ahead" if is_ahead else "behind"):
            for use in uses:
                piece = _piece(part.model_copy(update=at), use, next(free), plane)
                found.append(_Piece(piece.part, copies, piece.was, piece.cuts, is_ahead))
    return found


def _by_recipe(part: Part, plane: _Plane, cutting: Cutting) -> Part | None:
    """The half or quarter that a recipe makes itself, so that dimensions, names and bolts stay as they are."""
    kept, fits = part.recipe.kept, abs(plane.at) < IN_PLANE and part.recipe.file is None and cutting.keep != "both"
    towards = plane.normal if cutting.keep == "ahead" else -plane.normal
    if fits and kept == "whole" and np.allclose(towards, [0, 1, 0], atol=1e-9):
        return part.model_copy(update={"recipe": part.recipe.model_copy(update={"kept": "half"})})
    if fits and kept == "half" and np.allclose(towards, [1, 0, 0], atol=1e-9):
        return part.model_copy(update={"recipe": part.recipe.model_copy(update={"kept": "quarter"})})
    return None


def _uses(part: Part, normal: Array, at: float) -> tuple[list[FileUse], list[FileUse]]:
    """The solids of a part behind and ahead of a plane, in its own axes."""
    sides = kernel.split(placed_shape(part, Placement()), normal, at)
    digest = hashlib.sha256(part.model_dump_json().encode()).hexdigest()
    name = f"{part.name}, cut"
    behind, ahead = (
        [use_of_shape(shape, name=name, digest=digest, index=i)[0] for i, shape in enumerate(side)] for side in sides
    )
    return behind, ahead


def _piece(part: Part, use: FileUse, number: int, plane: _Plane) -> _Piece:
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
    cuts = [n for n, f in mesh.faces.items() if np.abs(plane.heights(mesh.nodes[f])).max() < IN_PLANE]
    was = _origin(mesh, whole, [n for n in mesh.faces if n not in cuts])
    new_names = _names(was, cuts) if use.shape is not None else {n: n for n in mesh.faces}
    was, cuts = {new_names[n]: o for n, o in was.items()}, [new_names[n] for n in cuts]
    sizes = {n: part.mesh.faces[o] for n, o in was.items() if o in part.mesh.faces}
    named = new.model_copy(update={
        "mesh": plain.model_copy(update={"faces": sizes}),
        "recipe": RecipeUse(kind="file", file=_with_names(use, new_names)),
    })  # fmt: skip
    return _Piece(named, [], was, cuts)


def _names(was: dict[str, str], cuts: list[str]) -> dict[str, str]:
    """Names for the faces of a piece: those that they were part of, numbered where several were, and for the cut."""
    names: dict[str, str] = {}
    for face, stem in [*was.items(), *((n, PARTING) for n in cuts)]:
        taken = {*names.values(), *was.values()} if stem in names.values() else set(names.values())
        names[face] = next(n for k in itertools.count(1) if (n := stem if k == 1 else f"{stem}.{k}") not in taken)
    return names


def _with_names(use: FileUse, names: dict[str, str]) -> FileUse:
    """The solid with its faces renamed; a free-form one keeps its names."""
    if use.shape is None:
        return use
    shape = use.shape.model_dump()
    if shape["layers"]:
        labels = [{**label, "name": names.get(label["name"], label["name"])} for label in shape["names"]]
        return use.model_copy(update={"shape": SweptShape.model_validate({**shape, "names": labels})})
    for region in shape["regions"]:
        for segment in itertools.chain(region["outer"], *region["holes"]):
            segment["name"] = names.get(segment["name"], segment["name"])
    return use.model_copy(update={"shape": SweptShape.model_validate(shape)})


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


def _middles(mesh: VolumeMesh, name: str) -> Array:
    return np.asarray(mesh.nodes[mesh.faces[name]].mean(axis=1))


def _normals(mesh: VolumeMesh, name: str) -> Array:
    return facet_normals(mesh.nodes, mesh.faces[name])


def _with_pieces(study: StudyDocument, part: Part, pieces: list[_Piece], cutting: Cutting) -> StudyDocument:
    """The study with the pieces in the place of the part, what hung on it hung on them, and their ties."""

    def led(refers: Refers, written: str) -> tuple[str, ...]:
        """Faces and copies of the part become those of its pieces."""
        if refers.to != "part" or refers.target(written) != part.id:
            return (written,)
        if not refers.is_of_faces:
            return tuple(p.part.id for p in pieces[:1])
        owner, _, face = written.partition("/")
        _, _, number = owner.partition("#")
        found = []
        for piece in pieces:
            if number and int(number) - 1 not in piece.copies:
                continue
            copy = f"#{piece.copies.index(int(number) - 1) + 1}" if number and len(piece.copies) > 1 else ""
            names = [n for n, o in piece.was.items() if o == face] if face else [""]
            found += [f"{piece.part.id}{copy}{'/' if n else ''}{n}" for n in names]
        return tuple(found)

    left = study
    while gone := {
        (kind.name, item.id)
        for kind in KINDS.values()
        if kind.is_named and kind.name != "part"
        for item in items_of(left, kind.name)
        if with_references(item, led) is None
    }:
        left = _without(left, gone)
    if not pieces:
        return _without(left, {("part", part.id)})
    after = left.model_dump(mode="json")
    for kind in KINDS.values():
        if kind.name != "part":
            items = [with_references(item, led) for item in items_of(left, kind.name)]
            after[kind.list] = [item.model_dump(mode="json") for item in items if item is not None]
    index = next(i for i, p in enumerate(study.parts) if p.id == part.id)
    after["parts"][index : index + 1] = [p.part.model_dump(mode="json") for p in pieces]
    after["bolts"] += _tightened(after["bolts"], pieces)
    if cutting.keep == "both":
        taken = {p["id"] for p in after["pairs"]}
        for own in {p.copies[0]: p.copies for p in pieces if p.cuts}.values():
            cut = [p for p in pieces if p.cuts and p.copies == own]
            behind, ahead = [p for p in cut if not p.is_ahead], [p for p in cut if p.is_ahead]
            after["pairs"] += _ties(part, behind, ahead, taken, is_tied=cutting.leaves == "tied")
    return read_study(after)


def _without(study: StudyDocument, gone: set[tuple[str, str]]) -> StudyDocument:
    lists, _ = closure(study, gone)
    return read_study({**study.model_dump(mode="json"), **{KINDS[k].list: items for k, items in lists.items()}})


def _tightened(bolts: list[dict[str, Any]], pieces: list[_Piece]) -> list[dict[str, Any]]:
    """The first piece of a bolt is tightened as the bolt was; the others likewise."""
    taken = {b["id"] for b in bolts}
    found = []
    for bolt, piece in itertools.product([b for b in bolts if b["part"] == pieces[0].part.id], pieces[1:]):
        names = (f"{bolt['id'][:44]}-{n}" for n in itertools.count(2))
        free = next(n for n in names if n not in taken)
        taken.add(free)
        found.append({**bolt, "id": free, "part": piece.part.id, "name": f"{bolt['name'][:70]} {free.split('-')[-1]}"})
    return found


def _ties(
    part: Part, behind: list[_Piece], ahead: list[_Piece], taken: set[str], *, is_tied: bool
) -> list[dict[str, Any]]:
    """A pair for every two pieces whose cut faces lie on each other; the finer side integrates."""
    found: list[dict[str, Any]] = []
    for one, other in itertools.product(behind, ahead):
        meshes = {p.part.id: part_mesh(p.part) for p in (one, other)}
        sides = [(p, np.vstack([_middles(meshes[p.part.id], n) for n in p.cuts])) for p in (one, other)]
        (fine, at), (coarse, across) = sorted(sides, key=lambda s: -len(s[1]))
        # A facet of the finer side lies within one of the coarser.
        mesh = meshes[coarse.part.id]
        corners = np.vstack([mesh.nodes[mesh.faces[n][:, :3]] for n in coarse.cuts])
        reach = float(np.linalg.norm(np.ptp(corners, axis=1), axis=1).max())
        if not np.any(cKDTree(across).query(at)[0] < reach):
            continue
        stem = f"{part.id}-{'tie' if is_tied else 'joint'}"[:40]
        name = next(n for k in itertools.count(1) if (n := stem if k == 1 else f"{stem}-{k}") not in taken)
        taken.add(name)
        found.append({
            "id": name, "name": f"{fine.part.name} – {coarse.part.name}"[:80],
            "a": [f"{fine.part.id}/{n}" for n in fine.cuts], "b": [f"{coarse.part.id}/{n}" for n in coarse.cuts],
            **({"law": {"may_open": False, "may_slide": "no"}} if is_tied else {}),
        })  # fmt: skip
    return found


def _held(study: StudyDocument, faces: list[str], cutting: Cutting) -> StudyDocument:
    """The study with the cut faces held as a plane of symmetry."""
    normal = np.array(cutting.normal)
    if cutting.axes == "study" and np.count_nonzero(np.abs(normal) > 1e-9 * np.abs(normal).max()) > 1:
        raise InputError(
            "symmetry is held across a coordinate axis of the study only.", where="normal",
            hint="Leave the cut free, or turn the parts so that the plane lies across an axis.",
        )  # fmt: skip
    if not faces:
        return study
    axis = "xyz"[int(np.abs(normal).argmax())]
    taken = {s.id for s in study.supports}
    free = next(
        n for k in itertools.count(1) if (n := f"symmetry-{axis}" if k == 1 else f"symmetry-{axis}-{k}") not in taken
    )
    where = f"Symmetry, {axis} = {cutting.at}" if cutting.axes == "study" else "Symmetry of the cut"
    support = {"id": free, "name": where[:80], "kind": "symmetry", "faces": faces}
    before = study.model_dump(mode="json")
    return read_study({**before, "supports": [*before["supports"], support]})


def _told(study: StudyDocument, now: StudyDocument, cut: list[_Piece], left: set[str], cutting: Cutting) -> str:
    """What went with what is cut away, and what acts on a share of what it acted on; ``left``: parts of which pieces
    are."""
    gone = {
        (kind.name, item.id)
        for kind in KINDS.values()
        if kind.is_named
        for item in items_of(study, kind.name)
        if item.id not in {i.id for i in items_of(now, kind.name)} and not (kind.name == "part" and item.id in left)
    }
    plain = study.model_dump(mode="json")
    words = told_of(study, gone, plain, plain, ("Also takes out", "Changes"))
    if cutting.keep == "both":
        return words
    halved = {p.part.id for p in cut}
    leads = {h.id for h in now.handles if any(r.target in halved for r in references(h))}
    forces = [
        load.name for load in now.loads
        if load.kind in ("force", "moment") and any(r.target in halved | leads for r in references(load))
    ]  # fmt: skip
    tight = [b.name for b in now.bolts if b.part in halved]
    if forces or tight:
        words += f" {listed([*forces, *tight])} now {'acts' if len([*forces, *tight]) == 1 else 'act'} on what is left:"
        words += " give the share of it."
    return words.strip()
