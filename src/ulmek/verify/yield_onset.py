"""Case ``yield-onset``: an elastic-plastic ball and flat, pressed until the first point yields."""

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, enforced, step
from ulmek.verify.hertz_point import Point, point_document

YIELD = 300.0


def yield_onset(solve: Solve) -> list[Check]:
    """First yield at p0 = 1.61 Y for ν = 0.3, at a depth of 0.48 a (Davies 1949; Johnson 1985, section 6.1)."""
    return [check for method in METHODS for check in _checks(solve, method)]


def _checks(solve: Solve, method: str) -> list[Check]:
    expected = 1.61 * YIELD
    # Force grows as the cube of the peak: at 1.1 of the expected peak it is 1.33 of the force that is sought, which is
    # 0.75 of it; from 0.7 to 0.85 in increments of 0.025.
    point = Point(contact=1.1 * np.pi * 50.0 / 2 * expected * 2 * (1 - 0.3**2) / 210e3, share=0.05)
    study = point_document(point)
    del study["materials"][0]["yield_stress"]
    study["materials"][0]["hardening"] = {"table": [{"strain": 0, "stress": f"{YIELD} MPa"}]}
    study["loads"][0]["values"] = {"press": f"{0.7 * point.force} N", "on": f"{0.85 * point.force} N"}
    study["steps"] = [step("press", 0.5), step("on", 1 / 6)]
    solved = solve(enforced(study, method))
    forces = [s.values["press"] for s in solved.outcome.summaries]
    # Ball and base are alike, and either may be the first to be seen to yield.
    yields = {name: [s.parts[name].max_plastic_strain > 1e-9 for s in solved.outcome.summaries].index(True)
              for name in ("ball", "base")}  # fmt: skip

    def share(at: int) -> float:
        return (forces[at] + forces[at - 1]) / 2 / point.force

    base = solved.fields("base", yields["base"])
    deep = -base["points"][np.argmax(base["plastic_strain"]), 1]
    radius = point.contact * share(yields["base"]) ** (1 / 3)
    peak = point.peak * share(min(yields.values())) ** (1 / 3)
    return [
        Check(f"peak pressure of Hertz at first yield, {method}", "MPa", expected, peak, 0.03),
        Check(f"depth of first yield over radius of contact, {method}", "–", 0.48, float(deep / radius), 0.2),
    ]
