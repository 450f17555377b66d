"""The `ulmek` command."""

import json
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from ulmek.cli_asking import asking_app
from ulmek.cli_results import results_app
from ulmek.cli_shared import BAD_INPUT, NOT_CONVERGED, fail, load, print_reckoning
from ulmek.core.errors import InputError, UlmekError

app = typer.Typer(help="What a bolted, pinned, pressed or geared joint does under load.", no_args_is_help=True)
demo_app = typer.Typer(help="Demo studies of the sluice gate hoist.", no_args_is_help=True)
app.add_typer(demo_app, name="demo")
app.add_typer(results_app)
app.add_typer(asking_app)


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="Port; ULMEK_PORT or 8321 by default.")] = None,
    with_demo: Annotated[bool, typer.Option(help="Load and solve the demo studies that are missing.")] = False,
) -> None:
    """Serve the application on this machine."""
    from ulmek.api.serve import serve_application

    try:
        serve_application(port=port, with_demo=with_demo)
    except UlmekError as error:
        fail(error)


@demo_app.command("list")
def demo_list() -> None:
    """Names of the demo studies."""
    from ulmek.demo import DEMOS, demo_study

    for name in DEMOS:
        typer.echo(f"{name:16} {demo_study(name).notes}")


@demo_app.command("write")
def demo_write(name: str, file: Path) -> None:
    """Write a demo study to a file."""
    from ulmek.demo import DEMOS, demo_study

    if name not in DEMOS:
        fail(InputError(f"there is no demo '{name}'.", hint=f"Known: {', '.join(DEMOS)}."))
    try:
        file.write_text(demo_study(name).model_dump_json(indent=2) + "\n")
    except OSError as error:
        fail(InputError(f"the file cannot be written: {error.strerror}.", where=str(file)))


@app.command()
def check(file: Path, as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """Preflight: what is loose, apart or unconnected, and how big the run will be."""
    from ulmek.study.preflight import preflight

    result = preflight(load(file))
    if as_json:
        typer.echo(result.model_dump_json(indent=2))
    else:
        marks = {"stop": "STOP ", "watch": "watch", "good": "good "}
        for f in result.findings:
            typer.echo(f"{marks[f.grade]}  {f.text} {f'[{f.where}]' if f.where else ''} {f.hint}".rstrip())
        for p in result.pairs:
            gap = "not facing" if p.gap is None else f"{p.gap:.4g} mm"
            typer.echo(f"pair   {p.id}: starting gap {gap}, covered {p.cover:.0%}")
        if result.size:
            s = result.size
            typer.echo(
                f"size   {s.unknowns} unknowns, {s.joint_unknowns} at the joints, about {s.memory_mb:.0f} MB of memory"
            )
            typer.echo(f"path   {s.path}: {s.path_reason}")
    if not result.may_run:
        for f in result.findings:
            if f.grade == "stop":
                typer.echo(f"ulmek: {f.where}: {f.text} {f.hint}", err=True)
        raise typer.Exit(BAD_INPUT)


@app.command()
def joint(
    file: Path,
    picked: Annotated[list[str], typer.Argument(help="Faces (plate/hole.1) or parts that are joined.")],
    kind: Annotated[str | None, typer.Option(help="Kind of joint; by what is picked when none.")] = None,
    asked: Annotated[list[str] | None, typer.Option("--ask", help="An entry of what is asked: strength=10.9.")] = None,
    name: Annotated[str | None, typer.Option(help="Name of the joint.")] = None,
    out: Annotated[Path | None, typer.Option(help="File that the study with the joint is written to.")] = None,
) -> None:
    """Make a joint of a study as a whole; says what it is made of, and its closed form."""
    from ulmek.study.joints.begin import in_words, join
    from ulmek.study.joints.follow import made_of
    from ulmek.study.units import spoken

    study = load(file)
    try:
        after, made = join(study, picked, kind=kind, asked=dict(_entry(e) for e in asked or []), name=name)
        found = made_of(after, made)
    except UlmekError as error:
        fail(error)
    typer.echo(f"{made.name}: {in_words(after, made)}.")
    for line in found.told:
        typer.echo(f"  {line}")
    for figure in found.figures:
        unit, factor = ("", 1.0) if figure.quantity == "share" else spoken(figure.quantity)
        doubt = "" if figure.holds else f"  ({figure.why})"
        typer.echo(f"  {figure.name}: {figure.value * factor:.4g} {unit}{doubt}".rstrip())
    if out is not None:
        out.write_text(after.model_dump_json(indent=2) + "\n")


@app.command()
def reckon(
    file: Path,
    faces: Annotated[list[str], typer.Argument(help="One face or two, such as plate/hole.1.")],
    force: Annotated[str, typer.Option(help="Force on them.")] = "1 kN",
    mu: Annotated[float, typer.Option(help="Coefficient of friction between them.")] = 0.15,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """What formulas say of faces under a force, before anything is solved."""
    from ulmek.study.checks import Asked, reckoned

    study = load(file)
    try:
        found = reckoned(study, Asked(faces, force, mu))
    except UlmekError as error:
        fail(error)
    if as_json:
        typer.echo(json.dumps([r.model_dump() for r in found], indent=2))
        return
    for reckoning in found:
        print_reckoning(reckoning)
    if not found:
        typer.echo(
            "No formula knows these faces: take two round faces or balls that touch, a hole and what is in it, two"
        )
        typer.echo("flat faces that face each other, or both ends of a bar.")


def _entry(written: str) -> tuple[str, Any]:
    """``use=0.7`` as a name and a value: JSON where it is some, else text."""
    name, sign, text = written.partition("=")
    if not sign:
        raise InputError(f"'{written}' has no value.", where="--ask", hint="Write it like strength=10.9.")
    try:
        value = json.loads(text)
    except ValueError:
        return name, text
    return name, text if name == "strength" else value


@app.command()
def solve(
    file: Path,
    out: Annotated[Path | None, typer.Option(help="Folder for result.h5 and report.json.")] = None,
    as_json: Annotated[bool, typer.Option("--json")] = False,
    resume: Annotated[Path | None, typer.Option(help="Folder of a run to go on from.")] = None,
    variant: Annotated[str | None, typer.Option(help="Solve a variant of it, by its id or name.")] = None,
) -> None:
    """Check and solve a study, or a variant of it."""
    from ulmek.runs.solve import report_of, solve_study, write_report
    from ulmek.study.preflight import require_runnable
    from ulmek.study.spoken import in_words
    from ulmek.study.variants import variant_of, with_changes

    study = load(file)
    try:
        if variant is not None:
            study = with_changes(study, variant_of(study, variant).changes)
        if resume is not None and out is not None and resume.resolve() == out.resolve():
            raise InputError("the folder to go on from is the one to write to.", where="--out", hint="Name another.")
        require_runnable(study)
        outcome = solve_study(study, folder=out, tell=lambda _: None if as_json else _say(_), resume=resume)
    except UlmekError as error:
        error.message, error.hint = in_words(study, error.message), in_words(study, error.hint)
        fail(error)
    outcome.message = in_words(study, outcome.message)
    report = report_of(study, outcome)
    if out is not None:
        write_report(out, report)
    if as_json:
        typer.echo(json.dumps(report, indent=2))
    else:
        _print_ledger(study, outcome)
    if outcome.status != "solved":
        typer.echo(f"ulmek: {outcome.where}: {outcome.message} {outcome.hint}", err=True)
        raise typer.Exit(NOT_CONVERGED)


@app.command()
def settle(
    file: Path,
    within: Annotated[str, typer.Option(help="Share by which what is judged may still change.")] = "5%",
    budget: Annotated[int | None, typer.Option(help="Unknowns that a mesh may have.")] = None,
    out: Annotated[Path | None, typer.Option(help="Folder for settled.json and the results of the last mesh.")] = None,
    resume: Annotated[Path | None, typer.Option(help="Folder of a settling to go on with.")] = None,
    keep: Annotated[Path | None, typer.Option(help="File that the study with the found sizes is written to.")] = None,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Solve a study on finer and finer meshes until its verdicts change no more."""
    from pydantic import ValidationError

    from ulmek.runs.settle import Wanted, settle_study
    from ulmek.study.preflight import require_runnable
    from ulmek.study.settling import BUDGET, with_found
    from ulmek.study.spoken import in_words

    study = load(file)
    try:
        require_runnable(study)
        wanted = Wanted(within=_share(within), budget=budget or BUDGET)
        tell = (lambda _: None) if as_json else _say
        settled, outcome = settle_study(study, wanted, folder=out, tell=tell, resume=resume)
    except ValidationError:
        fail(
            InputError(
                "a study is settled within a share between 0 and 100%, on a budget of unknowns.", where="--within"
            )
        )
    except UlmekError as error:
        error.message, error.hint = in_words(study, error.message), in_words(study, error.hint)
        fail(error)
    if keep is not None:
        keep.write_text(with_found(study, settled.found).model_dump_json(indent=2) + "\n")
    if as_json:
        typer.echo(settled.model_dump_json(indent=2))
    else:
        _print_settled(settled)
    if outcome.status != "solved":
        typer.echo(f"ulmek: {outcome.where}: {outcome.message} {outcome.hint}", err=True)
        raise typer.Exit(NOT_CONVERGED)


def _share(written: str) -> float:
    """``5%`` or ``0.05`` as a share."""
    try:
        return float(written.removesuffix("%")) / (100 if written.endswith("%") else 1)
    except ValueError:
        raise InputError(f"'{written}' is no share.", where="--within", hint="Write it like 5%.") from None


def _print_settled(settled: Any) -> None:
    for measure in settled.measures:
        course = " → ".join("–" if v is None else f"{v.value:.4g}" for v in measure.values)
        low, high = measure.band or (None, None)
        limit = "" if measure.limit is None else f"goes to {measure.limit:.4g} ({low:.4g}–{high:.4g})"
        order = "" if measure.order is None else f", order {measure.order:.1f}"
        typer.echo(
            f"{measure.state:9} {measure.name:44} {course} {measure.unit}  {limit}{order}  {measure.told}".rstrip()
        )
    for number, mesh in enumerate(settled.meshes, 1):
        typer.echo(f"mesh {number}: {mesh.unknowns} unknowns, {mesh.seconds:.1f} s")
    typer.echo(f"{settled.ended} All took as long as {settled.cost:.1f} solutions of the last mesh.")


def _say(event: Any) -> None:
    if event.kind == "increment":
        s = event.summary
        typer.echo(f"step {s.step + 1}, {s.time:.0%}: converged in {s.iterations} iterations")
    elif event.kind == "cutback":
        what = "let go bit by bit" if event.slowly else f"increment halved to {event.size:.3g}"
        typer.echo(f"step {event.step + 1}, {event.time:.0%}: {what}")
    elif event.kind == "settling":
        typer.echo(f"mesh {event.mesh}")


def _band(cell: Any) -> str:
    if cell.band is None:
        return ""
    low, high = cell.band
    return f"{low:.3g} and more" if high is None else f"{low:.3g}–{high:.3g}"


def _print_ledger(study: Any, outcome: Any) -> None:
    from ulmek.study.ledger import COLUMNS, build_ledger

    if not outcome.summaries:
        return
    ledger = build_ledger(study, outcome.summaries, len(outcome.summaries) - 1)
    for row in ledger.rows:
        for label in COLUMNS:
            cell = getattr(row, label)
            if cell is not None and cell.value is not None:
                typer.echo(
                    f"{row.name:26} {label:12} {cell.value:10.4g} {_band(cell):>17} {cell.unit:10} {cell.verdict}"
                )
    for remark in ledger.remarks:
        typer.echo(f"* {remark.text}")
    typer.echo(f"balance closes to {ledger.closing_error:.1e}")


@app.command()
def verify(
    only: Annotated[str | None, typer.Option(help="Run one case.")] = None,
    as_json: Annotated[bool, typer.Option("--json")] = False,
    write: Annotated[Path | None, typer.Option(help="Write the table as Markdown.")] = None,
) -> None:
    """Run the verification cases against their closed forms."""
    from ulmek.verify import CASES, run_cases, table

    if only is not None and only not in CASES:
        fail(InputError(f"there is no case '{only}'.", hint=f"Known: {', '.join(CASES)}."))
    results = run_cases([only] if only else list(CASES))
    if as_json:
        typer.echo(json.dumps([r.as_dict() for r in results], indent=2))
    else:
        typer.echo(table(results))
    if write is not None:
        write.write_text(f"# Verification\n\nWritten by `ulmek verify --write`.\n\n{table(results)}\n")
    if not all(r.inside for r in results):
        raise typer.Exit(1)


@app.command("compile", hidden=True)
def compile_code() -> None:
    """Compile what is compiled on first use, so that no run waits for it (part of the set-up)."""
    from ulmek.draw.plots import prepare
    from ulmek.verify.kernels import compile_kernels

    compile_kernels(lambda what: typer.echo(f"Compiling for {what} ..."))
    typer.echo("Compiling for pictures ...")
    prepare()


def main() -> None:
    """Entry point."""
    try:
        app()
    except KeyboardInterrupt:
        sys.exit(130)
