"""The judge of node states: each law's conditions, one node at a time."""

import numpy as np
import pytest

from ulmek.core.contact.laws import NodeLaws, Status, judge
from ulmek.core.errors import InputError
from ulmek.core.model import PairLaw


def _laws(*, may_open: bool = True, friction: bool = True, mu: float = 0.3, penalty: bool = False) -> NodeLaws:
    def one(value: object, kind: type) -> np.ndarray:
        return np.array([value], kind)

    return NodeLaws(
        may_open=one(may_open, bool),
        slides_freely=one(False, bool),
        has_friction=one(friction, bool),
        is_penalty=one(penalty, bool),
        mu=one(mu, float),
        gap=one(0.1, float),
        trial=one(1000.0, float),
        penalty=one(5000.0, float),
        is_off=one(False, bool),
        is_augmented=one(False, bool),
        allowed=one(0.0, float),
        drawn_gap=one(0.1, float),
    )


CASES = [
    # (normal motion, pressure, slip, frictional stress) → status; gap 0.1 mm, µ 0.3.
    (0.0, 0.0, 0.0, 0.0, Status.OPEN),
    (-0.1, 10.0, 0.0, 0.0, Status.STICKING),
    (-0.1, 10.0, 0.0, 2.9, Status.STICKING),
    (-0.1, 10.0, 0.0, 3.1, Status.SLIDING),
    (-0.1, 10.0, 0.004, 0.0, Status.SLIDING),
    (-0.1, -1.0, 0.0, 0.0, Status.OPEN),
    (-0.12, 0.0, 0.0, 0.0, Status.STICKING),
]


@pytest.mark.parametrize(("motion", "pressure", "slip", "rub", "expected"), CASES)
def test_exact_friction(motion: float, pressure: float, slip: float, rub: float, expected: Status) -> None:
    w, traction = np.array([[slip, 0.0, motion]]), np.array([[0.0, rub, pressure]])
    trial = judge(_laws(), w, traction, np.zeros((1, 3)), np.zeros((1, 3)))
    assert trial.status[0] == expected


def test_slip_direction_opposes_motion_and_ratio_is_the_friction_limit() -> None:
    w, traction = np.array([[0.006, 0.008, -0.1]]), np.array([[0.0, 0.0, 10.0]])
    trial = judge(_laws(), w, traction, np.zeros((1, 3)), np.zeros((1, 3)))
    # τ = −c·slip = −(6, 8) MPa, µp = 3 MPa.
    assert np.allclose(trial.direction, [[-0.6, -0.8]])
    assert trial.ratio[0] == pytest.approx(0.3)


def test_a_pair_that_may_not_open_holds_in_tension() -> None:
    pulled = judge(
        _laws(may_open=False, friction=False),
        np.array([[0.0, 0.0, 0.2]]),
        np.array([[0.0, 0.0, -50.0]]),
        np.zeros((1, 3)),
        np.zeros((1, 3)),
    )
    assert pulled.status[0] == Status.STICKING


def test_penalty_judges_by_motion_alone() -> None:
    laws, zero = _laws(penalty=True), np.zeros((1, 3))
    apart = judge(laws, np.array([[0.0, 0.0, -0.09]]), np.array([[0.0, 0.0, 99.0]]), zero, zero)
    assert apart.status[0] == Status.OPEN
    # 1 µm of penetration presses with 5 MPa; 0.4 µm of slip rubs with 2 MPa, above 0.3 · 5.
    pressed = judge(laws, np.array([[0.0004, 0.0, -0.101]]), zero, zero, zero)
    assert pressed.status[0] == Status.SLIDING


IMPOSSIBLE = [
    ((True, "friction", -0.1), "mu"),
    ((True, "friction", 99.0), "mu"),
    ((False, "friction", 0.1), "may_slide"),
]


@pytest.mark.parametrize(("arguments", "where"), IMPOSSIBLE)
def test_laws_that_cannot_be_are_refused(arguments: tuple[bool, str, float], where: str) -> None:
    with pytest.raises(InputError) as caught:
        PairLaw(*arguments)  # type: ignore[arg-type]
    assert caught.value.where == where
