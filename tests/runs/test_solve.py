"""The shared path of worker and command line: events, result file, stop, and what a killed writer leaves."""

import json
import multiprocessing
import os
import signal
import threading
import time
from pathlib import Path
from typing import Any

import h5py
import numpy as np
import openpyxl
import pytest

from ulmek.core.errors import InputError, StoppedError
from ulmek.runs.events import Converged, RunEvent
from ulmek.runs.solve import report_of, solve_study
from ulmek.runs.worker import EVENTS, OUTCOME, STOP, Job, work
from ulmek.store.export import export_result
from ulmek.store.results import ResultReader
from ulmek.study.items import read_study


def test_result_file_report_and_exports_agree(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    study = read_study(two_blocks)
    events: list[RunEvent] = []
    outcome = solve_study(study, folder=tmp_path, tell=events.append)
    report = report_of(study, outcome)
    assert report["status"] == "solved"
    assert report["balance"]["closing_error"] < 1e-9
    joint = report["pairs"][0]
    # 20 MPa on 40 × 40 mm² presses with 32 kN, the push of 2 kN goes through by friction.
    assert joint["normal_force"] == pytest.approx(32e3)
    assert joint["friction_force"] == pytest.approx(2e3)
    assert report["supports"][0]["force"] == pytest.approx([2e3, 0, 32e3], abs=1e-3)
    told = [e.summary for e in events if isinstance(e, Converged)]
    with ResultReader(tmp_path / "result.h5") as reader:
        assert reader.summaries() == told
        last = reader.count() - 1
        node, _ = reader.pair_patch("joint")
        pressure = reader.pair_field("joint", "pressure", last)
        assert len(node) == len(pressure)
        assert pressure.max() == pytest.approx(joint["peak_pressure"], rel=1e-6)
    with h5py.File(tmp_path / "result.h5") as f:
        steps = f["VTKHDF/Steps"]
        assert steps.attrs["NSteps"] == len(told) == len(steps["Values"])
        assert len(f["VTKHDF/PointData/displacement"]) == len(told) * f["VTKHDF/NumberOfPoints"][0]
    assert len(export_result(tmp_path, "vtu", tmp_path / "vtu")) == len(told)
    table = np.genfromtxt(export_result(tmp_path, "csv", tmp_path / "csv")[1], delimiter=",", skip_header=1)
    assert table[:, 3].max() == pytest.approx(joint["peak_pressure"], rel=1e-6)
    (fields,) = export_result(tmp_path, "vtkhdf", tmp_path / "fields")
    with h5py.File(fields) as f:
        stress = f["VTKHDF/PointData/stress"]
        assert f["VTKHDF"].attrs["Type"] == b"UnstructuredGrid"
        assert f["VTKHDF/Steps"].attrs["NSteps"] == len(told)
        assert stress.attrs["unit"] == "MPa"
        assert stress.shape == (len(told) * f["VTKHDF/NumberOfPoints"][0], 6)
    (tables,) = export_result(tmp_path, "xlsx", tmp_path / "tables")
    book = openpyxl.load_workbook(tables)
    assert book.sheetnames == ["History", "joint"]
    titles, *rows = book["History"].values
    peak = rows[-1][titles.index("joint peak pressure (MPa)")]
    assert peak == pytest.approx(joint["peak_pressure"], rel=1e-12)
    assert book["joint"].max_row == len(node) + 1


def test_a_stopped_run_keeps_what_has_converged(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    (tmp_path / "study.ulmek.json").write_text(json.dumps(two_blocks))

    (tmp_path / STOP).touch()
    assert work(Job(str(tmp_path))).status == "stopped"
    assert json.loads((tmp_path / OUTCOME).read_text())["status"] == "stopped"
    assert json.loads((tmp_path / EVENTS).read_text().splitlines()[-1])["kind"] == "end"


HARDENING = {"table": [{"strain": 0.0, "stress": "15 MPa"}, {"strain": 0.1, "stress": "600 MPa"}]}


@pytest.mark.parametrize("way", ["condensed", "full, yielding"])
def test_a_run_resumed_from_its_last_checkpoint_ends_as_if_never_stopped(
    way: str, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    if "yielding" in way:
        steel = {k: v for k, v in two_blocks["materials"][0].items() if k != "yield_stress"}
        two_blocks = {**two_blocks, "materials": [{**steel, "hardening": HARDENING}]}
    study = read_study(two_blocks)

    def stop_at_six(event: RunEvent) -> None:
        if isinstance(event, Converged) and event.summary.number == 6:
            raise StoppedError("enough.")

    with pytest.raises(StoppedError):
        solve_study(study, folder=tmp_path / "stopped", tell=stop_at_six)
    whole = solve_study(study, folder=tmp_path / "whole")
    resumed = solve_study(study, folder=tmp_path / "resumed", resume=tmp_path / "stopped")
    assert [(s.increments, s.iterations) for s in resumed.steps] == [(s.increments, s.iterations) for s in whole.steps]
    assert len(resumed.summaries) == len(whole.summaries) > 6
    with ResultReader(tmp_path / "whole/result.h5") as a, ResultReader(tmp_path / "resumed/result.h5") as b:
        assert a.count() == b.count() == len(whole.summaries)
        for at in range(a.count()):
            for name in ("stress", "plastic_strain"):
                one, other = a.point_field(name, at), b.point_field(name, at)
                assert np.abs(one - other).max() <= 1e-6 * max(np.abs(one).max(), 1e-12)
        if "yielding" in way:
            assert a.point_field("plastic_strain", a.count() - 1).max() > 1e-6
    changed = json.loads(json.dumps(two_blocks))
    changed["pairs"][0]["law"] = {"mu": 0.31}
    with pytest.raises(InputError, match="another model"):
        solve_study(read_study(changed), resume=tmp_path / "stopped")
    changed = json.loads(json.dumps(two_blocks))
    changed["loads"][0]["values"] = {two_blocks["steps"][0]["id"]: "1 MPa"}
    with pytest.raises(InputError, match="already done"):
        solve_study(read_study(changed), resume=tmp_path / "stopped")
    latest = max((tmp_path / "stopped/checkpoints").glob("*.npz"))
    latest.write_bytes(latest.read_bytes()[:2000])
    with pytest.raises(InputError, match="damaged"):
        solve_study(study, resume=tmp_path / "stopped")


def _write_then_hang(document: dict[str, Any], folder: str) -> None:
    def tell(event: RunEvent) -> None:
        if isinstance(event, Converged) and event.summary.number == 3:
            (Path(folder) / "ready").touch()
            threading.Event().wait(60)

    solve_study(read_study(document), folder=Path(folder), tell=tell)


def test_results_of_some_increments_are_kept_and_of_the_last_always(two_blocks: dict[str, Any], tmp_path: Path) -> None:
    for step in two_blocks["steps"]:
        step["increments"] = {"start": 0.125, "largest": 0.125, "keep_every": 3}
    study, events = read_study(two_blocks), []
    outcome = solve_study(study, folder=tmp_path / "whole", tell=events.append)
    told = [e for e in events if isinstance(e, Converged)]
    assert [e.summary.number for e in told] == list(range(1, 17))
    numbers = [3, 6, 8, 11, 14, 16]
    assert [e.summary.number for e in told if e.kept] == numbers == [s.number for s in outcome.summaries]
    with ResultReader(tmp_path / "whole/result.h5") as whole:
        assert [s.number for s in whole.summaries()] == numbers
        last = whole.point_field("displacement", 5)

    def until_the_tenth(event: RunEvent) -> None:
        if isinstance(event, Converged) and event.summary.number == 10:
            raise StoppedError("enough.")

    with pytest.raises(StoppedError):
        solve_study(study, folder=tmp_path / "stopped", tell=until_the_tenth)
    with ResultReader(tmp_path / "stopped/result.h5") as stopped:
        assert [s.number for s in stopped.summaries()] == [3, 6, 8, 10]
    solve_study(study, folder=tmp_path / "resumed", resume=tmp_path / "stopped")
    with ResultReader(tmp_path / "resumed/result.h5") as resumed:
        assert [s.number for s in resumed.summaries()] == [3, 6, 8, 10, 11, 14, 16]
        assert np.abs(resumed.point_field("displacement", 6) - last).max() < 1e-9


def test_a_result_file_is_readable_while_it_grows_and_after_its_writer_was_killed(
    two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    process = multiprocessing.get_context("spawn").Process(target=_write_then_hang, args=(two_blocks, str(tmp_path)))
    process.start()
    deadline = time.monotonic() + 120
    while not (tmp_path / "ready").exists():
        assert time.monotonic() < deadline
        assert process.is_alive()
        process.join(timeout=0.1)
    for _ in range(2):
        with ResultReader(tmp_path / "result.h5") as reader:
            assert reader.count() == 3
            assert np.isfinite(reader.point_field("von_mises", 2)).all()
            assert reader.pair_field("joint", "pressure", 2).max() > 0
        if process.is_alive():
            os.kill(process.pid or 0, signal.SIGKILL)
            process.join()


def test_unreadable_study_ends_as_failed_with_its_place(tmp_path: Path) -> None:
    (tmp_path / "study.ulmek.json").write_text('{"format": "ulmek-study", ')
    end = work(Job(str(tmp_path)))
    assert end.status == "failed"
    assert end.where == "line 1 column 27"
