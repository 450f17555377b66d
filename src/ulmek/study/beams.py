"""Parts that act as beams: their stations, and the handles that lead them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.element.section import Section
from ulmek.core.errors import InputError
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Beam, Handle


@dataclass(frozen=True)
class PlacedBeam:
    """A beam: its section and mesh in its own axes, z along it, and where it stands (turned, then moved)."""

    name: str
    section: Section
    mesh: VolumeMesh
    rotation: NDArray[np.float64]
    shift: NDArray[np.float64]


def beams_of(placed: list[PlacedBeam], handles: tuple[Handle, ...]) -> tuple[tuple[Beam, ...], tuple[Handle, ...]]:
    """Beams with a station at every layer of their mesh, and handles for stations that ``handles`` do not lead.

    Raises
    ------
    InputError : a rigid handle on another face than the end of a beam, or one that makes all of it rigid.
    """
    beams, stations = [], []
    for p in placed:
        heights, station_of = np.unique(np.round(p.mesh.nodes[:, 2], 9), return_inverse=True)
        local = np.column_stack([np.tile(p.section.centroid, (len(heights), 1)), heights])
        line = local @ p.rotation.T + p.shift
        across = np.column_stack([p.section.axes, np.zeros(2)])
        frame = np.vstack([[0.0, 0.0, 1.0], across]) @ p.rotation.T
        names = [f"{p.name}@{i}" for i in range(len(heights))]
        for handle in handles:
            if handle.kind == "rigid" and p.name in handle.bodies:
                names[_station_led(p, handle, station_of)] = handle.name
        for i, name in enumerate(names):
            if name == f"{p.name}@{i}":
                x, y, z = (float(c) for c in line[i])
                stations.append(Handle(name, (x, y, z), body=p.name, station=i))
        beams.append(Beam(p.name, p.section, frame, line, tuple(names), station_of))
    return tuple(beams), tuple(stations)


def _station_led(placed: PlacedBeam, handle: Handle, station_of: NDArray[np.int64]) -> int:
    faces = [placed.mesh.faces[f.name].ravel() for f in handle.faces if f.body == placed.name]
    nodes = np.unique(np.concatenate(faces)) if faces else np.zeros(0, np.int64)
    led = np.unique(station_of[nodes])
    if len(led) != 1 or len(nodes) != np.sum(station_of == led[0]):
        raise InputError(
            f"the handle '{handle.name}' holds the beam '{placed.name}' elsewhere than at one of its ends.",
            where=f"handles/{handle.name}",
            hint="Take an end face of the beam, or an averaging handle, or choose bricks for the part.",
        )
    return int(led[0])
