"""Answers about a study are made once for a revision, and quick edits do not queue up behind each other."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

from ulmek.api.latest import LatestAnswers
from ulmek.core.errors import InputError
from ulmek.store.records import StudyRecord


def _record(revision: int) -> StudyRecord:
    return StudyRecord(id=1, title="Study", revision=revision, document="{}")


def test_ten_edits_in_a_row_cost_two_answers_and_all_hear_the_newest() -> None:
    stands, made, begun, may_end = [1], [], threading.Event(), threading.Event()

    def make(record: StudyRecord) -> int:
        made.append(record.revision)
        begun.set()
        assert may_end.wait(10)
        return record.revision

    answers = LatestAnswers(make)
    with ThreadPoolExecutor(10) as askers:
        asked = [askers.submit(answers.of, lambda: _record(stands[0]), 1)]
        assert begun.wait(10)
        for revision in range(2, 10):
            stands[0] = revision
            asked.append(askers.submit(answers.of, lambda: _record(stands[0]), 1))
        may_end.set()
        heard = [a.result(10) for a in asked]
    assert heard == [1] + [9] * 8
    assert made == [1, 9]
    answers.forget()
    assert answers.of(lambda: _record(9), 1) == 9
    assert made == [1, 9, 9]


def test_what_cannot_be_answered_is_asked_again() -> None:
    def refuse(_: StudyRecord) -> int:
        raise InputError("no.")

    answers = LatestAnswers(refuse)
    for _ in range(2):
        with pytest.raises(InputError):
            answers.of(lambda: _record(1), 1)
