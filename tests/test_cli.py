"""The command line: what it prints, its exit codes, and the files it writes."""

import json
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from ulmek.cli import app
from ulmek.study.items import read_study

run = CliRunner().invoke


@pytest.fixture
def file(two_blocks: dict[str, Any], tmp_path: Path) -> Path:
    path = tmp_path / "study.ulmek.json"
    path.write_text(json.dumps(two_blocks))
    return path


def test_demo_list_and_write(tmp_path: Path) -> None:
    assert "wall-bracket" in run(app, ["demo", "list"]).output
    assert run(app, ["demo", "write", "wall-bracket", str(tmp_path / "f.json")]).exit_code == 0
    assert json.loads((tmp_path / "f.json").read_text())["format"] == "ulmek-study"
    for name, place in (("moon-base", tmp_path / "g.json"), ("wall-bracket", tmp_path / "no" / "such" / "place")):
        refused = run(app, ["demo", "write", name, str(place)])
        assert refused.exit_code == 2
        assert refused.stderr.startswith("ulmek: ")


def test_check_in_words_and_as_json(file: Path) -> None:
    words = run(app, ["check", str(file)])
    assert words.exit_code == 0
    assert "Nothing is loose." in words.output
    assert "pair   joint: starting gap 0 mm, covered 100%" in words.output
    found = json.loads(run(app, ["check", str(file), "--json"]).output)
    assert found["may_run"] is True
    assert found["size"]["joint_unknowns"] > 0


def test_solve_prints_the_promised_object(file: Path, tmp_path: Path) -> None:
    done = run(app, ["solve", str(file), "--json", "--out", str(tmp_path / "out")])
    assert done.exit_code == 0, done.output
    report = json.loads(done.stdout)
    assert report == json.loads((tmp_path / "out" / "report.json").read_text())
    assert report["steps"][1] == {
        "name": "push",
        "increments": 4,
        "iterations": report["steps"][1]["iterations"],
        "cutbacks": 0,
        "let_go_slowly": False,
    }
    promised = {
        "normal_force", "friction_force", "peak_pressure", "max_penetration", "max_sliding", "share_open",
        "share_sticking", "share_sliding", "initial_gap", "name",
    }  # fmt: skip
    assert promised <= set(report["pairs"][0])
    assert {"mesh", "factor", "contact", "total", "factorizations"} <= set(report["timing"])
    assert set(report["parts"][0]) == {
        "name", "max_von_mises", "max_plastic_strain", "max_displacement", "stress_band", "use", "use_band",
        "use_anywhere", "use_anywhere_band",
    }  # fmt: skip
    low, high = report["parts"][0]["use_band"]
    assert 0 <= low <= report["parts"][0]["use"] <= high
    assert {"pressure_band", "sliding_band", "across", "leak"} <= set(report["pairs"][0])
    words = run(app, ["solve", str(file)])
    assert "Slider – base" in words.output
    assert "balance closes to" in words.output


def test_a_load_that_nothing_holds_ends_with_3_and_keeps_the_last_good_state(file: Path, tmp_path: Path) -> None:
    study = json.loads(file.read_text())
    # µN = 0.15 · 32 kN = 4.8 kN is all that friction can hold.
    study["loads"][1]["values"]["push"] = "10 kN"
    file.write_text(json.dumps(study))
    done = run(app, ["solve", str(file), "--json", "--out", str(tmp_path / "out")])
    assert done.exit_code == 3
    assert "slides away" in done.stderr
    report = json.loads((tmp_path / "out" / "report.json").read_text())
    assert report["status"] == "not-converged"
    assert report["where"] == "steps/push"
    assert 4.5e3 < report["pairs"][0]["friction_force"] < 4.81e3
    assert (tmp_path / "out" / "result.h5").exists()


def test_verify_one_case_and_export(file: Path, tmp_path: Path) -> None:
    checked = run(app, ["verify", "--only", "bend", "--json", "--write", str(tmp_path / "table.md")])
    assert checked.exit_code == 0
    assert json.loads(checked.output)[0]["inside"] is True
    assert "| bend | tip deflection |" in (tmp_path / "table.md").read_text()
    assert run(app, ["verify", "--only", "nothing"]).exit_code == 2
    refused = run(app, ["export", str(file), "--to", "vtu", str(tmp_path)])
    assert refused.exit_code == 2
    assert "cannot be read" in refused.stderr
    assert run(app, ["export", str(file), "--to", "clay", str(tmp_path)]).exit_code == 2


def test_a_joint_is_made_from_the_command_line(tmp_path: Path) -> None:
    before, after = tmp_path / "before.json", tmp_path / "after.json"
    run(app, ["demo", "write", "wall-bracket", str(before)])
    asked = [
        "--ask",
        "washers=head",
        "--ask",
        "tightened_by=use",
        "--ask",
        "use=0.5",
        "--name",
        "Flange",
        "--out",
        str(after),
    ]
    told = run(app, ["joint", str(before), "wall-plate", "bracket", *asked])
    assert told.exit_code == 0, told.output
    assert "Flange: " in told.output
    assert "Use of the proof load: 0.5" in told.output
    assert read_study(after.read_bytes()).joints[0].name == "Flange"
    wrong = run(app, ["joint", str(before), "bracket/hole.1", "--ask", "colour=red"])
    assert (wrong.exit_code, "colour" in wrong.output) == (2, True)


def test_faces_are_reckoned_in_words_and_as_json(file: Path) -> None:
    words = run(app, ["reckon", str(file), "base/top", "slider/bottom", "--force", "3 kN", "--mu", "0.2"])
    assert words.exit_code == 0, words.output
    assert "Holds along the faces, at most: 0.6 kN" in words.output
    (found,) = json.loads(run(app, ["reckon", str(file), "base/top", "--json"]).output)
    assert found["title"] == "Pressed evenly"
    assert "No formula knows these faces" in run(app, ["reckon", str(file), "base/top", "slider/left"]).output
    for asked in (["base/lid"], ["base/top", "--force", "3"], ["base/top", "--mu", "-1"]):
        refused = run(app, ["reckon", str(file), *asked])
        assert refused.exit_code == 2
        assert refused.stderr.startswith("ulmek: ")
