"""Case ``bend``: a cantilever one brick thick, bricks ten times as long as thick."""

import numpy as np

from ulmek.verify.case import Check, Solve, base_document, block_part

LENGTH, DEPTH, HEIGHT, FORCE = 100.0, 2.0, 1.0, 1.0
YOUNG, POISSON = 210e3, 0.3


def bend(solve: Solve) -> list[Check]:
    """Tip deflection F·L³/3EI + 6FL/5GA (Timoshenko 1921), bending about the thin side."""
    study = base_document("bend", "Bend")
    study["parts"] = [block_part("beam", (LENGTH, DEPTH, HEIGHT), 10, layers=1)]
    study["supports"] = [{"id": "root", "name": "Root", "faces": ["beam/left"]}]
    study["loads"] = [
        {
            "id": "tip",
            "name": "Tip force",
            "kind": "force",
            "faces": ["beam/right"],
            "direction": [0, 0, -1],
            "values": {"load": f"{FORCE} N"},
        }
    ]
    study["steps"] = [{"id": "load", "name": "Load", "increments": {"start": 1, "largest": 1}}]
    solved = solve(study)
    with solved.reader() as result:
        points = result.points()
        moved = result.point_field("displacement", result.count() - 1)
    tip = -float(moved[np.isclose(points[:, 0], LENGTH / 2), 2].mean())
    inertia = DEPTH * HEIGHT**3 / 12
    shear = YOUNG / (2 * (1 + POISSON))
    reference = FORCE * LENGTH**3 / (3 * YOUNG * inertia) + 6 * FORCE * LENGTH / (5 * shear * DEPTH * HEIGHT)
    return [
        Check("tip deflection", "mm", reference, tip, 0.03),
        Check("force at the root", "N", FORCE, solved.last.carrier("root").force[2], 1e-6),
    ]
