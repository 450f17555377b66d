"""The bordered block against the whole dense system: rows that came, left, changed their spring, or slide."""

import numpy as np
import pytest

from ulmek.core.solve.plain_block import Lines, PlainBlock, Scratch

N = 60


def _matrix(rng: np.random.Generator, *, worst: float = 1e3) -> np.ndarray:
    q, _ = np.linalg.qr(rng.normal(size=(N, N)))
    return (q * np.geomspace(1.0, worst, N)) @ q.T


def _case(seed: int, worst: float):  # type: ignore[no-untyped-def]
    """A block of some plain rows, and what is asked after: extra, removed, altered and watched rows."""
    rng = np.random.default_rng(seed)
    order = rng.permutation(N)
    in_block, extra, watched = np.sort(order[:30]), np.sort(order[30:42]), np.sort(order[42:48])
    stiff = np.where(rng.random(N) < 0.5, rng.uniform(0, 50, N), 0.0)
    block = PlainBlock(_matrix(rng, worst=worst), in_block, stiff, scratch=Scratch())
    now = stiff.copy()
    altered = in_block[:3]
    now[altered] += 20.0
    left = in_block[3:7]
    return rng, block, extra, watched, altered, left, now


@pytest.mark.parametrize("worst", [1e3, 1e10])
@pytest.mark.parametrize("seed", range(6))
def test_the_bordered_system_is_the_whole_one(seed: int, worst: float) -> None:
    """Σ α F + β M of every line, and every plain row, hold for the solution; badly conditioned ones in double."""
    rng, block, extra, watched, altered, left, stiff = _case(seed, worst)
    a = block.matrix
    pull, load = rng.normal(size=N), rng.normal(size=N)
    unknown = np.zeros(N, bool)
    unknown[np.setdiff1d(np.concatenate([block.rows, extra]), left)] = True
    known = np.where(unknown, 0.0, rng.normal(size=N))
    removed = np.sort(np.concatenate([altered, left]))
    outside = known.copy()
    outside[block.rows] = 0.0
    # Twice: the second time all columns are known, and others join them.
    block.special(extra[:5], removed, watched[:2], load - a @ outside, pull, known)
    special, y = block.special(extra, removed, watched, load - a @ outside, pull, known)

    rows = special.rows[special.lines]
    moves = unknown[rows]
    at = np.zeros((len(rows), 3), np.int64)
    force, motion = np.zeros((2, len(rows), 3))
    at[:, 0], force[:, 0], motion[:, 0] = special.lines, moves, np.where(moves, stiff[rows], 1.0)
    right = np.where(moves, pull[rows], known[rows])
    # Three lines mix the force of a watched row with force and motion of two extra ones, as sliding nodes do.
    for k in range(3):
        at[k] = [k, k + 3, len(extra) + k]
        force[k], motion[k] = [0.8, 0.6, -0.3], [5.0, -2.0, 0.0]
        right[k] = 0.1 * k
    lines = Lines(at, force, motion, right)
    solution = block.solve(special, lines)
    z = known.copy()
    z[block.rows] = block.finish(y, special, solution)
    z[extra] = solution[: len(extra)]

    pulled = a @ z - load
    f, m = pulled[special.rows], z[special.rows]
    scale = max(np.abs(pulled).max(), np.abs(a).max() * np.abs(z).max())
    met = (force * f[at] + motion * m[at]).sum(axis=1)
    assert np.abs(met - right).max() < 1e-10 * scale
    assert np.allclose(z[left], known[left], atol=1e-10 * np.abs(z).max())
    plain = np.setdiff1d(block.rows, removed)
    assert np.abs(pulled[plain] + stiff[plain] * z[plain] - pull[plain]).max() < 1e-10 * scale
    if worst < 1e6:
        assert not block.needs_double


def test_a_block_is_kept_for_few_changes_and_not_for_many() -> None:
    rng = np.random.default_rng(9)
    stiff = np.zeros(N)
    block = PlainBlock(_matrix(rng), np.arange(40), stiff, scratch=Scratch())
    assert block.changes(np.arange(40), stiff) == 0
    assert block.changes(np.arange(2, 45), stiff) == 7
    stiffer = stiff.copy()
    stiffer[:4] = 1.0
    assert block.changes(np.arange(40), stiffer) == 4
    with pytest.raises(np.linalg.LinAlgError):
        PlainBlock(-_matrix(rng), np.arange(40), stiff, scratch=Scratch())
