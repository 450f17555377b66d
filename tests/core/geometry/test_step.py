"""STEP files: every recipe there and back, shapes that no recipe made, and files that are broken."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import GeometryError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.recognise import recognise
from ulmek.core.geometry.stored import from_plain, to_plain
from ulmek.core.mesh.size import PER_TURN_OF_NEW, suggested_mesh
from ulmek.core.mesh.solid import mesh_solid
from ulmek.core.mesh.sweep import Layering
from ulmek.core.mesh.volume import check_mesh


def _written(shape: Any, folder: Path, *, name: str = "Part") -> bytes:
    kernel.write_step([(name, shape)], folder / "part.step")
    return (folder / "part.step").read_bytes()


@pytest.mark.parametrize("kind", RECIPES)
def test_every_recipe_goes_to_step_and_back(kind: str, tmp_path: Path) -> None:
    solid = RECIPES[kind].solid({})
    # Turned and moved, so that nothing rests on the axes of the file.
    axis = np.array([1.0, 2.0, 2.0]) / 3
    turn = 2 * np.outer(axis, axis) - np.eye(3)
    shape = kernel.moved(kernel.shape_of(solid), turn, np.array([10.0, -20.0, 30.0]))
    (read,), unit = kernel.read_step(_written(shape, tmp_path))
    assert unit.lower() == "millimetre"
    assert read.name == "Part"
    assert read.volume == pytest.approx(solid.volume(), rel=1e-6)
    assert kernel.faults(read.shape) == []
    found = recognise(read.shape)
    assert found is not None
    assert found.solid.volume() == pytest.approx(solid.volume(), rel=1e-6)
    same = from_plain(to_plain(found))
    assert same.solid.volume() == pytest.approx(found.solid.volume(), rel=1e-12)
    size, layers = suggested_mesh(found.solid)
    few = 2 if isinstance(found.solid, LayeredSolid) and len(found.solid.layers) == 1 else layers
    mesh = mesh_solid(same.solid, size=size, layering=Layering(few), per_turn=PER_TURN_OF_NEW)
    check_mesh(mesh)
    assert mesh.scaled_jacobians().min() >= 0.3
    placed = mesh.placed(found.rotation, found.shift)
    assert np.abs(np.stack([placed.nodes.min(axis=0), placed.nodes.max(axis=0)]) - read.box).max() < 0.02 * np.ptp(
        read.box
    )
    # A face of the file is a face of the mesh, and no other: areas agree face by face.
    assert set(mesh.faces) == {n for n in _areas(read.shape)}
    for name, area in _areas(read.shape).items():
        assert _meshed(placed, name) == pytest.approx(area, rel=0.02)


def _areas(shape: Any) -> dict[str, float]:
    from ulmek.core.geometry.recognise import face_names

    surfaces = [kernel.surface_of(f) for f in kernel.faces_of(shape)]
    return {n: s.area for n, s in zip(face_names(surfaces), surfaces, strict=True)}


def _meshed(mesh: Any, name: str) -> float:
    p = mesh.nodes[mesh.faces[name]]
    return float(np.linalg.norm(np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1]), axis=1).sum() / 2)


def _kernel(module: str, name: str) -> Any:
    return getattr(kernel._kernel(module), name)


def _box(*size: float) -> Any:
    return _kernel("BRepPrimAPI", "BRepPrimAPI_MakeBox")(*size).Shape()


def _cylinder(at: tuple[float, float, float], along: tuple[float, float, float], radius: float, height: float) -> Any:
    axes = _kernel("gp", "gp_Ax2")(_kernel("gp", "gp_Pnt")(*at), _kernel("gp", "gp_Dir")(*along))
    return _kernel("BRepPrimAPI", "BRepPrimAPI_MakeCylinder")(axes, radius, height).Shape()


def _cut(a: Any, b: Any) -> Any:
    return _kernel("BRepAlgoAPI", "BRepAlgoAPI_Cut")(a, b).Shape()


def test_what_no_recipe_made_is_recognised_where_it_is_swept(tmp_path: Path) -> None:
    # A stepped block with a blind hole and a slot, all along z: four levels of outlines that overlay each other.
    step = _cut(_box(60.0, 40.0, 30.0), kernel.moved(_box(30.0, 40.0, 10.0), np.eye(3), np.array([30.0, 0, 20.0])))
    drilled = _cut(step, _cylinder((45.0, 20.0, 5.0), (0, 0, 1), 8.0, 40.0))
    slotted = _cut(drilled, kernel.moved(_box(10.0, 60.0, 12.0), np.eye(3), np.array([8.0, -10.0, 18.0])))
    (read,), _ = kernel.read_step(_written(slotted, tmp_path))
    found = recognise(read.shape)
    assert found is not None
    exact = 60 * 40 * 30 - 30 * 40 * 10 - np.pi * 64 * 15 - 10 * 40 * 12
    assert found.solid.volume() == pytest.approx(exact, rel=1e-9)
    check_mesh(mesh_solid(found.solid, size=4.0, per_turn=32))
    # Holes across each other sweep in no direction.
    crossed = _cut(_cut(_box(20.0, 20.0, 20.0), _cylinder((10, 10, -5), (0, 0, 1), 3.0, 40.0)),
                   _cylinder((10, -5, 10), (0, 1, 0), 4.0, 40.0))  # fmt: skip
    assert recognise(crossed) is None


def test_broken_files_are_refused_in_words(tmp_path: Path) -> None:
    content = _written(_box(10.0, 20.0, 30.0), tmp_path)
    for broken, why in (
        (b"solid ascii", "not a STEP file"),
        (content[: len(content) // 2], "cut off"),
        (b"ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n", "cannot be read|no solid"),
        (content[: len(content) // 3] + b"\nENDSEC;\nEND-ISO-10303-21;\n", "cannot be read|no solid"),
    ):
        with pytest.raises(GeometryError, match=why):
            kernel.read_step(broken)
    face = kernel.faces_of(_box(10.0, 20.0, 30.0))[0]
    with pytest.raises(GeometryError, match="no solid"):
        kernel.read_step(_written(face, tmp_path))


def test_a_file_in_inches_or_metres_comes_in_millimetres(tmp_path: Path) -> None:
    content = _written(_box(10.0, 20.0, 30.0), tmp_path)
    metres = content.replace(b"SI_UNIT(.MILLI.,.METRE.)", b"SI_UNIT($,.METRE.)")
    assert metres != content
    (read,), unit = kernel.read_step(metres)
    assert unit.lower() == "metre"
    assert read.volume == pytest.approx(6000 * 1e9, rel=1e-9)


def test_numbers_of_a_file_are_taken_for_the_unit_that_was_meant(tmp_path: Path) -> None:
    content = _written(_box(10.0, 20.0, 30.0), tmp_path)
    (read,), unit = kernel.read_step(content, "inch")
    assert unit.lower() == "millimetre"
    assert read.volume == pytest.approx(6000 * 25.4**3, rel=1e-9)
    assert read.volume == pytest.approx(kernel.volume(read.shape), rel=1e-9)
    assert np.ptp(read.box, axis=0) == pytest.approx([254.0, 508.0, 762.0], rel=1e-6)


def test_the_pieces_of_a_split_make_the_whole() -> None:
    block = _cut(_box(30.0, 20.0, 10.0), _cylinder((15, 10, -5), (0, 0, 1), 4.0, 20.0))
    below, above = kernel.split(block, np.array([1.0, 0, 0]), 15.0)
    assert (len(below), len(above)) == (1, 1)
    assert kernel.volume(below[0]) == pytest.approx(kernel.volume(block) / 2, rel=1e-9)
    assert kernel.box(above[0])[0, 0] == pytest.approx(15.0, abs=1e-6)
    # A plane through both legs of an arch leaves three pieces; one beside the part leaves it whole.
    arch = _cut(_box(30.0, 10.0, 20.0), kernel.moved(_box(10.0, 30.0, 12.0), np.eye(3), np.array([10.0, -5, 0])))
    legs, bridge = kernel.split(arch, np.array([0, 0, 1.0]), 6.0)
    assert (len(legs), len(bridge)) == (2, 1)
    assert [len(side) for side in kernel.split(arch, np.array([0, 0, 1.0]), 60.0)] == [1, 0]
