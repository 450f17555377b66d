"""Bent bars: as large as Pappus says, cut along and across, and refused where no bar can go."""

from collections.abc import Sequence

import numpy as np
import pytest

from ulmek.core.errors import GeometryError
from ulmek.core.geometry import kernel
from ulmek.core.geometry.bent import BentSolid, Run, bent_solid, cut_bar
from ulmek.core.geometry.outline import Partition, Region, circle, polygon
from ulmek.core.mesh.fitted import face_shape
from ulmek.core.mesh.solid import mesh_solid

ROUND = Partition.of([Region("s", circle("side", (0, 0), 5))])
# Off its path, so that its centroid goes another way than its origin.
FLAT = Partition.of([Region("s", polygon(["near", "right", "far", "left"], [(-4, -3), (6, -3), (6, 3), (-4, 3)]))])
PIPE = Partition.of([Region("s", circle("outside", (0, 0), 5), (circle("inside", (0, 0), 3),))])
LEG, OTHER = Run("leg", 30), Run("other", 30)
BOW, BACK = Run("bow", radius=12, angle=np.pi), Run("back", radius=12, angle=np.pi)
RING = Run("ring", radius=12, angle=2 * np.pi)
ASIDE = Run("aside", radius=15, angle=np.pi / 2, about=np.pi / 2)
Cut = tuple[Sequence[float], float]


def _bar(section: Partition, runs: Sequence[Run], cuts: Sequence[Cut] = ()) -> BentSolid:
    solid = bent_solid(section, runs)
    for i, (normal, at) in enumerate(cuts):
        solid = cut_bar(solid, np.array(normal, float), at, f"cut.{i + 1}")
    return solid


Y, X, Z = (0, 1, 0), (1, 0, 0), (0, 0, 1)
U = (LEG, BOW, OTHER)
AREA = 25 * np.pi


@pytest.mark.parametrize(
    ("section", "runs", "cuts", "volume", "faces"),
    [
        (ROUND, U, [], AREA * (60 + 12 * np.pi), "bow end leg other start"),
        (FLAT, U, [], 60 * (60 + 11 * np.pi),
         "bow.far bow.left bow.near bow.right end leg.far leg.left leg.near leg.right other.far other.left other.near "
         "other.right start"),
        (PIPE, [LEG, ASIDE], [], 16 * np.pi * (30 + 7.5 * np.pi),
         "aside.inside aside.outside end leg.inside leg.outside start"),
        (ROUND, [LEG, BOW, OTHER, BACK], [], AREA * (60 + 24 * np.pi), "back bow leg other"),
        (ROUND, [RING], [], AREA * 24 * np.pi, "ring"),
        (ROUND, [LEG, Run("b", radius=12, angle=np.pi / 2), Run("c", 20), ASIDE], [],
         AREA * (50 + 6 * np.pi + 7.5 * np.pi), "aside b c end leg start"),
        # Half along its path, then to one leg, then to what lies above 10 mm of it.
        (ROUND, U, [(Y, 0)], AREA / 2 * (60 + 12 * np.pi), "bow cut.1 end leg other start"),
        (ROUND, U, [(Y, 0), (X, 12)], AREA / 2 * (30 + 6 * np.pi), "bow cut.1 cut.2 end other"),
        (ROUND, U, [(Y, 0), (X, 12), (Z, 10)], AREA / 2 * (20 + 6 * np.pi), "bow cut.1 cut.2 cut.3 other"),
        (ROUND, U, [(Z, 10)], AREA * (40 + 12 * np.pi), "bow cut.1 leg other"),
        # A closed one opens; a ring cut where it begins goes on from its end.
        (ROUND, [LEG, BOW, OTHER, BACK], [(Z, 10)], AREA * (40 + 12 * np.pi), "bow cut.1 leg other"),
        (ROUND, [RING], [((-1, 0, 0), -12), (Z, 0), (Y, 0)], AREA / 2 * 6 * np.pi, "cut.1 cut.2 cut.3 ring"),
        (ROUND, U, [(Y, -9)], AREA * (60 + 12 * np.pi), "bow end leg other start"),
    ],
)  # fmt: skip
def test_a_bar_is_as_large_as_the_way_of_its_centroid(
    section: Partition, runs: Sequence[Run], cuts: Sequence[Cut], volume: float, faces: str
) -> None:
    solid = _bar(section, runs, cuts)
    assert solid.volume() == pytest.approx(volume, rel=1e-9)
    assert kernel.volume(kernel.shape_of(solid)) == pytest.approx(volume, rel=1e-7)
    mesh = mesh_solid(solid, size=2.0, per_turn=48)
    assert mesh.volume() == pytest.approx(volume, rel=0.01)
    assert " ".join(sorted(mesh.faces)) == faces
    for name in mesh.faces:
        if name.startswith("cut") or name in ("start", "end"):
            assert len(cuts) > 2 or face_shape(mesh, name).kind == "flat"
    if "leg" in mesh.faces and not cuts:
        found = face_shape(mesh, "leg")
        assert (found.kind, found.radius) == ("round", pytest.approx(5.0))
        assert mesh.arcs["leg"][:, 6] == pytest.approx(5.0)


@pytest.mark.parametrize(
    ("runs", "cuts", "said"),
    [
        ([], [], "no runs"),
        ([Run("a")], [], "has no length"),
        ([LEG, LEG], [], "two runs are called"),
        ([Run("b", radius=4, angle=1.0)], [], "folds the section"),
        ([Run("b", radius=12, angle=7.0)], [], "turns by 401"),
        ([Run("a", 20), BOW, Run("c", 40), Run("d", radius=6, angle=np.pi * 0.9), Run("e", 40)], [], "through itself"),
        ([RING, BOW], [], "through itself"),
        # Runs far longer than the bar is thick, across each other.
        (
            [Run("a", 3000), BOW, Run("b", 500), Run("c", radius=12, angle=np.pi / 2), Run("d", 900)],
            [],
            "through itself",
        ),
        (U, [((0, 0, -1), -10)], "in 2 pieces"),
        (U, [((0, 0.6, 0.8), 10)], "askew"),
        (U, [(X, 3)], "askew"),
        (U, [(Z, 90)], "leaves nothing"),
    ],
)
def test_bars_that_cannot_be_are_refused_with_their_run(runs: Sequence[Run], cuts: Sequence[Cut], said: str) -> None:
    with pytest.raises(GeometryError, match=said) as caught:
        _bar(ROUND, runs, cuts)
    assert caught.value.where
    assert caught.value.hint
