"""Parts cut by a plane: in pieces that are tied or touch, or to the half on one side, with symmetry where it is cut."""

import hashlib
import itertools
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.spatial import cKDTree

from ulmek.core.errors import GeometryError, InputError, UnknownNameError, located
from ulmek.core.geometry import kernel
from ulmek.study.aside import aside
from ulmek.study.edits import difference
from ulmek.study.items import (
    FileUse,
    Part,
    Patch,
    Placement,
    StudyDocument,
    read_study,
)
from ulmek.study.items.drawn import BarCut
from ulmek.study.items.item import free_id
from ulmek.study.items.references import references
from ulmek.study.matching import do_match, matched
from ulmek.study.meshes import part_mesh
from ulmek.study.pieces import Piece, made_piece, middles, told_gone, with_pieces
from ulmek.study.solids import solid_of_use
from ulmek.study.step_export import placed_shape
from ulmek.study.step_files import use_of_shape
from ulmek.study.take_out import listed
from ulmek.study.translate import placed_axes
from ulmek.study.units import value_of

Array = NDArray[np.float64]

_MATCH = {
    True: "The meshes match where they were cut.",
    False: "The meshes do not match where they were cut: the finer side is carried by the faces of the other.",
}
# Nodes closer to the plane than this (mm) lie in it.
IN_PLANE = 1e-6
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
        normal = placed_axes(placement).T @ self.normal
        return _Plane(np.where(np.abs(normal) < 1e-12, 0.0, normal), float(self.at - self.normal @ shift))

    def key(self) -> tuple[float, ...]:
        return (*np.round(self.normal, 9), round(self.at, 6))


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


def _cut_one(study: StudyDocument, part: Part, plane: _Plane, cutting: Cutting) -> tuple[StudyDocument, list[Piece]]:
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
        pieces.append(Piece(stays, whole, {n: n for n in part_mesh(part).faces}))
    for own, copies in groups.values():
        pieces += _pieces(part, own, cutting, copies, free)
    if len(pieces) == 1:
        only = pieces[0]
        same = only.part.model_copy(update={"id": part.id, "name": part.name})
        pieces = [Piece(same, only.copies, only.was, only.cuts, only.is_ahead)]
    _require_divisible(study, part, pieces)
    return _with_pieces(study, part, pieces, cutting), pieces


def _require_divisible(study: StudyDocument, part: Part, pieces: list[Piece]) -> None:
    why = None
    if part.mesh.elements == "beam" and any(p.cuts for p in pieces):
        why = "a beam"
    elif len({p.is_ahead for p in pieces if p.cuts}) == 2 and any(b.part == part.id for b in study.bolts):
        why = "a bolt that is tightened"
    elif len(pieces) > 1 and any((h.part or "").split("#")[0] == part.id for h in study.handles):
        why = "a part that is rigid as a whole"
    if why is not None:
        raise InputError(f"{why} cannot be cut so.", where=f"parts/{part.id}", hint="Cut another part.")


def _pieces(part: Part, plane: _Plane, cutting: Cutting, copies: list[int], free: Iterator[int]) -> list[Piece]:
    """What the plane, in the part's own axes, leaves of some of its copies."""
    at = {"placements": [part.placements[c] for c in copies]}
    made = _by_recipe(part, plane, cutting) or _bent(part, plane, cutting)
    if made:
        found = []
        for left, is_ahead in made:
            mesh = part_mesh(left)
            cuts = [n for n, f in mesh.faces.items() if np.abs(plane.heights(mesh.nodes[f])).max() < IN_PLANE]
            number = next(free)
            named = left.model_copy(update={**at, "id": f"{part.id}-{number}", "name": f"{part.name} {number}"})
            found.append(Piece(named, copies, {n: n for n in mesh.faces if n not in cuts}, cuts, is_ahead))
        return found
    sides = aside(part.name, _uses, part, plane.normal, plane.at)
    if sum(map(len, sides)) > MOST_PIECES:
        raise InputError(f"the plane leaves more than {MOST_PIECES} pieces.", where="at", hint="Cut elsewhere.")
    found = []
    for is_ahead, uses in zip((False, True), sides, strict=True):
        if cutting.keep in ("both", "ahead" if is_ahead else "behind"):
            for use in uses:
                number = next(free)
                named = part.model_copy(update={**at, "id": f"{part.id}-{number}", "name": f"{part.name} {number}"})
                piece = made_piece(part, named, use, lambda nodes: np.abs(plane.heights(nodes)).max() < IN_PLANE)
                found.append(replace(piece, copies=copies, is_ahead=is_ahead))
    return matched(found) if cutting.keep == "both" else found


def _by_recipe(part: Part, plane: _Plane, cutting: Cutting) -> list[tuple[Part, bool]]:
    """The half or quarter that a recipe makes itself, so that dimensions, names and bolts stay as they are, and whether
    it lies ahead of the plane; nothing where there is none."""
    kept, fits = part.recipe.kept, abs(plane.at) < IN_PLANE and part.recipe.file is None and cutting.keep != "both"
    towards = plane.normal if cutting.keep == "ahead" else -plane.normal
    for before, after, normal in (("whole", "half", [0, 1, 0]), ("half", "quarter", [1, 0, 0])):
        if fits and kept == before and part.recipe.bent is None and np.allclose(towards, normal, atol=1e-9):
            recipe = part.recipe.model_copy(update={"kept": after})
            return [(part.model_copy(update={"recipe": recipe}), cutting.keep == "ahead")]
    return []


def _bent(part: Part, plane: _Plane, cutting: Cutting) -> list[tuple[Part, bool]]:
    """What is left of a bent bar, which stays one, and whether it lies ahead of the plane; nothing where the plane
    meets it neither along its path nor straight across."""
    bent = part.recipe.bent
    if bent is None:
        return []
    found = []
    for is_ahead in (False, True):
        if cutting.keep in ("both", "ahead" if is_ahead else "behind"):
            sign = 1.0 if is_ahead else -1.0
            x, y, z = (float(c) + 0.0 for c in sign * plane.normal)
            cut = BarCut(normal=(x, y, z), at=f"{sign * plane.at + 0.0:.10g} mm")
            recipe = part.recipe.model_copy(update={"bent": bent.model_copy(update={"cuts": [*bent.cuts, cut]})})
            left = part.model_copy(update={"recipe": recipe})
            try:
                solid_of_use(recipe.model_dump(), part.id)
            except GeometryError:
                return []
            found.append((left, is_ahead))
    return found


def _uses(part: Part, normal: Array, at: float) -> tuple[list[FileUse], list[FileUse]]:
    """The solids of a part behind and ahead of a plane, in its own axes."""
    sides = kernel.split(placed_shape(part, Placement()), normal, at)
    digest = hashlib.sha256(part.model_dump_json().encode()).hexdigest()
    name = f"{part.name}, cut"
    behind, ahead = (
        [use_of_shape(shape, name=name, digest=digest, index=i)[0] for i, shape in enumerate(side)] for side in sides
    )
    return behind, ahead


def _with_pieces(study: StudyDocument, part: Part, pieces: list[Piece], cutting: Cutting) -> StudyDocument:
    """The study with the pieces in the place of the part, tightened as it was, and their ties."""
    left = with_pieces(study, part, pieces)
    if not pieces:
        return left
    after = left.model_dump(mode="json")
    after["bolts"] += _tightened(after["bolts"], pieces)
    if cutting.keep == "both":
        taken = {p["id"] for p in after["pairs"]}
        for own in {p.copies[0]: p.copies for p in pieces if p.cuts}.values():
            cut = [p for p in pieces if p.cuts and p.copies == own]
            behind, ahead = [p for p in cut if not p.is_ahead], [p for p in cut if p.is_ahead]
            after["pairs"] += _ties(part, behind, ahead, taken, is_tied=cutting.leaves == "tied")
    return read_study(after)


def _tightened(bolts: list[dict[str, Any]], pieces: list[Piece]) -> list[dict[str, Any]]:
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
    part: Part, behind: list[Piece], ahead: list[Piece], taken: set[str], *, is_tied: bool
) -> list[dict[str, Any]]:
    """A pair for every two pieces whose cut faces lie on each other; the finer side integrates."""
    found: list[dict[str, Any]] = []
    for one, other in itertools.product(behind, ahead):
        meshes = {p.part.id: part_mesh(p.part) for p in (one, other)}
        sides = [(p, np.vstack([middles(meshes[p.part.id], n) for n in p.cuts])) for p in (one, other)]
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
    if not faces:
        return study
    normal = np.array(cutting.normal)
    is_straight = np.count_nonzero(np.abs(normal) > 1e-9 * np.abs(normal).max()) == 1
    axis = "xyz"[int(np.abs(normal).argmax())]
    free = free_id(f"symmetry-{axis}" if is_straight else "symmetry", [s.id for s in study.supports])
    is_told = is_straight and cutting.axes == "study"
    where = f"Symmetry, {axis} = {cutting.at}" if is_told else "Symmetry of the cut"
    support = {"id": free, "name": where[:80], "kind": "symmetry", "faces": faces}
    before = study.model_dump(mode="json")
    return read_study({**before, "supports": [*before["supports"], support]})


def _told(study: StudyDocument, now: StudyDocument, cut: list[Piece], left: set[str], cutting: Cutting) -> str:
    """What went with what is cut away, and what acts on a share of what it acted on; ``left``: parts of which pieces
    are."""
    words = told_gone(study, now, left)
    if cutting.keep == "both":
        of_one = itertools.groupby(cut, key=lambda p: p.part.id.rsplit("-", 1)[0])
        alike = [do_match(list(pieces)) for _, pieces in of_one]
        return f"{words} {_MATCH[all(alike)]}".strip()
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
