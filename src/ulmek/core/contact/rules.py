"""The contact rules: the equations that the status of each node asks for, the same for every solver.

Forces F (N) and relative motions w (mm) have three rows a node, t1, t2, n. Whoever solves may scale
the equations, eliminate what is held or add springs of its own; what they say stands here alone.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.laws import NodeLaws, Status, Trial

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SlipLines:
    """Equations ``force·F + motion·w = right`` of sliding nodes, in place of tangential rows.

    node, row (m,): the row that each line replaces. force, motion (m, 3), right (m,).
    """

    node: NDArray[np.int64]
    row: NDArray[np.int64]
    force: Array
    motion: Array
    right: Array


@dataclass(frozen=True)
class Rules:
    """What the rows (n, 3) of all nodes have to satisfy.

    holds: ``w = place``. Other rows: ``F + stiff·w = pull``, both zero where nothing acts, or a line
    of ``slips``. slides (n,): nodes that have lines.
    """

    holds: NDArray[np.bool_]
    place: Array
    stiff: Array
    pull: Array
    slides: NDArray[np.bool_]
    slips: SlipLines


def rules_for(
    laws: NodeLaws, trial: Trial, *, area: Array, acts: NDArray[np.bool_], w_old: Array, traction_old: Array
) -> Rules:
    """The rules for a trial status of each node.

    area (n,): mm². acts (n, 3): rows that the law and the supports leave to do. w_old (n, 3) mm,
    traction_old (n, 3) MPa: at the start of the increment.

    Closed, exact: ``wn = −g``, and sticking ``wt = wt_old``. Closed, penalty ε: ``Fn + aε wn = −aε g``
    and ``Ft + aε wt = aε wt_old + aλt_old``. Sliding: see `_slip_lines`. Open: ``F = 0``.
    """
    is_closed = (trial.status != Status.OPEN) & acts[:, 2]
    slides = (trial.status == Status.SLIDING) & acts[:, 2]
    sticks = trial.status == Status.STICKING
    answers = acts & np.column_stack([sticks, sticks, is_closed])
    is_penalty = laws.is_penalty[:, None]
    place = np.column_stack([w_old[:, :2], -laws.gap])
    carried = np.column_stack([traction_old[:, :2], np.zeros(len(area))])
    spring = (area * laws.penalty)[:, None]
    holds, pushes = answers & ~is_penalty, answers & is_penalty
    return Rules(
        holds=holds,
        place=np.where(holds, place, 0.0),
        stiff=np.where(pushes, spring, 0.0),
        pull=np.where(pushes, spring * place + area[:, None] * carried, 0.0),
        slides=slides,
        slips=_slip_lines(laws, trial, np.flatnonzero(slides), area, acts, w_old, traction_old),
    )


def _slip_lines(
    laws: NodeLaws,
    trial: Trial,
    at: NDArray[np.int64],
    area: Array,
    acts: NDArray[np.bool_],
    w_old: Array,
    traction_old: Array,
) -> SlipLines:
    """Lines along the slip s and across it, q.

    Along: ``s·Ft − µFn = 0``. Across, exact: ``(1−e) q·Ft + e c a q·(wt − wt_old) = 0``; penalty:
    ``q·Ft = e a q·(λt_old − ε (wt − wt_old))``, with e = µp/|τ| of the trial. Where one tangential
    row is left, on a symmetry plane: ``±Ft − µFn = 0``.
    """
    both = at[acts[at, 0] & acts[at, 1]]
    one, row = np.nonzero(acts[at, :2] & ~acts[at, 1::-1])
    alone = at[one]
    s, e, a, is_penalty = trial.direction[both], trial.ratio[both], area[both], laws.is_penalty[both]
    q = np.column_stack([-s[:, 1], s[:, 0]])
    grip = e * np.where(is_penalty, laws.penalty[both], laws.trial[both]) * a
    share = np.where(is_penalty, 1.0, 1 - e)
    carried = np.where(is_penalty, e * a * np.einsum("ij,ij->i", q, traction_old[both, :2]), 0.0)
    sign = np.zeros((len(alone), 2))
    sign[np.arange(len(alone)), row] = np.sign(trial.direction[alone, row])
    none = np.zeros(len(both))
    return SlipLines(
        node=np.concatenate([both, both, alone]),
        row=np.concatenate([np.zeros(len(both), np.int64), np.ones(len(both), np.int64), row]),
        force=np.vstack(
            [
                np.column_stack([s, -laws.mu[both]]),
                np.column_stack([share[:, None] * q, none]),
                np.column_stack([sign, -laws.mu[alone]]),
            ]
        ),
        motion=np.vstack(
            [
                np.zeros((len(both), 3)),
                np.column_stack([grip[:, None] * q, none]),
                np.zeros((len(alone), 3)),
            ]
        ),
        right=np.concatenate([none, grip * np.einsum("ij,ij->i", q, w_old[both, :2]) + carried, np.zeros(len(alone))]),
    )
