"""A new part from a recipe: its mesh to begin with, its material, and a free place beside the others."""

import numpy as np

from ulmek.core.errors import UnknownNameError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.size import PER_TURN_OF_NEW, suggested_mesh
from ulmek.study.recipe_values import recipe_values
from ulmek.study.schema import Material, MeshSettings, Part, Placement, RecipeUse, StudyDocument
from ulmek.study.translate import part_mesh, translate_parts

# Room between a new part and the others, as a share of its size.
ROOM = 0.15
STEEL = Material(
    id="steel", name="Steel S355", young="210 GPa", poisson=0.3, yield_stress="355 MPa", density="7850 kg/m^3"
)


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
    size, layers = suggested_mesh(solid)
    taken = {p.id for p in study.parts}
    number = next(n for n in range(1, 1000) if (kind if n == 1 else f"{kind}-{n}") not in taken)
    part = Part(
        id=kind if number == 1 else f"{kind}-{number}",
        name=recipe.label if number == 1 else f"{recipe.label} {number}",
        recipe=RecipeUse(kind=kind, dimensions=dimensions),
        material=study.materials[0].id if study.materials else STEEL.id,
        mesh=MeshSettings(size=f"{size:g} mm", per_turn=PER_TURN_OF_NEW, layers=layers),
    )
    beside = _beside(study, part)
    placed = part.model_copy(update={"placements": [Placement(at=(f"{beside:g} mm", "0 mm", "0 mm"))]})
    return placed, None if study.materials else STEEL


def _beside(study: StudyDocument, part: Part) -> float:
    """Where along x the part stands clear of all others (mm)."""
    if not study.parts:
        return 0.0
    section = study.space != "solid"
    right = max(float(b.mesh.nodes[:, 0].max()) for b in translate_parts(study))
    x = part_mesh(part, section=section).nodes[:, 0]
    return float(np.ceil(right + ROOM * np.ptp(x) - x.min()))
