"""Demo studies of one made-up machine: the sluice gate hoist of a canal lock."""

from ulmek.demo.crossed_stops import crossed_stops
from ulmek.demo.drum_sleeve import drum_sleeve
from ulmek.demo.guide_roller import guide_roller
from ulmek.demo.lifting_eye import lifting_eye
from ulmek.demo.limit_flexure import limit_flexure
from ulmek.demo.pinion_sector import pinion_sector
from ulmek.demo.sill_seal import sill_seal
from ulmek.demo.wall_bracket import wall_bracket
from ulmek.study.items import StudyDocument

DEMOS = {
    "wall-bracket": wall_bracket,
    "lifting-eye": lifting_eye,
    "drum-sleeve": drum_sleeve,
    "pinion-sector": pinion_sector,
    "crossed-stops": crossed_stops,
    "guide-roller": guide_roller,
    "limit-flexure": limit_flexure,
    "sill-seal": sill_seal,
}


def demo_study(name: str) -> StudyDocument:
    """A fresh copy of a demo study; KeyError when there is none of that name."""
    return DEMOS[name]()


__all__ = ["DEMOS", "demo_study"]
