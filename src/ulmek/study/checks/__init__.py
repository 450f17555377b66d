"""Hand calculations beside what was computed: by geometry, materials and forces, each with its conditions."""

from ulmek.study.checks.check import CheckedValue, Condition, HandCheck
from ulmek.study.checks.every import hand_checks

__all__ = ["CheckedValue", "Condition", "HandCheck", "hand_checks"]
