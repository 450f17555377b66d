"""Contact properties shared by many pairs: a change of one is a change of all, and who has its own follows no more."""

from typing import Any

import pytest

from ulmek.study.edits import apply_edit
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.take_out import take_out
from ulmek.study.translate import translate


@pytest.fixture
def shared(two_blocks: dict[str, Any]) -> StudyDocument:
    """Two pairs that have one property."""
    first = {**two_blocks["pairs"][0], "contact": "greased"}
    second = {**first, "id": "other", "name": "Other", "a": ["slider/left"], "b": ["base/left"]}
    contact = {"id": "greased", "name": "Greased", "law": {"mu": 0.08}, "enforcement": {"method": "penalty"}}
    return read_study({**two_blocks, "pairs": [first, second], "contacts": [contact]})


def _set(study: StudyDocument, path: str, value: Any) -> StudyDocument:
    return apply_edit(study, [{"op": "add", "path": path, "value": value}])[0]


def test_pairs_have_the_law_and_the_enforcement_of_their_property(shared: StudyDocument) -> None:
    assert [(p.law.mu, p.enforcement.method) for p in shared.pairs] == [(0.08, "penalty")] * 2
    rougher = _set(shared, "/contacts/0/law/mu", 0.4)
    assert [p.law.mu for p in rougher.pairs] == [0.4, 0.4]
    (pair,) = translate(rougher.model_copy(update={"pairs": rougher.pairs[:1]})).pairs
    assert (pair.law.mu, pair.enforcement) == (0.4, "penalty")
    edited, back = apply_edit(shared, [{"op": "add", "path": "/contacts/0/law/may_slide", "value": "freely"}])
    assert [p.law.may_slide for p in edited.pairs] == ["freely", "freely"]
    assert apply_edit(edited, back)[0] == shared


def test_a_pair_that_is_given_a_law_of_its_own_follows_no_more(shared: StudyDocument) -> None:
    own = _set(shared, "/pairs/1/law/mu", 0.3)
    assert [(p.contact, p.law.mu) for p in own.pairs] == [("greased", 0.08), (None, 0.3)]
    rougher = _set(own, "/contacts/0/law/mu", 0.4)
    assert [p.law.mu for p in rougher.pairs] == [0.4, 0.3]
    back = _set(rougher, "/pairs/1/contact", "greased")
    assert back.pairs[1].law.mu == 0.4


def test_a_property_that_is_taken_out_leaves_its_pairs_as_they_are(shared: StudyDocument) -> None:
    patch, told = take_out(shared, "contact", "greased")
    left, _ = apply_edit(shared, patch)
    assert [(p.contact, p.law.mu) for p in left.pairs] == [(None, 0.08)] * 2
    assert "Changes pair" in told
