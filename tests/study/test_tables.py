"""Tables from sheets: whatever way they are written, as curves of true stress, as courses; or told why not."""

import io
import math

import openpyxl
import pytest

from ulmek.core.errors import InputError, UlmekError, UnitError
from ulmek.study.items.load import SORTS
from ulmek.study.tables import Sheet, course_of, curve_of, read_sheet, rubber_of

# The same table, as sheets, editors and people write it.
WRITTEN = {
    "tabs": "Strain\tStress [MPa]\n0.001\t210\n0.05\t400.5\n",
    "semicolons, decimal commas": "Strain;Stress (MPa)\r\n0,001;210\r\n0,05;400,5\r\n",
    "commas": "strain,stress / MPa\n0.001,210\n0.05,400.5\n",
    "blanks, units in cells": "0.001 210MPa\n0.05 400.5MPa\n\n",
    "units in a row of their own": "Strain\tStress\n-\tMPa\n0.001\t210\n0.05\t400.5",
    "an empty column after": "strain\tstress in MPa\t\n0.001\t210\t\n0.05\t400.5\t\n",
    "byte order mark": "\ufeff0.001\t210 MPa\n0.05\t400.5 MPa",
}


@pytest.mark.parametrize("way", WRITTEN)
def test_a_table_is_read_however_it_is_written(way: str) -> None:
    sheet = read_sheet(WRITTEN[way].encode(), "pasted")
    assert sheet.rows == [[0.001, 210.0], [0.05, 400.5]]
    assert sheet.units == ["", "MPa"]


def _workbook(rows: list[list[object]]) -> bytes:
    book = openpyxl.Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_a_workbook_reads_as_its_text_does() -> None:
    sheet = read_sheet(_workbook([["Time [s]", "Force [kN]"], [0, 0], [0.5, 12], [2, -3.5]]), "run 7.xlsx")
    assert sheet == Sheet(headers=["Time [s]", "Force [kN]"], units=["s", "kN"], rows=[[0, 0], [0.5, 12], [2, -3.5]])


@pytest.mark.parametrize(
    ("content", "name", "told"),
    [
        (b"", "a.csv", "has no rows"),
        (b"strain,stress\n", "a.csv", "has no numbers"),
        (b"0.1\t200\n0.2\tx\n", "a.csv", "'x' in row 2, column 2 is no number"),
        (b"e\ts\n0.1\t200 MPa\n0.2\t1 GPa\n", "a.csv", "row 3, column 2 is in GPa, those before in MPa"),
        (b"PK\x03\x04 nonsense", "a.xlsx", "no XLSX file, or is damaged"),
        (b"1\t2\n" * 6000, "a.csv", "more than 5000 rows"),
        (bytes(5_000_000), "a.csv", "larger than 4 MB"),
    ],
)  # fmt: skip
def test_what_is_no_table_is_told_with_its_place(content: bytes, name: str, told: str) -> None:
    with pytest.raises(InputError, match=told):
        read_sheet(content, name)


def _sheet(unit: str, *rows: tuple[float, float]) -> Sheet:
    return Sheet(headers=["", ""], units=["", unit], rows=[list(r) for r in rows])


def test_an_engineering_curve_becomes_true_plastic_strain_and_stress() -> None:
    """A material of true stress 400 (1 + 2 εp) MPa, written as a tensile test gives it, comes back as it is."""
    young, rows = 200e3, [(0.0, 0.0), (0.001, 200.0)]
    for plastic in (0.0, 0.02, 0.1, 0.2):
        stress = 400 * (1 + 2 * plastic)
        true = plastic + stress / young
        rows.append((math.expm1(true), stress / math.exp(true)))
    curve = curve_of(_sheet("MPa", *rows), strain="total", measure="engineering", young="200 GPa")
    assert [r.strain for r in curve.table] == pytest.approx([0.0, 0.02, 0.1, 0.2], abs=2e-9)
    assert [float(r.stress.removesuffix(" MPa")) for r in curve.table] == pytest.approx([400, 416, 480, 560], rel=1e-5)
    assert len(curve.entered) == 6


def test_percent_and_other_units_of_stress_are_taken_as_written() -> None:
    sheet = Sheet(headers=["", ""], units=["%", "ksi"], rows=[[0, 50], [5, 60]])
    curve = curve_of(sheet, strain="plastic", measure="true", young="30000 ksi")
    assert [(r.strain, r.stress) for r in curve.table] == [(0.0, "344.738 MPa"), (0.05, "413.685 MPa")]


@pytest.mark.parametrize(
    ("sheet", "how", "told"),
    [
        (_sheet("MPa", (0.1, 300), (0.2, 400)), ("plastic", "true"), "row 1 already yields, by 0.1"),
        (_sheet("", (0, 300), (0.1, 400)), ("total", "true"), "the stresses have no unit"),
        (_sheet("N", (0, 300), (0.1, 400)), ("total", "true"), "is not a stress"),
        (_sheet("MPa", (0, 300), (0.1, 400)), ("plastic", "engineering"), "engineering strain is whole strain"),
        (_sheet("MPa", (0, 200), (0.1, 300), (0.05, 400)), ("plastic", "true"), "does not grow in row 3"),
        (_sheet("MPa", (0.0005, 100), (0.001, 200)), ("total", "true"), "no row lies beyond the elastic range"),
        (_sheet("MPa", (0, 0)), ("plastic", "true"), "no row has a stress above zero"),
        (Sheet(headers=[""], units=["MPa"], rows=[[1.0]]), ("total", "true"), "two columns"),
        (Sheet(headers=["", ""], units=["kg", "MPa"], rows=[[0, 1]]), ("total", "true"), "is no unit of strain"),
    ],
)
def test_what_is_no_curve_is_told(sheet: Sheet, how: tuple[str, str], told: str) -> None:
    with pytest.raises(UlmekError, match=told):
        curve_of(sheet, strain=how[0], measure=how[1], young="200 GPa")  # type: ignore[arg-type]


def test_times_become_shares_of_the_step_and_the_last_row_its_end() -> None:
    course = course_of(_sheet("N", (0, 1000), (1, 12000), (1, 6000), (4, 0)), SORTS["force"])
    assert (course.unit, course.points) == ("kN", [(0.0, 1.0), (0.25, 12.0), (0.25, 6.0), (1.0, 0.0)])
    turned = course_of(_sheet("", (0, 0), (0.5, 45), (1, 90)), SORTS["rotation"])
    assert (turned.unit, turned.points) == ("°", [(0, 0), (0.5, 45), (1, 90)])
    with pytest.raises(InputError, match="goes back in row 2"):
        course_of(_sheet("kN", (1, 1), (0.5, 2), (4, 0)), SORTS["force"])
    with pytest.raises(UnitError, match="is not a force"):
        course_of(_sheet("mm", (0, 1), (1, 2)), SORTS["force"])


def test_a_test_of_rubber_in_percent_and_kilopascals_gives_its_constants() -> None:
    strains = (-20, 0, 30, 100, 200)
    rows = [[e, 2e3 * ((1 + e / 100) - (1 + e / 100) ** -2) * (0.35 + 0.08 / (1 + e / 100))] for e in strains]
    found = rubber_of(Sheet(headers=["", ""], units=["%", "kPa"], rows=rows), "one way")
    assert (found.rubber.c10, found.rubber.c01, found.rubber.bulk) == ("0.35 MPa", "0.08 MPa", "430 MPa")
    assert found.off < 1e-9
    assert (found.fitted[0][0], found.fitted[-1][0]) == pytest.approx((-0.2, 2.0))
    with pytest.raises(UnitError, match="no unit"):
        rubber_of(Sheet(headers=["", ""], units=["", ""], rows=rows), "one way")
