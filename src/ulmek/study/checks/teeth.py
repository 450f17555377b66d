"""Teeth in mesh: bending of their roots, as if one tooth bore all at its tip."""

import numpy as np

from ulmek.core.errors import InputError
from ulmek.core.geometry.recipes.gears import gearing
from ulmek.core.geometry.tooth_root import ToothRoot, rack_root, tooth_root
from ulmek.core.review.components import strength
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.item import part_of
from ulmek.study.items.pair import PairUse
from ulmek.study.items.part import Part
from ulmek.study.meshing_gears import teeth_of
from ulmek.study.translate import placed_axes

SOURCE = "Lewis 1892; fillet by Dolan and Broghamer 1942"


def teeth_check(at: At, pair: PairUse) -> HandCheck | None:
    """The roots of the gears of a pair of flanks under the force that the pair carries; None of what has no teeth."""
    now = at.now.pairs[pair.id]
    parts = [next(p for p in at.study.parts if p.id == part_of(side[0])) for side in (pair.a, pair.b)]
    if now.normal_force <= 0 or not all(_has_teeth(p) for p in parts):
        return None
    # The axis of a gear, and what a rack is wide along.
    axis = placed_axes(parts[0].placements[0])[:, 2]
    force = np.array(now.force)
    across = float(np.linalg.norm(force - (force @ axis) * axis))
    widths = [teeth_of(p)["width"] if at.study.space == "solid" else at.model.thickness for p in parts]
    bodies = {b.name.split("#")[0]: b for b in at.model.bodies}
    values = []
    for gear in parts:
        stress = _root_of(gear).stress(across, min(widths))
        name = f"Root of {gear.name}: one tooth, at its tip"
        values.append(CheckedValue(name=name, quantity="stress", hand=stress, source=SOURCE))
        limit = strength(bodies[gear.id])
        if limit is not None:
            name = f"What {gear.name} bears"
            values.append(CheckedValue(name=name, quantity="stress", hand=limit, computed=stress, sense="below"))
    shared = "One tooth bears the whole force at its tip; where two share it, each is stressed less"
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: bending of the teeth",
        values=values,
        conditions=[
            Condition(text=shared, met=None),
            Condition(text="It bears evenly over its width", met=None),
            Condition(text="No metal has yielded", met=not at.has_yielded(pair)),
        ],
    )


def _root_of(part: Part) -> ToothRoot:
    teeth = teeth_of(part)
    if part.recipe.kind == "gear":
        return tooth_root(gearing(teeth))
    angle = float(np.deg2rad(teeth["pressure_angle"]))
    return rack_root(teeth["module"], angle, teeth["root_fillet"], teeth["thinning"])


def _has_teeth(part: Part) -> bool:
    try:
        teeth_of(part)
    except InputError:
        return False
    return True
