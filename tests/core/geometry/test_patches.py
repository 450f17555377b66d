"""Points of exact faces by closed forms are those of the kernel, however a face is placed or mirrored."""

from importlib import import_module
from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry.kernel import patches_of

gp, prim = import_module("OCP.gp"), import_module("OCP.BRepPrimAPI")
SOLIDS = {
    "block": lambda: prim.BRepPrimAPI_MakeBox(3.0, 4.0, 5.0),
    "cylinder": lambda: prim.BRepPrimAPI_MakeCylinder(4.0, 7.0),
    "cone": lambda: prim.BRepPrimAPI_MakeCone(5.0, 2.0, 6.0),
    "ball": lambda: prim.BRepPrimAPI_MakeSphere(3.0),
    "torus": lambda: prim.BRepPrimAPI_MakeTorus(9.0, 2.0),
}


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("name", SOLIDS)
def test_points_by_closed_forms_are_those_of_the_kernel(name: str, mirrored: bool) -> None:
    shape: Any = SOLIDS[name]().Shape()
    place = gp.gp_Trsf()
    place.SetRotation(gp.gp_Ax1(gp.gp_Pnt(1, 2, 3), gp.gp_Dir(1, 2, -1)), 0.7)
    if mirrored:
        mirror = gp.gp_Trsf()
        mirror.SetMirror(gp.gp_Ax2(gp.gp_Pnt(0, 1, 0), gp.gp_Dir(1, 1, 0)))
        place.Multiply(mirror)
    moved = import_module("OCP.BRepBuilderAPI").BRepBuilderAPI_Transform(shape, place, True).Shape()
    uv = np.random.default_rng(1).uniform(-1.5, 1.5, (40, 2))
    for patch in patches_of(moved)[0]:
        assert patch._closed_form is not None
        known = [patch._surface.Value(u, v) for u, v in uv.tolist()]
        assert patch.points(uv) == pytest.approx(np.array([(p.X(), p.Y(), p.Z()) for p in known]), abs=1e-12)
