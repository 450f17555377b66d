"""Free-form solids in tetrahedra: shapes that our own writer of STEP files did not make."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.element.family import FAMILIES
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recognise import recognise
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.tet_quality import dihedrals
from ulmek.core.mesh.volume import check_mesh


def _of(module: str, name: str) -> Any:
    return getattr(kernel._kernel(module), name)


def _box(at: tuple[float, float, float], *size: float) -> Any:
    return _of("BRepPrimAPI", "BRepPrimAPI_MakeBox")(_of("gp", "gp_Pnt")(*at), *size).Shape()


def _cylinder(at: tuple[float, ...], along: tuple[float, ...], radius: float, height: float) -> Any:
    axes = _of("gp", "gp_Ax2")(_of("gp", "gp_Pnt")(*at), _of("gp", "gp_Dir")(*along))
    return _of("BRepPrimAPI", "BRepPrimAPI_MakeCylinder")(axes, radius, height).Shape()


def _cut(a: Any, *tools: Any) -> Any:
    for tool in tools:
        a = _of("BRepAlgoAPI", "BRepAlgoAPI_Cut")(a, tool).Shape()
    return a


def _joined(a: Any, *others: Any) -> Any:
    for other in others:
        a = _of("BRepAlgoAPI", "BRepAlgoAPI_Fuse")(a, other).Shape()
    unify = _of("ShapeUpgrade", "ShapeUpgrade_UnifySameDomain")(a, True, True, False)
    unify.Build()
    return unify.Shape()


def _filleted(shape: Any, radius: float, middle: Any) -> Any:
    """Fillets on the edges whose middle the test picks."""
    fillet = _of("BRepFilletAPI", "BRepFilletAPI_MakeFillet")(shape)
    for edge in kernel.patches_of(shape)[1]:
        _, points = edge.sampled(np.array([0.0, 0.5, 1.0]))
        if middle(*points[1]):
            fillet.Add(radius, edge.shape)
    return fillet.Shape()


def _bracket() -> Any:
    """An angle with a gusset across its corner and fillets in it, and two holes."""
    angle = _joined(
        _box((0, 0, 0), 60.0, 40.0, 8.0), _box((0, 0, 0), 8.0, 40.0, 50.0), _box((0, 17, 0), 30.0, 6.0, 30.0)
    )
    drilled = _cut(angle, _cylinder((45, 10, -5), (0, 0, 1), 4.0, 30.0), _cylinder((45, 30, -5), (0, 0, 1), 4.0, 30.0))
    return _filleted(drilled, 3.0, lambda x, y, z: abs(x - 8) < 0.1 and abs(z - 8) < 0.1)


def _fork() -> Any:
    """Two ears with a pin hole, and an oil hole across it."""
    fork = _cut(_box((0, 0, 0), 60.0, 30.0, 40.0), _box((25, -5, 13), 40.0, 40.0, 14.0))
    return _cut(fork, _cylinder((45, 15, -5), (0, 0, 1), 7.0, 50.0), _cylinder((12, -5, 20), (0, 1, 0), 5.0, 40.0))


def _hub() -> Any:
    """A flange with a bolt circle, a neck and a fillet between them."""
    hub = _joined(_cylinder((0, 0, 0), (0, 0, 1), 40.0, 10.0), _cylinder((0, 0, 0), (0, 0, 1), 20.0, 40.0))
    hub = _filleted(hub, 4.0, lambda x, y, z: abs(z - 10) < 0.1 and np.hypot(x, y) < 25)
    holes = [_cylinder((30 * np.cos(a), 30 * np.sin(a), -5), (0, 0, 1), 3.5, 30.0) for a in np.arange(6) * np.pi / 3]
    return _cut(hub, _cylinder((0, 0, -5), (0, 0, 1), 11.0, 60.0), *holes)


def _lofted() -> Any:
    """A body through three outlines, its sides free-form."""
    loft = _of("BRepOffsetAPI", "BRepOffsetAPI_ThruSections")(True, False, 1e-6)
    for z, radius, x in ((0.0, 15.0, 0.0), (20.0, 9.0, 4.0), (40.0, 13.0, 0.0)):
        axes = _of("gp", "gp_Ax2")(_of("gp", "gp_Pnt")(x, 0.0, z), _of("gp", "gp_Dir")(0.0, 0.0, 1.0))
        edge = _of("BRepBuilderAPI", "BRepBuilderAPI_MakeEdge")(_of("gp", "gp_Circ")(axes, radius)).Edge()
        loft.AddWire(_of("BRepBuilderAPI", "BRepBuilderAPI_MakeWire")(edge).Wire())
    loft.Build()
    return loft.Shape()


SHAPES = {"bracket": _bracket, "fork": _fork, "hub": _hub, "lofted": _lofted}


@pytest.mark.parametrize("name", SHAPES)
def test_shapes_of_others_become_good_tetrahedra(name: str, tmp_path: Path) -> None:
    kernel.write_step([(name, SHAPES[name]())], tmp_path / "part.step")
    (read,), _ = kernel.read_step((tmp_path / "part.step").read_bytes())
    assert kernel.faults(read.shape) == []
    assert recognise(read.shape) is None
    # The hub is the largest: as many elements as the others.
    mesh = mesh_free(read.shape, size=10.0 if name == "hub" else 7.0)
    check_mesh(mesh)
    assert mesh.kind == "tet"
    assert len(mesh.faces) == len(kernel.faces_of(read.shape))
    assert dihedrals(mesh.nodes, mesh.cells[:, :4]).min() >= 8
    family = FAMILIES["tet"]
    jacobian = np.linalg.det(np.einsum("mna,gnb->mgab", mesh.nodes[mesh.cells], family.gradient))
    assert jacobian.min() > 0
    assert (jacobian * family.rule).sum() == pytest.approx(read.volume, rel=1e-3)
