"""Answers about a study as it stands, made once for each revision: who asks in the meantime gets the newest."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

from ulmek.store.records import StudyRecord

Answer = TypeVar("Answer")
# Studies whose latest answer is kept.
MOST_KEPT = 50


class LatestAnswers(Generic[Answer]):
    """Keeps the answer of the latest revision of each study.

    While one is being made, whoever asks waits; then all of them are answered by one more, of the newest revision:
    ten quick edits cost two answers, not ten one after another.
    """

    def __init__(self, make: Callable[[StudyRecord], Answer]) -> None:
        self._make = make
        self._lock = threading.Lock()
        self._turns: dict[int, threading.Lock] = {}
        self._kept: OrderedDict[int, tuple[int, Answer]] = OrderedDict()

    def of(self, read: Callable[[], StudyRecord], study_id: int) -> Answer:
        """The answer for the study as ``read`` finds it when its turn comes; raises what making it raises."""
        with self._lock:
            turn = self._turns.setdefault(study_id, threading.Lock())
        with turn:
            record = read()
            with self._lock:
                kept = self._kept.get(study_id)
            if kept is not None and kept[0] == record.revision:
                return kept[1]
            answer = self._make(record)
            with self._lock:
                self._kept[study_id] = record.revision, answer
                self._kept.move_to_end(study_id)
                while len(self._kept) > MOST_KEPT:
                    self._kept.popitem(last=False)
            return answer

    def forget(self) -> None:
        """Make every answer anew: something besides the studies has changed."""
        with self._lock:
            self._kept.clear()
