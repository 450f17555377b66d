"""Makes the report of a run's folder, and typesets it as PDF or HTML."""

import base64
import hashlib
import itertools
import json
import tempfile
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Literal

import typst
from jinja2 import Environment, FileSystemLoader, StrictUndefined

from ulmek.core.errors import InputError
from ulmek.core.review.summary import Summary
from ulmek.report import of_results, of_study
from ulmek.report.blocks import Block, Chapter, Gallery, Picture, Report, Table, Words
from ulmek.runs.settle import read_settled
from ulmek.store.results import open_result
from ulmek.store.texts import text_of
from ulmek.study.aside import report as tell_stage
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument, read_study
from ulmek.version import VERSION

TEMPLATES = Path(__file__).parent / "templates"
Format = Literal["pdf", "html"]
# What can be told, in the order of the report.
CHAPTERS = {
    "verdicts": "Verdicts", "pictures": "Pictures", "assembly": "Assembly and materials",
    "pairs": "Pairs and their laws",
    "sequence": "Sequence", "mesh": "Mesh, and how far it is settled", "closed-forms": "Hand calculations",
    "imprints": "Imprints", "histories": "Histories", "balance": "Balance", "repeat": "To repeat it",
}  # fmt: skip


@dataclass(frozen=True)
class Wanted:
    """What of a run is told. fields: of parts, each on a picture. chapters: those of `CHAPTERS` that are wanted, in
    that order. name, note: of the run, as it was called. made: when, as it is printed."""

    fields: tuple[str, ...] = ("von_mises", "displacement")
    chapters: tuple[str, ...] = tuple(CHAPTERS)
    name: str = ""
    note: str = ""
    made: datetime | None = None


def study_in(folder: Path) -> StudyDocument:
    """The study that a run's folder holds.

    Raises
    ------
    InputError : the folder is none of a run, or its study is damaged.
    """
    try:
        text = (folder / "study.ulmek.json").read_bytes()
    except OSError:
        raise InputError(
            "there is no run in this folder.", where=str(folder),
            hint="Name the folder that `ulmek solve --out` wrote, with its study and its result.",
        ) from None  # fmt: skip
    return read_study(text)


def report_on(folder: Path, wanted: Wanted) -> Report:
    """Everything that is told of a run.

    Raises
    ------
    InputError : no such run, field or chapter.
    """
    unknown = [c for c in wanted.chapters if c not in CHAPTERS]
    if unknown:
        raise InputError(
            f"there is no chapter '{unknown[0]}'.", where="chapters", hint=f"Known: {', '.join(CHAPTERS)}."
        )
    whole = study_in(folder)
    study = awake(whole)
    with open_result(folder / "result.h5") as reader:
        summaries = reader.summaries()
        if not summaries:
            raise InputError("no increment of this run is stored.", where="result.h5", hint="Run the study again.")
        at = len(summaries) - 1
        last = summaries[at]
        makers = {
            "verdicts": lambda: of_results.verdicts(whole, summaries, at),
            "pictures": lambda: of_results.pictures(whole, reader, list(wanted.fields), at),
            "assembly": lambda: of_study.assembly(whole, reader),
            "pairs": lambda: of_study.pairs(study),
            "sequence": lambda: of_study.sequence(whole),
            "mesh": lambda: of_results.mesh(study, reader, last, read_settled(folder)),
            "closed-forms": lambda: _by_hand(study, summaries),
            "imprints": lambda: of_results.imprints(study, reader, at),
            "histories": lambda: of_results.histories(study, summaries),
            "balance": lambda: of_results.balance(study, last),
            "repeat": lambda: _repeat(whole, folder),
        }
        chapters = []
        for k, (name, title) in enumerate(CHAPTERS.items()):
            if name in wanted.chapters:
                tell_stage(title, k / len(CHAPTERS))
                chapters.append(Chapter(title, makers[name]()))
        step = study.steps[last.step]
        is_whole = last.step == len(study.steps) - 1 and last.time > 1 - 1e-9
        state = "solved to the end" if is_whole else f"ended in step {step.name} at {last.time:.0%}"
    facts = {"Run": wanted.name, "State": state, "Increments": str(len(summaries)), "Made by": f"Ulmek {VERSION}"}
    if wanted.note or whole.notes:
        notes = [Words(text) for text in (whole.notes, wanted.note) if text]
        chapters = [Chapter("Notes", list[Block](notes)), *chapters]
    return Report(
        whole.title or whole.name, whole.machine, wanted.made or datetime.now(UTC),
        {name: value for name, value in facts.items() if value}, chapters,
    )  # fmt: skip


def _by_hand(study: StudyDocument, summaries: list[Summary]) -> list[Block]:
    """Closed forms of the joints, and what else can be reckoned beside the run."""
    return [*of_study.closed_forms(study), *of_results.checks(study, summaries)]


def _repeat(study: StudyDocument, folder: Path) -> list[Block]:
    """What is needed to compute the same again."""
    digest = hashlib.sha256(text_of(study).encode()).hexdigest()
    rows = [["Version of Ulmek", VERSION], ["Study, SHA-256 of its content", digest]]
    kept = folder / "report.json"
    if kept.is_file():
        told = json.loads(kept.read_text())
        rows += [
            [label, str(told[key])]
            for label, key in (
                ("Unknowns", "unknowns"), ("of them at the joints", "joint_unknowns"), ("Way of solution", "path"),
                ("Linear solver", "backend"),
            )
            if told.get(key) is not None
        ]  # fmt: skip
    how = (
        "The study file and this version give the same numbers again: ulmek solve study.ulmek.json --out run, then "
        "ulmek report run."
    )
    return [Table(["", ""], rows, share=(2, 5)), Words(how)]


def write_report(folder: Path, to: Format, path: Path, wanted: Wanted) -> None:
    """Write the report of a run's folder to a file.

    Raises
    ------
    InputError : no such run, field, chapter or format.
    """
    writers = {"pdf": as_pdf, "html": as_html}
    if to not in writers:
        raise InputError(f"a report cannot be made as '{to}'.", where="--to", hint="Known: pdf, html.")
    wanted = replace(wanted, made=wanted.made or datetime.now(UTC))
    path.write_bytes(writers[to](report_on(folder, wanted)))


def as_pdf(report: Report) -> bytes:
    """The report typeset by Typst; the same report gives the same bytes."""
    with tempfile.TemporaryDirectory(prefix="ulmek-") as name:
        folder = Path(name)
        count = itertools.count(1)

        def told(picture: Picture) -> dict[str, Any]:
            file = f"picture-{next(count)}.{picture.kind}"
            (folder / file).write_bytes(picture.image)
            return {"kind": "picture", "file": file, "caption": picture.caption, "width": picture.width}

        (folder / "report.json").write_text(json.dumps(_plain(report, told)))
        main = folder / "report.typ"
        main.write_bytes((TEMPLATES / "report.typ").read_bytes())
        made_of = typst.compile(
            main, root=folder, format="pdf", ignore_system_fonts=True, timestamp=int(report.made.timestamp())
        )
    return bytes(made_of)


def as_html(report: Report) -> bytes:
    """The report as one page that needs nothing else."""

    def told(picture: Picture) -> dict[str, Any]:
        kind = "image/png" if picture.kind == "png" else "image/svg+xml"
        address = f"data:{kind};base64,{base64.b64encode(picture.image).decode()}"
        return {"kind": "picture", "file": address, "caption": picture.caption, "width": picture.width}

    environment = Environment(
        loader=FileSystemLoader(TEMPLATES), autoescape=True, undefined=StrictUndefined, trim_blocks=True
    )
    return environment.get_template("report.html").render(_plain(report, told)).encode()


def _plain(report: Report, told: Any) -> dict[str, Any]:
    """The report as plain values; pictures as ``told`` of them."""

    def block(b: Block) -> dict[str, Any]:
        if isinstance(b, Words):
            return {"kind": "words", "text": b.text, "mark": b.mark}
        if isinstance(b, Table):
            share = list(b.share) or [1] * len(b.head)
            return {"kind": "table", "head": b.head, "rows": b.rows, "numbers": list(b.numbers), "share": share}
        if isinstance(b, Gallery):
            return {"kind": "gallery", "pictures": [told(p) for p in b.pictures]}
        found: dict[str, Any] = told(b)
        return found

    chapters = [{"title": c.title, "blocks": [block(b) for b in c.blocks]} for c in report.chapters]
    return {
        "title": report.title, "machine": report.machine, "made": f"{report.made:%Y-%m-%d %H:%M} UTC",
        "facts": list(report.facts.items()),
        "chapters": chapters,
    }  # fmt: skip
