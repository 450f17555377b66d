"""Half and quarter models: solids cut by the planes x = 0 and y = 0 through their origin."""

import itertools
from dataclasses import replace
from typing import Literal

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.bent import BentSolid, cut_bar
from ulmek.core.geometry.clip import CUT_FACES, ON_PLANE, clipped
from ulmek.core.geometry.layered import Layer, LayeredSolid
from ulmek.core.geometry.outline import Partition
from ulmek.core.geometry.recipes.recipe import Solid
from ulmek.core.geometry.revolved import RevolvedSolid

Kept = Literal["whole", "half", "quarter"]
# Which coordinates (0: x, 1: y) must be positive in what is kept.
POSITIVE: dict[Kept, tuple[int, ...]] = {"whole": (), "half": (1,), "quarter": (1, 0)}
# Further pieces of a region that falls apart are numbered behind this.
PIECE = "~"


def cut_solid(solid: Solid, kept: Kept) -> Solid:
    """What is left of ``solid`` on the positive side of y = 0 (half), and of x = 0 too (quarter).

    The faces in the planes are named as in `CUT_FACES`.

    Raises
    ------
    GeometryError : nothing is left.
    """
    if kept == "whole":
        return solid
    if isinstance(solid, RevolvedSolid):
        return replace(solid, kept=kept)
    if isinstance(solid, BentSolid):
        for axis in POSITIVE[kept]:
            solid = cut_bar(solid, np.eye(3)[axis], 0.0, CUT_FACES[axis])
        return solid
    pieces = {r.name: [r] for r in solid.partition.regions}
    for axis in POSITIVE[kept]:
        for name, regions in pieces.items():
            pieces[name] = [part for region in regions for part in clipped(region, axis)]
    named = {
        name: [replace(r, name=name if i == 0 else f"{name}{PIECE}{i + 1}") for i, r in enumerate(regions)]
        for name, regions in pieces.items()
    }
    if not any(named.values()):
        raise GeometryError("the planes of the cut leave nothing of the part.", where="kept", hint="Keep the whole.")
    layers = [
        Layer(la.name, la.bottom, la.top, frozenset(r.name for name in la.regions for r in named[name]), la.cut)
        for la in solid.layers
    ]
    present = tuple(la for la in layers if la.regions)
    if any(abs(a.top - b.bottom) > ON_PLANE for a, b in itertools.pairwise(present)):
        raise GeometryError("the planes of the cut leave the part in pieces.", where="kept", hint="Keep the half.")

    def face_name(layer: str, kind: str, item: str) -> str:
        return item if item in CUT_FACES else solid.face_name(layer, kind, item.split(PIECE)[0])

    return LayeredSolid(Partition.of([r for regions in named.values() for r in regions]), present, face_name)
