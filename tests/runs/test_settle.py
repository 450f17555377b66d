"""Settling: coarse meshes find their way to closed forms, sharp corners are named, it is stopped and resumed."""

import itertools
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import StoppedError
from ulmek.demo import demo_study
from ulmek.runs.events import Settling
from ulmek.runs.settle import Wanted, read_settled, settle_study
from ulmek.runs.solve import solve_study
from ulmek.store.results import ResultReader
from ulmek.study.ledger import build_ledger
from ulmek.study.limits import grows, limit_of
from ulmek.study.meshes import part_mesh
from ulmek.study.settling import Settled, SettledMeasure, keeping_found, with_found
from ulmek.verify.coarse import bracket, coarse_contacts


def _measure(settled: Settled, row: str, column: str) -> SettledMeasure:
    return next(m for m in settled.measures if (m.row, m.column) == (row, column))


CASES = coarse_contacts()


@pytest.mark.parametrize("name", CASES)
def test_coarse_contacts_come_to_what_hertz_says(name: str) -> None:
    study, peak = CASES[name]
    settled, outcome = settle_study(study, Wanted(within=0.05, budget=60_000))
    pressure = _measure(settled, "joint", "pressure")
    values = [v.value for v in pressure.values if v is not None]
    assert pressure.state == "settled"
    assert values[-1] == pytest.approx(peak, rel=0.05)
    assert outcome.summaries[-1].pairs["joint"].peak_pressure == values[-1]
    # The first mesh had no idea, and said so.
    first = pressure.values[0]
    assert first is not None
    assert first.value != pytest.approx(peak, rel=0.15)
    assert first.band is None or first.band[1] is None or first.band[0] <= peak <= first.band[1]


def test_a_sharp_corner_is_named_and_a_fillet_settles_at_its_stress() -> None:
    sharp, _ = settle_study(bracket(0))
    use = _measure(sharp, "angle", "yielding")
    assert (use.state, "a sharp inner corner (give it a radius)" in use.told) == ("singular", True)
    settled, _ = settle_study(bracket(6), Wanted(within=0.02))
    use = _measure(settled, "angle", "yielding")
    assert use.state == "settled"
    assert use.band is not None
    # An evenly fine mesh knows it too.
    true = solve_study(bracket(6, 0.4)).summaries[-1].parts["angle"].use
    assert true == pytest.approx(use.limit, rel=0.05)
    assert use.band[0] <= true <= (use.band[1] or np.inf)


def test_a_sweep_is_made_finer_where_stress_varies_across_it_and_not_along_it() -> None:
    study = bracket(6.0, 5.0, width=24)
    settled, _ = settle_study(study, Wanted(budget=60_000))
    assert _measure(settled, "angle", "yielding").state == "settled"
    # It bends in its plane: elements shrink there, and layers little, beside its free faces.
    before, after = (part_mesh(s.parts[0]) for s in (study, with_found(study, settled.found)))
    layers = [np.unique(np.round(mesh.nodes[:, 2], 6)).size - 1 for mesh in (before, after)]
    assert len(after.cells) / layers[1] > 2 * len(before.cells) / layers[0]
    assert layers[1] < 2 * layers[0]
    found = np.array([f for f in settled.found["angle"] if len(f) == 5])
    assert len(found) == len(settled.found["angle"])
    assert found[:, 3].min() < 0.3 * found[:, 4].min()


def test_between_beams_pressure_has_no_value_and_the_rest_settles() -> None:
    study = demo_study("crossed-stops")
    settled, outcome = settle_study(study)
    assert settled.is_settled
    pressure = _measure(settled, "cross", "pressure")
    assert (pressure.state, pressure.limit) == ("singular", None)
    assert "touch at a point" in pressure.told
    cell = build_ledger(study, outcome.summaries, len(outcome.summaries) - 1).rows[0].pressure
    assert cell is not None
    assert (cell.grade, "reckoned by hand" in cell.verdict) == ("unsure", True)


def test_it_is_stopped_resumed_and_kept(tmp_path: Path) -> None:
    study = CASES["roller"][0]
    told: list[int] = []

    def stop(event: Any) -> None:
        told.extend([event.mesh] if isinstance(event, Settling) else [])
        if event.kind == "increment" and told[-1] == 2:
            raise StoppedError("stopped on request.")

    with pytest.raises(StoppedError):
        settle_study(study, folder=tmp_path / "one", tell=stop)
    half = read_settled(tmp_path / "one")
    assert half is not None
    assert (len(half.meshes), half.planned) == (1, 2)
    # What the first mesh gave stands in the folder.
    with ResultReader(tmp_path / "one" / "result.h5") as reader:
        assert reader.summaries()[-1].pairs["joint"].peak_pressure == pytest.approx(
            _measure(half, "joint", "pressure").values[0].value  # type: ignore[union-attr]
        )
    told.clear()
    went_on, _ = settle_study(
        study,
        folder=tmp_path / "two",
        resume=tmp_path / "one",
        tell=lambda e: told.append(e.mesh) if isinstance(e, Settling) else None,
    )
    assert told[0] == 2
    whole, _ = settle_study(study)
    assert [v and v.value for m in went_on.measures for v in m.values] == pytest.approx(
        [v and v.value for m in whole.measures for v in m.values], rel=1e-9
    )
    kept = with_found(study, went_on.found)
    again = solve_study(kept).summaries[-1].pairs["joint"].peak_pressure
    assert again == pytest.approx(_measure(went_on, "joint", "pressure").values[-1].value)  # type: ignore[union-attr]
    assert {s["path"].split("/")[-1] for s in keeping_found(study, went_on.found)} == {"found"}
    # A budget that the next mesh passes ends it, with the reason; what was solved stands.
    poor, outcome = settle_study(study, Wanted(budget=whole.meshes[0].unknowns))
    assert (len(poor.meshes), outcome.status) == (1, "solved")
    assert "more than the budget" in poor.ended


@pytest.mark.parametrize(("order", "limit"), [(0.5, 3.0), (1.0, 100.0), (2.0, 7.0)])
def test_limits_are_those_of_series_of_known_order(order: float, limit: float) -> None:
    sizes = np.array([4.0, 2.3, 1.0])
    found, band, seen = limit_of(sizes, limit + 0.2 * limit * sizes**order)
    assert (found, seen) == (pytest.approx(limit), pytest.approx(order))
    assert band is not None
    assert band[0] <= limit <= (band[1] or 0)
    assert not grows(sizes, limit - 0.2 * limit * sizes**order, 0.01)


def test_what_has_no_limit_grows() -> None:
    sizes = np.array([4.0, 2.0, 1.0])
    for power in (0.2, 0.45, 1.0):
        assert grows(sizes, sizes**-power, 0.01)
    assert grows(sizes, -np.log(sizes) + 5, 0.01)
    assert not grows(sizes, sizes**-0.45, 10.0)
    # To and fro it stays where it is, give or take thrice its last step.
    for values in itertools.permutations((1.0, 1.2, 1.1)):
        limit, band, order = limit_of(sizes, np.array(values))
        if order is None:
            off = 3 * abs(values[2] - values[1])
            assert (limit, band) == (values[2], pytest.approx((values[2] - off, values[2] + off)))
