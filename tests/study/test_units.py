"""Quantities: values in internal units, refusals that say what to write."""

from typing import get_args

import pytest

from ulmek.core.errors import UnitError
from ulmek.study.units import EXAMPLES, INTERNAL, SYSTEMS, Kind, spoken, value_of


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("18 kN", "force", 18e3),
        ("0.005 in", "length", 0.127),
        ("210 GPa", "stress", 210e3),
        ("-2.5e-3 m", "length", -2.5),
        ("1000 lbf", "force", 4448.2216152605),
        ("7850 kg/m^3", "density", 7.85e-9),
        ("180 deg", "angle", 3.141592653589793),
        ("12µm", "length", 0.012),
    ],
)
def test_values(text: str, kind: str, value: float) -> None:
    assert value_of(text, kind) == pytest.approx(value, rel=1e-12)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "kind", "said"),
    [
        ("18", "force", "no unit"),
        ("18 mmm", "length", "not a known unit"),
        ("18 mm", "force", "is not a force"),
        ("abc", "length", "not a number"),
        ("nan mm", "length", "not a number"),
        ("", "length", "not a number"),
        ("1 mm; import os", "length", "not a number"),
        ("2 mm^99", "length", "not a unit"),
        ("1 mm**9", "length", "not a unit"),
    ],
)
def test_refusals_say_what_is_wrong_and_give_an_example(text: str, kind: str, said: str) -> None:
    with pytest.raises(UnitError) as caught:
        value_of(text, kind)  # type: ignore[arg-type]
    assert said in caught.value.message
    assert "Write a" in caught.value.hint


def test_every_quantity_has_its_unit_and_an_example_that_it_measures() -> None:
    assert set(get_args(Kind)) == set(INTERNAL) == set(EXAMPLES)
    for kind, example in EXAMPLES.items():
        assert value_of(example.split(" or ")[0], kind) > 0


def test_unit_systems_have_units_of_every_kind() -> None:
    first = next(iter(SYSTEMS.values()))
    for kind in get_args(Kind):
        unit, factor = spoken(kind)
        assert value_of(f"1 {unit}", kind) * factor == pytest.approx(1.0, rel=1e-11)
        for name, units in SYSTEMS.items():
            assert len(units[kind]) <= len(first[kind]), name
            assert units[kind][-1][1] == 0
            assert all(value_of(f"1 {unit}", kind) > 0 for unit, _ in units[kind])
