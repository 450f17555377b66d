"""Case ``widen``: a ring whose bore is moved outwards all round; on average in a sector between slanting planes."""

from typing import Any

import numpy as np

from ulmek.verify.case import Check, Solve, Solved, base_document, load, part, step, symmetry

INNER, OUTER, LENGTH, WIDENED, YOUNG, POISSON = 20.0, 40.0, 5.0, 0.01, 210e3, 0.3
SECTOR = 40  # degrees


def widen(solve: Solve) -> list[Check]:
    """Lamé (1852), a ring in plane stress: u(a) = p a/E [(b²+a²)/(b²−a²) + ν], hoop stress p (b²+a²)/(b²−a²)."""
    ratio = (OUTER**2 + INNER**2) / (OUTER**2 - INNER**2)
    pressure = WIDENED * YOUNG / (INNER * (ratio + POISSON))
    checks = _sector(solve, pressure, ratio)
    for space in ("solid", "plane-stress"):
        for path in ("condensed", "full"):
            solved = solve(_document(space, path))
            # What moves a quarter of the bore pushes along each of its sides alike.
            push = np.array(solved.last.carrier("widen").force)[:2]
            checks.append(
                Check(f"force on a quarter, {space}, {path}", "N", pressure * INNER * LENGTH, abs(push).mean(), 0.01)
            )
            hoop = _hoop_at_bore(solved)
            checks.append(Check(f"hoop stress at the bore, {space}, {path}", "MPa", pressure * ratio, hoop, 0.02))
    return checks


def _hoop_at_bore(solved: Solved) -> float:
    fields = solved.fields("ring")
    x, y = fields["points"][:, :2].T
    r = np.hypot(x, y)
    c, s = x / r, y / r
    stress = fields["stress"]
    hoop = s**2 * stress[:, 0] + c**2 * stress[:, 1] - 2 * s * c * stress[:, 3]
    return float(hoop[r < INNER + 1e-3].mean())


def _sector(solve: Solve, pressure: float, ratio: float) -> list[Check]:
    """A sector whose second plane of symmetry slants, its bore moved on average: what acts on it is p a L along the
    bisector, over the chord of its arc."""
    checks = []
    for path in ("condensed", "full"):
        study = _document("solid", path)
        study["parts"][0]["recipe"]["dimensions"]["sector"] = SECTOR
        study["loads"][0]["on_average"] = True
        solved = solve(study)
        push, half = np.array(solved.last.carrier("widen").force), np.deg2rad(SECTOR / 2)
        along = float(push @ [np.cos(half), np.sin(half), 0.0])
        expected = pressure * INNER * LENGTH * 2 * float(np.sin(half))
        checks.append(Check(f"force on a sector, on average, {path}", "N", expected, along, 0.01))
        hoop = _hoop_at_bore(solved)
        checks.append(Check(f"hoop stress at its bore, {path}", "MPa", pressure * ratio, hoop, 0.02))
    return checks


def _document(space: str, path: str) -> dict[str, Any]:
    study = base_document("widen", "Widen")
    study |= {"space": space, "path": path, "thickness": f"{LENGTH} mm"}
    ring = {"inner_diameter": 2 * INNER, "outer_diameter": 2 * OUTER, "thickness": LENGTH, "sector": 90}
    study["parts"] = [part("ring", "washer", ring, {"size": "1.5 mm", "layers": 1, "faces": {"bore": "0.5 mm"}})]
    study["supports"] = [symmetry("x-plane", "ring/end"), symmetry("y-plane", "ring/start")]
    if space == "solid":
        study["supports"].append(symmetry("z-plane", "ring/bottom"))
    study["loads"] = [load("widen", "radial", {"widen": f"{WIDENED} mm"}, "ring/bore", direction=[0, 0, 1])]
    study["steps"] = [step("widen")]
    return study
