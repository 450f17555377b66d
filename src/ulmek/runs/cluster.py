"""Where samples are solved: workers of this machine, started when needed, or those of a cluster that is there already.

Dask does the work: an embedded cluster of as many processes as the machine has cores and memory for, or what
``ULMEK_CLUSTER`` names (``tcp://…`` or ``tls://…``, see docs/clusters.md).
"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from ulmek.core.errors import SolveError
from ulmek.core.shared_out import CORES
from ulmek.core.solve.forecast import room

if TYPE_CHECKING:
    from distributed import Client

ADDRESS = "ULMEK_CLUSTER"
THREADS = ("ULMEK_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS", "OPENBLAS_NUM_THREADS")
# Seconds that a cluster may take to answer.
PATIENCE = 20.0
# Memory is watched, not moved to the disk: workers keep factors, and nothing that could be put aside.
CONFIGURED = {
    "distributed.worker.memory.target": False,
    "distributed.worker.memory.spill": False,
    "distributed.worker.memory.pause": False,
    "distributed.worker.memory.terminate": 0.95,
    "distributed.scheduler.allowed-failures": 1,
    # Nothing is told by HTTP.
    "distributed.scheduler.http.routes": [],
    "distributed.worker.http.routes": [],
}


def address() -> str | None:
    """The cluster that is there already, if one is named."""
    return os.environ.get(ADDRESS) or None


def workers_for(memory: float) -> int:
    """Workers of this machine for models that take so many bytes each."""
    return max(1, min(CORES, int(room() / max(memory, 1.0))))


@contextmanager
def connected(memory: float) -> Iterator["Client"]:
    """A client of the cluster: the one that is named, or one of this machine alone whose workers have room for models
    of so many bytes.

    Raises
    ------
    SolveError : the cluster that is named does not answer.
    """
    import dask
    from distributed import Client, LocalCluster
    from distributed.security import Security

    with dask.config.set(CONFIGURED):
        if (named := address()) is not None:
            try:
                client = Client(named, timeout=PATIENCE, set_as_default=False)
            except (OSError, TimeoutError, ValueError) as error:
                raise SolveError(
                    f"the cluster {named} does not answer: {error}.",
                    hint=f"Start its scheduler, or unset {ADDRESS}: then this machine does the work.",
                ) from None
            with client:
                yield client
            return
        number = workers_for(memory)
        # Only who has the keys of this cluster can give it work.
        security = Security.temporary()
        with (
            _environment(dict.fromkeys(THREADS, str(max(1, CORES // number)))),
            LocalCluster(
                n_workers=number, threads_per_worker=1, processes=True, protocol="tls://", host="127.0.0.1",
                security=security, dashboard_address="127.0.0.1:0", memory_limit=int(room() / number),
            ) as cluster,
            Client(cluster, security=security, set_as_default=False) as client,
        ):  # fmt: skip
            yield client


@contextmanager
def _environment(values: dict[str, str]) -> Iterator[None]:
    """What processes that are started meanwhile find in their environment: what counts cores does so when it is loaded,
    and Dask would put what stands in ours before what it is told."""
    before = {name: os.environ.get(name) for name in values}
    os.environ.update(values)
    try:
        yield
    finally:
        for name, value in before.items():
            if value is None:
                os.environ.pop(name, None)
            else:
                os.environ[name] = value
