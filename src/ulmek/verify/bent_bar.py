"""Case ``bent-bar``: a bar bent by a quarter turn, held at one end and loaded at the other."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, hold, load, step

RADIUS, SIDE, FORCE = 100.0, 8.0, 50.0
YOUNG, POISSON = 210e3, 0.3


def bent_bar(solve: Solve) -> list[Check]:
    """Deflection of the end across its tangent by Castigliano (1879): πPR³/4EI of bending, πPR/4EA of pull and
    6πPR/20GA of shear; half of the bar, cut along its path, carries half of the load."""
    study = base_document("bent-bar", "Bent bar")
    half = f"{SIDE / 2} mm"
    ring = [("right", f"-{half}"), ("far", half)], [("left", half), ("near", f"-{half}")]
    edges = [{"name": n, "to": [half, y]} for n, y in ring[0]] + [
        {"name": n, "to": [f"-{half}", y]} for n, y in ring[1]
    ]
    shape = {
        "section": [{"name": "square", "edges": edges}],
        "runs": [{"name": "bow", "radius": f"{RADIUS} mm", "angle": "90 deg"}],
        "cuts": [{"normal": [0, 1, 0], "at": "0 mm"}],
    }
    study["parts"] = [
        {
            "id": "bar", "name": "Bar", "material": "steel", "mesh": {"size": "2 mm"},
            "recipe": {"kind": "bent", "bent": shape},
        }
    ]  # fmt: skip
    study["supports"] = [
        {"id": "root", "name": "Root", "faces": ["bar/start"]}, hold("middle", ["y"], "bar/cut.1"),
    ]  # fmt: skip
    study["loads"] = [load("pull", "force", {"load": f"{FORCE / 2} N"}, "bar/end", direction=[0, 0, -1])]
    study["steps"] = [step("load")]
    solved = solve(study)
    fields = solved.fields("bar")
    at_end = np.abs(fields["points"][:, 0] - RADIUS) < 1e-6
    area, inertia, shear = SIDE**2, SIDE**4 / 12, YOUNG / (2 * (1 + POISSON))
    share = np.pi * FORCE * RADIUS / 4
    reference = share * (RADIUS**2 / (YOUNG * inertia) + 1 / (YOUNG * area) + 1.2 / (shear * area))
    return [
        Check("deflection of the end", "mm", reference, -float(fields["displacement"][at_end, 2].mean()), 0.01),
        Check("force at the root", "N", FORCE / 2, solved.last.carrier("root").force[2], 1e-6),
    ]
