"""All hand checks of an increment."""

from collections.abc import Callable
from functools import partial

from ulmek.core.errors import UlmekError
from ulmek.core.model import Model
from ulmek.core.review.summary import Summary
from ulmek.study.awake import awake
from ulmek.study.checks.beams import beam_check
from ulmek.study.checks.belts import belt_check
from ulmek.study.checks.bolts import bolt_check
from ulmek.study.checks.check import At, HandCheck
from ulmek.study.checks.fits import fit_check, pin_check
from ulmek.study.checks.hertzian import hertz_check
from ulmek.study.checks.of_joints import joint_check
from ulmek.study.checks.spinning import spinning_check
from ulmek.study.checks.teeth import teeth_check
from ulmek.study.items import StudyDocument
from ulmek.study.items.pair import PairUse
from ulmek.study.items.part import Part

OF_PAIRS: tuple[Callable[[At, PairUse], HandCheck | None], ...] = (
    hertz_check, fit_check, pin_check, teeth_check, belt_check,
)  # fmt: skip

OF_PARTS: tuple[Callable[[At, Part], HandCheck | None], ...] = (spinning_check, beam_check)


def hand_checks(study: StudyDocument, model: Model, summaries: list[Summary]) -> list[HandCheck]:
    """What can be reckoned by hand at the last of ``summaries``: joints, bolts, and pairs and parts whose geometry a
    formula knows; ``model``: of the study."""
    study = awake(study)
    at = At(study, model, summaries)
    pairs = [p for p in study.pairs if p.id in at.pairs]
    found = [
        *(_tried(partial(joint_check, at, joint)) for joint in study.joints),
        *(_tried(partial(bolt_check, at, bolt)) for bolt in study.bolts),
        *(_tried(partial(check, at, pair)) for pair in pairs for check in OF_PAIRS),
        *(_tried(partial(check, at, part)) for part in study.parts for check in OF_PARTS),
    ]
    return [check for check in found if check is not None]


def _tried(check: Callable[[], HandCheck | None]) -> HandCheck | None:
    """One that cannot be reckoned spoils no other."""
    try:
        return check()
    except UlmekError:
        return None
