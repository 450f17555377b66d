"""What is left of a part whose solid was changed: pieces with the names of its faces, and what hung on it on them."""

import itertools
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.core.mesh.facets import facet_normals
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items import KINDS, FileUse, Part, RecipeUse, StudyDocument, SweptShape, items_of, read_study
from ulmek.study.items.item import Refers
from ulmek.study.items.references import with_references
from ulmek.study.meshes import part_mesh
from ulmek.study.take_out import closure, told_of

Array = NDArray[np.float64]

# What a face that a cut has left is called.
PARTING = "parting"


@dataclass(frozen=True)
class Piece:
    """A part that is left, which copies of the one that it was part of it stands for, what its faces were there, and
    its faces in the plane of a cut, on the side ``is_ahead``."""

    part: Part
    copies: list[int]
    was: dict[str, str]
    cuts: list[str] = field(default_factory=list)
    is_ahead: bool = True


def made_piece(whole: Part, piece: Part, use: FileUse, is_cut: Callable[[Array], bool] = lambda _: False) -> Piece:
    """``piece``, still with the recipe of the ``whole``, as the solid ``use``: its faces are named as those that they
    were part of, but those whose nodes (k, 3) mm ``is_cut``; sizes of faces stay, others of edges and spots do not."""
    was_free = whole.recipe.file is not None and whole.recipe.file.content is not None
    elements = "tets" if use.shape is None else "bricks" if was_free else whole.mesh.elements
    plain = whole.mesh.model_copy(update={
        "faces": {}, "edges": {}, "spots": [], "found": [],
        "layers": None, "layer_ratio": 1.0, "through": {}, "elements": elements,
    })  # fmt: skip
    new = piece.model_copy(update={"mesh": plain, "recipe": RecipeUse(kind="file", file=use), "regions": []})
    mesh, before = part_mesh(new), part_mesh(whole)
    cuts = [n for n, f in mesh.faces.items() if is_cut(mesh.nodes[f.ravel()])]
    was = _origin(mesh, before, [n for n in mesh.faces if n not in cuts])
    new_names = _names(was, cuts) if use.shape is not None else {n: n for n in mesh.faces}
    was, cuts = {new_names[n]: o for n, o in was.items()}, [new_names[n] for n in cuts]
    sizes = {n: whole.mesh.faces[o] for n, o in was.items() if o in whole.mesh.faces}
    named = new.model_copy(update={
        "mesh": plain.model_copy(update={"faces": sizes}),
        "recipe": RecipeUse(kind="file", file=_with_names(use, new_names)),
    })  # fmt: skip
    return Piece(named, [], was, cuts)


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
    own = [(n, np.hstack([middles(whole, n), _normals(whole, n)])) for n in whole.faces]
    size = float(np.ptp(whole.nodes, axis=0).max())
    # A turned normal counts as far as the whole part is long.
    rows = np.vstack([r for _, r in own]) * [1, 1, 1, size, size, size]
    owner = np.repeat(np.arange(len(own)), [len(r) for _, r in own])
    tree = cKDTree(rows)
    out = {}
    for name in names:
        at = np.hstack([middles(mesh, name), _normals(mesh, name) * size])
        out[name] = own[int(np.bincount(owner[tree.query(at)[1]]).argmax())][0]
    return out


def middles(mesh: VolumeMesh, name: str) -> Array:
    return np.asarray(mesh.nodes[mesh.faces[name]].mean(axis=1))


def _normals(mesh: VolumeMesh, name: str) -> Array:
    return facet_normals(mesh.nodes, mesh.faces[name])


def with_pieces(study: StudyDocument, part: Part, pieces: list[Piece]) -> StudyDocument:
    """The study with the pieces in the place of the part, and what hung on it hung on them; what hung on nothing that
    is left goes."""

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
        left = without(left, gone)
    if not pieces:
        return without(left, {("part", part.id)})
    after = left.model_dump(mode="json")
    for kind in KINDS.values():
        if kind.name != "part":
            items = [with_references(item, led) for item in items_of(left, kind.name)]
            after[kind.list] = [item.model_dump(mode="json") for item in items if item is not None]
    index = next(i for i, p in enumerate(study.parts) if p.id == part.id)
    after["parts"][index : index + 1] = [p.part.model_dump(mode="json") for p in pieces]
    return read_study(after)


def without(study: StudyDocument, gone: set[tuple[str, str]]) -> StudyDocument:
    lists, _ = closure(study, gone)
    return read_study({**study.model_dump(mode="json"), **{KINDS[k].list: items for k, items in lists.items()}})


def told_gone(study: StudyDocument, now: StudyDocument, left: set[str]) -> str:
    """In words, which items went, and what was changed with them; ``left``: parts of which pieces are."""
    gone = {
        (kind.name, item.id)
        for kind in KINDS.values()
        if kind.is_named
        for item in items_of(study, kind.name)
        if item.id not in {i.id for i in items_of(now, kind.name)} and not (kind.name == "part" and item.id in left)
    }
    plain = study.model_dump(mode="json")
    return told_of(study, gone, plain, plain, ("Also takes out", "Changes"))
