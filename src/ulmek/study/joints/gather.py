"""Pieces of an older study gathered into a joint: what does already what the joint would make is taken in as it is."""

import json
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.study.items import KINDS, Part, Placement, StudyDocument
from ulmek.study.items.joint import JointUse, Pieces
from ulmek.study.joints.follow import made_of
from ulmek.study.joints.made import SECTIONS, Made
from ulmek.study.joints.shapes import coarse_mesh
from ulmek.study.translate import body_names, placed_axes
from ulmek.study.units import value_of

Array = NDArray[np.float64]
# Copies of parts that stand as near (mm) to one axis are the same; cosine of what counts as parallel.
NEAR, PARALLEL = 1.0, 0.999
# What makes two items do the same, by the list they are in.
SAME_BY = {
    "bolts": ("part",),
    "handles": ("faces",),
    "springs": ("a", "b"),
    "links": ("a", "b"),
    "supports": ("faces", "handle"),
}


def gathered(study: StudyDocument, joint: JointUse) -> Pieces:
    """The items of a study that are what the joint would make, and belong to no other joint, each with its role."""
    made = made_of(study, joint, is_alone=True)
    owned = {(s, i) for j in study.joints for s in SECTIONS for i in j.pieces.of(s)}
    found: dict[str, dict[str, str]] = {s: {} for s in SECTIONS}
    names: dict[str, str] = {}

    def take(section: str, role: str, old_id: str) -> None:
        found[section][old_id] = role
        names[made.pieces[section, role]["id"]] = old_id

    def free(section: str) -> list[Any]:
        return [i for i in getattr(study, section) if (section, i.id) not in owned and i.id not in found[section]]

    for (section, role), item in made.pieces.items():
        if section == "parts":
            part = next((p for p in free("parts") if _is_like(p, item)), None)
            if part is not None:
                take("parts", role, part.id)
    # What acts on parts is compared once their names are known; handles before what stands on them.
    for section in ("pairs", "handles", *(s for s in SAME_BY if s != "handles")):
        for (own, role), item in made.pieces.items():
            if own == section:
                wanted = _renamed(item, names)
                old = next((i for i in free(section) if _does(section, i.model_dump(mode="json"), wanted, study)), None)
                if old is not None:
                    take(section, role, old.id)
    _take_step_and_material(study, made, found)
    return Pieces.model_validate(found)


def _take_step_and_material(study: StudyDocument, made: Made, found: dict[str, dict[str, str]]) -> None:
    """The step in which bolts that are taken in are tightened, and a material that is of taken parts alone."""
    tightened = [b for b in study.bolts if b.id in found["bolts"]]
    step = next((s.id for s in study.steps for b in tightened if s.id in b.preload), None)
    if step is not None and ("steps", "tighten") in made.pieces:
        found["steps"][step] = "tighten"
    users = {m.id: {p.id for p in study.parts if p.material == m.id} for m in study.materials}
    own = next((m for m, parts in users.items() if parts and parts <= set(found["parts"])), None)
    if own is not None and ("materials", "material") in made.pieces:
        found["materials"][own] = "material"


def _is_like(part: Part, item: dict[str, Any]) -> bool:
    """Whether a part is made by the recipe of an item, each of its copies on the axis of one of the item's: along it
    they may differ by less than their length."""
    if part.recipe.kind != item["recipe"]["kind"] or len(part.placements) != len(item["placements"]):
        return False
    own = [_line(p) for p in part.placements]
    wanted = [_line(Placement.model_validate(p)) for p in item["placements"]]
    length = float(np.ptp(coarse_mesh(part).nodes[:, 2]))

    def is_on(one: tuple[Array, Array], other: tuple[Array, Array]) -> bool:
        away = one[0] - other[0]
        along = float(away @ other[1])
        across = float(np.linalg.norm(away - along * other[1]))
        return across < NEAR and abs(along) < length and abs(float(one[1] @ other[1])) > PARALLEL

    return all(any(is_on(o, w) for o in own) for w in wanted)


def _line(placement: Placement) -> tuple[Array, Array]:
    """Where a copy stands (3,) mm, and the direction of its own z axis (3,)."""
    return np.array([value_of(c, "length") for c in placement.at]), placed_axes(placement)[:, 2]


def _renamed(item: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    """An item that names the parts and handles that are there in the place of those that would be made."""
    text = json.dumps(item)
    for new, old in names.items():
        for end in ("/", '"', "#"):
            text = text.replace(f'"{new}{end}', f'"{old}{end}')
    renamed: dict[str, Any] = json.loads(text)
    return renamed


def _does(section: str, old: dict[str, Any], wanted: dict[str, Any], study: StudyDocument) -> bool:
    """Whether an item of a study is what is wanted, whatever its values."""
    if section == "pairs":
        one, other = ({frozenset(_spread(study, p[side])) for side in ("a", "b")} for p in (old, wanted))
        return one == other and old["wall"] == wanted["wall"]
    return all(
        set(old[name]) == set(wanted[name]) if isinstance(old[name], list) else old[name] == wanted[name]
        for name in SAME_BY[section]
    )


def _spread(study: StudyDocument, faces: list[str]) -> set[str]:
    """Faces with those of all copies where a part is meant."""
    copies = {p.id: body_names(p) for p in study.parts}
    return {f"{body}/{name}" for f in faces for owner, name in [f.split("/", 1)] for body in copies.get(owner, [owner])}


assert set(SAME_BY) <= {kind.list for kind in KINDS.values()}
