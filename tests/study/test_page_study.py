"""The study that tests of the page use is one that the server answers: all kinds of items, written out as it would."""

import json
from pathlib import Path
from typing import get_args

from ulmek.study.items import items_of, read_study
from ulmek.study.items.kinds import KindName
from ulmek.study.translate import translate

STUDY = Path(__file__).parents[2] / "web" / "src" / "tests" / "study.json"


def test_the_study_of_the_page_s_tests_is_as_the_server_answers_it() -> None:
    text = STUDY.read_bytes()
    study = read_study(text)
    assert json.loads(text) == study.model_dump(mode="json")
    for kind in get_args(KindName):
        assert items_of(study, kind), kind
    # Every face, handle, wall and step that it names is there.
    model = translate(study)
    assert len(model.bodies) == sum(len(p.placements) for p in study.parts)
    assert {load.name for load in model.loads} == {load.id for load in study.loads}
