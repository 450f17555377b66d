"""Long loops over many things, shared out to the cores.

The kernels let go of the interpreter while they work, so plain threads do: a loop that numba makes parallel itself
takes four times as long to compile and answers no sooner.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from typing import Any

# Fewer things than this are not worth a second thread; more than so many chunks for each core are not worth theirs.
LEAST = 64
CHUNKS = 4
# Cores that this process may use: two runs side by side have their share each.
CORES = int(os.environ.get("ULMEK_THREADS", os.cpu_count() or 1))


def share_out(kernel: Callable[..., Any], n: int, *arguments: Any) -> None:
    """Call ``kernel(first, last, *arguments)`` for ranges that cover 0…``n``, several at once where that pays.

    The kernel must write only what belongs to its range, and be compiled to work without the interpreter (`nogil`).
    """
    if n < LEAST or CORES == 1:
        kernel(0, n, *arguments)
        return
    chunks = min(n // (LEAST // 2), CHUNKS * CORES)
    ends = [n * i // chunks for i in range(chunks + 1)]
    list(_hands(os.getpid()).map(lambda first, last: kernel(first, last, *arguments), ends[:-1], ends[1:]))


@cache
def _hands(_process: int) -> ThreadPoolExecutor:
    """Threads of this process: those of the one it was forked from do not live on in it."""
    return ThreadPoolExecutor(CORES, thread_name_prefix="elements")
