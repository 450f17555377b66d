"""Variants follow the study or say why not; series take values as they are written, and spread them as is asked."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import InputError, UlmekError
from ulmek.demo import demo_study
from ulmek.study.changes import changes, told_variants
from ulmek.study.edits import edited_by
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.series import SeriesUse
from ulmek.study.items.variant import Change
from ulmek.study.sampling import changes_of, inputs_of, samples_of
from ulmek.study.variants import changes_between, entry_at, variant_of, with_changes

PRELOAD, MU, HEADS = "/bolts/bolts/preload/preload", "/pairs/flange/law/mu", "/pairs/heads/law/mu"


def _with_variant(study: StudyDocument, *changed: Change) -> StudyDocument:
    variant = {"id": "other", "name": "Other", "changes": [c.model_dump(mode="json") for c in changed]}
    return edited_by(study, [{"op": "add", "path": "/variants/-", "value": variant}])


def test_what_an_edit_changed_is_made_again_whatever_stands_where() -> None:
    before = demo_study("wall-bracket")
    plain = before.model_dump(mode="json")
    plain["parts"][0]["recipe"]["dimensions"]["thickness"] = "22 mm"
    plain["pairs"][1]["law"] = {"may_open": True, "may_slide": "no", "mu": 0.3}
    plain["loads"] = [*plain["loads"][1:], {**plain["loads"][0], "id": "another"}]
    plain["notes"] = "Other."
    after = read_study(plain)
    made = changes_between(before, after)
    assert {(c.op, c.path) for c in made} >= {
        ("replace", "/parts/wall-plate/recipe/dimensions/thickness"), ("replace", "/pairs/heads/law/mu"),
        ("remove", "/loads/hoist-pull"), ("add", "/loads/-"), ("replace", "/notes"),
    }  # fmt: skip
    again = with_changes(before, made)
    assert again == after
    # Parts in another order: the same changes.
    turned = read_study({**before.model_dump(mode="json"), "pairs": before.model_dump(mode="json")["pairs"][::-1]})
    assert entry_at(with_changes(turned, made), HEADS) == 0.3
    # Steps in another order are another sequence.
    steps = read_study({**before.model_dump(mode="json"), "steps": before.model_dump(mode="json")["steps"][::-1]})
    assert with_changes(before, changes_between(before, steps)) == steps


def test_variants_follow_and_what_does_not_fit_is_listed() -> None:
    study = _with_variant(demo_study("wall-bracket"), Change(path=MU, value=0.4))
    assert [v.misfit for v in told_variants(study)] == [""]
    edited = edited_by(study, [{"op": "replace", "path": "/title", "value": "Another"}])
    made = with_changes(edited, variant_of(edited, "Other").changes)
    assert (entry_at(made, MU), made.title) == (0.4, "Another")
    # What is said of variants changes no study.
    assert changes(demo_study("wall-bracket"), study) == []
    at = next(i for i, p in enumerate(study.pairs) if p.id == "flange")
    without = edited_by(study, [{"op": "remove", "path": f"/pairs/{at}"}])
    (misfit,) = told_variants(without)
    assert (misfit.id, misfit.where) == ("other", "pairs/flange/law/mu")
    assert "there is no 'flange'" in misfit.misfit
    assert "heads" in misfit.misfit
    with pytest.raises(InputError, match="two variants have the id 'other'"):
        _with_variant(study, Change(path=MU, value=0.1))
    with pytest.raises(InputError, match="not how it is asked"):
        with_changes(study, [Change(op="remove", path="/variants/other")])


def _series(*inputs: tuple[str, list[str], dict[str, Any]], **asked: Any) -> SeriesUse:
    made = [{"id": name, "name": name, "paths": paths, "spread": spread} for name, paths, spread in inputs]
    return SeriesUse.model_validate({"id": "s", "name": "S", "inputs": made, **asked})


def _between(low: Any, high: Any, kind: str = "even", **more: Any) -> dict[str, Any]:
    return {"kind": kind, "low": low, "high": high, **more}


def test_values_are_written_as_what_stands_there_and_shares_are_of_it() -> None:
    study = demo_study("wall-bracket")
    series = _series(
        ("preload", [PRELOAD], _between("75 %", "125 %", "normal")),
        ("mu", [MU, HEADS], _between("50 %", "200 %")),
        ("pull", ["/loads/hoist-pull/values/hoist-pull"], _between("47000 N", "50000 N")),
        ("length", ["/parts/bolts/recipe/dimensions/head_height"], _between("90 %", "110 %")),
        plan="grid",
    )  # fmt: skip
    inputs = inputs_of(study, series)
    assert [i.unit for i in inputs] == ["kN", "%", "N", "mm"]
    assert [i.nominal for i in inputs][:3] == pytest.approx([42, 100, 48000])
    samples = samples_of(study, series)
    assert len(samples) == 5**4
    first, last = samples[0].values, samples[-1].values
    assert (first["preload"], last["preload"]) == ("31.5 kN", "52.5 kN")
    made = with_changes(study, changes_of(inputs, samples[-1]))
    assert [entry_at(made, p) for p in (MU, HEADS)] == pytest.approx([0.3, 0.3])
    assert entry_at(made, "/loads/hoist-pull/values/hoist-pull") == "50000 N"


def test_samples_spread_as_they_are_asked() -> None:
    study = demo_study("wall-bracket")
    asked = (
        ("preload", [PRELOAD], _between("75 %", "125 %", "normal")),
        ("mu", [MU], _between(0.1, 0.2)),
        ("heads", [HEADS], {"kind": "triangular", "low": 0.1, "peak": 0.2, "high": 0.2}),
        ("way", ["/pairs/nuts/law/may_slide"], {"kind": "listed", "values": ["friction", "no"]}),
    )  # fmt: skip
    for plan in ("latin-hypercube", "sobol"):
        series = _series(*asked, plan=plan, samples=400)
        inputs, samples = inputs_of(study, series), samples_of(study, series)
        numbers = np.array([[i.number_of(s.values[i.use.id]) for i in inputs] for s in samples])
        assert np.mean((numbers[:, 0] > 31.5) & (numbers[:, 0] < 52.5)) == pytest.approx(0.95, abs=0.01)
        assert abs(numbers[:, 0] - 42).max() < 3.1 / 1.96 * 10.5
        assert np.quantile(numbers[:, 1], [0.25, 0.75]) == pytest.approx([0.125, 0.175], abs=0.003)
        assert numbers[:, 2].mean() == pytest.approx((0.1 + 0.2 + 0.2) / 3, abs=0.002)
        assert numbers[:, 3].mean() == pytest.approx(0.5, abs=0.01)
    # More of Sobol's samples go on where the others ended.
    few = samples_of(study, _series(*asked, plan="sobol", samples=50))
    assert samples[:50] == few
    corners = samples_of(study, _series(*asked, plan="corners"))
    assert len(corners) == 1 + 2**4
    assert corners[0].values == {}
    one = samples_of(study, _series(*asked, plan="one-at-a-time"))
    assert [len(s.values) for s in one] == [0, *[1] * (5 + 5 + 5 + 2)]


@pytest.mark.parametrize(
    ("paths", "spread", "told"),
    [
        (["/pairs/flange/law/nu"], _between(0.1, 0.2), "there is no 'nu'"),
        (["/pairs/flange/law"], _between(0.1, 0.2), "is no single value"),
        ([PRELOAD], _between(30, 50), "is not a number"),
        ([PRELOAD], _between("30 mm", "50 mm"), "is not a value in mm"),
        ([PRELOAD], _between("30 kN", "120 %"), "one end is a share"),
        ([MU], _between(0.2, 0.1), "not below the highest"),
        ([MU], _between(0.1, 0.2, "triangular", peak=0.5), "outside of the range"),
        ([MU, MU], _between(0.1, 0.2), "varied twice"),
        (["/title"], _between("10 %", "20 %"), "is not a number"),
    ],
)
def test_what_cannot_be_varied_so_is_told_with_its_place(paths: list[str], spread: dict[str, Any], told: str) -> None:
    with pytest.raises(UlmekError, match=told) as error:
        inputs_of(demo_study("wall-bracket"), _series(("input", paths, spread)))
    assert error.value.where.startswith("series/s/inputs/input")


def test_a_grid_of_too_many_is_refused() -> None:
    inputs = [
        (f"i{n}", [path], _between(0.1, 0.2, count=50)) for n, path in enumerate((MU, HEADS, "/pairs/nuts/law/mu"))
    ]
    with pytest.raises(InputError, match="125000 samples"):
        samples_of(demo_study("wall-bracket"), _series(*inputs, plan="grid"))
