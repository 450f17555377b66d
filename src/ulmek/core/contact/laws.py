"""Pair laws node by node: the status that a trial state means. What a status asks for stands in `rules`."""

from dataclasses import dataclass, replace
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface
from ulmek.core.contact.nodes import ContactNodes

Array = NDArray[np.float64]

# The active-set parameter c as a share of E/h; anything from 0.01 to 1000 gave the same answer.
TRIAL_STIFFNESS = 0.3
# Cosine between slip directions of two iterations below which the slip has turned back.
REVERSAL = -0.5


class Status(IntEnum):
    """What a contact node does."""

    OPEN = 0
    STICKING = 1
    SLIDING = 2


@dataclass(frozen=True)
class NodeLaws:
    """Laws of all contact nodes as arrays: flags, friction coefficient, start gap, stiffnesses (N/mm³).

    gap (n,) mm is what springs push against: the gap, less what augmentation has added so far;
    drawn_gap is the gap itself. allowed (n,) mm: penetration that augmented pairs may keep.
    """

    may_open: NDArray[np.bool_]
    slides_freely: NDArray[np.bool_]
    has_friction: NDArray[np.bool_]
    is_penalty: NDArray[np.bool_]
    mu: Array
    gap: Array
    trial: Array
    penalty: Array
    is_off: NDArray[np.bool_]
    is_augmented: NDArray[np.bool_]
    allowed: Array
    drawn_gap: Array

    @staticmethod
    def of(
        nodes: ContactNodes, interfaces: tuple[PairInterface, ...], released: frozenset[str] = frozenset()
    ) -> "NodeLaws":
        """Spread the laws of the pairs over their nodes; pairs named in ``released`` do not act."""
        laws = [f.pair.law for f in interfaces]

        def spread(values: list, kind: type) -> NDArray:  # type: ignore[type-arg]
            return np.array(values, kind)[nodes.pair] if values else np.zeros(0, kind)

        is_off = spread([f.pair.name in released for f in interfaces], bool)
        may_open = spread([law.may_open for law in laws], bool) | is_off
        friction = spread([law.may_slide == "friction" for law in laws], bool)
        mu = spread([law.mu for law in laws], float)
        # A pair that may not open moves from where it is: its gap does not count.
        gap = np.where(may_open, nodes.gap, 0.0)
        return NodeLaws(
            may_open=may_open,
            slides_freely=spread([law.may_slide == "freely" for law in laws], bool) | (friction & (mu == 0)),
            has_friction=friction & (mu > 0),
            is_penalty=spread([f.pair.enforcement != "exact" for f in interfaces], bool),
            mu=np.where(friction, mu, 0.0),
            gap=gap,
            trial=TRIAL_STIFFNESS * nodes.stiffness,
            penalty=spread([f.pair.penalty for f in interfaces], float) * nodes.stiffness,
            is_off=is_off,
            is_augmented=spread([f.pair.enforcement == "augmented" for f in interfaces], bool),
            allowed=spread([f.pair.allowed for f in interfaces], float),
            drawn_gap=gap,
        )


def with_overlap_share(laws: NodeLaws, share: float) -> NodeLaws:
    """The same laws while only ``share`` (0…1) of the overlap at the start is resolved yet."""
    if share >= 1:
        return laws
    gap = np.where(laws.drawn_gap < 0, share * laws.drawn_gap, laws.drawn_gap)
    return replace(laws, gap=gap, drawn_gap=gap)


def augmented(laws: NodeLaws, w: Array, traction: Array, status: NDArray[np.int64]) -> NodeLaws | None:
    """The next augmentation of a converged state, None when no augmented pair penetrates too far.

    Springs of stiffness ε then push against ``gap − λ/ε`` (Uzawa's update; Alart and Curnier 1991).
    """
    here = laws.is_augmented & (status != Status.OPEN)
    if not np.any(here & (np.abs(w[:, 2] + laws.drawn_gap) > laws.allowed)):
        return None
    relieved = laws.drawn_gap - traction[:, 2] / laws.penalty
    return replace(laws, gap=np.where(here, relieved, np.where(laws.is_augmented, laws.drawn_gap, laws.gap)))


@dataclass(frozen=True)
class Trial:
    """Status of every node with the slip direction (n, 2) and the ratio µp/|τ| of sliding ones."""

    status: NDArray[np.int64]
    direction: Array
    ratio: Array


def slip_residual(laws: NodeLaws, trial: Trial, traction: Array) -> float:
    """Farthest that the friction of sliding nodes lies from µp along the slip, over the largest traction."""
    sliding = trial.status == Status.SLIDING
    if not sliding.any():
        return 0.0
    wanted = (laws.mu[sliding] * traction[sliding, 2])[:, None] * trial.direction[sliding]
    return float(np.abs(traction[sliding, :2] - wanted).max() / max(np.abs(traction).max(), 1e-9))


def caught_between(before: Trial, after: Trial) -> Trial:
    """``after`` with nodes sticking that slid one way in ``before`` and now would slide back: rest lies between."""
    slides = (before.status == Status.SLIDING) & (after.status == Status.SLIDING)
    back = slides & (np.einsum("ij,ij->i", before.direction, after.direction) < REVERSAL)
    return Trial(np.where(back, int(Status.STICKING), after.status), after.direction, after.ratio)


def judge(laws: NodeLaws, w: Array, traction: Array, w_old: Array, traction_old: Array) -> Trial:
    """Status of each node for relative motions ``w`` and tractions (n, 3: t1, t2, n).

    Exact: open when ``λn − c(wn + g) ≤ 0``, sliding when ``|λt − c(wt − wt_old)| > µ·that`` (Alart
    and Curnier 1991). Penalty: the trial tractions follow from w alone.
    """
    closing = w[:, 2] + laws.gap
    pressure = np.where(laws.is_penalty, -laws.penalty * closing, traction[:, 2] - laws.trial * closing)
    slip = w[:, :2] - w_old[:, :2]
    stuck = np.where(
        laws.is_penalty[:, None],
        traction_old[:, :2] - laws.penalty[:, None] * slip,
        traction[:, :2] - laws.trial[:, None] * slip,
    )
    size = np.hypot(stuck[:, 0], stuck[:, 1])
    limit = laws.mu * np.maximum(pressure, 0.0)
    status = np.full(len(w), int(Status.STICKING))
    status[laws.has_friction & (size > limit)] = Status.SLIDING
    status[(laws.may_open & (pressure <= 0)) | laws.is_off] = Status.OPEN
    safe = np.maximum(size, 1e-300)
    return Trial(status, stuck / safe[:, None], np.minimum(limit / safe, 1.0))
