"""Which pairs may sleep: clearances between parts that touching pairs join, and no others."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import block_body
from ulmek.core.contact.interface import build_interface
from ulmek.core.contact.sleep import sleeping_pairs
from ulmek.core.model import Body, Face, Model, Pair, PairLaw

FRICTION = PairLaw(True, "friction", 0.2)


def _moved(body: Body, x: float) -> Body:
    return dataclasses.replace(body, mesh=dataclasses.replace(body.mesh, nodes=body.mesh.nodes + np.array([x, 0, 0])))


def _asleep(*, gap: float, clamped: bool, law: PairLaw, **changes: object) -> frozenset[str]:
    """Two blocks on a base, side by side with a gap; only a clamped one has a pair with the base."""
    base = block_body("base", (60, 20, 10), 10)
    left = _moved(block_body("left", (20, 20, 10), 10, at=10), -10)
    right = _moved(block_body("right", (20, 20, 10), 10, at=10), 10 + gap)
    pairs = [
        Pair("seat", (Face("left", "bottom"),), (Face("base", "top"),), FRICTION, 1.0),
        Pair("clearance", (Face("left", "right"),), (Face("right", "left"),), law, 2.0, **changes),  # type: ignore[arg-type]
    ]
    if clamped:
        pairs.append(Pair("other seat", (Face("right", "bottom"),), (Face("base", "top"),), FRICTION, 1.0))
    model = Model((base, left, right), tuple(pairs), (), (), (), ())
    interfaces = tuple(build_interface(model, pair, model.nodes()) for pair in pairs)
    return sleeping_pairs(model, interfaces)


@pytest.mark.parametrize(
    ("changes", "sleeps"),
    [
        ({}, True),
        ({"gap": 0.0}, False),
        ({"clamped": False}, False),
        ({"law": PairLaw(False, "freely")}, False),
        ({"law": FRICTION}, True),
        ({"fit": "closed-up"}, False),
        ({"fit": "value", "interference": 0.01}, False),
        ({"fit": "value", "interference": -0.3}, True),
    ],
)
def test_only_clearances_inside_a_clamped_joint_sleep(changes: dict[str, object], sleeps: bool) -> None:
    case: dict[str, object] = {"gap": 0.5, "clamped": True, "law": PairLaw(True, "freely"), **changes}
    assert _asleep(**case) == ({"clearance"} if sleeps else frozenset())  # type: ignore[arg-type]
