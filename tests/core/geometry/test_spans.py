"""Dimensions found on solids are as long as they say, wherever a recipe shows them."""

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.geometry.spans import spans


@pytest.mark.parametrize("kind", RECIPES)
def test_a_span_is_as_long_as_its_dimension(kind: str) -> None:
    recipe = RECIPES[kind]
    values = {d.name: d.default for d in recipe.dimensions}
    found = spans(recipe, {})
    for span in found:
        assert np.linalg.norm(span.ends[1] - span.ends[0]) == pytest.approx(values[span.name], rel=1e-5), span.name
    lengths = [d.name for d in recipe.dimensions if d.kind == "length" and d.default > 0]
    # Modules, thinnings and the like are lengths of no place; most others are seen.
    assert len(found) >= 0.5 * len(lengths) or kind in ("gear", "gear-rack"), set(lengths) - {s.name for s in found}


def test_lengths_of_a_lug_stand_where_they_are_drawn() -> None:
    found = {s.name: s.ends for s in spans(RECIPES["lug"], {"reach": 70.0, "hole_diameter": 30.0})}
    assert set(found) == {"hole_diameter", "width", "reach", "thickness"}
    assert found["hole_diameter"][:, :2] == pytest.approx(np.array([[-15, 0], [15, 0]]))
    assert sorted(found["reach"][:, 0]) == pytest.approx([-70, 0])
    assert sorted(found["thickness"][:, 2]) == pytest.approx([0, 20])
