"""The study document: parts, materials, pairs, bolts, supports, loads and steps, with units.

Its JSON (`*.ulmek.json`) is the one description of a study: the interface edits it, the command
line solves it, the server stores it. `StudyDocument.model_json_schema()` is the published schema.
"""

from ulmek.study.schema.document import StudyDocument, check_names, read_study
from ulmek.study.schema.material import Hardening, HardeningRow, Material, RubberConstants
from ulmek.study.schema.part import FileUse, MeshSettings, Part, Placement, RecipeUse, SweptShape, Turn

__all__ = [
    "FileUse",
    "Hardening",
    "HardeningRow",
    "Material",
    "MeshSettings",
    "Part",
    "Placement",
    "RecipeUse",
    "RubberConstants",
    "StudyDocument",
    "SweptShape",
    "Turn",
    "check_names",
    "read_study",
]
