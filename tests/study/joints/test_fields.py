"""The table that the page draws joints from says all that documents can say of them."""

from typing import get_args

import pytest

from ulmek.study.items.joint import ASKS
from ulmek.study.joints.fields import SORTS_IN_WORDS, JointSort
from ulmek.study.joints.kinds import MAKERS


def test_the_tables_of_joints_have_the_same_kinds() -> None:
    assert [s.kind for s in SORTS_IN_WORDS] == list(ASKS) == list(MAKERS)


@pytest.mark.parametrize("sort", SORTS_IN_WORDS, ids=lambda s: s.kind)
def test_every_entry_has_a_control_that_offers_what_the_schema_allows(sort: JointSort) -> None:
    schema = ASKS[sort.kind].model_fields
    assert {f.name for f in sort.fields} == set(schema) - {"kind"}
    for field in sort.fields:
        kind = schema[field.name].annotation
        if field.control == "choice":
            assert {value for value, _ in field.options} == set(get_args(kind))
        assert (kind is bool) == (field.control == "switch")
        for other, values in field.shown_if.items():
            assert set(values) <= set(get_args(schema[other].annotation))
