"""A series: its samples given to workers, what they came to kept as files, whatever becomes of who solved them.

A sample is solved once it has its file in the folder of the series; all others are given out, again and again while
workers are lost, a cluster goes away, or this process is started anew.
"""

import hashlib
import json
import os
import statistics
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, Any

from pydantic import BaseModel

from ulmek.core.errors import InputError, SolveError, StoppedError, UnknownNameError
from ulmek.runs.cluster import address, connected
from ulmek.runs.sample import SampleResult, solve_sample
from ulmek.study.items import StudyDocument, read_study
from ulmek.study.items.series import SeriesUse
from ulmek.study.preflight import preflight
from ulmek.study.sampling import Input, Sample, changes_of, inputs_of, samples_of
from ulmek.study.variants import OF_ASKING

if TYPE_CHECKING:
    from distributed import Client, Future

SAMPLES, STUDY, STOP = "samples", "study.ulmek.json", "stop"
# Entries whose values the factors of a stiffness serve, see `CondensedPath.serves`.
SERVED = ("pairs", "contacts", "loads", "bolts", "steps")
# A sample may take so many times what the others took (the median), and never less than so many seconds.
MANY_TIMES, LEAST_SECONDS, FIRST_SECONDS = 20.0, 120.0, 86_400.0
# Seconds between looks at what has come; for how long a cluster that went away is waited for; between tries.
LOOK, GONE_PATIENCE, TRY_AGAIN = 0.2, 600.0, 2.0
# Samples given out ahead for each worker; workers that a sample may cost before it is given up.
AHEAD, TRIES = 3, 3


class Progress(BaseModel):
    """How far a series is: samples that are done, of how many, workers, seconds that are left (None: not known yet),
    and what holds it up."""

    done: int
    of: int
    workers: int = 0
    left: float | None = None
    trouble: str = ""


Tell = Callable[[Progress], None]


def series_of(study: StudyDocument, key: str | None = None) -> SeriesUse:
    """The series of a study with an id or a name; the only one where none is asked for.

    Raises
    ------
    UnknownNameError : there is none.
    """
    found = [s for s in study.series if key in (None, s.id, s.name)]
    if not found or (key is None and len(found) > 1):
        known = ", ".join(s.id for s in study.series) or "none"
        told = f"there is no series '{key}'." if key else "which series is meant?"
        raise UnknownNameError(told, where="series", hint=f"Known: {known}.")
    return found[0]


def run_series(
    study: StudyDocument, series: SeriesUse, folder: Path, *, tell: Tell = lambda _: None
) -> list[SampleResult]:
    """Solve what is not solved yet of a series, and read all of it.

    In ``folder`` stand the study and a file for each sample; a file ``stop`` there stops it.

    Raises
    ------
    UlmekError : the study or the series cannot be run, the folder is of another study, or a cluster stays away;
    StoppedError : on request.
    """
    inputs, samples = inputs_of(study, series), samples_of(study, series)
    (folder / SAMPLES).mkdir(parents=True, exist_ok=True)
    text = _solved_of(study)
    if (folder / STUDY).exists() and _solved_of(read_series_study(folder)) != text:
        raise InputError(
            "the folder has samples of another study.", where=str(folder), hint="Name another folder, or empty it."
        )
    (folder / STUDY).write_text(study.model_dump_json(indent=2))
    keys = {s.number: _key(text, inputs, s) for s in samples}
    # One of another plan has the number, but not the values.
    done = {r.number: r.values for r in read_samples(folder)}
    missing = sorted((s for s in samples if done.get(s.number) != s.values), key=lambda s: keys[s.number])
    for sample in missing:
        _file(folder, sample.number).unlink(missing_ok=True)
    if missing:
        size = preflight(study).size
        memory = 0.0 if size is None else size.memory_mb * 1e6
        _Given(text, inputs, keys, folder, len(samples), tell).solve(missing, memory)
    return read_samples(folder)[: len(samples)]


def _solved_of(study: StudyDocument) -> str:
    """What samples are solved of: the study without how it is asked."""
    return study.model_dump_json(exclude=set(OF_ASKING))


def read_samples(folder: Path) -> list[SampleResult]:
    """What is solved of a series, in order; a file that cannot be read counts as not solved."""
    out = []
    for path in sorted((folder / SAMPLES).glob("*.json")):
        with suppress(ValueError, OSError):
            out.append(SampleResult.model_validate_json(path.read_text()))
    return out


def read_series_study(folder: Path) -> StudyDocument:
    """The study that a series in a folder is of."""
    return read_study((folder / STUDY).read_bytes())


def _file(folder: Path, number: int) -> Path:
    return folder / SAMPLES / f"{number:05d}.json"


def _key(text: str, inputs: list[Input], sample: Sample) -> str:
    """What tells apart samples that need factors of their own."""
    stiff = [
        (i.use.id, sample.values.get(i.use.id))
        for i in inputs
        if any(path.strip("/").split("/")[0] not in SERVED for path in i.use.paths)
    ]
    return hashlib.sha256((text + json.dumps(stiff)).encode()).hexdigest()[:16]


class _Given:
    """Gives samples to a cluster, and keeps what comes back."""

    def __init__(self, text: str, inputs: list[Input], keys: dict[int, str], folder: Path, of: int, tell: Tell) -> None:
        self.text, self.inputs, self.keys, self.folder, self.of, self.tell = text, inputs, keys, folder, of, tell
        self.took: list[float] = []
        self.began = time.monotonic()
        self.done_before = 0

    def solve(self, missing: list[Sample], memory: float) -> None:
        """Solve all of ``missing``, on a cluster that may go away and come back."""
        self.done_before = self.of - len(missing)
        gone_since: float | None = None
        while missing:
            before = len(missing)
            try:
                with connected(memory) as client:
                    gone_since = None
                    missing = self._on(client, missing)
            except StoppedError:
                raise
            except (SolveError, OSError, TimeoutError, _Lost) as error:
                done = {r.number for r in read_samples(self.folder)}
                missing = [s for s in missing if s.number not in done]
                now = time.monotonic()
                gone_since = now if gone_since is None or len(missing) < before else gone_since
                # This machine's own cluster that cannot be started will not be a moment later either.
                if address() is None or now - gone_since > GONE_PATIENCE:
                    raise SolveError(f"the samples cannot be given out: {error}.") from None
                self._told(len(missing), 0, f"The cluster is gone; it is waited for. ({error})")
                self._rest()

    def _rest(self) -> None:
        until = time.monotonic() + TRY_AGAIN
        while time.monotonic() < until:
            self._stop_if_asked()
            time.sleep(LOOK)

    def _on(self, client: "Client", missing: list[Sample]) -> list[Sample]:
        """Solve on one cluster; returns what is missing then, which is nothing unless it raises."""
        waiting, given = list(missing), dict[int, tuple["Future", Sample]]()
        homes: dict[str, str] = {}
        tries: dict[int, int] = {}
        self._told(len(missing), len(self._workers(client)), "")
        try:
            while waiting or given:
                self._stop_if_asked()
                workers = self._workers(client)
                while waiting and len(given) < AHEAD * max(1, len(workers)):
                    sample = waiting.pop(0)
                    given[sample.number] = (self._give(client, sample, homes, workers), sample)
                came = self._came(given)
                for number in came:
                    future, sample = given.pop(number)
                    tries[number] = tries.get(number, 0) + 1
                    if future.status == "error" and tries[number] < TRIES:
                        waiting.append(sample)
                    else:
                        self._keep(future, sample)
                if came:
                    self._told(len(waiting) + len(given), len(workers), "")
                else:
                    time.sleep(LOOK)
        finally:
            with suppress(Exception):
                client.cancel([future for future, _ in given.values()], force=True)
        return []

    def _workers(self, client: "Client") -> list[str]:
        if client.status != "running":
            raise _Lost("it does not answer any more")
        return sorted(client.scheduler_info(n_workers=-1)["workers"])

    def _give(self, client: "Client", sample: Sample, homes: dict[str, str], workers: list[str]) -> "Future":
        key = self.keys[sample.number]
        home = homes.get(key)
        if len(set(self.keys.values())) > 1 and workers and home not in workers:
            # Each stiffness has a worker of its own, in turn.
            home = homes[key] = workers[len(homes) % len(workers)]
        bare = SampleResult(number=sample.number, values=sample.values, status="failed")
        changes = [c.model_dump(mode="json") for c in changes_of(self.inputs, sample)]
        most = max(LEAST_SECONDS, MANY_TIMES * statistics.median(self.took)) if len(self.took) > 2 else FIRST_SECONDS
        return client.submit(
            solve_sample, self.text, bare.model_dump_json(), changes, key, most, pure=False,
            workers=[home] if home else None, allow_other_workers=home is not None,
        )  # fmt: skip

    def _came(self, given: dict[int, tuple["Future", Sample]]) -> list[int]:
        """Samples that are done, one way or the other."""
        states = {number: future.status for number, (future, _) in given.items()}
        if any(state in ("cancelled", "lost") for state in states.values()):
            raise _Lost("it has forgotten what it was given")
        return [number for number, state in states.items() if state in ("finished", "error")]

    def _keep(self, future: "Future", sample: Sample) -> None:
        """Write what a sample came to, whole or not at all."""
        if future.status == "finished":
            text = str(future.result())
            self.took.append(SampleResult.model_validate_json(text).seconds)
        else:
            told: Any = future.exception()
            text = SampleResult(
                number=sample.number, values=sample.values, status="failed",
                message=f"no worker could solve it: {type(told).__name__}: {told}",
            ).model_dump_json()  # fmt: skip
        path = _file(self.folder, sample.number)
        part = path.with_suffix(".part")
        part.write_text(text)
        os.replace(part, path)

    def _told(self, missing: int, workers: int, trouble: str) -> None:
        done = self.of - missing
        here = done - self.done_before
        left = (time.monotonic() - self.began) / here * missing if here else None
        self.tell(Progress(done=done, of=self.of, workers=workers, left=left, trouble=trouble))

    def _stop_if_asked(self) -> None:
        if (self.folder / STOP).exists():
            raise StoppedError("stopped on request; the samples so far are kept.")


class _Lost(Exception):
    """A cluster went away while it had samples."""
