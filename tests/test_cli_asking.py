"""Asking again from the command line: variants, series, runs beside each other, the best value of an input."""

import json
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from tests.runs.test_series import ASKED
from ulmek.cli import app

run = CliRunner().invoke
DRY = {
    "id": "dry",
    "name": "Dry",
    "note": "no oil",
    "changes": [{"op": "replace", "path": "/pairs/joint/law/mu", "value": 0.3}],
}
GONE = {"id": "gone", "name": "Gone", "changes": [{"op": "replace", "path": "/pairs/lid/law/mu", "value": 0.3}]}


@pytest.fixture
def file(two_blocks: dict[str, Any], tmp_path: Path) -> Path:
    path = tmp_path / "study.ulmek.json"
    path.write_text(json.dumps({**two_blocks, "variants": [DRY, GONE], "series": [{**ASKED, "samples": 4}]}))
    return path


def test_variants_are_listed_solved_and_compared(file: Path, tmp_path: Path) -> None:
    words = run(app, ["variants", str(file)])
    assert words.output.splitlines() == [
        "dry: Dry", "  Slider – base, law mu 0.15 → 0.3.",
        "gone: Gone", "  does not fit: there is no 'lid' in '/pairs/lid/law/mu'. There: joint.",
    ]  # fmt: skip
    listed = json.loads(run(app, ["variants", str(file), "--json"]).output)
    assert [v["misfit"] == "" for v in listed] == [True, False]
    folders = [tmp_path / "as-it-is", tmp_path / "dry"]
    assert run(app, ["solve", str(file), "--out", str(folders[0])]).exit_code == 0
    assert run(app, ["solve", str(file), "--out", str(folders[1]), "--variant", "Dry"]).exit_code == 0
    for wrong, told in (("wet", "there is no variant 'wet'"), ("gone", "there is no 'lid'")):
        refused = run(app, ["solve", str(file), "--variant", wrong])
        assert refused.exit_code == 2
        assert told in refused.stderr
    compared = run(app, ["compare", *map(str, folders)])
    assert compared.exit_code == 0, compared.output
    assert "  Slider – base, law mu 0.15 → 0.3." in compared.output
    found = json.loads(run(app, ["compare", *map(str, folders), "--json"]).output)
    sliding = next(c for c in found["cells"] if (c["row"], c["measure"]) == ("joint", "sliding"))
    reports = [json.loads((f / "report.json").read_text()) for f in folders]
    assert sliding["values"] == pytest.approx([r["pairs"][0]["max_sliding"] * 1e3 for r in reports])
    assert sliding["values"][0] > sliding["values"][1]
    assert run(app, ["compare", str(folders[0])]).exit_code == 2
    assert run(app, ["compare", str(folders[0]), str(tmp_path / "none")]).exit_code == 2


def test_a_series_is_solved_in_words_and_as_json(file: Path, tmp_path: Path) -> None:
    out = ["--out", str(tmp_path / "series")]
    words = run(app, ["series", str(file), *out])
    assert words.exit_code == 0, words.output
    assert "4 of 4 samples are solved" in words.output
    assert "4 of 4 samples, " in words.output
    # What is there is not solved again: the same numbers, at once.
    done = run(app, ["series", str(file), *out, "--json"])
    found = json.loads(done.stdout)
    assert [i["id"] for i in found["inputs"]] == ["push", "mu"]
    assert [s["status"] for s in found["samples"]] == ["solved"] * 4
    verdict = next(v for v in found["verdicts"] if (v["row"], v["measure"]) == ("joint", "sliding"))
    values = [m["value"] for s in found["samples"] for m in s["measures"]
              if (m["row"], m["column"], m["step"]) == ("joint", "sliding", verdict["step"])]  # fmt: skip
    assert (verdict["least"], verdict["most"]) == pytest.approx((min(values), max(values)))
    # Another plan in the same folder is solved anew; samples of another study are not taken for its own.
    again = json.loads(
        run(
            app, ["series", str(file), *out, "--vary", "pairs/joint/law/mu=0.2..0.3", "--samples", "2", "--json"]
        ).stdout
    )
    assert [list(s["inputs"]) for s in again["samples"]] == [["input-1"]] * 2
    other = tmp_path / "other.json"
    other.write_text(file.read_text().replace('"20 MPa"', '"25 MPa"'))
    refused = run(app, ["series", str(other), *out])
    assert (refused.exit_code, "samples of another study" in refused.stderr) == (2, True)
    for arguments, told in (
        (["--series", "none"], "there is no series 'none'"),
        (["--vary", "pairs/joint/law/mu"], "is no range"),
        (["--vary", "pairs/lid/law/mu=0.1..0.2"], "there is no 'lid'"),
        (["--samples", "1"], "cannot be run so"),
    ):
        refused = run(app, ["series", str(file), *arguments])
        assert refused.exit_code == 2, arguments
        assert told in refused.stderr
