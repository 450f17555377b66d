"""The contact iteration of every path: a semi-smooth Newton method on the status of the nodes.

Solve for a trial status, judge what came out, go on until nothing changes (Alart and Curnier 1991;
Hüeber and Wohlmuth 2005). What solving means, and when it is good enough, is the path's own.
"""

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.laws import NodeLaws, Status, Trial, augmented, caught_between, judge, slip_residual
from ulmek.core.solve.state import Iteration, JointState

# Change of the solution and of the slip direction, relative, below which an iteration has converged.
CONVERGED = 1e-8
# Augmentation repeats the iteration; so many times the iterations of one are allowed.
MORE_FOR_AUGMENTED = 4


class Attempt(Protocol):
    """One increment as its path solves it. change: of the last solution, relative; unknowns: of its system."""

    change: float
    unknowns: int

    def solve(self, laws: NodeLaws, trial: Trial) -> JointState | None:
        """The joint for the trial status, None where there are no numbers."""
        ...

    def has_settled(self, flips: int, residual: float) -> bool:
        """Whether the last solution stands, with ``flips`` nodes judged otherwise and this slip residual."""
        ...

    def may_go_on(self, number: int, most: int, flips: int) -> bool:
        """Whether another iteration is worth it after ``number`` of usually at ``most``."""
        ...

    @property
    def is_bare(self) -> NDArray[np.bool_] | None:
        """Nodes (n,) that no face covers now, None where faces stay opposite each other."""
        ...


def without_direction(status: NDArray[np.int64]) -> Trial:
    """A trial from a status alone: what slid is tried sticking, for its direction is not known."""
    stuck = np.where(status == Status.SLIDING, int(Status.STICKING), status)
    return Trial(stuck, np.zeros((len(status), 2)), np.ones(len(status)))


def settle_contact(
    attempt: Attempt,
    laws: NodeLaws,
    trial: Trial,
    old: JointState,
    *,
    most: int,
    report: Callable[[Iteration], None],
) -> JointState | None:
    """The settled joint, None when the iterations given did not settle.

    old: the joint at the start of the increment, against which slip counts.
    """
    if laws.is_augmented.any():
        most *= MORE_FOR_AUGMENTED
    number = 0
    while True:
        number += 1
        joint = attempt.solve(laws, trial)
        if joint is None:
            return None
        judged = _uncovered(attempt, caught_between(trial, judge(laws, joint.w, joint.traction, old.w, old.traction)))
        flips = int(np.sum(judged.status != trial.status))
        residual = slip_residual(laws, judged, joint.traction)
        report(Iteration(number, max(attempt.change, residual), flips, attempt.unknowns))
        if attempt.has_settled(flips, residual):
            closer = augmented(laws, joint.w, joint.traction, joint.status)
            if closer is None:
                return joint
            laws = closer
            judged = _uncovered(attempt, judge(laws, joint.w, joint.traction, old.w, old.traction))
        if not attempt.may_go_on(number, most, flips):
            return None
        trial = judged


def _uncovered(attempt: Attempt, judged: Trial) -> Trial:
    """``judged`` with nodes open that no face covers."""
    if attempt.is_bare is not None:
        judged.status[attempt.is_bare] = Status.OPEN
    return judged
