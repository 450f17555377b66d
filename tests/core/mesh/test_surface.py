"""Triangles on exact shapes: closed, on the surface, well shaped, whatever the faces are."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.surface import mesh_surface


def _of(module: str, name: str) -> Any:
    return getattr(kernel._kernel(module), name)


def _box(*size: float) -> Any:
    return _of("BRepPrimAPI", "BRepPrimAPI_MakeBox")(*size).Shape()


def _cylinder(at: tuple[float, ...], along: tuple[float, ...], radius: float, height: float) -> Any:
    axes = _of("gp", "gp_Ax2")(_of("gp", "gp_Pnt")(*at), _of("gp", "gp_Dir")(*along))
    return _of("BRepPrimAPI", "BRepPrimAPI_MakeCylinder")(axes, radius, height).Shape()


def _cut(a: Any, b: Any) -> Any:
    return _of("BRepAlgoAPI", "BRepAlgoAPI_Cut")(a, b).Shape()


def _rounded(shape: Any, radius: float) -> Any:
    fillet = _of("BRepFilletAPI", "BRepFilletAPI_MakeFillet")(shape)
    for edge in kernel._explored(shape, "EDGE"):
        fillet.Add(radius, edge)
    return fillet.Shape()


SHAPES = {
    "cross-drilled": lambda: _cut(
        _cut(_box(20.0, 20.0, 20.0), _cylinder((10, 10, -5), (0, 0, 1), 3.0, 40.0)),
        _cylinder((10, -5, 10), (0, 1, 0), 4.0, 40.0),
    ),
    "rounded": lambda: _rounded(_box(30.0, 20.0, 10.0), 2.0),
    "ball": lambda: kernel.shape_of(RECIPES["ball"].solid({})),
    "cone": lambda: kernel.shape_of(RECIPES["taper-pin"].solid({})),
    "bolt": lambda: kernel.shape_of(RECIPES["bolt"].solid({})),
    "crowned": lambda: kernel.shape_of(RECIPES["crowned-roller"].solid({})),
}


@pytest.mark.parametrize("name", SHAPES)
def test_skins_close_on_the_true_surface(name: str) -> None:
    shape = SHAPES[name]()
    mesh = mesh_surface(shape, size=2.0)
    sides = np.vstack([mesh.triangles[:, [i, (i + 1) % 3]] for i in range(3)])
    once, counts = np.unique(np.sort(sides, axis=1), axis=0, return_counts=True)
    assert (counts == 2).all()
    assert len(np.unique(sides, axis=0)) == 2 * len(once)
    assert mesh.angles().min() > 10
    assert mesh.volume() == pytest.approx(kernel.volume(shape), rel=0.03)
    assert mesh_surface(shape, size=1.0, per_turn=48).volume() == pytest.approx(kernel.volume(shape), rel=0.008)
    # Every face is filled: areas agree face by face.
    p = mesh.nodes[mesh.triangles]
    area = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2
    for i, face in enumerate(kernel.faces_of(shape)):
        assert area[mesh.face == i].sum() == pytest.approx(kernel.surface_of(face).area, rel=0.06)
