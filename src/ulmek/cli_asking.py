"""Commands that ask again: variants of a study, series over inputs that are not known well, runs beside each other."""

import json
import tempfile
from pathlib import Path
from typing import Annotated, Any

import typer

from ulmek.cli_shared import fail, load
from ulmek.core.errors import InputError, UlmekError

asking_app = typer.Typer()


@asking_app.command()
def variants(file: Path, as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """The variants of a study: what each changes, and which do not fit the study as it stands."""
    from ulmek.study.changes import told_variants

    study = load(file)
    told = told_variants(study)
    if as_json:
        typer.echo(json.dumps([v.model_dump() for v in told], indent=2))
        return
    for v in told:
        typer.echo(f"{v.id}: {v.name}")
        for line in [f"does not fit: {v.misfit}"] if v.misfit else v.changes:
            typer.echo(f"  {line}")
    if not study.variants:
        typer.echo("The study has no variants.")


@asking_app.command()
def series(
    file: Path,
    which: Annotated[str | None, typer.Option("--series", help="Id or name of the series; needed of several.")] = None,
    vary: Annotated[
        list[str] | None, typer.Option(help="Vary an entry instead: pairs/seat/law/mu=0.1..0.2; may be given again.")
    ] = None,
    samples: Annotated[int | None, typer.Option(help="Samples, instead of those that the series asks for.")] = None,
    out: Annotated[
        Path | None, typer.Option(help="Folder for the samples; what is there already is not solved again.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Solve a study for many values of its inputs: how sure each verdict is, what matters, and where it turns."""
    from ulmek.runs.scatter import findings
    from ulmek.runs.series import run_series, series_of
    from ulmek.study.sampling import inputs_of

    study = load(file)
    try:
        asked = _varied(vary) if vary else series_of(study, which)
        if samples is not None:
            asked = type(asked).model_validate({**asked.model_dump(), "samples": samples})
        inputs = inputs_of(study, asked)
        folder = out or Path(tempfile.mkdtemp(prefix="ulmek-series-"))
        results = run_series(study, asked, folder, tell=lambda _: None if as_json else _say(_))
        found = findings(results, inputs)
    except ValueError as error:
        fail(InputError(f"the series cannot be run so: {error}", where="--samples"))
    except UlmekError as error:
        fail(error)
    if as_json:
        typer.echo(json.dumps(_as_json(inputs, results, found), indent=2))
        return
    typer.echo(f"{found.solved} of {found.samples} samples are solved, in {folder}.")
    for v in found.verdicts:
        between = "" if v.low is None or v.high is None else f" ({v.low:.0%} to {v.high:.0%})"
        unsure = f", {v.unsure} cannot be told" if v.unsure else ""
        typer.echo(
            f"{v.name:26} {v.column:12} holds in {v.holds} of {v.of}{between}{unsure}; "
            f"{v.least:.4g} … {v.middle:.4g} … {v.most:.4g} {v.unit}, worst: sample {v.worst}"
        )
        if v.turn is not None:
            typer.echo(f"    {v.turn.text}")
        for effect in v.effects[:3]:
            typer.echo(f"    {effect.name}: {effect.low:+.3g} … {effect.high:+.3g} {v.unit}")


def _varied(entries: list[str]) -> Any:
    """A series of entries that are varied evenly: ``pairs/seat/law/mu=0.1..0.2``."""
    from ulmek.study.items.series import SeriesUse

    inputs = []
    for n, entry in enumerate(entries, 1):
        path, sign, between = entry.partition("=")
        low, dots, high = between.partition("..")
        if not (path and sign and dots):
            raise InputError(
                f"'{entry}' is no range.", where="--vary", hint="Write it like pairs/seat/law/mu=0.1..0.2."
            )
        spread = {"kind": "even", "low": _number_or_text(low), "high": _number_or_text(high)}
        inputs.append({"id": f"input-{n}", "name": path, "paths": ["/" + path.strip("/")], "spread": spread})
    return SeriesUse.model_validate({"id": "asked", "name": "Asked", "inputs": inputs})


def _number_or_text(written: str) -> float | str:
    try:
        return float(written)
    except ValueError:
        return written.strip()


def _say(progress: Any) -> None:
    left = "" if progress.left is None else f", about {progress.left:.0f} s left"
    typer.echo(
        f"{progress.done} of {progress.of} samples, {progress.workers} workers{left} {progress.trouble}".rstrip()
    )


def _as_json(inputs: Any, results: Any, found: Any) -> dict[str, Any]:
    """The object that `ulmek series --json` prints (docs/command-line.md)."""
    return {
        "inputs": [
            {"id": i.use.id, "name": i.use.name, "paths": i.use.paths, "unit": i.unit, "now": list(i.now),
             "ends": list(i.ends)}
            for i in inputs
        ],
        "samples": [
            {"number": r.number, "inputs": r.values, "status": r.status, "message": r.message, "seconds": r.seconds,
             "measures": [m.model_dump() for m in r.measures]}
            for r in results
        ],
        "verdicts": [
            {"measure": v.column, "boundary": v.turn and v.turn.text, **v.model_dump(exclude={"column"})}
            for v in found.verdicts
        ],
    }  # fmt: skip


@asking_app.command()
def best(
    file: Path,
    vary: Annotated[list[str], typer.Option(help="An entry and its bounds: pairs/seat/interference=0.02 mm..0.1 mm.")],
    least: Annotated[
        list[str] | None, typer.Option(help="What is to be least, such as hub/yielding; the largest of several.")
    ] = None,
    most: Annotated[list[str] | None, typer.Option(help="What is to be most; the smallest of several.")] = None,
    holds: Annotated[list[str] | None, typer.Option(help="A verdict that has to hold, such as seat/pressure.")] = None,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Seek the values of inputs at which a measure of the ledger is least or most."""
    from ulmek.runs.best import Goal, find_best
    from ulmek.study.sampling import inputs_of

    study = load(file)
    try:
        if bool(least) == bool(most):
            raise InputError(
                "say what is to be least or what is to be most.", where="--least", hint="Give one of both."
            )
        goal = Goal(measures=least or most or [], sense="least" if least else "most", holds=holds or [])
        inputs = inputs_of(study, _varied(vary))

        def say(tried: Any) -> None:
            if not as_json:
                told = (
                    "not solved"
                    if tried.goal is None
                    else f"{tried.goal:.5g}{'' if tried.holds else ', does not hold'}"
                )
                typer.echo(f"{', '.join(map(str, tried.values.values()))}: {told} {tried.message}".rstrip())

        found = find_best(study, inputs, goal, tell=say)
    except UlmekError as error:
        fail(error)
    if as_json:
        typer.echo(found.model_dump_json(indent=2))
        return
    if found.best is None:
        typer.echo("No try held: widen the bounds, or ask less to hold.")
        return
    for i in inputs:
        end = ", at the end of its range: the best may lie beyond" if i.use.id in found.at_end else ""
        typer.echo(f"{i.use.name}: {found.best.values[i.use.id]}{end}")
    typer.echo(f"{goal.sense}: {found.best.goal:.5g}, after {len(found.tries)} tries")


@asking_app.command()
def compare(
    runs: Annotated[list[Path], typer.Argument(help="Folders of two to four runs.")],
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Runs beside each other: what is other in their studies, and what came of it."""
    from ulmek.report.make import study_in
    from ulmek.store.results import open_result
    from ulmek.study.changes import changes
    from ulmek.study.ledger import COLUMNS, build_ledger

    if not 2 <= len(runs) <= 4:
        fail(InputError("two to four runs stand beside each other.", where="RUNS"))
    try:
        studies, cells = [study_in(run) for run in runs], []
        for run, study in zip(runs, studies, strict=True):
            with open_result(run / "result.h5") as reader:
                summaries = reader.summaries()
            if not summaries:
                raise InputError("this run has no increments yet.", where=str(run), hint="Let it converge once.")
            ledger = build_ledger(study, summaries, len(summaries) - 1)
            cells.append(
                {(row.id, c): (row.name, cell) for row in ledger.rows for c in COLUMNS if (cell := getattr(row, c))}
            )
    except UlmekError as error:
        fail(error)
    other = [changes(studies[0], study) for study in studies[1:]]
    keys = list(dict.fromkeys(k for of_run in cells for k in of_run if of_run[k][1].value is not None))
    rows = [
        {
            "row": key[0], "name": next(c[key][0] for c in cells if key in c), "measure": key[1],
            "unit": next(c[key][1].unit for c in cells if key in c),
            "values": [c[key][1].value if key in c else None for c in cells],
            "grades": [c[key][1].grade if key in c else None for c in cells],
        }
        for key in keys
    ]  # fmt: skip
    if as_json:
        typer.echo(json.dumps({"runs": [str(r) for r in runs], "changes": other, "cells": rows}, indent=2))
        return
    for run, lines in zip(runs[1:], other, strict=True):
        typer.echo(f"{run} against {runs[0]}:")
        for line in lines or ["nothing is other in the study"]:
            typer.echo(f"  {line}")
    for row in rows:
        values = "  ".join(f"{'–' if v is None else format(v, '.4g'):>10}" for v in row["values"])
        typer.echo(f"{row['name']:26} {row['measure']:12} {values} {row['unit']}")
