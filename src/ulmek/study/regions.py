"""Regions of faces: what of a face lies near a point, as a face of its own."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.facets import corners_of
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items.part import FaceRegion
from ulmek.study.units import value_of


def with_regions(mesh: VolumeMesh, regions: Sequence[FaceRegion]) -> VolumeMesh:
    """The mesh with the facets whose middles lie in a region taken out of their face, region after region.

    Raises
    ------
    UnknownNameError : no such face. InputError : a name that a face has already, or a region without a facet or with
        all of its face; ``where`` is its number.
    """
    faces, arcs = dict(mesh.faces), dict(mesh.arcs)
    for i, region in enumerate(regions):
        if region.name in faces:
            raise InputError(
                f"there is a face '{region.name}' already.", where=f"{i}/name", hint="Give the region another name."
            )
        facets = faces.get(region.of)
        if facets is None:
            raise UnknownNameError(
                f"there is no face '{region.of}'.", where=f"{i}/of", hint=f"There are {', '.join(sorted(faces))}."
            )
        away = mesh.nodes[corners_of(facets)].mean(axis=1) - [value_of(c, "length") for c in region.at]
        if region.reach is not None:
            inside = np.linalg.norm(away, axis=1) <= value_of(region.reach, "length")
        else:
            sizes = np.array([value_of(c, "length") for c in region.sizes or ()])
            inside = (np.abs(away) <= sizes / 2).all(axis=1)
        if inside.all() or not inside.any():
            what = "all of" if inside.all() else "no element of"
            raise InputError(
                f"the region '{region.name}' holds {what} the face '{region.of}'.", where=str(i),
                hint="Move it or change its size, or make the mesh there finer.",
            )  # fmt: skip
        faces[region.name], faces[region.of] = facets[inside], facets[~inside]
        if region.of in arcs:
            arcs[region.name], arcs[region.of] = arcs[region.of][inside], arcs[region.of][~inside]
    return replace(mesh, faces=faces, arcs=arcs)
