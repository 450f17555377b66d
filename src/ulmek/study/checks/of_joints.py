"""What a joint was reckoned for when it was made, beside what the run has of it."""

from collections.abc import Callable

import numpy as np

from ulmek.core.errors import UlmekError
from ulmek.core.review.summary import Summary
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.joint import JointUse
from ulmek.study.joints.follow import made_of
from ulmek.study.joints.made import HandFigure

Computed = Callable[[At, JointUse, HandFigure], float | None]


def _pairs(at: At, joint: JointUse, role: str) -> list[str]:
    """Ids of the pairs of a joint that have a role."""
    return [i for i, r in joint.pieces.pairs.items() if r.split(":")[0] == role and i in at.now.pairs]


def _force_through(at: At, pairs: list[str]) -> list[float]:
    """How large a force (N) goes through each pair."""
    return [float(np.linalg.norm(at.now.pairs[p].force)) for p in pairs]


def _tight(at: At, joint: JointUse) -> Summary:
    """The end of the step that tightens the bolts of a joint last; now where none is reached yet."""
    steps = [s.id for s in at.study.steps]
    ends = {steps.index(s) for b in at.study.bolts if b.id in joint.pieces.bolts for s in b.preload}
    then = [s for s in at.summaries if s.step in ends and s.time == 1.0]
    return then[-1] if then else at.now


def _bolt_forces(at: At, joint: JointUse, summary: Summary) -> list[float]:
    """Forces (N) of the bolts of a joint."""
    own = {b.part or b.id for b in at.study.bolts if b.id in joint.pieces.bolts}
    return [b.force for name, b in summary.bolts.items() if name.split("#")[0] in own]


def _highest(values: list[float]) -> float | None:
    return max(values) if values else None


def _tightened(at: At, joint: JointUse, _: HandFigure) -> float | None:
    forces = _bolt_forces(at, joint, _tight(at, joint))
    return float(np.mean(forces)) if forces else None


def _across_faces(at: At, joint: JointUse, _: HandFigure) -> float | None:
    rubbing = [at.now.pairs[p].friction_force for r in ("faces", "wall") for p in _pairs(at, joint, r)]
    return _highest(rubbing)


def _under_heads(at: At, joint: JointUse, figure: HandFigure) -> float | None:
    summary = _tight(at, joint)
    forces, heads = _bolt_forces(at, joint, summary), _pairs(at, joint, "heads")
    if not forces or not heads or min(forces) <= 0:
        return None
    # The figure is the force of one over the area of its head.
    area = float(np.mean(forces)) / figure.value
    return max(summary.pairs[p].normal_force for p in heads) / len(forces) / area


def _through_pin(at: At, joint: JointUse, _: HandFigure) -> float | None:
    return _highest(_force_through(at, _pairs(at, joint, "hole")))


def _flank_force(at: At, joint: JointUse, _: HandFigure) -> float | None:
    return _highest([at.now.pairs[p].normal_force for p in _pairs(at, joint, "flanks")])


def _flank_peak(at: At, joint: JointUse, _: HandFigure) -> float | None:
    return _highest([at.now.pairs[p].peak_pressure for p in _pairs(at, joint, "flanks")])


# By the beginning of the figure's name: what the run has of it, and whether that has to stay below.
COMPUTED: dict[str, tuple[Computed, bool]] = {
    "Tightened to": (_tightened, False),
    "Slides at µ": (_across_faces, True),
    "Pressure under heads": (_under_heads, False),
    "Pin shears": (_through_pin, True),
    "Pin yields in bending": (_through_pin, True),
    "Holes are crushed": (_through_pin, True),
    "Force across the flanks": (_flank_force, False),
    "Pressure at the pitch point": (_flank_peak, False),
}


def joint_check(at: At, joint: JointUse) -> HandCheck | None:
    """The closed form of one joint beside the run; None where it has none, or cannot be made any more."""
    try:
        figures = made_of(at.study, joint).figures
    except UlmekError:
        return None
    if not figures:
        return None
    values, conditions = [], []
    for figure in figures:
        found = next((f for name, f in COMPUTED.items() if figure.name.startswith(name)), None)
        computed, below = (found[0](at, joint, figure), found[1]) if found is not None else (None, False)
        values.append(
            CheckedValue(
                name=figure.name,
                quantity=figure.quantity,
                hand=figure.value,
                computed=computed,
                sense="below" if below else "same",
                source=figure.source,
            )
        )
        if not figure.holds:
            conditions.append(Condition(text=f"{figure.name}: {figure.why}", met=False))
    return HandCheck(kind="joint", id=joint.id, title=f"{joint.name}", values=values, conditions=conditions)
