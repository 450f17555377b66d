"""Checkpoints on disk: which are kept, what is left half written, and results that are taken over."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ulmek.core.errors import InputError
from ulmek.core.review.fields import STORED
from ulmek.core.solve.choice import choose_path
from ulmek.runs.solve import solve_study
from ulmek.store.checkpoints import LATEST, Checkpoints
from ulmek.store.results import ResultReader, ResultWriter
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.translate import translate


@pytest.fixture
def solved(two_blocks: dict[str, Any], tmp_path: Path) -> tuple[StudyDocument, Path]:
    study = read_study({**two_blocks, "steps": [
        {**s, "increments": {"start": 0.1, "least": 0.01, "largest": 0.1}} for s in two_blocks["steps"]
    ]})  # fmt: skip
    solve_study(study, folder=tmp_path / "run")
    return study, tmp_path / "run"


def test_ends_of_steps_and_the_latest_increments_are_kept(solved: tuple[StudyDocument, Path]) -> None:
    study, folder = solved
    kept = Checkpoints(folder).numbers()
    with ResultReader(folder / "result.h5") as result:
        summaries = result.summaries()
    ends = [s.number for s in summaries if s.time == 1.0]
    between = [s.number for s in summaries if s.time < 1.0][-LATEST:]
    assert kept == sorted({*ends, *between})
    path, _ = choose_path(translate(study))
    for number in (ends[0], between[0]):
        increment, records = Checkpoints(folder).take_up(path, number)
        assert increment.number == number
        assert sum(r.increments for r in records) == number
        assert increment.bolt_force.shape == (0,)
    with pytest.raises(InputError, match="no checkpoint 1"):
        Checkpoints(folder).take_up(path, 1)
    with pytest.raises(InputError, match="no checkpoint to go on from"):
        Checkpoints(folder / "elsewhere").take_up(path)


def test_what_a_killed_writer_left_half_written_is_not_a_checkpoint(solved: tuple[StudyDocument, Path]) -> None:
    study, folder = solved
    before = Checkpoints(folder).numbers()
    (folder / "checkpoints" / "unfinished").write_bytes(b"PK\x03\x04 half")
    assert Checkpoints(folder).numbers() == before
    path, _ = choose_path(translate(study))
    assert Checkpoints(folder).take_up(path)[0].number == before[-1]
    # Another archive of the right form, with the wrong content, is told as damaged.
    wrong = folder / "checkpoints" / "99999-between.npz"
    np.savez(wrong, header=np.array(json.dumps({"format": 2, "path": "condensed"})))
    with pytest.raises(InputError, match="damaged"):
        Checkpoints(folder).take_up(path)


def test_a_result_taken_over_has_the_first_increments_of_the_other(
    solved: tuple[StudyDocument, Path], tmp_path: Path
) -> None:
    study, folder = solved
    path, _ = choose_path(translate(study))
    writer = ResultWriter(tmp_path / "new.h5", path.model, path.start(), [])
    writer.take_over(folder / "result.h5", 4)
    writer.close(finished=False)
    with ResultReader(folder / "result.h5") as old, ResultReader(tmp_path / "new.h5") as new:
        assert new.count() == 4
        assert new.summaries() == old.summaries()[:4]
        assert new.file["VTKHDF/Steps"].attrs["NSteps"] == len(new.file["VTKHDF/Steps/Values"]) == 4
        for name in STORED:
            assert np.array_equal(new.point_field(name, 3), old.point_field(name, 3))
        assert np.array_equal(new.pair_field("joint", "pressure", 2), old.pair_field("joint", "pressure", 2))
