"""The verification cases stay inside their limits, also with other numbers than their own."""

import pytest

from ulmek.verify import CASES, CaseResult, run_cases, table
from ulmek.verify.case import Check


@pytest.mark.parametrize("name", CASES)
def test_case_is_inside_its_limits(name: str) -> None:
    result = run_cases([name])[0]
    outside = [c for c in result.checks if not c.inside]
    assert not outside
    assert result.closing_error < 1e-6
    assert result.penetration < 1e-9


def test_a_check_outside_its_limit_says_so() -> None:
    assert not Check("force", "N", 100.0, 101.1, 0.01).inside
    assert Check("force", "N", 100.0, 100.9, 0.01).inside
    assert Check("force", "N", 100.0, 250.0, None).inside
    reported = CaseResult("c", [Check("force", "N", 100.0, 250.0, None)], 1.0, 0.0, 0.0, 1, 1, 0)
    assert "| 150.00% | reported | – |" in table([reported])
