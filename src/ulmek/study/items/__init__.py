"""The study document and the kinds of its items, a module each: schema, references, words, translation.

Its JSON (`*.ulmek.json`) is the one description of a study: the interface edits it, the command
line solves it, the server stores it. `StudyDocument.model_json_schema()` is the published schema.
"""

from ulmek.study.items.document import Patch, StudyDocument, check_names, items_of, read_study, with_references_changed
from ulmek.study.items.kinds import KINDS, KindName
from ulmek.study.items.material import Hardening, HardeningRow, Material, RubberConstants
from ulmek.study.items.part import FileUse, MeshSettings, Part, Placement, RecipeUse, SweptShape, Turn

__all__ = [
    "KINDS",
    "FileUse",
    "Hardening",
    "HardeningRow",
    "KindName",
    "Material",
    "MeshSettings",
    "Part",
    "Patch",
    "Placement",
    "RecipeUse",
    "RubberConstants",
    "StudyDocument",
    "SweptShape",
    "Turn",
    "check_names",
    "items_of",
    "read_study",
    "with_references_changed",
]
