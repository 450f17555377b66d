"""Broken and odd STEP files come with words that say what is wrong, and what can be meshed of them is."""

from pathlib import Path
from typing import Any

import pytest

from tests.core.mesh.test_free import _box, _cut, _of
from ulmek.core.errors import GeometryError, MeshError
from ulmek.core.geometry import kernel
from ulmek.study.items import StudyDocument
from ulmek.study.meshes import part_mesh
from ulmek.study.new_parts import part_of_file
from ulmek.study.step_files import StepFile, read_step_file

EMPTY = StudyDocument(name="new", title="New")


def _read(shape: Any, folder: Path) -> StepFile:
    kernel.write_step([("Part", shape)], folder / "part.step")
    return read_step_file((folder / "part.step").read_bytes(), "part.step", skins=folder)


def test_an_open_shell_is_no_part(tmp_path: Path) -> None:
    sewing = _of("BRepBuilderAPI", "BRepBuilderAPI_Sewing")()
    for face in kernel.faces_of(_box((0, 0, 0), 10.0, 20.0, 30.0))[:5]:
        sewing.Add(face)
    sewing.Perform()
    shell = kernel._explored(sewing.SewedShape(), "SHELL")[0]
    solid = _of("BRepBuilderAPI", "BRepBuilderAPI_MakeSolid")(shell).Solid()
    with pytest.raises(GeometryError, match="an open shell cannot be meshed"):
        _read(solid, tmp_path)
    assert "its surface is open" in kernel.faults(solid)


def test_edges_of_a_hundredth_of_a_micrometre_are_told_with_their_place(tmp_path: Path) -> None:
    notched = _cut(_box((0, 0, 0), 40.0, 30.0, 20.0), _box((40 - 1e-5, -1, 5), 1.0, 50.0, 10.0))
    (found,) = _read(notched, tmp_path).solids
    (note,) = [n for n in found.notes if "an edge of only" in n]
    assert "1e-05 mm near (40" in note
    assert found.part is not None
    part, _ = part_of_file(EMPTY, found.part, "Notched")
    # No mesh follows such a step: refused at once, with the place.
    with pytest.raises(MeshError, match=r"near \(.*\) mm"):
        part_mesh(part)


@pytest.mark.parametrize(("unit", "millimetres"), [("INCH", 25.4), ("M", 1000.0)])
def test_other_units_come_as_millimetres_and_odd_sizes_are_questioned(
    unit: str, millimetres: float, tmp_path: Path
) -> None:
    settings = _of("Interface", "Interface_Static")
    kernel._kernel("STEPControl").STEPControl_Writer()  # the settings exist from now on
    before = settings.CVal_s("write.step.unit")
    assert settings.SetCVal_s("write.step.unit", unit)
    try:
        # The kernel counts in mm and writes in the unit: a file of other numbers, the same box.
        found = _read(_box((0, 0, 0), 2 * millimetres, millimetres, millimetres), tmp_path)
    finally:
        settings.SetCVal_s("write.step.unit", before)
    assert found.unit.lower() == {"INCH": "inch", "M": "metre"}[unit]
    (solid,) = found.solids
    assert sorted(solid.size) == pytest.approx([millimetres, millimetres, 2 * millimetres], rel=1e-6)
    far = _read(_box((0, 0, 0), 40_000.0, 100.0, 100.0), tmp_path)
    assert any("is millimetre the unit that was meant" in note for note in far.solids[0].notes)
