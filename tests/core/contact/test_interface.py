"""The interface of a pair: rigid motions give no relative motion, pressure passes whole."""

import numpy as np
import pytest

from tests.conftest import block_body
from ulmek.core.contact.interface import build_interface
from ulmek.core.errors import InputError
from ulmek.core.model import Face, Model, Pair, PairLaw

FRICTION = PairLaw(True, "friction", 0.3)


def _pair(**changes: object) -> Pair:
    base = {"side_a": (Face("upper", "bottom"),), "side_b": (Face("lower", "top"),), "search": 1.0, **changes}
    return Pair("joint", law=FRICTION, **base)  # type: ignore[arg-type]


def _model(*, gap: float = 0.0, turn: float = 0.2, size: float = 40.0) -> Model:
    lower = block_body("lower", (50, 50, 20), 10)
    upper = block_body("upper", (size, size, 20), 7, at=20 + gap, turn=turn)
    return Model((lower, upper), (), (), (), (), ())


@pytest.mark.parametrize("turn", [0.0, 0.2, 0.77])
@pytest.mark.parametrize("size", [40.0, 62.0])
def test_rigid_motion_of_both_bodies_is_no_relative_motion(turn: float, size: float) -> None:
    """``size`` 62 leaves side A partly uncovered."""
    model = _model(turn=turn, size=size)
    nodes = model.nodes()
    interface = build_interface(model, _pair(), nodes)
    for axis in np.eye(3):
        for motion in (np.tile(axis, (len(nodes), 1)), np.cross(axis, nodes)):
            assert np.abs(interface.rows @ motion.ravel()).max() < 1e-9 * np.abs(motion).max()


def test_every_node_stays_listed_where_an_edge_is_hardly_covered() -> None:
    """Nodes are numbered once in large motion, wherever their faces go: none may drop out."""
    lower = block_body("lower", (2 * (20 - 40 / 6 + 0.05), 60, 20), 10)
    model = Model((lower, block_body("upper", (40, 40, 20), 7, at=20)), (), (), (), (), ())
    found = build_interface(model, _pair(), model.nodes(), every_node=True)
    faces = np.unique(model.quads((Face("upper", "bottom"),)))
    assert np.array_equal(found.node, faces)
    assert found.area.sum() == pytest.approx(2 * (20 - 40 / 6 + 0.05) * 40)


@pytest.mark.parametrize("size", [40.0, 62.0])
def test_uniform_pressure_gives_the_same_force_and_moment_on_both_sides(size: float) -> None:
    model = _model(size=size)
    nodes = model.nodes()
    interface = build_interface(model, _pair(), nodes)
    push = np.tile([0.0, 0.0, 1.0], len(interface.node)) * np.repeat(interface.area, 3)
    force = (interface.rows.T @ push).reshape(-1, 3)
    n_lower = model.offsets()[1]
    # Both are centred on the z axis: the covered area is the smaller square, cut at the corners when turned.
    assert force[:n_lower, 2].sum() == pytest.approx(-interface.area.sum())
    assert force[n_lower:, 2].sum() == pytest.approx(interface.area.sum())
    assert np.abs(np.cross(nodes, force).sum(axis=0)).max() < 1e-8 * interface.area.sum() * 50
    if size == 40.0:
        assert interface.area.sum() == pytest.approx(1600.0)
        assert interface.cover == pytest.approx(1.0)


def test_nodal_forces_on_side_b_are_those_of_the_uniform_pressure() -> None:
    """Consistent loads of a fully covered B: every interior node of a regular grid gets h²·p."""
    model = _model(turn=0.3, size=90.0)
    nodes = model.nodes()
    pair = _pair()
    interface = build_interface(model, pair, nodes)
    push = np.tile([0.0, 0.0, 1.0], len(interface.node)) * np.repeat(interface.area, 3)
    force = (interface.rows.T @ push).reshape(-1, 3)
    top = np.unique(model.quads(pair.side_b))
    inside = top[(np.abs(nodes[top, 0]) < 20) & (np.abs(nodes[top, 1]) < 20)]
    spacing = np.diff(np.unique(nodes[top, 0].round(9)))[0]
    assert np.allclose(force[inside, 2], -(spacing**2), rtol=1e-9)


def test_gap_is_measured_and_far_faces_are_refused() -> None:
    model = _model(gap=0.25)
    interface = build_interface(model, _pair(), model.nodes())
    assert np.allclose(interface.gap, 0.25)
    assert interface.least_gap == pytest.approx(0.25)
    overlapping = _model(gap=-0.1)
    removed = build_interface(overlapping, _pair(fit="overlap-removed"), overlapping.nodes())
    assert np.all(removed.gap == 0.0)
    assert np.all(build_interface(model, _pair(fit="closed-up"), model.nodes()).gap == 0.0)
    pressed = build_interface(model, _pair(fit="value", interference=0.03), model.nodes())
    assert np.all(pressed.gap == -0.03)
    far = _model(gap=5.0)
    with pytest.raises(InputError, match="do not face each other") as caught:
        build_interface(far, _pair(), far.nodes())
    assert caught.value.where == "pairs/joint"
