"""Case ``hertz-point``: a ball pressed on a block, as an axisymmetric section and as a quarter in space."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ulmek.verify.case import METHODS, Check, Solve, base_document, hold, load, part, spot, step, symmetry
from ulmek.verify.hertz_line import below, peak_and_width


@dataclass(frozen=True)
class Point:
    """Ball of radius R (mm) pressed with a radius of contact a (mm) on a block of the same steel."""

    radius: float = 50.0
    contact: float = 0.5
    young: float = 210e3
    poisson: float = 0.3
    share: float = 0.08

    @property
    def force(self) -> float:
        """P = 4E*a³/(3R) (Hertz 1882)."""
        return 4 * self.young / (1 - self.poisson**2) / 2 * self.contact**3 / (3 * self.radius)

    @property
    def peak(self) -> float:
        """p0 = 3P/(2πa²)."""
        return 3 * self.force / (2 * np.pi * self.contact**2)


def point_document(point: Point, *, method: str = "exact") -> dict[str, Any]:
    """The study; r along x, the axis along y."""
    a, size = point.contact, 100 * point.contact
    study = base_document("hertz-point", "Hertz, point")
    study["materials"][0] |= {"young": f"{point.young} MPa", "poisson": point.poisson, "yield_stress": "9000 MPa"}
    study["space"] = "axisymmetric"
    fine = point.share * a
    reach = [float(x) for x in np.linspace(0, 1.4, 8) * a]
    coarse = {"size": f"{size / 8} mm"}
    under = [spot((x, -point.radius + x**2 / (2 * point.radius), 0), fine) for x in reach]
    top = [spot((x - size / 2, size / 2, 0), fine) for x in reach]
    study["parts"] = [
        part("ball", "disc", {"diameter": 2 * point.radius, "thickness": 1, "sector": 90},
             {**coarse, "spots": under, "per_turn": 16}, at=(0, point.radius)),
        part("base", "block", {"length": size, "depth": size, "height": 1}, {**coarse, "spots": top},
             at=(size / 2, -size / 2)),
    ]  # fmt: skip
    study["pairs"] = [
        {"id": "joint", "name": "Ball – base", "a": ["ball/rim"], "b": ["base/far"], "law": {"may_slide": "freely"},
         "search": f"{a / 4} mm", "enforcement": {"method": method, "stiffness": 100, "allowed": "1e-6 mm"}}
    ]  # fmt: skip
    study["supports"] = [hold("floor", ["y"], "base/near"), symmetry("axis", "ball/middle", "base/left")]
    study["loads"] = [load("press", "force", {"press": f"{point.force} N"}, "ball/flat", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.25)]
    return study


def quarter_document(point: Point, *, method: str = "exact") -> dict[str, Any]:
    """A quarter of ball and block in bricks, pressed along y."""
    a, size = point.contact, 16 * point.contact
    study = base_document("hertz-point-quarter", "Hertz, point, a quarter in space")
    study["materials"][0] |= {"young": f"{point.young} MPa", "poisson": point.poisson, "yield_stress": "9000 MPa"}
    fine = point.share * a
    reach = [float(v) for v in np.linspace(0, 1.3, 5) * a]
    top = [spot((x - size / 2, size / 2, z), 1.2 * fine) for x in reach for z in reach]
    ball = part(
        "ball", "ball-segment", {"diameter": 2 * point.radius, "height": point.radius},
        {"size": f"{0.3 * point.radius} mm", "per_turn": 64, "spots": [spot((0, 0, -point.radius), fine)]},
        at=(0, point.radius),
    )  # fmt: skip
    ball["recipe"]["kept"] = "quarter"
    # Its axes x, y, z become z, x, y.
    ball["placements"][0]["turn"] = {"axis": [1, 1, 1], "angle": "240 deg"}
    base = part(
        "base", "block", {"length": size, "depth": size, "height": size},
        {"size": f"{size / 6} mm", "spots": top}, at=(size / 2, -size / 2),
    )  # fmt: skip
    study["parts"] = [ball, base]
    study["pairs"] = [
        {"id": "joint", "name": "Ball – base", "a": ["ball/surface"], "b": ["base/far"], "law": {"may_slide": "freely"},
         "search": f"{a / 4} mm", "enforcement": {"method": method, "stiffness": 100, "allowed": "1e-6 mm"}}
    ]  # fmt: skip
    study["supports"] = [
        symmetry("x-plane", "ball/cut.y", "base/left"),
        symmetry("z-plane", "ball/cut.x", "base/bottom"),
        hold("floor", ["y"], "base/near"),
    ]
    study["loads"] = [load("press", "force", {"press": f"{point.force / 4} N"}, "ball/top", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.5)]
    return study


def hertz_point(solve: Solve) -> list[Check]:
    """Hertz (1882); approach a²/R less what both bodies give between contact and where they are held."""
    point = Point()
    checks = []
    for method in ("exact", "augmented", "penalty"):
        solved = solve(point_document(point, method=method))
        joint = solved.pair("joint")
        p0, a = peak_and_width(joint["points"][:, 0], joint["pressure"])
        ball = solved.fields("ball")
        flat = np.abs(ball["points"][:, 1] - point.radius) < 1e-6
        # The middle of the ball: the flat's edge bends.
        middle = flat & (ball["points"][:, 0] < 0.3 * point.radius)
        approach = -float(ball["displacement"][middle, 1].mean())
        shear, depth, _, _ = below(solved)
        checks += [
            Check(f"peak pressure, {method}", "MPa", point.peak, p0, 0.02),
            Check(f"radius of contact, {method}", "mm", point.contact, a, 0.03),
            Check(f"approach, {method}", "mm", point.contact**2 / point.radius, approach, 0.03),
            Check(f"largest shear below, {method}", "MPa", 0.310 * point.peak, shear, 0.03),
            Check(f"its depth, {method}", "mm", 0.48 * point.contact, depth, 0.08),
        ]
    return [*checks, *(check for method in METHODS for check in _in_space(solve, method))]


def _in_space(solve: Solve, method: str) -> list[Check]:
    """The contact is a tenth of the radius wide: Hertz's parabola is then 0.3 % off the ball."""
    point = Point(radius=10.0, contact=1.0, share=0.12)
    joint = solve(quarter_document(point, method=method)).pair("joint")
    radius = np.hypot(joint["points"][:, 0], joint["points"][:, 2])
    p0, a = peak_and_width(radius, joint["pressure"])
    return [
        Check(f"peak pressure, quarter in space, {method}", "MPa", point.peak, p0, 0.04),
        Check(f"radius of contact, quarter in space, {method}", "mm", point.contact, a, 0.04),
    ]
