"""What is known of one converged moment, whichever path found it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import PairInterface
from ulmek.core.solve.assembly import Internal

Array = NDArray[np.float64]


@dataclass(frozen=True)
class JointState:
    """A state at the joint.

    z (m,): relative motions then bolt shortenings (mm). forces (m,): contact forces on w then
    bolt forces (N). w, traction (n, 3): the same per contact node, t1, t2, n (mm, MPa).
    status (n,): `Status`.
    """

    z: Array
    forces: Array
    w: Array
    traction: Array
    status: NDArray[np.int64]


@dataclass(frozen=True)
class State:
    """A converged state of the whole.

    masters: see `Constraints`. u (n_total, 3): mm, rad. internal: inner state of the elements.
    inside, applied, contact (n_total, 3) N: forces that the elements ask for, loads with inertia, and
    pair forces. velocity, acceleration of dynamic steps, in the order of ``u``. gap (n,) mm: gap of each contact
    node now, positive when open. interfaces: the pairs as integrated in this state.
    kinetic: energy of motion (N·mm).
    """

    joint: JointState
    masters: Array
    u: Array
    internal: Internal
    inside: Array
    applied: Array
    contact: Array
    gap: Array
    interfaces: tuple[PairInterface, ...]
    velocity: Array
    acceleration: Array
    kinetic: float = 0.0


@dataclass(frozen=True)
class Iteration:
    """One iteration: relative change of the solution, nodes whose status changed, unknowns solved."""

    number: int
    change: float
    status_changes: int
    unknowns: int


@dataclass(frozen=True)
class BoltControl:
    """Which bolts are force-controlled, and the wanted forces (N) or held shortenings (mm)."""

    by_force: NDArray[np.bool_]
    target: Array


@dataclass(frozen=True)
class Wanted:
    """What an increment is to reach.

    amounts (n_loads + 1,): of the loads, see `Model.amounts`. overlap_share (0…1): of the overlap at the start that
    is resolved by then. seconds: that pass, zero in static steps. time: share of the step that has passed.
    anew: whether forces may have jumped at its start, so that the acceleration before says nothing.
    """

    amounts: Array
    bolts: BoltControl
    overlap_share: float = 1.0
    seconds: float = 0.0
    time: float = 1.0
    anew: bool = False
