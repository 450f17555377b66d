"""Ulmek from a script: open a study, change it, solve it, and read what came back as arrays and tables.

``import ulmek`` has all of this; see docs/scripting.md.
"""

import html
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.review.fields import PAIR_FIELDS
from ulmek.core.review.summary import Summary
from ulmek.demo import DEMOS, demo_study
from ulmek.draw.plots import framed, imprint
from ulmek.draw.ramp import scale_of
from ulmek.draw.stage import Shown, increment_of, picture
from ulmek.report.make import Format, Wanted, study_in, write_report
from ulmek.runs.settle import Wanted as Settling
from ulmek.runs.settle import settle_study
from ulmek.runs.solve import report_of, solve_study
from ulmek.runs.solve import write_report as keep_report
from ulmek.store.export import contact_table, history_table
from ulmek.store.fields import pair_values, part_field_named, values_at_nodes
from ulmek.store.flat import lay_flat
from ulmek.store.results import ResultReader, open_result
from ulmek.study.checks import Asked, Reckoning, hand_checks, reckoned
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.variant import Change
from ulmek.study.ledger import COLUMNS, build_ledger
from ulmek.study.preflight import preflight, require_runnable
from ulmek.study.settling import BUDGET, WITHIN, with_found
from ulmek.study.spoken import body_name
from ulmek.study.translate import translate
from ulmek.study.variants import with_changes

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Values:
    """A field: values (n,) in a unit, at points (n, 3) in mm before the motion, and the name of the body of each."""

    values: Array
    unit: str
    label: str
    at: Array
    body: list[str]

    def table(self) -> pd.DataFrame:
        """A row for each place."""
        columns = {"body": self.body, **{f"{a} (mm)": self.at[:, k] for k, a in enumerate("xyz")}}
        return pd.DataFrame({**columns, f"{self.label} ({self.unit})": self.values})


def _by_hand(found: Sequence[Reckoning]) -> pd.DataFrame:
    """Values of hand calculations, a row each."""
    rows = [
        {
            "check": c.title, "figure": v.name, "quantity": v.quantity, "by hand": v.hand, "computed": v.computed,
            "difference": v.difference, "sense": v.sense, "holds": c.holds, "source": v.source,
        }
        for c in found
        for v in c.values
    ]  # fmt: skip
    return pd.DataFrame(rows)


class Study:
    """A study, which changes make another of: what was opened stays as it is."""

    def __init__(self, document: StudyDocument) -> None:
        self.document = document

    def set(self, way: str, value: Any) -> "Study":
        """The study with one entry changed: ``study.set("pairs/seat/law/mu", 0.2)``.

        Raises
        ------
        InputError : no such entry, or a value that it cannot have.
        """
        # Adding to an object sets what is there.
        return Study(with_changes(self.document, [Change(op="add", path=f"/{way.strip('/')}", value=value)]))

    def check(self) -> pd.DataFrame:
        """What preflight finds: how grave it is, where, what, and what to do."""
        found = preflight(self.document).findings
        rows = [{"grade": f.grade, "where": f.where, "text": f.text, "hint": f.hint} for f in found]
        return pd.DataFrame(rows, columns=["grade", "where", "text", "hint"])

    def reckon(self, *faces: str, force: str = "1 kN", mu: float = 0.15) -> pd.DataFrame:
        """What formulas say of one face or two under a force, before anything is solved.

        Raises
        ------
        UlmekError : as `reckoned`.
        """
        return _by_hand(reckoned(self.document, Asked(faces, force, mu)))

    def solve(self, folder: str | Path | None = None, *, tell: Callable[[Any], None] = lambda _: None) -> "Run":
        """Check and solve; what comes back is kept in ``folder``, one of its own when none is named. ``tell`` hears
        what happens on the way.

        Raises
        ------
        UlmekError : the study cannot be run, with its place and what to do.
        """
        require_runnable(self.document)
        path = Path(folder) if folder is not None else Path(tempfile.mkdtemp(prefix="ulmek-run-"))
        outcome = solve_study(self.document, folder=path, tell=tell)
        keep_report(path, report_of(self.document, outcome))
        return Run(path, status=outcome.status, message=outcome.message)

    def settle(
        self, folder: str | Path | None = None, *, within: float = WITHIN, budget: int = BUDGET,
        tell: Callable[[Any], None] = lambda _: None,
    ) -> tuple["Study", "Run", pd.DataFrame]:  # fmt: skip
        """Solve on finer and finer meshes until what is judged changes by no more than ``within``, or a mesh would have
        more unknowns than the ``budget``: the study with the sizes that were found, the run on the last mesh, and a
        table of every measure on every mesh.

        Raises
        ------
        UlmekError : the study cannot be run, with its place and what to do.
        """
        require_runnable(self.document)
        path = Path(folder) if folder is not None else Path(tempfile.mkdtemp(prefix="ulmek-run-"))
        settled, outcome = settle_study(self.document, Settling(within=within, budget=budget), folder=path, tell=tell)
        keep_report(path, report_of(self.document, outcome))
        rows = [
            {
                "measure": m.name, "unit": m.unit, **{f"mesh {k}": v and v.value for k, v in enumerate(m.values, 1)},
                "limit": m.limit, "state": m.state, "told": m.told,
            }
            for m in settled.measures
        ]  # fmt: skip
        run = Run(path, status=outcome.status, message=outcome.message or settled.ended)
        return Study(with_found(self.document, settled.found)), run, pd.DataFrame(rows)

    def save(self, path: str | Path) -> None:
        """Write the study to a file, as `ulmek solve` takes it."""
        Path(path).write_text(self.document.model_dump_json(indent=2) + "\n")

    def _repr_html_(self) -> str:
        d = self.document
        rows = [(kind, item.id, item.name) for kind in ("parts", "pairs", "bolts", "supports", "loads", "steps")
                for item in getattr(d, kind)]  # fmt: skip
        table = pd.DataFrame(rows, columns=["", "id", "name"]).to_html(index=False)
        return f"<h4>{html.escape(d.title or d.name)}</h4><p>{html.escape(d.notes)}</p>{table}"


class Run:
    """What a run came to, read from its folder."""

    def __init__(self, folder: str | Path, *, status: str = "", message: str = "") -> None:
        self.folder, self.status, self.message = Path(folder), status, message
        self.study = Study(study_in(self.folder))

    def _read(self, read: Callable[[ResultReader], Any]) -> Any:
        with open_result(self.folder / "result.h5") as reader:
            return read(reader)

    @property
    def summaries(self) -> list[Summary]:
        """Every increment in numbers (N, MPa, mm, N·mm)."""
        found: list[Summary] = self._read(lambda r: r.summaries())
        return found

    def ledger(self, increment: int = -1) -> "LedgerTable":
        """The ledger at an increment: value, unit, grade and verdict of every pair, part and bolt."""
        summaries = self.summaries
        at = increment + len(summaries) if increment < 0 else increment
        made = build_ledger(self.study.document, summaries, at)
        rows = [
            {"name": row.name, "kind": row.kind, "what": column, "value": c.value, "unit": c.unit, "grade": c.grade,
             "verdict": c.verdict, "low": c.band and c.band[0], "high": c.band and c.band[1]}
            for row in made.rows for column in COLUMNS if (c := getattr(row, column)) is not None
        ]  # fmt: skip
        return LedgerTable(pd.DataFrame(rows), [r.text for r in made.remarks])

    def history(self) -> pd.DataFrame:
        """All increments in rows, their figures in columns that name their units."""
        titles, *rows = self._read(history_table)
        return pd.DataFrame(rows, columns=titles)

    def field(self, name: str, increment: int = -1) -> Values:
        """A field of the parts at all nodes.

        Raises
        ------
        InputError : no such field or increment.
        """
        field = part_field_named(name)

        def read(reader: ResultReader) -> Values:
            at = increment_of(reader, increment)
            values = values_at_nodes(self.study.document, reader, name, at) * field.factor
            names, offsets = reader.bodies()
            body = np.repeat([body_name(self.study.document, n) for n in names], np.diff(offsets))
            return Values(values, field.spoken, field.label, reader.points(), list(body))

        found: Values = self._read(read)
        return found

    def pair(self, pair: str, name: str = "pressure", increment: int = -1) -> Values:
        """A field of a pair at its contact nodes, as `field`."""
        field = PAIR_FIELDS.get(name)
        if field is None:
            raise InputError(
                f"there is no pair field '{name}'.", where="field", hint=f"Known: {', '.join(PAIR_FIELDS)}."
            )

        def read(reader: ResultReader) -> Values:
            at = increment_of(reader, increment)
            values = pair_values(self.study.document, reader, pair, name, at) * field.factor
            node, _ = reader.pair_patch(pair)
            return Values(values, field.spoken, field.label, reader.points()[node], [pair] * len(node))

        found: Values = self._read(read)
        return found

    def contact(self, pair: str) -> pd.DataFrame:
        """Every contact node of a pair at the last increment in a row, with all that is kept of it."""
        titles, *rows = self._read(lambda r: contact_table(r, pair))
        return pd.DataFrame(rows, columns=titles)

    def picture(self, field: str | None = "von_mises", *, size: tuple[int, int] = (900, 600), **shown: Any) -> "Image":
        """A picture with its legend; ``shown``: see `ulmek.draw.stage.Shown`."""
        document = self.study.document
        stage = self._read(lambda r: picture(document, r, Shown(field=field, **shown), size))
        return Image(framed(stage, document.title or document.name))

    def imprint(self, pair: str, name: str = "pressure", increment: int = -1) -> "Image":
        """A field over a pair of a solid, laid flat."""
        found = self.pair(pair, name, increment)

        def read(reader: ResultReader) -> Image:
            node, facets = reader.pair_patch(pair)
            flat = lay_flat(reader.points(), facets, node)
            scale = scale_of(found.values, is_signed=PAIR_FIELDS[name].is_signed)
            return Image(imprint(found.label, found.unit, flat, found.values, scale))

        made: Image = self._read(read)
        return made

    def checks(self, increment: int = -1) -> pd.DataFrame:
        """Hand calculations at an increment beside what was computed, and whether all that each rests on is met."""
        document = self.study.document
        found = hand_checks(
            document, translate(document), self._read(lambda r: r.summaries())[: self._at(increment) + 1]
        )
        return _by_hand(found)

    def _at(self, increment: int) -> int:
        at: int = self._read(lambda r: increment_of(r, increment))
        return at

    def report(self, path: str | Path, *, to: Format = "pdf", note: str = "") -> None:
        """Write the report, PDF or HTML."""
        write_report(self.folder, to, Path(path), Wanted(note=note))

    def _repr_html_(self) -> str:
        return self.ledger()._repr_html_()


class Image:
    """A picture as PNG, which notebooks show."""

    def __init__(self, png: bytes) -> None:
        self.png = png

    def save(self, path: str | Path) -> None:
        """Write it to a file."""
        Path(path).write_bytes(self.png)

    def _repr_png_(self) -> bytes:
        return self.png


@dataclass(frozen=True)
class LedgerTable:
    """The ledger as a table, and what stands out."""

    table: pd.DataFrame
    remarks: list[str]

    def _repr_html_(self) -> str:
        told = "".join(f"<li>{html.escape(text)}</li>" for text in self.remarks)
        return f"<ul>{told}</ul>{self.table.to_html(index=False)}"


def open_study(path: str | Path) -> Study:
    """The study in a file.

    Raises
    ------
    InputError : it cannot be read, with the place and what to do.
    """
    try:
        return Study(read_study(Path(path).read_bytes()))
    except OSError as error:
        raise InputError(f"the file cannot be read: {error.strerror}.", where=str(path)) from None


def open_demo(name: str) -> Study:
    """A demo study.

    Raises
    ------
    InputError : there is none of that name.
    """
    if name not in DEMOS:
        raise InputError(f"there is no demo '{name}'.", hint=f"Known: {', '.join(DEMOS)}.")
    return Study(demo_study(name))


def open_run(folder: str | Path) -> Run:
    """A run that was kept in a folder.

    Raises
    ------
    InputError : the folder is none of a run.
    """
    return Run(folder)
