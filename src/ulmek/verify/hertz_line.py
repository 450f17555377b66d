"""Case ``hertz-line``: a cylinder pressed on a block, as a plane strain section and as one layer of bricks."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.verify.case import Check, Solve, Solved, base_document, hold, load, part, spot, step, symmetry

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Line:
    """Cylinder of radius R (mm) under P' (N/mm) on a block of the same steel; ``share`` of a is the mesh size."""

    radius: float = 50.0
    force: float = 1812.0
    young: float = 210e3
    poisson: float = 0.3
    share: float = 0.1

    @property
    def half_width(self) -> float:
        """a = √(4P'R/(πE*)) (Hertz 1882; Johnson 1985, eq. 4.43)."""
        stiffness = self.young / (1 - self.poisson**2) / 2
        return float(np.sqrt(4 * self.force * self.radius / (np.pi * stiffness)))

    @property
    def peak(self) -> float:
        """p0 = 2P'/(πa)."""
        return 2 * self.force / (np.pi * self.half_width)


def line_document(
    line: Line,
    *,
    space: str,
    mu: float = 0.0,
    half: bool = True,
    method: str = "exact",
    elements: tuple[str, str] = ("bricks", "bricks"),
) -> dict[str, Any]:
    """The study; half of it mirrored at x = 0, or whole for a tangential force. elements: of roller and base."""
    # Deep enough for a half-plane: at 24 a the floor still adds 5 % to the shear.
    a, size = line.half_width, 120 * line.half_width
    study = base_document("hertz-line", "Hertz, line")
    study["materials"][0] |= {"young": f"{line.young} MPa", "poisson": line.poisson, "yield_stress": "9000 MPa"}
    study["space"] = space
    fine = line.share * a
    # Fine over the whole contact: growth begins beyond it.
    reach = np.linspace(-1.4 if not half else 0.0, 1.4, 15 if not half else 8) * a
    coarse = {"size": f"{8 * a} mm", "layers": 1}
    under = [spot((float(x), -line.radius + float(x) ** 2 / (2 * line.radius), 0), fine) for x in reach]
    shift = size / 2 if half else 0.0
    length = size if half else 2 * size
    top = [spot((float(x) - shift, size / 2, 0), fine) for x in reach]
    study["parts"] = [
        part("roller", "disc", {"diameter": 2 * line.radius, "thickness": 1, "sector": 90 if half else 180},
             {**coarse, "spots": under, "per_turn": 8}, at=(0, line.radius)),
        part("base", "block", {"length": length, "depth": size, "height": 1}, {**coarse, "spots": top},
             at=(shift, -size / 2)),
    ]  # fmt: skip
    for kind, piece in zip(elements, study["parts"], strict=True):
        piece["mesh"] |= {"elements": kind}
    law = {"may_slide": "friction", "mu": mu} if mu else {"may_slide": "freely"}
    study["pairs"] = [
        {"id": "joint", "name": "Roller – base", "a": ["roller/rim"], "b": ["base/far"], "law": law,
         "search": f"{a / 4} mm", "enforcement": {"method": method, "stiffness": 100, "allowed": "1e-6 mm"}}
    ]  # fmt: skip
    study["supports"] = [hold("floor", ["x", "y"], "base/near")]
    if half:
        study["supports"].append(symmetry("mirror", "roller/middle", "base/left"))
    if space == "solid":
        ends = ["roller/top", "roller/bottom", "base/top", "base/bottom"]
        study["supports"].append(hold("plane", ["z"], *ends))
    share = 0.5 if half else 1.0
    study["handles"] = [{"id": "grip", "name": "Grip", "at": ["0 mm", f"{line.radius} mm", "0 mm"],
                         "faces": ["roller/flat"]}]  # fmt: skip
    held = ["x", "z", "turn-x", "turn-y", "turn-z"] if half else ["z", "turn-x", "turn-y", "turn-z"]
    study["supports"].append(hold("guide", held, handle="grip"))
    study["loads"] = [load("press", "force", {"press": f"{share * line.force} N"}, handle="grip", direction=[0, -1, 0])]
    study["steps"] = [step("press", 0.25)]
    return study


def peak_and_width(x: Array, pressure: Array) -> tuple[float, float]:
    """p0 and a of the half-ellipse p² = p0² (1 − x²/a²) through the pressures, by least squares."""
    used = pressure > 0.25 * pressure.max()
    slope, at_zero = np.polyfit(x[used] ** 2, pressure[used] ** 2, 1)
    return float(np.sqrt(at_zero)), float(np.sqrt(-at_zero / slope))


def below(solved: Solved) -> tuple[float, float, float, float]:
    """Largest shear and its depth, largest von Mises stress and its depth, on the axis in the base."""
    base = solved.fields("base")
    points = base["points"]
    on_axis = np.flatnonzero((np.abs(points[:, 0]) < 1e-6) & (points[:, 2] < 1e-6))
    depth = -points[on_axis, 1]
    order = np.argsort(depth)
    depth, stress = depth[order], base["stress"][on_axis[order]]
    xx, yy, zz = stress[:, 0], stress[:, 1], stress[:, 2]
    shear = np.abs(xx - yy) / 2
    mises = np.sqrt(0.5 * ((xx - yy) ** 2 + (yy - zz) ** 2 + (zz - xx) ** 2))
    return (*_top(depth, shear), *_top(depth, mises))


def _top(depth: Array, value: Array) -> tuple[float, float]:
    """Largest value and its depth, by the parabola through it and its neighbours."""
    k = int(np.clip(np.argmax(value), 1, len(value) - 2))
    c = np.polyfit(depth[k - 1 : k + 2], value[k - 1 : k + 2], 2)
    at = -c[1] / (2 * c[0])
    return float(np.polyval(c, at)), float(at)


def line_checks(
    solve: Solve, line: Line, space: str, label: str, method: str = "exact",
    elements: tuple[str, str] = ("bricks", "bricks"),
) -> list[Check]:  # fmt: skip
    """Peak, half-width and the stresses below against Hertz."""
    solved = solve(line_document(line, space=space, method=method, elements=elements))
    joint = solved.pair("joint")
    p0, a = peak_and_width(joint["points"][:, 0], joint["pressure"])
    shear, shear_depth, mises, mises_depth = below(solved)
    peak, width = line.peak, line.half_width
    down = np.linspace(0.01, 3 * width, 600)
    on_path = solved.along(np.column_stack([np.zeros(600), -down, np.zeros(600)]))
    return [
        Check(f"peak pressure, {label}", "MPa", peak, p0, 0.02),
        Check(f"half-width, {label}", "mm", width, a, 0.03),
        Check(f"largest shear, {label}", "MPa", 0.300 * peak, shear, 0.02),
        Check(f"depth of largest shear, {label}", "mm", 0.786 * width, shear_depth, 0.08),
        Check(f"largest von Mises stress, {label}", "MPa", 0.558 * peak, mises, 0.02),
        Check(f"depth of largest von Mises stress, {label}", "mm", 0.704 * width, mises_depth, 0.08),
        Check(f"largest von Mises stress on a path, {label}", "MPa", 0.558 * peak, float(on_path.max()), 0.02),
        Check(f"depth of it on a path, {label}", "mm", 0.704 * width, float(down[on_path.argmax()]), 0.08),
    ]


def hertz_line(solve: Solve) -> list[Check]:
    """Hertz (1882); depths and stresses below after Johnson (1985, section 4.2), von Mises for ν = 0.3."""
    return [
        *line_checks(solve, Line(), "plane-strain", "section"),
        *line_checks(solve, Line(), "plane-strain", "section, augmented", "augmented"),
        *line_checks(solve, Line(), "plane-strain", "section, penalty", "penalty"),
        *line_checks(solve, Line(), "plane-strain", "8-node quads", elements=("second-order", "second-order")),
        *line_checks(solve, Line(), "plane-strain", "8-node quads on triangles", elements=("second-order", "tets")),
        *line_checks(solve, Line(), "solid", "bricks"),
    ]
