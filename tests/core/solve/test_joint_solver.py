"""The joint solver: both linear routes agree, answers do not depend on how the problem is written down."""

import dataclasses

import numpy as np
import pytest

from tests.conftest import Recorder, block_body
from ulmek.core.errors import InputError, LooseError, NotConvergedError
from ulmek.core.model import Body, Face, Increments, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.review.pair_fields import PairSummary, summarise_pair
from ulmek.core.review.trust import trust_of
from ulmek.core.solve.choice import choose_path
from ulmek.core.solve.condensed import condense
from ulmek.core.solve.history import Increment, Path, solve_history
from ulmek.core.solve.plain_block import PlainBlock

FRICTION = PairLaw(True, "friction", 0.3)


def _summary(path: Path, increment: Increment, index: int) -> PairSummary:
    return summarise_pair(path.model, path.system.nodes, increment, index, trust_of(path.model, path.start())[index])


def _model(**changes: object) -> Model:
    """A stack of three blocks, two pairs in a chain, pressed and pushed through the top."""
    base = block_body("base", (60, 60, 15), 15)
    middle = block_body("middle", (50, 50, 12), 10, at=15, turn=0.15)
    top = block_body("top", (40, 40, 10), 9, at=27, turn=-0.1)
    pairs = (
        Pair("low", (Face("middle", "bottom"),), (Face("base", "top"),), FRICTION, 1.0),
        Pair("high", (Face("top", "bottom"),), (Face("middle", "top"),), FRICTION, 1.0),
    )
    lid = (Face("top", "top"),)
    model = Model(
        (base, middle, top),
        pairs,
        (),
        (Support("floor", (Face("base", "bottom"),), (True, True, True)),),
        (Load("press", "pressure", lid), Load("push", "displacement", lid, (1, 0, 0))),
        (Step("press", {"press": 30.0}), Step("push", {"push": 0.02}), Step("back", {"push": -0.02})),
    )
    return dataclasses.replace(model, **changes)  # type: ignore[arg-type]


def _solve(model: Model) -> tuple[Path, list[Increment]]:
    path, _ = choose_path(model)
    heard = Recorder()
    solve_history(path, heard)
    return path, heard.increments


def _ends(path: Path, increments: list[Increment]) -> list[tuple[float, float, float]]:
    """Normal force, friction force and peak pressure of every pair at the end of each step, by pair name."""
    last = {i.step: i for i in increments}
    names = [p.name for p in path.model.pairs]
    out = []
    for step in sorted(last):
        for name in sorted(names):
            s = _summary(path, last[step], names.index(name))
            out.append((s.normal_force, s.friction_force, s.peak_pressure))
    return out


@pytest.mark.parametrize("enforcement", ["exact", "penalty"])
def test_a_kept_factor_answers_like_one_made_anew(enforcement: str, monkeypatch: pytest.MonkeyPatch) -> None:
    pairs = tuple(dataclasses.replace(p, enforcement=enforcement) for p in _model().pairs)
    _, kept = _solve(_model(pairs=pairs))
    monkeypatch.setattr(PlainBlock, "suits", lambda *_: False)
    _, anew = _solve(_model(pairs=pairs))
    assert len(kept) == len(anew)
    for a, b in zip(kept, anew, strict=True):
        assert np.array_equal(a.joint.status, b.joint.status)
        assert np.allclose(a.joint.traction, b.joint.traction, atol=1e-7 * np.abs(b.joint.traction).max())
        assert np.allclose(a.state.u, b.state.u, atol=1e-8 * np.abs(b.state.u).max())


def test_a_kept_factor_is_really_kept(monkeypatch: pytest.MonkeyPatch) -> None:
    made = []
    original = PlainBlock.__init__

    def counted(self: PlainBlock, matrix, rows, stiff, **rest) -> None:  # type: ignore[no-untyped-def]
        made.append(len(rows))
        original(self, matrix, rows, stiff, **rest)

    monkeypatch.setattr(PlainBlock, "__init__", counted)
    _, increments = _solve(_model())
    assert len(made) < sum(i.iterations for i in increments) / 2


def test_order_of_pairs_and_bodies_does_not_matter() -> None:
    model = _model()
    turned = _model(bodies=model.bodies[::-1], pairs=model.pairs[::-1])
    assert np.allclose(_ends(*_solve(model)), _ends(*_solve(turned)), rtol=1e-7, atol=1e-5)


def test_swapped_sides_change_little() -> None:
    model = _model()
    swapped = _model(pairs=tuple(dataclasses.replace(p, side_a=p.side_b, side_b=p.side_a) for p in model.pairs))
    (normal, rub, _), (normal_2, rub_2, _) = _ends(*_solve(model))[-1], _ends(*_solve(swapped))[-1]
    # Findings saw 0.08 % on finer meshes.
    assert normal_2 == pytest.approx(normal, rel=1e-9)
    assert rub_2 == pytest.approx(rub, rel=5e-3)


def test_single_big_increments_reach_the_same_end_without_reversal() -> None:
    one = Increments(start=1.0, least=0.01, largest=1.0)
    steps = _model().steps[:2]
    fine = _solve(_model(steps=steps))
    coarse = _solve(_model(steps=tuple(dataclasses.replace(s, increments=one) for s in steps)))
    assert len(coarse[1]) == 2
    assert np.allclose(_ends(*coarse)[-1], _ends(*fine)[-1], rtol=2e-2)


def test_springs_that_tie_the_joint_leave_no_trace(monkeypatch: pytest.MonkeyPatch) -> None:
    system = condense(_model())
    from ulmek.core.solve import condensed

    original = condensed.contact_nodes

    def stiffer(*arguments):  # type: ignore[no-untyped-def]
        nodes, wanted = original(*arguments)
        return dataclasses.replace(nodes, stiffness=100.0 * nodes.stiffness), wanted

    monkeypatch.setattr(condensed, "contact_nodes", stiffer)
    other = condense(_model())
    assert np.allclose(system.matrix, other.matrix, atol=1e-9 * np.abs(system.matrix).max())
    assert np.allclose(system.loads, other.loads, atol=1e-8 * np.abs(system.loads).max())


def test_nodes_on_a_symmetry_plane_are_no_trouble() -> None:
    """Half a stack held along y on the plane y = −25 presses with half the force of the whole."""
    lower = block_body("lower", (50, 50, 15), 12.5)
    upper = block_body("upper", (50, 50, 15), 8.4, at=15)
    plane = (Face("lower", "near"), Face("upper", "near"))
    model = Model(
        (lower, upper),
        (Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), FRICTION, 1.0),),
        (),
        (
            Support("floor", (Face("lower", "bottom"),), (True, True, True)),
            Support("plane", plane, (False, True, False)),
        ),
        (
            Load("press", "displacement", (Face("upper", "top"),), (0, 0, -1)),
            Load("slide", "displacement", (Face("upper", "top"),), (1, 0, 0)),
        ),
        (Step("press", {"press": 0.01}), Step("slide", {"slide": 0.1})),
    )
    system, increments = _solve(model)
    assert np.any((system.system.nodes.rows >= 0).sum(axis=1) == 2)
    end = _summary(system, increments[-1], 0)
    assert end.share_sliding > 0.95
    assert end.friction_force == pytest.approx(0.3 * end.normal_force, rel=1e-2)


def test_nothing_held_is_refused() -> None:
    with pytest.raises(LooseError, match="'base' can move along x"):
        condense(_model(supports=(), loads=_model().loads[:1]))


def test_contradictory_displacement_is_refused_with_its_place() -> None:
    on_floor = Load("fight", "displacement", (Face("base", "bottom"),), (0, 0, 1))
    with pytest.raises(InputError, match="held or led") as caught:
        condense(_model(loads=(*_model().loads, on_floor)))
    assert caught.value.where == "loads/fight"


def test_steps_end_exactly_hold_and_take_off() -> None:
    steps = (
        Step("press", {"press": 30.0}, increments=Increments(0.3, 0.01, 0.4)),
        Step("hold"),
        Step("release", {"press": 5.0}),
    )
    _, increments = _solve(_model(steps=steps))
    ends = {i.step: i for i in increments}
    assert [ends[k].time for k in range(3)] == [1.0, 1.0, 1.0]
    assert [ends[k].values[0] for k in range(3)] == [30.0, 30.0, 5.0]
    times = [i.time for i in increments if i.step == 0]
    assert np.all(np.diff([0.0, *times]) <= 0.4 + 1e-9)


def test_a_step_that_needs_more_increments_than_allowed_says_so() -> None:
    few = Increments(0.05, 0.01, 0.05, most=3)
    with pytest.raises(NotConvergedError, match="used all its 3 increments") as caught:
        _solve(_model(steps=(Step("press", {"press": 30.0}, increments=few),)))
    assert caught.value.where == "steps/press"


@pytest.mark.parametrize("bad", [(0.5, 0.6, 1.0), (0.0, 0.0, 1.0), (0.5, 0.1, 0.4), (0.5, 0.1, 1.5)])
def test_increments_out_of_order_are_refused(bad: tuple[float, float, float]) -> None:
    with pytest.raises(InputError, match="out of order"):
        Increments(*bad)


def test_a_part_that_slides_off_is_caught_by_the_face_it_meets() -> None:
    """A block pushed by force beyond friction comes to rest on a stop 0.4 mm away, which carries the rest."""
    base = block_body("base", (80, 80, 15), 20)
    slider = block_body("slider", (30, 30, 10), 10, at=15)
    wall = block_body("wall", (10, 30, 10), 10, at=15)
    wall = Body(
        wall.name, dataclasses.replace(wall.mesh, nodes=wall.mesh.nodes + np.array([20.4, 0, 0])), wall.material
    )
    model = Model(
        (base, slider, wall),
        (
            Pair("under", (Face("slider", "bottom"),), (Face("base", "top"),), FRICTION, 1.0),
            Pair("stop", (Face("slider", "right"),), (Face("wall", "left"),), PairLaw(True, "freely"), 1.0),
        ),
        (),
        (Support("held", (Face("base", "bottom"), Face("wall", "right")), (True, True, True)),),
        (
            Load("press", "pressure", (Face("slider", "top"),)),
            Load("push", "force", (Face("slider", "bottom"),), (1, 0, 0)),
        ),
        (Step("press", {"press": 10.0}), Step("push", {"push": 8000.0})),
    )
    system, increments = _solve(model)
    under, stop = (_summary(system, increments[-1], k) for k in (0, 1))
    # µN = 0.3 · 10 MPa · 900 mm² = 2700 N; the stop carries what is left of 8 kN.
    assert under.friction_force + stop.normal_force == pytest.approx(8000.0, rel=1e-3)
    assert under.friction_force <= 2700.0 * (1 + 1e-6)
    assert under.max_sliding == pytest.approx(0.4, rel=0.05)
