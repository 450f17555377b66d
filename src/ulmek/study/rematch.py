"""Parts given another solid: faces of a file are found again, those of a drawing renamed, wherever they are named."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from scipy.optimize import linear_sum_assignment

from ulmek.core.errors import UnknownNameError
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items import FileUse, Part, Patch, RecipeUse, StudyDocument, with_references_changed
from ulmek.study.items.item import Refers
from ulmek.study.meshes import part_mesh
from ulmek.study.solids import solid_of_use

Array = NDArray[np.float64]
# Faces further apart than this are not the same face; below the first they are beyond doubt, and between the two
# when no other face comes half as close.
SAME, PERHAPS, MARGIN = 0.08, 0.6, 2.0
# What a turned normal, and another area, weigh against a move by the size of the part.
NORMAL, AREA = 0.5, 0.5


class FaceMatch(BaseModel):
    """A face of the old solid, the face of the new one that it became, and how far apart they are (0: the same)."""

    old: str
    new: str
    apart: float


@dataclass(frozen=True)
class Rematch:
    """matches: old to new names. unsure: those of them to look at. lost: old names without a match."""

    matches: list[FaceMatch]
    unsure: list[FaceMatch]
    lost: list[str]


def rematch(old: VolumeMesh, new: VolumeMesh) -> Rematch:
    """Which face of ``new`` each face of ``old`` is: by place, size and the way it faces, best for all together."""
    size = float(np.linalg.norm(np.ptp(old.nodes, axis=0)))
    old_names, new_names = sorted(old.faces), sorted(new.faces)
    before, after = (
        np.array([_signature(m, n, size) for n in names]) for m, names in ((old, old_names), (new, new_names))
    )
    apart = np.linalg.norm(before[:, None] - after[None], axis=2)
    rows, columns = linear_sum_assignment(apart)
    matches, unsure, found = [], [], set()
    for i, j in zip(rows, columns, strict=True):
        cost = float(apart[i, j])
        if cost > PERHAPS:
            continue
        match = FaceMatch(old=old_names[i], new=new_names[j], apart=cost)
        others = np.concatenate([np.delete(apart[i], j), np.delete(apart[:, j], i)])
        if cost > SAME and others.min(initial=np.inf) < MARGIN * cost:
            unsure.append(match)
        matches.append(match)
        found.add(old_names[i])
    return Rematch(matches, unsure, [n for n in old_names if n not in found])


def _signature(mesh: VolumeMesh, name: str, size: float) -> Array:
    """Centroid, root of the area, mean normal, and mean product of the normal with itself, of a face."""
    corners = mesh.nodes[mesh.faces[name][:, : 3 if mesh.kind == "tet" else 4]]
    across = np.cross(corners[:, 2] - corners[:, 0], corners[:, -1] - corners[:, 1]) / 2
    area = np.maximum(np.linalg.norm(across, axis=1), 1e-300)
    normal, share = across / area[:, None], area / area.sum()
    spread = np.einsum("i,ij,ik->jk", share, normal, normal)
    return np.concatenate(
        [
            share @ corners.mean(axis=1) / size,
            [AREA * np.sqrt(area.sum()) / size],
            NORMAL * (share @ normal),
            NORMAL * spread.ravel(),
        ]
    )


def with_file(study: StudyDocument, part_id: str, file: FileUse) -> tuple[Patch, Rematch]:
    """The patch that gives a part the solid of another file and renames its faces everywhere, and what became of them.

    Raises
    ------
    UlmekError : the new solid cannot be meshed as the part is.
    """
    index = next(i for i, p in enumerate(study.parts) if p.id == part_id)
    part = study.parts[index]
    new = part.model_copy(update={"recipe": RecipeUse(kind="file", file=file), "mesh": _plain_mesh(part)})
    found = rematch(part_mesh(part), part_mesh(new))
    names = {m.old: m.new for m in found.matches}
    patch = with_references_changed(study, renaming(part_id, names))
    sizes = {names[face]: size for face, size in part.mesh.faces.items() if face in names}
    is_swept = file.shape is not None and bool(file.shape.layers)
    through = {names[face]: n for face, n in part.mesh.through.items() if is_swept and face in names}
    edges = {
        "|".join(names.get(f, f) for f in key.split("|")): size
        for key, size in part.mesh.edges.items()
        if set(key.split("|")) <= set(names)
    }
    patch += [
        {"op": "replace", "path": f"/parts/{index}/recipe", "value": new.recipe.model_dump(mode="json")},
        {"op": "replace", "path": f"/parts/{index}/mesh/faces", "value": sizes},
        {"op": "replace", "path": f"/parts/{index}/mesh/edges", "value": edges},
        {"op": "replace", "path": f"/parts/{index}/mesh/through", "value": through},
    ]
    return patch, found


def renaming(part_id: str, names: Mapping[str, str]) -> Callable[[Refers, str], tuple[str, ...]]:
    """What references become where faces of a part are renamed."""

    def renamed(refers: Refers, written: str) -> tuple[str, ...]:
        owner, _, face = written.partition("/")
        meant = refers.is_of_faces and refers.target(written) == part_id and face in names
        return (f"{owner}/{names[face]}" if meant else written,)

    return renamed


def with_shape(study: StudyDocument, part_id: str, recipe: RecipeUse, names: Mapping[str, str]) -> Patch:
    """The patch that gives a part another drawing, runs or dimensions, and leads along what names its faces, whose
    ``names`` are from old to new.

    Raises
    ------
    UnknownNameError : no such part. UlmekError : no solid can be made of it.
    """
    index = next((i for i, p in enumerate(study.parts) if p.id == part_id), None)
    if index is None:
        raise UnknownNameError(f"there is no part '{part_id}'.", where="parts")
    part = study.parts[index]
    solid_of_use(recipe.model_dump(), part_id)
    mesh = part.mesh.model_copy(update={
        "faces": {names.get(f, f): size for f, size in part.mesh.faces.items()},
        "through": {names.get(f, f): n for f, n in part.mesh.through.items()},
        "edges": {"|".join(names.get(f, f) for f in k.split("|")): size for k, size in part.mesh.edges.items()},
    })  # fmt: skip
    return [
        *with_references_changed(study, renaming(part_id, names)),
        {"op": "replace", "path": f"/parts/{index}/recipe", "value": recipe.model_dump(mode="json")},
        {"op": "replace", "path": f"/parts/{index}/mesh", "value": mesh.model_dump(mode="json")},
    ]


def _plain_mesh(part: Part) -> Any:
    """The part's mesh settings without those of faces, whose names are not known yet."""
    return part.mesh.model_copy(update={"faces": {}, "edges": {}, "through": {}})
