"""Work that may take long, hang or crash (free-form solids, large meshes): done by a process of its own, which is
watched and can be stopped. Without open workshops (command line, run worker) the same work is done in place.
"""

import itertools
import math
import multiprocessing
import os
import resource
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext
from typing import Any, Literal, TypeVar

from ulmek.core.errors import MeshError, StoppedError, UlmekError
from ulmek.core.geometry.kernel import MODULES

Result = TypeVar("Result")
# Parts are meshed, cut and measured in one workshop, studies checked in another: a check waits for meshes of the first.
# Reports and animations are made in a third.
Shop = Literal["parts", "checks", "papers"]
# Workshops whose work people see going on, and may stop.
SEEN: tuple[Shop, ...] = ("parts", "papers")
# Processes of each workshop at a time; bytes of memory and seconds that one piece of work on a part may take.
HANDS, MEMORY, SECONDS = 2, 6 << 30, 900.0
# Seconds between looks at whether the work was stopped.
LOOK = 0.05


@dataclass
class Job:
    """A piece of work that goes on: what it is done on, the stage it is at, and the share done (0 to 1)."""

    id: int
    title: str
    began: float = field(default_factory=time.monotonic)
    stage: str = "waiting"
    share: float = 0.0
    is_stopped: bool = False


_numbers = itertools.count(1)
# What to do where work on a part was stopped, and where it broke down.
ADVICE = (
    "Mesh it again, or enlarge its element size.", "Enlarge its element size, or mend it where it was drawn."
)  # fmt: skip


class Workshop:
    """Gives work to processes of its own, each of which is used again while nothing goes wrong; one piece may take
    ``seconds``, and gives way to other processes by ``niceness``."""

    def __init__(self, seconds: float = SECONDS, niceness: int = 0, *, advice: tuple[str, str] = ADVICE) -> None:
        self._seconds, self._niceness = seconds, niceness
        self._if_stopped, self._if_broken = advice
        self._jobs: dict[int, Job] = {}
        self._lock = threading.Lock()
        self._free = threading.BoundedSemaphore(HANDS)
        self._idle: list[tuple[Any, Connection]] = []

    def do(self, title: str, function: Callable[..., Result], *args: Any) -> Result:
        """What ``function``, importable by name, makes of the arguments.

        Raises
        ------
        StoppedError : the work was stopped. MeshError : it took too long or too much memory, or crashed.
        UlmekError : as the function raises it.
        """
        job = Job(next(_numbers), title)
        with self._lock:
            self._jobs[job.id] = job
        try:
            while not self._free.acquire(timeout=LOOK):
                self._require_going(job)
            try:
                return self._done(job, function, args)
            finally:
                self._free.release()
        finally:
            with self._lock:
                del self._jobs[job.id]

    def jobs(self) -> list[Job]:
        """What goes on now, the oldest first."""
        with self._lock:
            return list(self._jobs.values())

    def stop(self, job_id: int) -> None:
        """Stop a piece of work; one that has ended is left as it is."""
        with self._lock:
            if job_id in self._jobs:
                self._jobs[job_id].is_stopped = True

    def close(self) -> None:
        """Stop all work and let the processes go."""
        for job in self.jobs():
            job.is_stopped = True
        with self._lock:
            idle, self._idle = self._idle, []
        for process, pipe in idle:
            pipe.close()
            process.kill()

    def _done(self, job: Job, function: Callable[..., Result], args: tuple[Any, ...]) -> Result:
        with self._lock:
            hand = self._idle.pop() if self._idle else None
        process, pipe = hand or _hired(self._niceness)
        answered = False
        try:
            pipe.send((function, args))
            while True:
                self._require_going(job)
                if not pipe.poll(LOOK):
                    continue
                kind, value = pipe.recv()
                if kind == "stage":
                    job.stage, job.share = value
                    continue
                if kind == "asks":
                    pipe.send(_outcome(*value))
                    continue
                answered = True
                if kind == "refused":
                    raise value
                return value  # type: ignore[no-any-return]
        except (EOFError, BrokenPipeError, ConnectionResetError):
            raise MeshError(f"working on {job.title} broke down.", hint=self._if_broken) from None
        finally:
            if answered:
                with self._lock:
                    self._idle.append((process, pipe))
            else:
                pipe.close()
                process.kill()

    def _require_going(self, job: Job) -> None:
        if job.is_stopped:
            raise StoppedError(f"work on {job.title} was stopped.", hint=self._if_stopped)
        if time.monotonic() - job.began > self._seconds:
            raise MeshError(
                f"work on {job.title} was given up after {self._seconds / 60:.0f} minutes.",
                hint="Enlarge its element size.",
            )


def forked() -> ForkServerContext:
    """Where processes come from: forked from one that has loaded geometry and meshing once, which takes longer than
    most of what they do."""
    found = multiprocessing.get_context("forkserver")
    found.set_forkserver_preload(["ulmek.study.step_files", *(f"OCP.{module}" for module in MODULES)])
    return found


def _hired(niceness: int) -> tuple[Any, Connection]:
    ours, theirs = forked().Pipe()
    process = forked().Process(target=_work, args=(theirs, niceness), daemon=True)
    process.start()
    theirs.close()
    return process, ours


_pipe: Connection | None = None
_workshops: dict[Shop, Workshop] = {}


def _work(pipe: Connection, niceness: int) -> None:
    """A hand of the workshop: does what it is told until nobody is there any more."""
    global _pipe
    _pipe = pipe
    os.nice(niceness)
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    while True:
        try:
            function, args = pipe.recv()
        except EOFError:
            return
        pipe.send(_outcome(function, args))


def _outcome(function: Callable[..., Any], args: tuple[Any, ...]) -> tuple[str, Any]:
    """What the function makes of the arguments, or why it does not."""
    try:
        return "done", function(*args)
    except UlmekError as error:
        return "refused", error
    except MemoryError:
        return "refused", MeshError("it takes more memory than one part may.", hint="Enlarge its element size.")


def at_home(function: Callable[..., Result], *args: Any) -> Result:
    """``function``, importable by name, of the arguments, done by the process that gave this one its work.

    Raises
    ------
    UlmekError : as the function raises it.
    """
    if _pipe is None:
        return function(*args)
    _pipe.send(("asks", (function, args)))
    kind, value = _pipe.recv()
    if kind == "refused":
        raise value
    return value  # type: ignore[no-any-return]


def report(stage: str, share: float) -> None:
    """Say how far the work in this process is; nobody hears it where work is done in place."""
    if _pipe is not None:
        _pipe.send(("stage", (stage, share)))


def open_workshops() -> None:
    """From now on `aside` gives work to other processes."""
    _workshops["parts"], _workshops["checks"] = Workshop(), Workshop(math.inf, niceness=10)
    again = "Make it again."
    _workshops["papers"] = Workshop(math.inf, niceness=10, advice=(again, f"{again} Fewer fields or frames take less."))


def close_workshops() -> None:
    """From now on `aside` works in place."""
    for workshop in _workshops.values():
        workshop.close()
    _workshops.clear()


def jobs_aside() -> list[Job]:
    """What goes on in the workshops that people see, the oldest first."""
    found = [job for shop in SEEN if shop in _workshops for job in _workshops[shop].jobs()]
    return sorted(found, key=lambda job: job.id)


def stop_aside(job_id: int) -> None:
    """Stop a piece of work."""
    for shop in SEEN:
        if shop in _workshops:
            _workshops[shop].stop(job_id)


def aside(title: str, function: Callable[..., Result], *args: Any, shop: Shop = "parts") -> Result:
    """``function`` of the arguments, by the open workshop or else in place; raises as `Workshop.do`."""
    return _workshops[shop].do(title, function, *args) if _workshops else function(*args)
