"""Settle a study: solve it on finer and finer meshes until what is judged changes no more."""

import os
import shutil
import time
from pathlib import Path

from pydantic import BaseModel, Field, ValidationError

from ulmek.core.errors import InputError, UlmekError
from ulmek.runs.events import RunEvent, Settling
from ulmek.runs.solve import Outcome, Tell, solve_study
from ulmek.study.items import StudyDocument
from ulmek.study.settling import BUDGET, WITHIN, Judge, Settled, SolvedMesh, with_found

SETTLED = "settled.json"
# Where a mesh is solved; what it gave stands in the run's own folder when it is done.
AT_WORK = "mesh"


class Wanted(BaseModel):
    """Within what share a study is to be settled, and with how many unknowns at most."""

    within: float = Field(default=WITHIN, gt=0, lt=1)
    budget: int = Field(default=BUDGET, ge=1, le=10_000_000)


SETTLING = Wanted()


def settle_study(
    study: StudyDocument,
    wanted: Wanted = SETTLING,
    *,
    folder: Path | None = None,
    tell: Tell = lambda _: None,
    resume: Path | None = None,
) -> tuple[Settled, Outcome]:
    """Solve a study, and again on meshes that are finer where its verdicts take it, until every cell of the ledger that
    has one changes by less than is ``wanted``, or is singular, or a mesh would have more unknowns than may be.

    In ``folder`` stand the results of the last mesh that is done, and `settled.json`. ``resume``: the folder of a
    settling that was stopped, which goes on with the mesh that it was at.

    Raises
    ------
    UlmekError : as `solve_study`. InputError : what ``resume`` holds cannot be read.
    """
    settled = (read_settled(resume) if resume is not None else None) or Settled(within=0, budget=0)
    settled.within, settled.budget, settled.ended = wanted.within, wanted.budget, ""
    # The mesh that was at work, or that was solved last where none came after it, is solved now.
    del settled.meshes[max(settled.planned - 1, 0) :]
    for measure in settled.measures:
        del measure.values[len(settled.meshes) :]
    judge, now, outcome = Judge(study, settled), with_found(study, settled.found), Outcome(status="running")
    while True:
        settled.planned = len(settled.meshes) + 1
        keep_settled(folder, settled)
        tell(Settling(mesh=settled.planned, settled=settled))
        began = time.perf_counter()
        try:
            latest = solve_study(now, folder=folder and folder / AT_WORK, tell=_unkept(tell), with_ends=True)
        except UlmekError as error:
            if error.code == "stopped" or not settled.meshes:
                raise
            settled.ended = f"Mesh {settled.planned} could not be solved: {error.message}"
            break
        if latest.status != "solved":
            settled.ended = f"Mesh {settled.planned} did not converge: {latest.message}"
            outcome = outcome if settled.meshes else latest
            break
        outcome = latest
        _take_over(folder)
        elements = sum(len(b.mesh.cells) for b in latest.ends[0].path.model.bodies)
        mesh = SolvedMesh(unknowns=latest.unknowns, elements=elements, seconds=time.perf_counter() - began)
        judge.take(latest.ends, latest.summaries, mesh)
        keep_settled(folder, settled)
        following = judge.next_study()
        latest.ends.clear()
        if following is None:
            break
        now = following
    keep_settled(folder, settled)
    return settled, outcome


def _unkept(tell: Tell) -> Tell:
    """Hear a mesh's solution, whose increments can be looked at when it is done."""

    def hear(event: RunEvent) -> None:
        tell(event.model_copy(update={"kept": False}) if event.kind == "increment" else event)

    return hear


def _take_over(folder: Path | None) -> None:
    """Put what a mesh gave in the place of what the one before gave."""
    if folder is None:
        return
    for file in (folder / AT_WORK).iterdir():
        if file.is_file():
            os.replace(file, folder / file.name)
    shutil.rmtree(folder / AT_WORK)


def keep_settled(folder: Path | None, settled: Settled) -> None:
    """Write how far it is settled, whole or not at all."""
    if folder is None:
        return
    folder.mkdir(parents=True, exist_ok=True)
    part = folder / f"{SETTLED}.part"
    part.write_text(settled.model_dump_json(indent=2))
    os.replace(part, folder / SETTLED)


def read_settled(folder: Path) -> Settled | None:
    """How far the run in a folder is settled; None for a run that was no settling.

    Raises
    ------
    InputError : it cannot be read.
    """
    try:
        return Settled.model_validate_json((folder / SETTLED).read_text())
    except FileNotFoundError:
        return None
    except (OSError, ValidationError) as error:
        raise InputError(
            "how far it is settled cannot be read.", where=SETTLED, hint="Settle the study again."
        ) from error
