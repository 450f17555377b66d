"""Tables from sheets: pasted, or read from CSV and XLSX files, as stress–strain curves and as courses of loads."""

import csv
import io
import itertools
import math
import re
import zipfile
from pathlib import PurePath
from typing import Literal

import numpy as np
from pydantic import BaseModel

from ulmek.core.errors import InputError, UnitError
from ulmek.core.material.rubber_fit import Pull, fit_rubber, rubber_stress
from ulmek.study.items.load import LoadSort
from ulmek.study.items.material import HardeningRow, RubberConstants
from ulmek.study.units import spoken, value_of

MOST_ROWS, MOST_COLUMNS, MOST_BYTES = 5000, 20, 4_000_000
# What a file that is small may unpack to: sheets compress well, hostile ones better.
MOST_UNPACKED = 40_000_000
_NUMBER = re.compile(r"^\s*([-+]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][-+]?\d{1,3})?)\s*(.*?)\s*$")
# The unit in a header: "Stress [MPa]", "Stress (MPa)", "Stress / MPa", "Stress in MPa".
_IN_HEADER = re.compile(r"(?:\[([^\]]*)\]|\(([^)]*)\)|/\s*(\S+)|\bin\s+(\S+))\s*$")
# Plastic strain up to this, or this share of the whole strain, still counts as elastic: tables are rounded.
ELASTIC, ELASTIC_SHARE = 1e-4, 0.02
# Points of a fitted curve that are shown; the bulk modulus of a rubber over the sum of its constants.
SHOWN, OF_BULK = 60, 1000


class Sheet(BaseModel):
    """Columns of numbers with their headers and units ("" where none is said)."""

    headers: list[str]
    units: list[str]
    rows: list[list[float]]


class Curve(BaseModel):
    """A stress–strain curve as entered, (strain, stress MPa), and the table of plastic strain that it gives."""

    entered: list[tuple[float, float]]
    table: list[HardeningRow]


class RubberConstantsFound(BaseModel):
    """Constants of a rubber from a test: (strain, engineering stress MPa) as entered, and the stress of the fit there.

    off: the root mean square of what the fit is off by, as a share of that of the stresses.
    """

    entered: list[tuple[float, float]]
    fitted: list[tuple[float, float]]
    rubber: RubberConstants
    off: float


class Course(BaseModel):
    """How a load runs within a step: points (share of the step, value), the last at its end, in the unit spoken of."""

    unit: str
    points: list[tuple[float, float]]


def read_sheet(content: bytes, name: str) -> Sheet:
    """The table of a CSV or XLSX file (its first sheet), or of pasted text.

    Raises
    ------
    InputError : no table of numbers, or one that is too large; says where.
    """
    if len(content) > MOST_BYTES:
        raise InputError(
            f"'{name}' is larger than {MOST_BYTES / 1e6:.0f} MB.", hint="Keep only the rows that are needed."
        )
    cells = _cells_of_workbook(content, name) if PurePath(name).suffix.lower() == ".xlsx" else _cells_of_text(content)
    cells = [row for row in cells if any(c.strip() for c in row)]
    if not cells:
        raise InputError(f"'{name}' has no rows.", hint="Give rows of numbers, two columns or more.")
    if len(cells) > MOST_ROWS:
        raise InputError(f"'{name}' has more than {MOST_ROWS} rows.", hint="Thin it out.")
    heads = 0
    while heads < len(cells) and not any(_NUMBER.match(c) for c in cells[heads]):
        heads += 1
    return _sheet(cells[:heads], cells[heads:], heads + 1, name)


def _cells_of_workbook(content: bytes, name: str) -> list[list[str]]:
    import openpyxl

    damaged = InputError(f"'{name}' is no XLSX file, or is damaged.", hint="Save it again, or as CSV.")
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as parts:
            if sum(part.file_size for part in parts.infolist()) > MOST_UNPACKED:
                raise InputError(f"'{name}' unpacks to too much.", hint="Keep only the rows that are needed.")
        book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        rows = book.worksheets[0].iter_rows(max_row=MOST_ROWS + 1, max_col=MOST_COLUMNS, values_only=True)
        return [["" if v is None else str(v) for v in row] for row in rows]
    except InputError:
        raise
    except Exception:  # whatever a damaged archive brings openpyxl to
        raise damaged from None


def _cells_of_text(content: bytes) -> list[list[str]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    text = text.replace("\x00", "")
    between = next((c for c in ("\t", ";") if c in text), None)
    if between is None and re.search(r"\d\s*,", text):
        between = ","
    if between is None:
        return [re.split(r"\s+", line.strip()) for line in text.splitlines()]
    return [row[:MOST_COLUMNS] for row in csv.reader(io.StringIO(text), delimiter=between)]


def _sheet(heads: list[list[str]], body: list[list[str]], first: int, name: str) -> Sheet:
    if not body:
        raise InputError(f"'{name}' has no numbers.", hint="Give rows of numbers, two columns or more.")
    width = max(len(row) for row in body)
    while width > 1 and all(len(row) < width or not row[width - 1].strip() for row in body):
        width -= 1
    headers = [" ".join(h[i].strip() for h in heads if i < len(h)).strip() for i in range(width)]
    units = [_unit_in(heads, i) for i in range(width)]
    rows = []
    for number, row in enumerate(body, first):
        values = []
        for i in range(width):
            match = _NUMBER.match(row[i]) if i < len(row) else None
            if match is None:
                raise InputError(
                    f"'{(row[i] if i < len(row) else '')[:40]}' in row {number}, column {i + 1} is no number.",
                    hint="Every row below the headers needs a number in each column.",
                )
            values.append(float(match[1].replace(",", ".")))
            if match[2]:
                if units[i] not in ("", match[2]):
                    raise InputError(
                        f"row {number}, column {i + 1} is in {match[2][:20]}, those before in {units[i][:20]}.",
                        hint="Write one column in one unit.",
                    )
                units[i] = match[2]
        rows.append(values)
    return Sheet(headers=headers, units=units, rows=rows)


def _unit_in(heads: list[list[str]], column: int) -> str:
    """The unit that the headers say: in brackets, after a stroke or "in", or alone in a row of its own."""
    texts = [h[column].strip() for h in heads if column < len(h)]
    for text in texts:
        found = _IN_HEADER.search(text)
        if found:
            unit = next(g for g in found.groups() if g is not None).strip()
            return "" if unit in ("-", "1") else unit
    alone = texts[-1] if len(texts) > 1 else ""
    return alone if len(alone) <= 10 and alone not in ("-", "1") else ""


def curve_of(
    sheet: Sheet, *, strain: Literal["total", "plastic"], measure: Literal["engineering", "true"], young: str
) -> Curve:
    """The hardening table of a stress–strain curve.

    Engineering values become true ones, σ (1 + ε) and ln(1 + ε); of the whole strain σ/E is elastic (Ludwik 1909;
    Dieter 1986, ch. 8). Rows in the elastic range are dropped but the last, which becomes the yield point.

    Raises
    ------
    InputError, UnitError : a column or unit is missing, the strain runs back, or nothing yields; with the row.
    """
    if strain == "plastic" and measure == "engineering":
        raise InputError("engineering strain is whole strain.", hint="Choose whole strain, or true values.")
    entered = _strains_and_stresses(sheet)
    modulus = value_of(young, "stress")
    made: list[tuple[float, float]] = []
    for number, (e, s) in enumerate(entered, 1):
        if measure == "engineering":
            if e <= -1:
                raise InputError(f"a strain of {e:g} in row {number} cannot be.", hint="Is it in percent?")
            e, s = math.log1p(e), s * (1 + e)
        plastic = e - s / modulus if strain == "total" else e
        if plastic <= (max(ELASTIC, ELASTIC_SHARE * e) if strain == "total" else ELASTIC) and len(made) < 2:
            made = [(0.0, s)]
        elif not made:
            raise InputError(
                f"row {number} already yields, by {plastic:.3g}.", hint="Begin with the point of first yield."
            )
        elif plastic <= made[-1][0]:
            raise InputError(
                f"the plastic strain does not grow in row {number}.", hint="Sort or thin out the rows there."
            )
        else:
            made.append((plastic, s))
    if not made or made[-1][1] <= 0:
        raise InputError("no row has a stress above zero.", hint="Is stress the second column?")
    if strain == "total" and made[-1][0] == 0.0 and len(entered) > 1:
        raise InputError(
            "no row lies beyond the elastic range.", hint="Does the modulus fit? Is the strain in percent?"
        )
    table = [HardeningRow(strain=round(e, 9), stress=f"{s:.6g} MPa") for e, s in made]
    return Curve(entered=entered, table=table)


def rubber_of(sheet: Sheet, pull: Pull) -> RubberConstantsFound:
    """Constants of a rubber from engineering strains and stresses of a test; raises as `fit_rubber` and `curve_of`.

    The bulk modulus is set to a thousand times the constants' sum: nearly incompressible, as rubbers are.
    """
    entered = _strains_and_stresses(sheet)
    strain, stress = np.array(entered).T
    found = fit_rubber(strain, stress, pull)
    shown = np.linspace(min(0.0, strain.min()), max(0.0, strain.max()), SHOWN)
    bulk = OF_BULK * (found.c10 + found.c01)
    return RubberConstantsFound(
        entered=entered,
        fitted=[(float(e), float(s)) for e, s in zip(shown, rubber_stress(found, shown, pull), strict=True)],
        rubber=RubberConstants(c10=f"{found.c10:.5g} MPa", c01=f"{found.c01:.5g} MPa", bulk=f"{bulk:.4g} MPa"),
        off=float(np.sqrt(np.mean((found.stress - stress) ** 2) / np.mean(stress**2))),
    )


def _strains_and_stresses(sheet: Sheet) -> list[tuple[float, float]]:
    """Pairs of strain and stress (MPa) of the first two columns."""
    if len(sheet.units) < 2:
        raise InputError("a curve has two columns, strain and stress.", hint="Put them beside each other.")
    scale = _strain_scale(sheet.units[0])
    if not sheet.units[1]:
        raise UnitError("the stresses have no unit.", hint="Name it in the header, such as 'stress [MPa]'.")
    to_mpa = value_of(f"1 {sheet.units[1]}", "stress")
    return [(row[0] * scale, row[1] * to_mpa) for row in sheet.rows]


def _strain_scale(unit: str) -> float:
    scales = {"": 1.0, "%": 0.01, "mm/mm": 1.0, "m/m": 1.0, "in/in": 1.0, "µm/m": 1e-6, "um/m": 1e-6, "‰": 1e-3}
    if unit not in scales:
        raise UnitError(f"'{unit[:20]}' is no unit of strain.", hint="Strains are plain numbers, or in %.")
    return scales[unit]


def course_of(sheet: Sheet, sort: LoadSort) -> Course:
    """The course of a load within a step, of a sheet: time or share of the step, and value.

    Times are taken as shares of the last one; values without a unit get the one that the load is spoken in.

    Raises
    ------
    InputError, UnitError : a column is missing, times run back, or a unit that the load is not measured in.
    """
    if len(sheet.units) < 2:
        raise InputError("a course has two columns, time and value.", hint="Put them beside each other.")
    unit, factor = spoken(sort.quantity)
    scale = value_of(f"1 {sheet.units[1]}", sort.quantity) * factor if sheet.units[1] else 1.0
    last = sheet.rows[-1][0]
    if last <= 0:
        raise InputError("the last time is not above zero.", hint="Times, or shares of the step, come first in a row.")
    for number, ((before, *_), (at, *_)) in enumerate(itertools.pairwise([[0.0], *sheet.rows]), 1):
        if at < before:
            raise InputError(f"the time goes back in row {number}.", hint="Put the rows in order.")
    return Course(unit=unit, points=[(at / last, value * scale) for at, value, *_ in sheet.rows])
