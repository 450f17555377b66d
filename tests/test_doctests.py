"""Examples in docstrings are run."""

import doctest
import importlib
from pathlib import Path

import pytest

SOURCE = Path(__file__).parents[1] / "src"
WITH_EXAMPLES = [p for p in sorted(SOURCE.rglob("*.py")) if ">>> " in p.read_text()]


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=lambda p: p.stem)
def test_examples_give_what_they_say(path: Path) -> None:
    module = importlib.import_module(".".join(path.relative_to(SOURCE).with_suffix("").parts))
    results = doctest.testmod(module)
    assert results.attempted > 0
    assert results.failed == 0
