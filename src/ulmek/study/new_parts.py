"""A new part from a recipe or a file: its mesh to begin with, its material, and a free place beside the others."""

import re
from functools import lru_cache
from typing import get_args

import numpy as np

from ulmek.core.element.response import Space
from ulmek.core.errors import UnknownNameError
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import RECIPES, Recipe, Solid
from ulmek.core.geometry.revolved import RevolvedSolid
from ulmek.core.geometry.stored import from_plain
from ulmek.core.mesh.size import PER_TURN_OF_NEW, suggested_mesh
from ulmek.study.aside import aside
from ulmek.study.grades import GRADES
from ulmek.study.items import FileUse, Material, MeshSettings, Part, Placement, RecipeUse, StudyDocument
from ulmek.study.meshes import part_mesh
from ulmek.study.recipe_values import recipe_values
from ulmek.study.solids import free_volume, solid_of_use
from ulmek.study.translate import translate_parts

# Room between a new part and the others, as a share of its size.
ROOM = 0.15
# Cubes of the element size that a new free-form part holds: some eight tetrahedra each.
FREE_CELLS = 1000
STEEL = GRADES[0]


@lru_cache(maxsize=128)
def _is_section(kind: str) -> tuple[bool, bool]:
    """Whether a recipe gives one outline, and whether it gives a profile that is turned."""
    solid = RECIPES[kind].solid(recipe_values(RECIPES[kind], {}))
    return isinstance(solid, LayeredSolid) and len(solid.layers) == 1, isinstance(solid, RevolvedSolid)


def spaces_of(recipe: Recipe) -> list[Space]:
    """The kinds of study that a recipe has a part for: of one outline all, turned ones solid and axisymmetric ones."""
    is_outline, is_profile = _is_section(recipe.kind)
    if is_outline:
        return list(get_args(Space))
    return ["solid", "axisymmetric"] if is_profile else ["solid"]


def new_part(study: StudyDocument, kind: str, dimensions: dict[str, str | int | float]) -> tuple[Part, Material | None]:
    """The part, and the material that the study needs for it when it has none yet.

    Raises
    ------
    UlmekError : an unknown recipe, or dimensions that no solid can have.
    """
    recipe = RECIPES.get(kind)
    if recipe is None:
        raise UnknownNameError(f"there is no recipe '{kind}'.", where="kind", hint=f"Known: {', '.join(RECIPES)}.")
    solid = recipe.solid(recipe_values(recipe, dimensions))
    part = _part(study, kind, kind.replace("-", " ").capitalize(), RecipeUse(kind=kind, dimensions=dimensions), solid)
    beside = _beside(study, part)
    placed = part.model_copy(update={"placements": [Placement(at=(f"{beside:g} mm", "0 mm", "0 mm"))]})
    return placed, None if study.materials else STEEL


def part_of_shape(
    study: StudyDocument, recipe: RecipeUse, label: str, at: Placement | None = None
) -> tuple[Part, Material | None]:
    """The part that a drawing or a bent bar makes, ``at`` a place or beside the others, and the material that the study
    needs for it.

    Raises
    ------
    UlmekError : no solid can be made of it.
    """
    part = _part(study, _letters(label), label, recipe, solid_of_use(recipe.model_dump(), "new"))
    if at is None:
        at = Placement(at=(f"{_beside(study, part):g} mm", "0 mm", "0 mm"))
    return part.model_copy(update={"placements": [at]}), None if study.materials else STEEL


def _letters(label: str) -> str:
    """An identifier that reads like a name."""
    return re.sub(r"[^a-z0-9]+", "-", label.lower()).strip("-")[:40] or "part"


def part_of_file(study: StudyDocument, file: FileUse, label: str) -> tuple[Part, Material | None]:
    """The part that a solid of a file makes, where the file has it, and the material that the study needs for it.

    Raises
    ------
    UlmekError : the shape does not hold together.
    """
    letters = _letters(label)
    recipe = RecipeUse(kind="file", file=file)
    if file.shape is not None:
        part = _part(study, letters, label, recipe, from_plain(file.shape.model_dump()).solid)
    else:
        size = float(f"{(aside(label, free_volume, file) / FREE_CELLS) ** (1 / 3):.2g}")
        part = _with_mesh(study, letters, label, recipe, MeshSettings(size=f"{size:g} mm", elements="tets"))
    return part, None if study.materials else STEEL


def _part(study: StudyDocument, kind: str, label: str, recipe: RecipeUse, solid: Solid) -> Part:
    size, layers = suggested_mesh(solid)
    mesh = MeshSettings(size=f"{size:g} mm", per_turn=PER_TURN_OF_NEW, layers=layers)
    return _with_mesh(study, kind, label, recipe, mesh)


def _with_mesh(study: StudyDocument, kind: str, label: str, recipe: RecipeUse, mesh: MeshSettings) -> Part:
    taken = {p.id for p in study.parts}
    number = next(n for n in range(1, 1000) if (kind if n == 1 else f"{kind}-{n}") not in taken)
    return Part(
        id=kind if number == 1 else f"{kind}-{number}",
        name=label if number == 1 else f"{label} {number}",
        recipe=recipe,
        material=study.materials[0].id if study.materials else STEEL.id,
        mesh=mesh,
    )


def _beside(study: StudyDocument, part: Part) -> float:
    """Where along x the part stands clear of all others (mm)."""
    if not study.parts:
        return 0.0
    section = study.space != "solid"
    right = max(float(b.mesh.nodes[:, 0].max()) for b in translate_parts(study))
    x = part_mesh(part, section=section).nodes[:, 0]
    return float(np.ceil(right + ROOM * np.ptp(x) - x.min()))
