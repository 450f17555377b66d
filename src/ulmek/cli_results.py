"""Commands that hand on what a run came to: fields and tables, pictures, animations, the report."""

import json
from dataclasses import replace
from pathlib import Path
from typing import Annotated, Any

import typer

from ulmek.cli_shared import fail, load, print_reckoning
from ulmek.core.errors import InputError, UlmekError

results_app = typer.Typer()
Run = Annotated[Path, typer.Argument(help="Folder of the run, as `ulmek solve --out` wrote it.")]
Field = Annotated[str, typer.Option(help="Field of the parts; none for their own colours.")]
Limits = Annotated[str | None, typer.Option(help="Limits of the colours in the unit of the field: 0..250.")]
Parts = Annotated[list[str] | None, typer.Option("--part", help="Only this part; may be given again.")]
Towards = Annotated[str | None, typer.Option(help="Direction from the parts to the eye: 1,-1,0.5.")]
Solid = Annotated[bool, typer.Option("--solid", help="A plane or axisymmetric section as the solid that it is of.")]
Scale = Annotated[float, typer.Option(help="Factor of the displacements; 1 is true.")]
Log = Annotated[bool, typer.Option("--log", help="Colours by powers of ten, where the field has no sign.")]
Size = Annotated[str, typer.Option(help="Width and height in pixels.")]


@results_app.command()
def export(result: Path, to: Annotated[str, typer.Option(help="vtu, vtkhdf, csv, xlsx or step")], folder: Path) -> None:
    """Write a run's fields, or the geometry of its study, in open formats: RESULT is its folder or its result.h5."""
    from ulmek.store.export import export_result
    from ulmek.study.step_export import write_assembly

    try:
        if to == "step":
            run = result if result.is_dir() else result.parent
            study = load(run / "study.ulmek.json")
            folder.mkdir(parents=True, exist_ok=True)
            write_assembly(study, folder / f"{study.name}.step")
            typer.echo(str(folder / f"{study.name}.step"))
            return
        for written in export_result(result, to, folder):
            typer.echo(str(written))
    except UlmekError as error:
        fail(error)


@results_app.command()
def checks(
    run: Run,
    increment: Annotated[int, typer.Option(help="Increment from 0, or from the last as -1.")] = -1,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Hand calculations beside what a run computed, with the conditions that they rest on."""
    from ulmek.draw.stage import increment_of
    from ulmek.report.make import study_in
    from ulmek.store.results import open_result
    from ulmek.study.checks import hand_checks
    from ulmek.study.translate import translate

    try:
        study = study_in(run)
        with open_result(run / "result.h5") as reader:
            at = increment_of(reader, increment)
            found = hand_checks(study, translate(study), reader.summaries()[: at + 1])
    except UlmekError as error:
        fail(error)
    if as_json:
        typer.echo(json.dumps([check.model_dump() for check in found], indent=2))
        return
    for check in found:
        print_reckoning(check)


@results_app.command()
def picture(
    run: Run,
    out: Annotated[Path, typer.Option(help="PNG file to write.")],
    field: Field = "von_mises",
    increment: Annotated[int, typer.Option(help="Increment from 0, or from the last as -1.")] = -1,
    limits: Limits = None,
    part: Parts = None,
    towards: Towards = None,
    solid: Solid = False,
    scale: Scale = 1.0,
    log: Log = False,
    size: Size = "1200x800",
) -> None:
    """Draw a run as PNG with its legend, without a browser."""
    from ulmek.draw.plots import framed
    from ulmek.draw.stage import picture as drawn
    from ulmek.report.make import study_in
    from ulmek.store.results import open_result

    try:
        study = study_in(run)
        shown = replace(_shown(field, increment, limits, part, towards, solid=solid, scale=scale), is_log=log)
        with open_result(run / "result.h5") as reader:
            stage = drawn(study, reader, shown, _size(size))
        out.write_bytes(framed(stage, study.title or study.name))
    except OSError as error:
        fail(InputError(f"the file cannot be written: {error.strerror}.", where=str(out)))
    except UlmekError as error:
        fail(error)
    typer.echo(str(out))


@results_app.command()
def animate(
    run: Run,
    out: Annotated[Path, typer.Option(help="File to write: .webm or .gif.")],
    field: Field = "von_mises",
    limits: Limits = None,
    part: Parts = None,
    towards: Towards = None,
    solid: Solid = False,
    scale: Scale = 1.0,
    log: Log = False,
    size: Size = "960x640",
    rate: Annotated[int, typer.Option(min=1, max=60, help="Frames a second.")] = 6,
    between: Annotated[int, typer.Option(min=0, max=60, help="Frames between two increments.")] = 0,
) -> None:
    """Draw all increments of a run as WebM or GIF, without a browser."""
    from ulmek.draw.film import Film, write_film
    from ulmek.report.make import study_in
    from ulmek.store.results import open_result

    to: Any = out.suffix.lstrip(".")
    try:
        study = study_in(run)
        shown = replace(_shown(field, -1, limits, part, towards, solid=solid, scale=scale), is_log=log)
        with open_result(run / "result.h5") as reader:
            count = write_film(study, reader, shown, Film(rate, between), _size(size), out, to)
    except OSError as error:
        fail(InputError(f"the file cannot be written: {error.strerror}.", where=str(out)))
    except UlmekError as error:
        fail(error)
    typer.echo(f"{out}: {count} frames")


@results_app.command()
def report(
    run: Run,
    to: Annotated[str, typer.Option(help="pdf or html")] = "pdf",
    out: Annotated[Path | None, typer.Option(help="File to write; report.pdf or .html in the folder.")] = None,
    field: Annotated[list[str] | None, typer.Option(help="A field that is shown; may be given again.")] = None,
    chapter: Annotated[list[str] | None, typer.Option(help="Only this chapter; may be given again.")] = None,
    name: Annotated[str, typer.Option(help="Name of the run.")] = "",
    note: Annotated[str, typer.Option(help="A note on the first page.")] = "",
) -> None:
    """Write the report of a run: one document with all that was assumed, done and found."""
    from ulmek.report.make import Wanted, write_report

    asked: Any = to
    path = out or run / f"report.{to}"
    wanted = Wanted(name=name, note=note)
    wanted = Wanted(tuple(field or wanted.fields), tuple(chapter or wanted.chapters), name, note)
    try:
        write_report(run, asked, path, wanted)
    except OSError as error:
        fail(InputError(f"the file cannot be written: {error.strerror}.", where=str(path)))
    except UlmekError as error:
        fail(error)
    typer.echo(str(path))


def _shown(
    field: str, increment: int, limits: str | None, parts: list[str] | None, towards: str | None, *, solid: bool,
    scale: float,
) -> Any:  # fmt: skip
    from ulmek.draw.raster import View
    from ulmek.draw.stage import Shown

    span = _numbers(limits, "..", 2, "--limits", "0..250") if limits else None
    if span is not None and span[0] >= span[1]:
        raise InputError("the lower limit is not below the upper one.", where="--limits", hint="Write it like 0..250.")
    eye = _numbers(towards, ",", 3, "--towards", "1,-1,0.5") if towards else None
    if eye is not None and not any(eye):
        raise InputError("the direction is nothing.", where="--towards", hint="Write it like 1,-1,0.5.")
    return Shown(
        field=None if field == "none" else field, increment=increment, scale=scale,
        limits=None if span is None else (span[0], span[1]), parts=tuple(parts or ()), is_solid=solid,
        view=None if eye is None else View((eye[0], eye[1], eye[2])),
    )  # fmt: skip


def _numbers(text: str, between: str, count: int, where: str, like: str) -> list[float]:
    try:
        found = [float(t) for t in text.split(between)]
    except ValueError:
        found = []
    if len(found) != count:
        raise InputError(f"'{text}' cannot be read.", where=where, hint=f"Write it like {like}.")
    return found


def _size(text: str) -> tuple[int, int]:
    width, height = _numbers(text, "x", 2, "--size", "1200x800")
    if not (64 <= width <= 8000 and 64 <= height <= 8000):
        raise InputError(f"a picture of {text} cannot be drawn.", where="--size", hint="Between 64 and 8000 pixels.")
    return int(width), int(height)
