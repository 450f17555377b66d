"""Series on workers: the same numbers whoever solves them, whatever becomes of workers, clusters and drivers."""

import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import psutil
import pytest

from ulmek.core.errors import SolveError, StoppedError
from ulmek.runs.cluster import ADDRESS, connected, workers_for
from ulmek.runs.sample import Measured, SampleResult
from ulmek.runs.scatter import findings, share_between
from ulmek.runs.series import SAMPLES, STOP, Progress, read_samples, run_series
from ulmek.runs.solve import solve_study
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.series import SeriesUse
from ulmek.study.sampling import changes_of, inputs_of, samples_of
from ulmek.study.variants import with_changes

ASKED: dict[str, Any] = {
    "id": "s", "name": "S", "plan": "sobol", "samples": 16,
    "inputs": [
        {"id": "push", "name": "Push", "paths": ["/loads/push/values/push"],
         "spread": {"kind": "even", "low": "50 %", "high": "200 %"}},
        {"id": "mu", "name": "µ", "paths": ["/pairs/joint/law/mu"],
         "spread": {"kind": "normal", "low": 0.1, "high": 0.2}},
    ],
}  # fmt: skip


def _values(results: list[SampleResult]) -> dict[tuple[int, str, str, int], float]:
    return {(r.number, m.row, m.column, m.step): m.value for r in results for m in r.measures}


def _workers() -> list[psutil.Process]:
    """Processes of clusters below this one that solve."""
    return [p for p in psutil.Process().children(recursive=True) if p.cpu_times().user > 1.0]


def test_a_series_is_what_fresh_runs_give_and_survives_what_is_done_to_it(
    two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    study, series = read_study(two_blocks), SeriesUse.model_validate(ASKED)
    killed: list[int] = []

    def harm(progress: Progress) -> None:
        if progress.done >= 2 and not killed:
            killed.extend(process.pid for process in _workers())
            for pid in killed:
                os.kill(pid, signal.SIGKILL)
        if progress.done >= 5:
            (tmp_path / STOP).touch()

    with pytest.raises(StoppedError):
        run_series(study, series, tmp_path, tell=harm)
    assert killed
    assert 5 <= len(read_samples(tmp_path)) < 16
    (tmp_path / STOP).unlink()
    # A file that was cut off is solved again.
    torn = sorted((tmp_path / SAMPLES).glob("*.json"))[0]
    times = {p.name: p.stat().st_mtime_ns for p in (tmp_path / SAMPLES).glob("*.json") if p != torn}
    torn.write_text(torn.read_text()[:50])
    results = run_series(study, series, tmp_path)
    assert [r.number for r in results] == list(range(16))
    assert {r.status for r in results} == {"solved"}, [r.message for r in results]
    assert all((tmp_path / SAMPLES / name).stat().st_mtime_ns == at for name, at in times.items())
    assert any(r.reused for r in results)
    inputs, samples = inputs_of(study, series), samples_of(study, series)
    for sample in samples[:3]:
        fresh = solve_study(with_changes(study, changes_of(inputs, sample))).summaries[-1].pairs["joint"]
        measured = {(m.column, m.step): m.value for m in results[sample.number].measures if m.row == "joint"}
        assert measured["pressure", 1] == pytest.approx(fresh.peak_pressure, rel=1e-8)
        assert measured["sliding", 1] == pytest.approx(fresh.max_sliding * 1e3, rel=1e-7)


def test_a_cluster_that_is_there_gives_the_same_numbers_and_may_go_away(
    two_blocks: dict[str, Any], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    study, series = read_study(two_blocks), SeriesUse.model_validate(ASKED)
    port = _free_port()
    monkeypatch.setenv(ADDRESS, f"tcp://127.0.0.1:{port}")
    monkeypatch.setattr("ulmek.runs.series.GONE_PATIENCE", 60.0)
    restarted = threading.Event()
    with ExitStack() as again, _scheduler(port) as first, _worker(port, tmp_path / "a"), _worker(port, tmp_path / "b"):

        def restart(progress: Progress) -> None:
            if progress.done >= 3 and not restarted.is_set():
                restarted.set()
                first.kill()
                first.wait()
                # Workers end with their scheduler; whoever runs a cluster starts both anew.
                again.enter_context(_scheduler(port))
                again.enter_context(_worker(port, tmp_path / "c"))

        there = run_series(study, series, tmp_path / "there", tell=restart)
    assert restarted.is_set()
    assert [r.number for r in there] == list(range(16))
    monkeypatch.delenv(ADDRESS)
    here = run_series(study, series, tmp_path / "here")
    assert _values(there) == pytest.approx(_values(here), rel=1e-9, abs=1e-12)
    monkeypatch.setenv(ADDRESS, "tcp://127.0.0.1:1")
    monkeypatch.setattr("ulmek.runs.series.GONE_PATIENCE", 0.0)
    monkeypatch.setattr("ulmek.runs.cluster.PATIENCE", 1.0)
    with pytest.raises(SolveError, match="does not answer"):
        run_series(study, series, tmp_path / "nowhere")


def _cores() -> int:
    from ulmek.core.shared_out import CORES

    return CORES


def test_workers_share_the_cores_of_this_machine(monkeypatch: pytest.MonkeyPatch) -> None:
    """Two workers with two threads each on two cores took three times as long for a sample."""
    monkeypatch.setattr("ulmek.runs.cluster.CORES", 4)
    monkeypatch.setattr("ulmek.runs.cluster.room", lambda: 4e9)
    with connected(1.9e9) as client:
        assert list(client.run(_cores).values()) == [2, 2]
    assert [workers_for(m) for m in (0.0, 1.9e9, 3e9, 9e9)] == [4, 2, 1, 1]


def _free_port() -> int:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        return int(taken.getsockname()[1])


def _started(code: str, arguments: list[str]) -> "subprocess.Popen[bytes]":
    return subprocess.Popen(
        [sys.executable, "-c", code, *arguments], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        env={**os.environ, "ULMEK_THREADS": "1"},
    )  # fmt: skip


@contextmanager
def _scheduler(port: int) -> Iterator["subprocess.Popen[bytes]"]:
    code = "from distributed.cli.dask_scheduler import main; main()"
    process = _started(code, ["--host", "127.0.0.1", "--port", str(port), "--no-dashboard"])
    try:
        yield process
    finally:
        process.kill()
        process.wait()


@contextmanager
def _worker(port: int, folder: Path) -> Iterator[None]:
    folder.mkdir()
    code = "from distributed.cli.dask_worker import main; main()"
    arguments = [f"tcp://127.0.0.1:{port}", "--nthreads", "1", "--no-dashboard", "--local-directory", str(folder)]
    process = _started(code, [*arguments, "--death-timeout", "60"])
    try:
        yield
    finally:
        process.terminate()
        process.wait()


def _made_up(study: StudyDocument, series: SeriesUse) -> list[SampleResult]:
    """Results of a rule that is known: it opens where a push of more than 2.5 kN meets µ below 0.15; the figure is
    2 mm by push, and less by 1 mm by µ over their ranges."""
    inputs, out = inputs_of(study, series), []
    for sample in samples_of(study, series):
        push, mu = (i.number_of(sample.values.get(i.use.id)) for i in inputs)
        fails = push > 2.5 and mu < 0.15
        value = 10 + 2 * (push - 1) / 3 - (mu - 0.1) / 0.1
        measured = Measured(
            row="joint", column="pressure", step=0, name="Joint", unit="MPa", value=value, band=None,
            grade="bad" if fails else "good",
        )  # fmt: skip
        out.append(SampleResult(number=sample.number, values=sample.values, status="solved", measures=[measured]))
    return out


def test_what_matters_and_where_it_turns_is_found_in_samples_of_a_known_rule(two_blocks: dict[str, Any]) -> None:
    study = read_study(two_blocks)
    for plan, samples in (("sobol", 200), ("latin-hypercube", 150)):
        series = SeriesUse.model_validate({**ASKED, "plan": plan, "samples": samples})
        results = _made_up(study, series)
        # One that was not solved is told, and counts for nothing.
        results[7] = SampleResult(number=7, values=results[7].values, status="failed", message="gone")
        results[8] = SampleResult(number=8, values=results[8].values, status="not-converged", is_loose=True)
        found = findings(results, inputs_of(study, series))
        assert (found.samples, found.solved, found.failed) == (samples, samples - 2, [7, 8])
        held, sure = found.verdicts
        assert (held.column, held.holds, held.fails, held.unsure) == ("held", samples - 2, 1, 1)
        assert held.worst == 8
        assert sure.holds + sure.fails == sure.of == samples - 2
        assert sure.low is not None
        assert sure.high is not None
        assert sure.low < sure.holds / sure.of < sure.high
        assert [e.input for e in sure.effects] == ["push", "mu"]
        assert [(e.low, e.high) for e in sure.effects] == [
            (pytest.approx(-1), pytest.approx(1)), (pytest.approx(0.5), pytest.approx(-0.5))
        ]  # fmt: skip
        assert sure.fit == pytest.approx(1)
        assert sure.turn is not None
        conditions = {c.input: c for c in sure.turn.conditions}
        assert conditions["push"].side == "above"
        assert conditions["push"].value == pytest.approx(2.5, abs=0.12)
        assert conditions["mu"].side == "below"
        assert conditions["mu"].value == pytest.approx(0.15, abs=0.006)
        assert (sure.turn.fails_there, sure.turn.holds_there) == (sure.fails, 0)
        assert sure.turn.text.startswith("Fails where Push is above 2.")
        worst = next(r for r in results if r.number == sure.worst)
        assert worst.measures[0].grade == "bad"


def test_how_sure_is_told_by_binomial_bounds() -> None:
    # Clopper and Pearson for 187 of 200, and where all or none hold: 1 - (0.025)^(1/n).
    assert share_between(187, 13) == pytest.approx((0.8914, 0.9649), abs=2e-4)
    assert share_between(20, 0) == pytest.approx((0.025 ** (1 / 20), 1.0))
    assert share_between(0, 20) == pytest.approx((0.0, 1 - 0.025 ** (1 / 20)))
    assert share_between(0, 0) == (None, None)


def test_chance_alone_turns_nowhere(two_blocks: dict[str, Any]) -> None:
    study, series = read_study(two_blocks), SeriesUse.model_validate({**ASKED, "samples": 64})
    rng = np.random.default_rng(3)
    results = _made_up(study, series)
    for result in results:
        result.measures[0].grade = "bad" if rng.random() < 0.3 else "good"
        result.measures[0].value = float(rng.random())
    (sure,) = findings(results, inputs_of(study, series)).verdicts
    assert sure.turn is None
    assert sure.fit is not None
    assert sure.fit < 0.3


def test_time_limits_end_a_sample_in_words(two_blocks: dict[str, Any]) -> None:
    from ulmek.runs.sample import solve_sample

    bare = SampleResult(number=3, values={"mu": 0.3}, status="failed").model_dump_json()
    text = solve_sample(json.dumps(two_blocks), bare, [], f"limit-{time.time()}", 0.0)
    result = SampleResult.model_validate_json(text)
    assert (result.number, result.status) == (3, "failed")
    assert "stopped after 0 s" in result.message
