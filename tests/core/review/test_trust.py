"""Bands, layers of contact, ways of leaks and singular places: against what is known of them."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.mesh.solid import mesh_solid
from ulmek.core.review.recover import pressure_fit
from ulmek.core.review.singular import singular_places
from ulmek.core.review.trust import PairTrust, band_of_peak, elements_across, facet_neighbours, leak_pressure, rims_of
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.runs.solve import solve_study
from ulmek.study.items.document import read_study
from ulmek.study.ledger.pairs import RESOLVED
from ulmek.study.translate import translate
from ulmek.verify.case import base_document, hold, load, part, step, symmetry
from ulmek.verify.hertz_line import Line, line_document
from ulmek.verify.hertz_point import Point, point_document


def _grid(nx: int, ny: int, *, closed: bool = False) -> np.ndarray:
    """Quads of a grid of nodes numbered row by row; closed: its last column is the first again."""
    wide = nx if closed else nx + 1
    number = np.arange(wide * (ny + 1)).reshape(ny + 1, wide)
    right = np.roll(number, -1, axis=1) if closed else number[:, 1:]
    left = number if closed else number[:, :-1]
    return np.stack([left[:-1], right[:-1], right[1:], left[1:]], axis=2).reshape(-1, 4)


def _known(facets: np.ndarray, count: int, cut: np.ndarray = np.zeros(0, int)) -> PairTrust:
    node = np.arange(count)
    nothing = np.zeros(count)
    rims = rims_of(facets, node, cut)
    return PairTrust(facet_neighbours(facets, node), nothing, np.ones(count), rims, nothing, nothing > 0)


def test_layers_of_a_strip_that_presses_are_counted_from_both_its_rims() -> None:
    facets = _grid(10, 4)
    for half, across in ((0, 1), (1, 3), (2, 5)):
        pressure = np.zeros((5, 11))
        pressure[:, 5 - half : 6 + half] = 10.0
        known = _known(facets, 55)
        assert elements_across(pressure.ravel(), np.ones(55), known.neighbours) == across
    # Half of it, mirrored in the first column, is as wide; what presses all over has no rim of its own.
    pressure = np.zeros((5, 11))
    pressure[:, :3] = 10.0
    assert elements_across(pressure.ravel(), np.ones(55), _known(facets, 55).neighbours) == 5
    assert elements_across(np.ones(55), np.ones(55), _known(facets, 55).neighbours) is None


def test_a_peak_alone_may_be_any_height_and_an_even_one_is_as_read() -> None:
    known = _known(_grid(6, 6), 49)
    alone = np.zeros(49)
    alone[24] = 5.0
    assert band_of_peak(alone, known.neighbours) == (0.0, None)
    assert band_of_peak(np.full(49, 5.0), known.neighbours) == (5.0, 5.0)
    assert band_of_peak(np.zeros(49), known.neighbours) == (0.0, 0.0)


def test_a_leak_goes_the_easiest_way_from_rim_to_rim() -> None:
    facets, n = _grid(12, 4, closed=True), 60
    known = _known(facets, n)
    assert set(known.rims) == {-1, 0, 1}
    ridge = np.zeros((5, 12))
    ridge[2] = 8.0
    assert leak_pressure(ridge.ravel(), known) == 8.0
    ridge[2, 7] = 3.0
    assert leak_pressure(ridge.ravel(), known) == 3.0
    ridge[2, 7] = 0.0
    assert leak_pressure(ridge.ravel(), known) == 0.0
    # A plate has one rim: there is nothing to leak to.
    assert leak_pressure(np.ones(55), _known(_grid(10, 4), 55)) is None


def test_half_a_ring_leaks_from_rim_to_rim() -> None:
    number = np.arange(55).reshape(5, 11)
    # Cut at both its ends: what is inside lies along the first row, what is outside along the last.
    half = _known(_grid(10, 4), 55, np.concatenate([number[:, 0], number[:, -1]]))
    assert set(half.rims) == {-1, 0, 1}
    ridge = np.zeros((5, 11))
    ridge[2] = np.linspace(4, 9, 11)
    assert leak_pressure(ridge.ravel(), half) == 4.0


def _solved(document: dict[str, Any]) -> Any:
    outcome = solve_study(read_study(document))
    assert outcome.status == "solved"
    return outcome.summaries[-1]


@pytest.mark.parametrize("share", [0.2, 0.3, 0.6, 1.2, 4.0])
def test_the_peak_of_a_line_lies_within_its_band_and_within_5_percent_where_it_is_resolved(share: float) -> None:
    line = Line(share=share)
    joint = _solved(line_document(line, space="plane-strain"))
    pair = joint.pairs["joint"]
    low, high = pair.pressure_band
    assert low <= pair.peak_pressure
    assert low <= line.peak
    assert high is None or high >= line.peak
    if pair.across >= RESOLVED:
        assert pair.peak_pressure == pytest.approx(line.peak, rel=0.05)
    assert (pair.across >= RESOLVED) == (share <= 0.3)
    assert (high is None) == (share > 2)


def test_a_ball_that_is_meshed_coarsely_is_not_resolved() -> None:
    point = Point(share=0.8)
    pair = _solved(point_document(point)).pairs["joint"]
    assert pair.across < RESOLVED
    assert pair.pressure_band[0] <= point.peak <= pair.pressure_band[1]


def _standing(above: tuple[float, float, float]) -> dict[str, Any]:
    """A block on a larger one, pressed."""
    study = base_document("standing", "Standing")
    sizes = dict(zip(("length", "depth", "height"), above, strict=True))
    top = part("top", "block", sizes, {"size": "4 mm"})
    top["placements"][0]["at"][2] = "20 mm"
    study["parts"] = [part("base", "block", {"length": 60, "depth": 60, "height": 20}, {"size": "6 mm"}), top]
    study["pairs"] = [{"id": "joint", "name": "Top – base", "a": ["top/bottom"], "b": ["base/top"], "law": {"mu": 0.2}}]
    study["supports"] = [hold("floor", ["x", "y", "z"], "base/bottom")]
    study["loads"] = [load("press", "pressure", {"press": "40 MPa"}, "top/top")]
    study["steps"] = [step("press")]
    return study


def test_the_edge_of_a_punch_is_singular_and_flush_edges_are_not() -> None:
    punch = _solved(_standing((20, 20, 16)))
    assert punch.parts["base"].singular.kind == "contact-edge"
    assert punch.parts["base"].use_anywhere > 1.2 * punch.parts["base"].use
    assert punch.pairs["joint"].across is None
    flush = _solved(_standing((60, 60, 16)))
    top = flush.parts["top"]
    assert top.singular is None
    assert top.use == top.use_anywhere


@pytest.mark.parametrize(("radius", "is_singular"), [(0.0, True), (8.0, False)])
def test_a_sharp_inner_corner_is_singular_and_a_rounded_one_is_not(radius: float, is_singular: bool) -> None:
    study = base_document("corner", "Corner")
    study["parts"] = [part("bar", "angle", {"root_radius": radius, "gusset": 0}, {"size": "4 mm", "per_turn": 32})]
    study["supports"] = [hold("root", ["x", "y", "z"], "bar/tip.y")]
    study["loads"] = [load("pull", "force", {"pull": "500 N"}, "bar/tip.x", direction=[0, 1, 0])]
    study["steps"] = [step("pull")]
    model = translate(read_study(study))
    places = {p.kind: p for p in singular_places(model, CondensedPath(model).start())}
    assert ("inner-corner" in places) == is_singular
    if is_singular:
        corner = model.nodes()[places["inner-corner"].nodes]
        # A line along the whole width.
        assert np.ptp(corner, axis=0)[:2] == pytest.approx(0, abs=1e-9)
        assert len(places["inner-corner"].around) > 3 * len(corner)
    end = model.nodes()[places["support-end"].nodes]
    assert np.ptp(end[:, 1]) == pytest.approx(0, abs=1e-9)


# A block that stands on another, from its middle outwards: a notch in its top, and a foot with an inner corner.
NOTCHED = [(0, 14), (10, 20), (20, 20), (20, 10), (32, 10), (32, 0)]


def _notched(*, half: bool) -> dict[str, Any]:
    study = base_document("notch", "Notch")
    study["space"] = "plane-strain"
    outline = [(0, 0)] if half else [(-x, y) for x, y in reversed(NOTCHED[1:])]
    outline = [*outline, *NOTCHED] if not half else [*NOTCHED, (0, 0)]
    edges = [{"name": f"e{i}", "to": [f"{x} mm", f"{y} mm"]} for i, (x, y) in enumerate(outline)]
    block = part("block", "drawn", {}, {"size": "2 mm"})
    block["recipe"]["drawn"] = {
        "outlines": [{"name": "section", "edges": edges}],
        "layers": [{"name": "slab", "height": "1 mm", "outlines": ["section"]}],
    }
    length = 48 if half else 96
    base = part("base", "block", {"length": length, "depth": 20, "height": 1}, {"size": "2 mm"}, at=(24 * half, -10))
    study["parts"] = [block, base]
    foot, top = ("e6", "e2") if half else ("e0", "e7")
    study["pairs"] = [{"id": "joint", "name": "Joint", "a": [f"block/{foot}"], "b": ["base/far"]}]
    study["supports"] = [hold("floor", ["x", "y"], "base/near")]
    if half:
        study["supports"].append(symmetry("middle", "block/e0", "base/left"))
    study["loads"] = [load("press", "force", {"press": "100 N"}, f"block/{top}", direction=[0, -1, 0])]
    study["steps"] = [step("press")]
    return study


def test_a_plane_of_symmetry_makes_no_edge_and_takes_none() -> None:
    found = {}
    for half in (False, True):
        model = translate(read_study(_notched(half=half)))
        places = {p.kind: model.nodes()[p.nodes] for p in singular_places(model, CondensedPath(model).start())}
        found[half] = {kind: np.unique(np.round(at[at[:, 0] > -1e-6], 6), axis=0) for kind, at in places.items()}
    assert set(found[True]) == {"inner-corner", "contact-edge", "support-end"}
    assert [tuple(at) for at in found[True]["inner-corner"][:, :2]] == [(0, 14), (20, 10)]
    for kind, at in found[True].items():
        assert at == pytest.approx(found[False][kind], abs=1e-6), kind


def _under_a_head(kept: str, *, swapped: bool = False) -> Any:
    """A bolt through a plate, modelled whole or as half, with its head on either side of the pair."""
    study = base_document("head", "Head")
    plate = part(
        "plate", "plate", {"width": 70, "height": 70, "thickness": 38, "hole_diameter": 17.5}, {"size": "8 mm"}
    )
    plate["recipe"]["dimensions"] |= {"hole_columns": 1, "hole_rows": 1}
    bolt = part("bolt", "bolt", {}, {"size": "3 mm"})
    for made in (plate, bolt):
        made["recipe"]["kept"] = kept
    study["parts"] = [plate, bolt]
    sides = {"head": ("bolt/head.bearing", "plate/front"), "nut": ("bolt/nut.bearing", "plate/back")}
    study["pairs"] = [
        {"id": name, "name": name, "a": [b if swapped else a], "b": [a if swapped else b], "law": {"mu": 0.15}}
        for name, (a, b) in sides.items()
    ]
    preload = 54e3 if kept == "whole" else 27e3
    study["bolts"] = [{"id": "b", "name": "Bolt", "part": "bolt", "preload": {"load": f"{preload} N"}}]
    study["supports"] = [hold("edge", ["x", "y", "z"], "plate/edge.left")]
    if kept == "half":
        study["supports"].append(symmetry("middle", "plate/cut.y", "bolt/cut.y"))
    study["steps"] = [step("load")]
    return _solved(study).pairs["head"]


def test_under_a_bolt_head_modelled_whole_half_or_swapped_the_peak_is_the_same_within_its_band() -> None:
    ways = [_under_a_head(k, swapped=s) for k in ("whole", "half") for s in (False, True)]
    mean = 54e3 / (np.sqrt(3) / 2 * 24**2 - np.pi / 4 * 17.5**2)
    for one in ways:
        for other in ways:
            low, high = one.pressure_band
            assert low <= other.peak_pressure
            assert high is None or other.peak_pressure <= high
    # What is read of nodes that are covered in part invents no peak; forces stay exact, whatever is read.
    assert ways[0].peak_pressure < 1.3 * mean
    assert ways[2].peak_pressure == pytest.approx(ways[0].peak_pressure, rel=0.15)
    assert [w.normal_force for w in ways] == pytest.approx([54e3, 54e3, 27e3, 27e3])


def test_pressure_of_means_is_fitted_up_to_free_faces() -> None:
    mesh = mesh_solid(RECIPES["washer"].solid({}), size=3.0)
    fit = pressure_fit(mesh)
    assert fit is not None
    linear = mesh.nodes @ [2.0, -1.0, 0.5] + 7
    means = linear[mesh.cells].mean(axis=1)
    assert fit.is_sure.mean() > 0.9
    assert (fit.weights @ means)[fit.is_sure] == pytest.approx(linear[fit.is_sure])
