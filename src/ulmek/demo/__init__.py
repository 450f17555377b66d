"""Demo studies of one made-up machine: the sluice gate hoist of a canal lock."""

from ulmek.demo.guide_roller import guide_roller
from ulmek.demo.wall_bracket import wall_bracket
from ulmek.study.schema import StudyDocument

DEMOS = {"guide-roller": guide_roller, "wall-bracket": wall_bracket}


def demo_study(name: str) -> StudyDocument:
    """A fresh copy of a demo study; KeyError when there is none of that name."""
    return DEMOS[name]()


__all__ = ["DEMOS", "demo_study"]
