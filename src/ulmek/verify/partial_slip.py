"""Cases ``partial-slip`` and ``slip-reversed``: a cylinder pressed on a block and pushed sideways, below sliding, and
back."""

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, load, step
from ulmek.verify.hertz_line import Line, line_document

MU, SHARE = 0.4, 0.6


def partial_slip(solve: Solve) -> list[Check]:
    """Cattaneo (1938), Mindlin (1949): c/a = √(1 − Q/µP), q(x) = µp0 [√(1 − x²/a²) − c/a √(1 − x²/c²)]."""
    return [check for method in METHODS for check in _checks(solve, method)]


def slip_reversed(solve: Solve) -> list[Check]:
    """Pushed back after that (Mindlin and Deresiewicz 1953): of what the way there has left, twice the distribution of
    half the change is taken, which sticks within b/a = √(1 − (Q* − Q)/2µP); pushed back as far it is that of the way
    there turned round."""
    line = Line(share=0.02)
    study = line_document(line, space="plane-strain", mu=MU, half=False)
    q = SHARE * MU * line.force
    values = {"push": f"{q} N", "back": f"{-q} N"}
    study["loads"].append(load("push", "force", values, handle="grip", direction=[1, 0, 0]))
    study["steps"] += [step("push", 0.1), step("back", 0.05)]
    solved = solve(study)
    limit, there = MU * line.peak, 1 - np.sqrt(1 - SHARE)
    checks = []
    for time, left in ((0.75, -0.5), (1.0, -1.0)):
        at = next(k for k, s in enumerate(solved.outcome.summaries) if s.step == 2 and abs(s.time - time) < 1e-6)
        joint = solved.pair("joint", at)
        order = np.argsort(joint["points"][:, 0])
        middle = float(np.interp(0, joint["points"][order, 0], joint["frictional_stress"][order]))
        within = np.sqrt(1 - SHARE * (1 - left) / 2)
        expected = abs(limit * (there - 2 * (1 - within)))
        checks.append(Check(f"frictional stress in the middle, back to {left:g} Q*", "MPa", expected, middle, 0.04))
    force = solved.last.carrier("floor").force[0]
    return [*checks, Check("sideways force passed on, back to -1 Q*", "N", q, float(force), 1e-6)]


def _checks(solve: Solve, method: str) -> list[Check]:
    # Finer than hertz-line: friction peaks in a kink where sticking ends.
    line = Line(share=0.02)
    study = line_document(line, space="plane-strain", mu=MU, half=False, method=method)
    q = SHARE * MU * line.force
    study["loads"].append(load("push", "force", {"push": f"{q} N"}, handle="grip", direction=[1, 0, 0]))
    study["steps"].append(step("push", 0.1))
    solved = solve(study)
    joint = solved.pair("joint")
    x = joint["points"][:, 0]
    a, ratio = line.half_width, np.sqrt(1 - SHARE)
    order = np.argsort(x)
    x, traction, pressure = x[order], joint["frictional_stress"][order], joint["pressure"][order]
    peak = MU * line.peak * np.sqrt(1 - ratio**2)
    return [
        Check(
            f"half-width of sticking over that of contact, {method}",
            "–",
            ratio,
            _edge(x, traction, pressure, a) / a,
            0.04,
        ),
        Check(f"largest frictional stress, {method}", "MPa", peak, float(traction.max()), 0.04),
        Check(
            f"frictional stress in the middle, {method}",
            "MPa",
            MU * line.peak * (1 - ratio),
            float(np.interp(0, x, traction)),
            0.04,
        ),
        Check(f"sideways force passed on, {method}", "N", q, -solved.last.carrier("floor").force[0], 1e-6),
    ]


def _edge(x: np.ndarray, traction: np.ndarray, pressure: np.ndarray, a: float) -> float:
    """Half-width c of the zone that sticks: where ``(1 − q/µp)² (1 − x²/a²) = (c/a)² (1 − x²/c²)`` is zero."""
    used = pressure > 0.2 * pressure.max()
    x, missing = x[used], 1 - traction[used] / (MU * pressure[used])
    stuck = missing > 0.15
    slope, at_zero = np.polyfit(x[stuck] ** 2, missing[stuck] ** 2 * (1 - (x[stuck] / a) ** 2), 1)
    return float(np.sqrt(-at_zero / slope))
