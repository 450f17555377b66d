"""Verdicts of the demos at 1, ½ and ¼ of their element sizes, as a table: each stays, or "cannot tell" was said before.

Usage: python docs/finer_meshes.py docs/finer-meshes.md [DEMO ...]
"""

import sys
from pathlib import Path

from ulmek.core.errors import UlmekError
from ulmek.demo import DEMOS, demo_study
from ulmek.runs.solve import solve_study
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.ledger import Cell, build_ledger
from ulmek.study.preflight import preflight
from ulmek.study.units import value_of

FACTORS = (1.0, 0.5, 0.25)
# Larger ones take this machine too long.
MOST_UNKNOWNS = 2_000_000
MARKS = {"good": "✓", "watch": "▲", "bad": "■", "unsure": "?", "none": "·"}
Key = tuple[str, str]


def finer(study: StudyDocument, factor: float) -> StudyDocument:
    """A study with all its element sizes times ``factor``, and as many more elements where they are counted."""
    document = study.model_dump()
    for part in document["parts"]:
        mesh = part["mesh"]

        def scaled(size: str) -> str:
            return f"{factor * value_of(size, 'length'):g} mm"

        mesh["size"] = scaled(mesh["size"])
        for of in ("faces", "edges"):
            mesh[of] = {name: scaled(size) for name, size in mesh[of].items()}
        for spot in mesh["spots"]:
            spot["size"] = scaled(spot["size"])
        mesh["per_turn"] = min(96, round(mesh["per_turn"] / factor))
        mesh["layers"] = mesh["layers"] and min(200, round(mesh["layers"] / factor))
        mesh["through"] = {name: min(200, round(n / factor)) for name, n in mesh["through"].items()}
    return read_study(document)


def cells(study: StudyDocument) -> dict[Key, Cell] | str:
    """Cells that have a verdict by row and column at the end of a run, or why there are none."""
    try:
        size = preflight(study).size
        if size is not None and size.unknowns > MOST_UNKNOWNS:
            return f"{size.unknowns} unknowns"
        outcome = solve_study(study)
    except UlmekError as error:
        return error.message
    if outcome.status != "solved":
        return outcome.message
    ledger = build_ledger(study, outcome.summaries, len(outcome.summaries) - 1)
    out = {}
    for row in ledger.rows:
        for column in ("pressure", "sliding", "yielding"):
            cell: Cell | None = getattr(row, column)
            if cell is not None and cell.value is not None and cell.grade != "none":
                out[row.name, column] = cell
    return out


def told(cell: Cell | None) -> str:
    """A cell in few words."""
    if cell is None or cell.value is None:
        return "–"
    band = ""
    if cell.band is not None:
        low, high = cell.band
        band = f" ({low:.3g} and more)" if high is None else f" ({low:.3g}–{high:.3g})"
    return f"{MARKS[cell.grade]} {cell.value:.3g}{band}"


def rows_of(name: str) -> list[str]:
    """The rows of one demo."""
    found = [cells(finer(demo_study(name), factor)) for factor in FACTORS]
    first = found[0]
    assert not isinstance(first, str)
    rows = []
    for key, cell in first.items():
        at = [cell, *(f.get(key) if not isinstance(f, str) else None for f in found[1:])]
        grades = [c.grade for c in at if c is not None]
        holds = all(g == grades[0] or "unsure" in grades[: i + 1] for i, g in enumerate(grades))
        texts = [f if isinstance(f, str) else told(c) for f, c in zip(found, at, strict=True)]
        rows.append(f"| {name} | {key[0]} | {key[1]} | {' | '.join(texts)} | {'yes' if holds else '**no**'} |")
    return rows


def main() -> None:
    """Solve and write."""
    file, *names = sys.argv[1:]
    head = [
        "# Verdicts of the demos on finer meshes", "",
        "Value, between what it lies on its mesh, and verdict at the end of each demo (MPa, µm, share of strength)",
        "at 1, ½ and ¼ of its element sizes. ✓ good, ▲ watch, ■ not good, ? cannot be told on this mesh.",
        "Written by `make verdicts`.", "",
        "| demo | of | what | as it is | at ½ | at ¼ | stays, or was not told |", "|---|---|---|---|---|---|---|",
    ]  # fmt: skip
    rows = [row for name in names or DEMOS for row in rows_of(name)]
    Path(file).write_text("\n".join([*head, *rows, ""]))


if __name__ == "__main__":
    main()
