"""Studies with a joint, made as the server makes them."""

from typing import Any

from ulmek.study.edits import apply_edit
from ulmek.study.grades import GRADES
from ulmek.study.items import Patch, StudyDocument, read_study
from ulmek.study.joints.begin import join
from ulmek.study.joints.follow import followed, made_of
from ulmek.study.joints.made import HandFigure


def part(
    name: str, kind: str, dimensions: dict[str, Any] | None = None, *, at: tuple[float, float, float] = (0, 0, 0),
    size: float = 6.0, per_turn: int = 16,
) -> dict[str, Any]:  # fmt: skip
    """A part by recipe, of steel."""
    return {
        "id": name, "name": name.capitalize(), "material": "steel",
        "recipe": {"kind": kind, "dimensions": dimensions or {}}, "mesh": {"size": f"{size} mm", "per_turn": per_turn},
        "placements": [{"at": [f"{c} mm" for c in at]}],
    }  # fmt: skip


def study_of(*parts: dict[str, Any], **more: Any) -> StudyDocument:
    """A study of steel parts with nothing between them."""
    plain = {"format": "ulmek-study", "version": 2, "name": "joint", "title": "Joint", "parts": list(parts)}
    return read_study({**plain, "materials": [GRADES[0].model_dump(mode="json")], **more})


def edited(study: StudyDocument, patch: Patch) -> StudyDocument:
    """The study after an edit, its joints following it."""
    after, _ = apply_edit(study, patch)
    return followed(study, after)


def joined(study: StudyDocument, *faces: str, kind: str | None = None, **asked: Any) -> StudyDocument:
    """The study with picked faces joined, as they are likely to be or as ``kind``, and ``asked`` otherwise."""
    return join(study, list(faces), kind=kind, asked=asked, name=None)[0]


def figures(study: StudyDocument) -> dict[str, HandFigure]:
    """The closed form of the last joint."""
    return {f.name: f for f in made_of(study, study.joints[-1]).figures}


def figure(study: StudyDocument, begins: str) -> float:
    """The value of the one figure of the last joint whose name begins so."""
    (found,) = [f.value for name, f in figures(study).items() if name.startswith(begins)]
    return found
