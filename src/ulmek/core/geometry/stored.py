"""Recognised solids as plain data, so that a file is read by the kernel once and never again."""

from typing import Any

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import FaceTable, Layer, LayeredSolid
from ulmek.core.geometry.outline import Loop, Partition, Region, Segment
from ulmek.core.geometry.recognise import Recognised
from ulmek.core.geometry.revolved import RevolvedSolid


def to_plain(found: Recognised) -> dict[str, Any]:
    """A recognised solid as lists, numbers and texts.

    Raises
    ------
    GeometryError : the solid was not made by `recognise`.
    """
    solid = found.solid
    plain: dict[str, Any] = {
        "rotation": found.rotation.tolist(),
        "shift": found.shift.tolist(),
        "regions": [
            {"name": r.name, "pattern": r.pattern, "outer": _loop(r.outer), "holes": [_loop(h) for h in r.holes]}
            for r in solid.partition.regions
        ],
    }
    if isinstance(solid, LayeredSolid):
        if not isinstance(solid.face_name, FaceTable):
            raise GeometryError("only a solid read from a file can be stored.")
        plain["layers"] = [
            {"name": la.name, "bottom": la.bottom, "top": la.top, "regions": sorted(la.regions)} for la in solid.layers
        ]
        plain["names"] = [
            {"layer": layer, "kind": kind, "item": item, "name": name}
            for (layer, kind, item), name in sorted(solid.face_name.names.items())
            if name
        ]
    return plain


def from_plain(plain: dict[str, Any]) -> Recognised:
    """The solid that `to_plain` wrote.

    Raises
    ------
    GeometryError : outlines that cross or are open, layers that gap, or axes that are not at right angles.
    """
    regions = [
        Region(r["name"], _segments(r["outer"]), tuple(_segments(h) for h in r["holes"]), r["pattern"])
        for r in plain["regions"]
    ]
    partition = Partition.of(regions)
    rotation, shift = np.array(plain["rotation"], float), np.array(plain["shift"], float)
    if np.abs(rotation @ rotation.T - np.eye(3)).max() > 1e-9 or np.linalg.det(rotation) < 0:
        raise GeometryError("the axes of the solid are not at right angles.", hint="Read the file again.")
    if not plain.get("layers"):
        return Recognised(RevolvedSolid(partition), rotation, shift)
    names = FaceTable({(n["layer"], n["kind"], n["item"]): n["name"] for n in plain["names"]})
    layers = tuple(Layer(la["name"], la["bottom"], la["top"], frozenset(la["regions"])) for la in plain["layers"])
    return Recognised(LayeredSolid(partition, layers, names), rotation, shift)


def _loop(loop: Loop) -> list[dict[str, Any]]:
    return [{"name": s.name, "start": s.start, "end": s.end, "centre": s.centre, "ccw": s.ccw} for s in loop]


def _segments(loop: list[dict[str, Any]]) -> Loop:
    return tuple(
        Segment(s["name"], tuple(s["start"]), tuple(s["end"]), tuple(s["centre"]) if s["centre"] else None, s["ccw"])
        for s in loop
    )
