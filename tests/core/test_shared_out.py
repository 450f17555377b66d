"""A loop shared out to threads does every thing once, in ranges, and tells what goes wrong in one of them."""

import threading

import numpy as np
import pytest

from ulmek.core.shared_out import LEAST, share_out


@pytest.mark.parametrize("n", [0, 1, LEAST - 1, LEAST, 1000])
def test_every_thing_is_done_once(n: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("ulmek.core.shared_out.CORES", 3)
    done, lock, ranges = np.zeros(n, int), threading.Lock(), []

    def kernel(first: int, last: int, out: np.ndarray, by: int) -> None:
        with lock:
            ranges.append((first, last))
        out[first:last] += by

    share_out(kernel, n, done, 7)
    assert (done == 7).all()
    assert (len(ranges) > 1) == (n >= LEAST)
    # No chunk is so small that handing it on takes longer than doing it.
    assert all(last - first >= LEAST // 4 for first, last in ranges) or n < LEAST


def test_what_goes_wrong_in_a_range_is_told() -> None:
    def kernel(first: int, last: int) -> None:
        if first <= 700 < last:
            raise ValueError("element 700")

    with pytest.raises(ValueError, match="element 700"):
        share_out(kernel, 1000)
