"""Layered solids: one planar partition and, for each layer of height, the regions present."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.outline import Partition, Segment

FaceNamer = Callable[[str, str, str], str]


def by_kind(_: str, kind: str, item: str) -> str:
    """Face names of solids of one layer: side faces by their segments, and ``top`` and ``bottom``."""
    return item if kind == "side" else kind


@dataclass(frozen=True)
class FaceTable:
    """Names of faces by layer, kind (top, bottom, side) and item, as `LayeredSolid` asks for them."""

    names: dict[tuple[str, str, str], str]

    def __call__(self, layer: str, kind: str, item: str) -> str:
        # Faces within the solid are asked for too, and have none.
        return self.names.get((layer, kind, item), "")


@dataclass(frozen=True)
class Layer:
    """A slab of height ``bottom`` … ``top`` (mm) in which ``regions`` hold material.

    ``cut`` marks the layer in which a fastener is shortened by its preload.
    """

    name: str
    bottom: float
    top: float
    regions: frozenset[str]
    cut: bool = False


@dataclass(frozen=True)
class LayeredSolid:
    """A partition swept through layers, with a rule that names every free face.

    ``face_name(layer, kind, item)`` gets ``kind`` = ``top`` or ``bottom`` with ``item`` the
    region, or ``kind`` = ``side`` with ``item`` the segment's name.
    """

    partition: Partition
    layers: tuple[Layer, ...]
    face_name: FaceNamer

    def __post_init__(self) -> None:
        known = {r.name for r in self.partition.regions}
        for below, above in zip(self.layers[:-1], self.layers[1:], strict=True):
            if abs(below.top - above.bottom) > 1e-9:
                raise GeometryError(f"layers '{below.name}' and '{above.name}' gap or overlap.")
        for layer in self.layers:
            if layer.top - layer.bottom <= 0:
                raise GeometryError(f"layer '{layer.name}' has no height ({layer.top - layer.bottom:g} mm).")
            if not layer.regions or layer.regions - known:
                raise GeometryError(f"layer '{layer.name}' names regions that are not there: {layer.regions - known}.")

    def volume(self) -> float:
        """Exact volume (mm³)."""
        area = {r.name: r.area() for r in self.partition.regions}
        return float(sum((la.top - la.bottom) * area[r] for la in self.layers for r in la.regions))

    def named_outline(self) -> Partition:
        """The partition whose segments are called as the faces that they sweep in the first layer."""

        def named(segment: Segment) -> Segment:
            return replace(segment, name=self.face_name(self.layers[0].name, "side", segment.name) or segment.name)

        return Partition.of([
            replace(r, outer=tuple(map(named, r.outer)), holes=tuple(tuple(map(named, h)) for h in r.holes))
            for r in self.partition.regions
        ])  # fmt: skip
