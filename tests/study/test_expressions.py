"""Dimensions as expressions of others: values by hand, units checked, nothing evaluated that is not arithmetic."""

import pytest

from ulmek.core.errors import UlmekError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.study.drawings import named_dimensions
from ulmek.study.recipe_values import recipe_values

BAR = {"flange": "9 mm", "root_radius": "6 mm"}


@pytest.mark.parametrize(
    ("kind", "name", "text", "value"),
    [
        ("i-bar", "web", "2*flange - 1 mm", 17.0),
        ("i-bar", "web", "width/10 + 0.5 in", 20.7),
        ("i-bar", "web", "(flange + root_radius)/2", 7.5),
        ("i-bar", "web", "10 mm + 2 mm", 12.0),
        ("i-bar", "web", "height/20 - 1e-1 cm", 5.0),
        ("i-bar", "web", "1.5e-1 cm", 1.5),
        ("gear", "teeth", "10 + 7", 17.0),
        ("gear", "teeth", "module/1 mm*5", 20.0),
        ("gear", "pressure_angle", "10 deg + 10 deg", 20.0),
    ],
)
def test_values(kind: str, name: str, text: str, value: float) -> None:
    given = BAR if kind == "i-bar" else {}
    assert recipe_values(RECIPES[kind], {**given, name: text})[name] == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("flange*flange", "is not a length"),
        ("2*flange + 1", "do not fit"),
        ("flange/(flange - 9 mm)*1 mm", "divides by zero"),
        ("2*web", "made of each other: web → web"),
        ("flange**99999", "is not an expression"),
        ("flange*9**9**9", "is not an expression"),
        ("flange.real", "is not an expression"),
        ("abs(flange)", "is not an expression"),
        ("__import__('os')", "is not"),
        ("((((flange", "is not an expression"),
        ("flange" + "+flange" * 40, "is not an expression"),
        ("1e300*1e300*flange", "no value that can be computed"),
        ("5 N/mm", "is not a length"),
        ("3", "has no unit"),
    ],
)
def test_refusals_name_the_dimension(text: str, said: str) -> None:
    with pytest.raises(UlmekError, match=said) as caught:
        recipe_values(RECIPES["i-bar"], {**BAR, "web": text})
    assert caught.value.where == "web"
    assert caught.value.hint


def test_named_dimensions_show_what_they_measure_and_may_not_be_units() -> None:
    dimensions = named_dimensions({"d": "10 mm", "sweep": "90 deg", "n": 3, "each": "sweep/n", "wide": "n*d + 1 mm"})
    assert {n: dimensions.said(n) for n in ("d", "sweep", "n", "each", "wide")} == {
        "d": "10 mm", "sweep": "90°", "n": "3", "each": "30°", "wide": "31 mm",
    }  # fmt: skip
    for name, said in (("mm", "is a unit"), ("deg", "is a unit"), ("2d", "cannot be spoken of"), ("a-b", "spoken of")):
        with pytest.raises(UlmekError, match=said) as caught:
            named_dimensions({name: "1 mm"})
        assert caught.value.where == f"dimensions/{name}"
    with pytest.raises(UlmekError, match="no length, angle or number"):
        named_dimensions({"f": "3 N"})
