"""Coarse studies that settling is judged by: contacts that Hertz knows, and a bracket with and without its fillet."""

from typing import Any

import numpy as np

from ulmek.study.items import StudyDocument, read_study
from ulmek.verify.case import base_document, hold, load, part, step
from ulmek.verify.hertz_crossed import FORCE, crossed_document
from ulmek.verify.hertz_line import Line, line_document
from ulmek.verify.hertz_point import Point, point_document

# Peak pressure (MPa) of crossed bars: 3F/(2πa²) (Hertz 1882), a = 0.5 mm.
CROSSED = float(3 * FORCE / (2 * np.pi * 0.5**2))


def coarse_contacts() -> dict[str, tuple[StudyDocument, float]]:
    """By name: two bodies without a finer place where they touch at ``joint``, and the peak pressure (MPa) there."""
    line, triangles = (line_document(Line(), space="plane-strain", elements=(e, e)) for e in ("bricks", "tets"))
    return {
        "roller": (_bare(line, 4.0), Line().peak),
        "roller of triangles": (_bare(triangles, 4.0), Line().peak),
        "ball": (_bare(point_document(Point()), 2.0), Point().peak),
        "crossed bars": (_bare(crossed_document("exact"), 3.0), CROSSED),
    }


def _bare(document: dict[str, Any], size: float) -> StudyDocument:
    """A study without its finer places, on elements of one size (mm)."""
    for piece in document["parts"]:
        piece["mesh"] = {"size": f"{size} mm", "elements": piece["mesh"].get("elements", "bricks")}
    document["pairs"][0]["search"] = f"{size} mm"
    return read_study(document)


def bracket(radius: float, size: float = 4.0, *, elements: str = "bricks", width: float | None = None) -> StudyDocument:
    """An angle held at one leg and pulled at the other, with an inner corner of a radius (mm; 0: sharp), as a sheet
    (plane stress, 60 N), or ``width`` (mm) wide as a solid (1500 N)."""
    study = base_document("angle", "Angle")
    sizes = {"leg_x": 60, "leg_y": 60, "thickness": 10, "root_radius": radius, "width": width or 80, "gusset": 0}
    piece = part("angle", "angle", sizes, {"size": f"{size} mm", "elements": elements})
    held, way, force = ["x", "y"], [0, 1, 0], 60
    if width is None:
        study["space"] = "plane-stress"
    else:
        piece["placements"] = [{"at": ["5 mm", "0 mm", "9 mm"], "turn": {"axis": "x", "angle": "90 deg"}}]
        held, way, force = ["x", "y", "z"], [0, 0, 1], 1500
    study["parts"] = [piece]
    study["supports"] = [hold("wall", held, "angle/tip.y")]
    study["loads"] = [load("pull", "force", {"pull": f"{force} N"}, "angle/tip.x", direction=way)]
    study["steps"] = [step("pull")]
    return read_study(study)
