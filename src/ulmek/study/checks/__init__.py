"""Hand calculations: beside what was computed, and of faces that are picked; each with its conditions."""

from ulmek.study.checks.asked import Asked, reckoned
from ulmek.study.checks.check import CheckedValue, Condition, HandCheck, Reckoning
from ulmek.study.checks.every import hand_checks

__all__ = ["Asked", "CheckedValue", "Condition", "HandCheck", "Reckoning", "hand_checks", "reckoned"]
