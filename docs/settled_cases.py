"""What settling makes of coarse studies, beside closed forms, and what it costs, as a table.

Usage: python docs/settled_cases.py docs/settled-cases.md [CASE ...]
"""

import sys
from dataclasses import dataclass
from pathlib import Path

from ulmek.demo import demo_study
from ulmek.runs.settle import settle_study
from ulmek.study.items import StudyDocument
from ulmek.study.settling import SettledMeasure
from ulmek.verify.coarse import bracket, coarse_contacts


@dataclass(frozen=True)
class Case:
    """A study to be settled, and its peak pressure (MPa) at ``joint`` where a closed form knows it."""

    study: StudyDocument
    exact: float | None = None


def cases() -> dict[str, Case]:
    """By name."""
    return {
        **{name: Case(study, exact) for name, (study, exact) in coarse_contacts().items()},
        "bracket in tetrahedra, r 6": Case(bracket(6.0, 5.0, elements="tets", width=24)),
        "bracket in tetrahedra, sharp": Case(bracket(0.0, 5.0, elements="tets", width=24)),
        **{name: Case(demo_study(name)) for name in ("pinion-sector", "crossed-stops", "wall-bracket")},
    }


def rows_of(name: str, case: Case) -> list[str]:
    """The rows of one case: each of its measures, then what it cost."""
    settled, _ = settle_study(case.study)
    unknowns = ", ".join(f"{m.unknowns:,}" for m in settled.meshes)
    rows = [_row(name, m, case.exact if (m.row, m.column) == ("joint", "pressure") else None) for m in settled.measures]
    cost = f"**cost: {settled.cost:.1f} solutions of the last mesh**"
    return [*rows, f"| {name} | {cost} | {unknowns} | | | {settled.ended} |"]


def _row(name: str, measure: SettledMeasure, exact: float | None) -> str:
    values = ", ".join("–" if v is None else f"{v.value:.4g}" for v in measure.values)
    last = measure.values[-1]
    off = "" if exact is None or last is None else f"{exact:.4g} ({last.value / exact - 1:+.1%})"
    limit = "–"
    if measure.limit is not None and measure.band is not None:
        low, high = measure.band
        limit = f"{measure.limit:.4g} ({low:.4g} " + ("and more)" if high is None else f"to {high:.4g})")
    told = f"{measure.state}. {measure.told}"
    return f"| {name} | {measure.name} ({measure.unit or 'share'}) | {values} | {limit} | {off} | {told} |"


def main() -> None:
    """Settle and write."""
    file, *names = sys.argv[1:]
    head = [
        "# What settling makes of coarse studies", "",
        "Each measure on one mesh after the other, where the values go (with a band), the closed form where there is,",
        "and what is said of it; then how many unknowns the meshes had, and what all cost in solutions of the last.",
        "Within 5 %, up to 200,000 unknowns. Written by `make settled`.", "",
        "| study | of | on each mesh | goes to | closed form | |", "|---|---|---|---|---|---|",
    ]  # fmt: skip
    rows = [row for name, case in cases().items() if not names or name in names for row in rows_of(name, case)]
    Path(file).write_text("\n".join([*head, *rows, ""]))


if __name__ == "__main__":
    main()
