"""Every example of docs/scripting.md runs, and notebooks have something to show."""

import re
from pathlib import Path
from typing import Any

import pytest

DOCUMENT = Path(__file__).parents[1] / "docs" / "scripting.md"


def test_every_example_of_the_document_runs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    names: dict[str, Any] = {}
    examples = re.findall(r"```python\n(.*?)```", DOCUMENT.read_text(), re.DOTALL)
    assert len(examples) == 9
    for example in examples:
        exec(compile(example, str(DOCUMENT), "exec"), names)
    assert (tmp_path / "hoop.png").read_bytes().startswith(b"\x89PNG")
    assert "As pressed." in (tmp_path / "report.html").read_text()
    run = names["run"]
    assert run.picture(None)._repr_png_().startswith(b"\x89PNG")
    assert "Seat of the sleeve" in run._repr_html_()
    assert "Drum hub" in names["study"]._repr_html_()
    # The sleeve presses harder the more it overlaps, in proportion.
    light, hard = (row["normal force (N)"] for row in names["rows"])
    assert hard / light == pytest.approx(2, rel=0.02)
