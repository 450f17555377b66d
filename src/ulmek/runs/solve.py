"""Solve one study from start to end: the one path that the worker, the command line and `verify` share."""

import json
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any, Literal

from threadpoolctl import threadpool_limits

from ulmek.core.errors import SolveError, UlmekError
from ulmek.core.model import Step
from ulmek.core.review.beams import section_forces
from ulmek.core.review.pair_fields import pair_fields
from ulmek.core.review.recover import Recovered, StressRecovery, von_mises
from ulmek.core.review.refine import RunEnd
from ulmek.core.review.summary import Summary, summarise
from ulmek.core.review.trust import Known, known_of
from ulmek.core.shared_out import CORES
from ulmek.core.solve.choice import SolutionPath, choose_path
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.history import Increment, Landmark, StepRecord, solve_history
from ulmek.core.solve.state import Iteration
from ulmek.runs.events import Converged, CutBack, Iterated, Phase, Resumed, RunEvent, StepBegan
from ulmek.store.checkpoints import Checkpoints
from ulmek.store.results import ResultWriter, open_result
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.translate import translate

Tell = Callable[[RunEvent], None]

# Uncontrolled threads of BLAS and the sparse solver turned 0.3 s into 9 s on two cores.
THREADS = min(4, CORES)


@dataclass
class Outcome:
    """What a solved (or stopped) study gives besides its result file. reused: with the factors of an earlier run.
    ends: the last of each step, if wanted."""

    status: Literal["running", "solved", "not-converged"]
    message: str = ""
    where: str = ""
    hint: str = ""
    mechanism: tuple[tuple[str, tuple[float, ...]], ...] = ()
    steps: list[StepRecord] = field(default_factory=list)
    summaries: list[Summary] = field(default_factory=list)
    initial_gaps: dict[str, float] = field(default_factory=dict)
    timing: dict[str, float] = field(default_factory=dict)
    backend: str = ""
    path: str = ""
    path_reason: str = ""
    unknowns: int = 0
    joint_unknowns: int = 0
    reused: bool = False
    ends: dict[int, RunEnd] = field(default_factory=dict)


def mechanism_of(error: UlmekError) -> tuple[tuple[str, tuple[float, ...]], ...]:
    """Bodies that nothing holds, each with a sample of its motion, see `SolveError`; none of other errors."""
    return error.mechanism if isinstance(error, SolveError) else ()


class Kept:
    """What one run leaves for the next of the same study: its path with all factors, how stress is recovered on it, and
    its landmarks."""

    def __init__(self) -> None:
        self.path: SolutionPath | None = None
        self.recovery: StressRecovery | None = None
        self.landmarks: list[Landmark] = []


class _Storyteller:
    """Turns what the solver does into events, result file entries and summaries."""

    def __init__(
        self,
        path: SolutionPath,
        recovery: StressRecovery,
        known: Known,
        tell: Tell,
        writer: ResultWriter | None,
        outcome: Outcome,
        keeper: Checkpoints | None,
        every: list[int],
    ) -> None:
        self.path, self.tell, self.writer, self.outcome, self.keeper = path, tell, writer, outcome, keeper
        self.recovery, self.known = recovery, known
        self.landmarks: list[Landmark] = []
        # Of recovery, estimates and summaries.
        self.seconds = 0.0
        # Of every how many increments of each step results are kept; the last that converged, until they are.
        self.every, self.with_ends, self.ends_only = every, False, False
        self.last: tuple[Increment, Recovered, Summary] | None = None

    def step_began(self, index: int, step: Step) -> None:
        if index == len(self.outcome.steps):
            self.outcome.steps.append(StepRecord(step.name))
        self.tell(StepBegan(step=index, name=step.name))

    def iterated(self, step: int, time: float, iteration: Iteration) -> None:
        self.outcome.steps[step].iterations += 1
        self.tell(Iterated(step=step, time=time, **asdict(iteration)))

    def cut_back(self, step: int, time: float, size: float, *, slowly: bool = False) -> None:
        self.outcome.steps[step].cutbacks += 1
        self.outcome.steps[step].let_go_slowly |= slowly
        self.tell(CutBack(step=step, time=time, size=size, slowly=slowly))

    def converged(self, increment: Increment) -> None:
        self.landmarks.append(increment.landmark)
        record = self.outcome.steps[increment.step]
        record.increments += 1
        if self.ends_only and increment.time != 1.0:
            return
        began = time.perf_counter()
        recovered = self.recovery.recover(increment)
        summary = summarise(self.path, increment, recovered, self.known)
        self.seconds += time.perf_counter() - began
        self.last = (increment, recovered, summary)
        if self.with_ends:
            self.outcome.ends[increment.step] = RunEnd(self.path, increment, recovered, self.known, summary)
        kept = increment.time == 1.0 or record.increments % self.every[increment.step] == 0
        if kept:
            self.keep_last()
        if self.keeper is not None:
            self.keeper.keep(self.path, increment, self.outcome.steps)
        self.tell(Converged(summary=summary, kept=kept))

    def keep_last(self) -> None:
        """Keep the results of the last increment that converged, where they are not kept yet."""
        if self.last is None:
            return
        (increment, recovered, summary), self.last = self.last, None
        self.outcome.summaries.append(summary)
        if self.writer is not None:
            model, nodes = self.path.model, self.path.system.nodes
            fields = {
                pair.name: pair_fields(nodes, increment, i, self.known.pairs[i]) for i, pair in enumerate(model.pairs)
            }
            stress = recovered.stress
            nodal = {
                "displacement": increment.state.u[: len(stress)],
                "stress": stress,
                "von_mises": von_mises(stress),
                "plastic_strain": recovered.plastic_strain,
                "stress_error": recovered.stress_error,
                "force": recovered.force,
            }
            structure = self.path.system.structure
            beams = {beam.body: section_forces(structure, beam, increment) for beam in model.beams}
            self.writer.append(increment, nodal, fields, beams, summary)


def solve_study(
    study: StudyDocument,
    *,
    folder: Path | None = None,
    tell: Tell = lambda _: None,
    resume: Path | None = None,
    kept: Kept | None = None,
    with_ends: bool = False,
    ends_only: bool = False,
) -> Outcome:
    """Mesh, condense and run the whole sequence, or what is left of it after the last checkpoint in ``resume``.

    With ``folder``, the study, checkpoints and `result.h5` are written there. ``tell`` hears each event as a
    plain dict, and stops the run by raising `StoppedError`. Not converging is an outcome
    (``status`` = ``not-converged``), bad input raises. ``kept``: of an earlier run, used where its factors serve
    this study too, and filled with what this one leaves.
    ``with_ends``: the last increment of each step is left in the outcome, with all that is known of it. ``ends_only``:
    nothing is recovered, kept or told of any other.

    Raises
    ------
    UlmekError : bad input, with its place; StoppedError passed through from ``tell``.
    """
    began = time.perf_counter()
    outcome = Outcome(status="running")
    with threadpool_limits(limits=THREADS):
        tell(Phase(phase="mesh"))
        model = translate(study)
        meshed = time.perf_counter()
        tell(Phase(phase="factor", unknowns=3 * len(model.nodes())))
        kept = kept or Kept()
        path, reason = choose_path(model, earlier=kept.path)
        reused = isinstance(path, CondensedPath) and path.is_reused
        like = kept.landmarks if reused else []
        kept.path, kept.landmarks = (path if isinstance(path, CondensedPath) else None), []
        outcome.backend, outcome.path, outcome.path_reason = path.solver_name, path.name, reason
        outcome.unknowns, outcome.joint_unknowns, outcome.reused = path.unknowns, path.joint_unknowns, reused
        start = path.start()
        outcome.initial_gaps = {f.pair.name: f.least_gap for f in start.interfaces}
        tell(
            Phase(
                phase="solve", unknowns=outcome.unknowns, joint_unknowns=outcome.joint_unknowns,
                backend=outcome.backend, path=path.name, reason=reason, factor_seconds=path.timing.factor,
                reused=reused,
            )
        )  # fmt: skip
        known = known_of(model, start)
        if kept.recovery is None or kept.recovery.structure is not path.system.structure:
            kept.recovery = StressRecovery(path.system.structure)
        writer = keeper = after = None
        if resume is not None:
            after, outcome.steps = Checkpoints(resume).take_up(path)
            with open_result(resume / "result.h5") as earlier:
                outcome.summaries = [s for s in earlier.summaries() if s.number <= after.number]
            tell(Resumed(step=after.step, time=after.time, number=after.number, kept=len(outcome.summaries)))
        if folder is not None:
            folder.mkdir(parents=True, exist_ok=True)
            (folder / "study.ulmek.json").write_text(study.model_dump_json(indent=2))
            writer, keeper = ResultWriter(folder / "result.h5", model, start, known.singular), Checkpoints(folder)
            if resume is not None and after is not None:
                writer.take_over(resume / "result.h5", len(outcome.summaries))
                keeper.keep(path, after, outcome.steps)
        every = [s.increments.keep_every for s in awake(study).steps]
        story = _Storyteller(path, kept.recovery, known, tell, writer, outcome, keeper, every)
        story.with_ends, story.ends_only = with_ends, ends_only
        try:
            solve_history(path, story, after=after, like=like)
            outcome.status = "solved"
        except UlmekError as error:
            if error.code != "not-converged":
                raise
            outcome.status, outcome.message = "not-converged", error.message
            outcome.where, outcome.hint, outcome.mechanism = error.where, error.hint, mechanism_of(error)
        finally:
            kept.landmarks = story.landmarks
            story.keep_last()
            if writer is not None:
                writer.close(finished=outcome.status == "solved")
    outcome.timing = {
        "mesh": meshed - began,
        "assembly": path.timing.assembly,
        "factor": path.timing.factor,
        "condense": path.timing.condense,
        "contact": path.timing.contact,
        "review": story.seconds,
        "total": time.perf_counter() - began,
        "factorizations": path.timing.factorizations,
    }
    return outcome


# What the command line promises of each part, and each pair (docs/command-line.md).
PROMISED_OF_PARTS = (
    "max_von_mises", "max_plastic_strain", "max_displacement", "stress_band", "use", "use_band", "use_anywhere",
    "use_anywhere_band",
)  # fmt: skip
PROMISED_OF_PAIRS = (
    "normal_force", "friction_force", "peak_pressure", "max_penetration", "max_sliding",
    "share_open", "share_sticking", "share_sliding", "dissipated", "pressure_band", "sliding_band", "penetration_band",
    "across", "pulls", "leak", "use", "use_band",
)  # fmt: skip


def report_of(study: StudyDocument, outcome: Outcome) -> dict[str, Any]:
    """The object that `ulmek solve --json` prints (docs/command-line.md)."""
    out: dict[str, Any] = {
        "study": study.name,
        **{k: getattr(outcome, k) for k in ("status", "message", "where", "hint", "unknowns", "joint_unknowns")},
        "mechanism": [{"body": body, "motion": motion} for body, motion in outcome.mechanism],
        "backend": outcome.backend,
        "path": outcome.path,
        "steps": [asdict(s) for s in outcome.steps],
        "timing": outcome.timing,
        "balance": {"closing_error": None},
        "pairs": [],
        "bolts": [],
        "supports": [],
        "parts": [],
    }
    return out | (_results(outcome) if outcome.summaries else {})


def _results(outcome: Outcome) -> dict[str, Any]:
    """What the last increment, and the ends of the steps, have to say."""
    last = outcome.summaries[-1]
    ends = {s.step: s for s in outcome.summaries}
    balances = [s.balance for s in outcome.summaries]
    return {
        "balance": {
            "closing_error": max(b.closing_error for b in balances),
            "part_error": max(max(b.parts.values()) / b.scale for b in balances),
        },
        "pairs": [
            {"name": n, **{k: getattr(p, k) for k in PROMISED_OF_PAIRS}, "initial_gap": outcome.initial_gaps[n]}
            for n, p in last.pairs.items()
        ],
        "bolts": [
            {
                "name": n,
                "force_by_step": [ends[k].bolts[n].force for k in sorted(ends)],
                "worst": asdict(b.worst) if b.worst is not None else None,
            }
            for n, b in last.bolts.items()
        ],
        "supports": [{**asdict(carrier), "about": [0.0, 0.0, 0.0]} for carrier in last.carriers],
        "parts": [{"name": n, **{k: getattr(p, k) for k in PROMISED_OF_PARTS}} for n, p in last.parts.items()],
    }


def write_report(folder: Path, report: dict[str, Any]) -> None:
    """Keep the report beside the result file."""
    (folder / "report.json").write_text(json.dumps(report, indent=2))
