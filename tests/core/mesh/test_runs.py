"""Flanks of teeth are meshed as one curve: on the involute, as fine as wanted, and with the normals of the curve."""

import dataclasses
import itertools

import numpy as np
import pytest

from tests.conftest import STEEL
from ulmek.core.contact.interface import build_interface
from ulmek.core.geometry.involute import ARCS
from ulmek.core.geometry.outline import Partition, Region, Segment
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.recipes.gears import gearing
from ulmek.core.mesh.runs import smooth_runs
from ulmek.core.mesh.solid import mesh_flat
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Body, Face, Model, Pair, PairLaw, Wall

MODULE, TEETH = 5.0, 20
GEAR = {"teeth": TEETH, "wanted": 3, "module": MODULE, "bore_diameter": 30.0, "width": 10.0}


def _mesh(size: float, **faces: float) -> VolumeMesh:
    return mesh_flat(RECIPES["gear"].solid(GEAR), size=size, face_sizes=faces)


def _flank(mesh: VolumeMesh, name: str = "tooth.2.left") -> np.ndarray:
    return mesh.nodes[np.unique(mesh.faces[name])][:, :2]


def test_a_flank_is_one_curve_whose_nodes_lie_on_the_involute_and_become_more() -> None:
    teeth = gearing(RECIPES["gear"].complete(GEAR))
    counts = []
    for size in (2.5, 0.25, 0.12):
        at = _flank(_mesh(2.5, **{"tooth.2.left": size}))
        counts.append(len(at))
        radius = np.hypot(*at.T)
        active = at[radius > 1.01 * teeth.base_radius]
        away = [
            abs(np.arctan2(y, x) - teeth.half_angle(float(np.hypot(x, y)))) * np.hypot(x, y) for x, y in active
        ]  # fmt: skip
        assert max(away) < 7e-4 * MODULE
    # Coarse ones follow the curve all the same; finer ones are as fine as wanted.
    assert counts[0] >= ARCS
    assert counts[1] > 1.5 * counts[0]
    assert counts[2] > 1.7 * counts[1]


def test_normals_at_a_flank_are_those_of_the_involute() -> None:
    teeth = gearing(RECIPES["gear"].complete(GEAR))
    mesh = _mesh(2.5)
    far = Wall("far", "cylinder", (0.0, 0.0, 0.0), radius=teeth.tip_radius + 20, hollow=True)
    other = dataclasses.replace(mesh, nodes=mesh.nodes * [-1.0, 1.0, 1.0] + [2 * teeth.pitch_radius + 0.05, 0, 0])
    other = dataclasses.replace(other, cells=other.cells[:, [0, 3, 2, 1]])
    other = dataclasses.replace(other, faces={n: f[:, ::-1] for n, f in other.faces.items()}, arcs={})
    pair = Pair(
        "flanks", (Face("gear", "tooth.2.left"),), (Face("mirror", "tooth.2.left"),), PairLaw(True, "freely"), 30.0
    )
    model = Model((Body("gear", mesh, STEEL), Body("mirror", other, STEEL)), (pair,), (), (), (), (), walls=(far,),
                  space="plane-strain")  # fmt: skip
    found = build_interface(model, pair, model.nodes(), every_node=True)
    at, normal = model.nodes()[found.node], found.frame[:, 2]
    radius = np.hypot(*at[:, :2].T)
    active = (radius > 1.02 * teeth.base_radius) & (radius < 0.99 * teeth.tip_radius)
    # A normal of an involute is tangent to its base circle; into the tooth, as rows count it.
    arm = np.abs(at[:, 0] * normal[:, 1] - at[:, 1] * normal[:, 0])
    assert arm[active] == pytest.approx(teeth.base_radius, rel=2e-3)
    assert active.sum() >= 5


def _ring_of(bends: list[tuple[float, float]]) -> Partition:
    """An outline over a chain of arcs (radius, turn) that run on from the origin, closed by lines below."""
    at, heading, chain = np.zeros(2), 0.0, []
    for radius, turn in bends:
        middle = at + radius * np.array([-np.sin(heading), np.cos(heading)])
        arm, c, s = at - middle, np.cos(turn), np.sin(turn)
        end = middle + np.array([[c, -s], [s, c]]) @ arm
        chain.append(Segment("side", tuple(map(float, at)), tuple(map(float, end)), tuple(map(float, middle)), True))
        at, heading = end, heading + turn
    x, y = map(float, at)
    corners = [(x, y), (x, 40.0), (0.0, 40.0), (0.0, 0.0)]
    closing = [Segment(n, a, b) for n, (a, b) in zip(("end", "top", "start"), itertools.pairwise(corners), strict=True)]
    return Partition.of([Region("region", (*chain, *closing))])


def test_only_arcs_that_bend_alike_with_another_centre_run_on() -> None:
    runs = smooth_runs(_ring_of([(20.0, 0.2), (30.0, 0.2), (30.0, 0.2), (300.0, 0.02)]))
    # The third has the centre of the second: a quarter ends where it was drawn; the last bends far less.
    assert [run for run in runs if len(run) > 1] == [[0, 1]]
    assert sorted(i for run in runs for i in run) == list(range(7))
