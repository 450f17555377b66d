"""The demo through the command line: the default holds, a weaker one opens, a slippery one slides."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from tests.demo.commands import ulmek


@pytest.fixture(scope="module")
def document(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Any]:
    file = tmp_path_factory.mktemp("demo") / "f.json"
    assert ulmek("demo", "write", "wall-bracket", file).exit_code == 0
    return dict(json.loads(file.read_text()))


def _solve(document: dict[str, Any], folder: Path) -> tuple[dict[str, Any], str]:
    file = folder / "study.json"
    file.write_text(json.dumps(document))
    done = ulmek("solve", file, "--out", folder / "out")
    return json.loads((folder / "out" / "report.json").read_text()), done.stdout


def test_default_solves_with_closed_balance(document: dict[str, Any], tmp_path: Path) -> None:
    file = tmp_path / "f.json"
    file.write_text(json.dumps(document))
    # In a process of its own, as it is called.
    command = [str(Path(sys.executable).parent / "ulmek"), "solve", str(file), "--json"]
    done = subprocess.run(command, capture_output=True, text=True, timeout=900, check=False)
    assert done.returncode == 0, done.stderr
    report = json.loads(done.stdout)
    assert report["status"] == "solved"
    assert report["unknowns"] >= 40_000
    assert report["balance"]["closing_error"] < 1e-6
    assert [s["name"] for s in report["steps"]] == ["preload", "hoist-pull", "side-load"]
    assert len(report["bolts"]) == 4
    for bolt in report["bolts"]:
        assert bolt["force_by_step"][0] == pytest.approx(42e3, rel=0.01)
    for pair in report["pairs"]:
        assert pair["max_penetration"] < 1e-6
    flange = report["pairs"][0]
    assert flange["share_sticking"] > 0
    # The pull is 48 kN: what the flange loses of its clamping goes into the bolts.
    clamp = sum(b["force_by_step"][2] for b in report["bolts"])
    assert clamp - flange["normal_force"] == pytest.approx(48e3, rel=1e-4)
    assert report["supports"][0]["force"] == pytest.approx([-6e3, 0, -48e3], abs=1.0)


def _coarse(document: dict[str, Any]) -> dict[str, Any]:
    """A third as fine, in large increments: it does the same, in a tenth of the time."""
    coarse = dict(json.loads(json.dumps(document)))
    for part in coarse["parts"]:
        size = 3 * float(part["mesh"]["size"].split()[0])
        part["mesh"] = {"size": f"{size} mm", "per_turn": 12 if part["id"] == "bolts" else 8}
    for step in coarse["steps"]:
        step["increments"] = {"start": 0.5, "largest": 1.0}
    return coarse


def test_half_the_preload_and_twice_the_pull_open_the_flange(document: dict[str, Any], tmp_path: Path) -> None:
    weak = _coarse(document)
    weak["bolts"][0]["preload"]["preload"] = "21 kN"
    weak["loads"][0]["values"]["hoist-pull"] = "96 kN"
    report, said = _solve(weak, tmp_path)
    assert report["status"] == "solved"
    assert "Bracket – wall plate opens" in said


def test_slippery_faces_slide_in_the_third_step(document: dict[str, Any], tmp_path: Path) -> None:
    slippery = _coarse(document)
    for pair in slippery["pairs"]:
        if pair["law"]["may_slide"] == "friction":
            pair["law"]["mu"] = 0.02
    report, said = _solve(slippery, tmp_path)
    assert "Bracket – wall plate slides as a whole from step 3" in said
    # It comes to rest only where the shanks bear in their holes, a clearance of 0.75 mm away each.
    assert report["status"] == "solved"
    flange, bearing = report["pairs"][0], report["pairs"][3]
    assert 0.5 < flange["max_sliding"] < 2.0
    assert bearing["normal_force"] > 0


@pytest.mark.parametrize("fault", ["unheld", "json", "missing", "preload"])
def test_bad_input_exits_with_2_and_names_the_place(document: dict[str, Any], tmp_path: Path, fault: str) -> None:
    file = tmp_path / "f.json"
    broken = _coarse(document)
    where = {"unheld": "parts/bracket: Bracket is loose", "json": "line 1", "missing": str(file), "preload": "bolts/"}
    if fault == "unheld":
        broken["supports"] = []
    if fault == "preload":
        broken["bolts"][0]["preload"]["preload"] = "0 N"
    if fault != "missing":
        file.write_text(json.dumps(broken)[: 40 if fault == "json" else None])
    for command in ("check", "solve"):
        done = ulmek(command, file)
        assert done.exit_code == 2
        assert isinstance(done.exception, SystemExit)
        assert where[fault] in done.stderr
