"""Keys differ where what they cover differs, and are the same where it is the same."""

import dataclasses
from dataclasses import dataclass

import numpy as np
import pytest

from tests.conftest import block_body
from ulmek.core.keys import structure_key, value, whole_key
from ulmek.core.model import Face, Pair, PairLaw


@dataclass(frozen=True)
class Item:
    """Something with a structure and a value."""

    name: str
    sizes: tuple[float, ...]
    load: float = value(default=0.0)


def test_values_count_in_the_whole_key_only() -> None:
    one, other = Item("a", (1.0, 2.0), 5.0), Item("a", (1.0, 2.0), 6.0)
    assert structure_key(one) == structure_key(other)
    assert whole_key(one) != whole_key(other)
    assert structure_key(one) != structure_key(dataclasses.replace(one, sizes=(1.0, 2.5)))


@pytest.mark.parametrize(
    ("one", "other"),
    [
        (("ab", "c"), ("a", "bc")),
        ((1, (2, 3)), ((1, 2), 3)),
        (("1",), (1,)),
        ((1,), (1.0,)),
        ((True,), (1,)),
        ((None,), ("None",)),
        (np.arange(4), np.arange(4).reshape(2, 2)),
        (np.arange(4), np.arange(4.0)),
        ({"a": 1, "b": 2}, {"a": 2, "b": 1}),
        (frozenset({"a"}), frozenset({"b"})),
    ],
)
def test_what_is_not_the_same_has_another_key(one: object, other: object) -> None:
    assert whole_key(one) != whole_key(other)


def test_the_order_of_a_table_does_not_count_and_equal_meshes_are_equal() -> None:
    assert whole_key({"a": 1, "b": 2}) == whole_key({"b": 2, "a": 1})
    assert whole_key(block_body("b", (20, 20, 10), 10)) == whole_key(block_body("b", (20, 20, 10), 10))
    assert whole_key(block_body("b", (20, 20, 10), 10)) != whole_key(block_body("b", (20, 20, 10), 5))


def test_of_a_law_only_the_rows_that_it_needs_are_structure() -> None:
    def pair(law: PairLaw) -> Pair:
        return Pair("p", (Face("a", "top"),), (Face("b", "bottom"),), law, 1.0)

    friction = structure_key(pair(PairLaw(True, "friction", 0.2)))
    assert friction == structure_key(pair(PairLaw(True, "friction", 0.4))) == structure_key(pair(PairLaw(True, "no")))
    assert friction != structure_key(pair(PairLaw(True, "freely")))
    # Friction of nothing needs no tangential rows.
    assert structure_key(pair(PairLaw(True, "friction", 0.0))) == structure_key(pair(PairLaw(True, "freely")))


def test_what_has_no_key_is_refused_rather_than_passed_over() -> None:
    with pytest.raises(TypeError, match="has no key"):
        whole_key((object(),))
