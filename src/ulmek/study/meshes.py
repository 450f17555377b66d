"""Meshes of the parts of a study, each made once."""

import copy
import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence
from concurrent.futures import Future
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError, StoppedError, UlmekError, UnknownNameError, located
from ulmek.core.geometry.layered import LayeredSolid
from ulmek.core.geometry.recipes import Solid
from ulmek.core.geometry.revolved import CORE
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.plane import split_into_triangles, with_mid_sides
from ulmek.core.mesh.solid import mesh_flat, mesh_solid
from ulmek.core.mesh.sweep import Layering
from ulmek.core.mesh.tets import split_bricks
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.mesh.wedges import split_into_wedges
from ulmek.study.aside import aside, report
from ulmek.study.items import FileUse, MeshSettings, Part
from ulmek.study.items.part import FoundSize
from ulmek.study.regions import with_regions
from ulmek.study.solids import free_shape, is_free_form, solid_of_use, swept_of_file
from ulmek.study.units import value_of

# Meshes kept in any case, and elements of all that are kept beyond these; elements of a swept part above which it is
# meshed aside.
LEAST_KEPT, MOST_ELEMENTS, MANY = 64, 1_000_000, 15_000


def _elements(made: Future[VolumeMesh]) -> int:
    """Elements of a mesh that is there."""
    return len(made.result().cells) if made.done() and made.exception() is None else 0


class _Kept:
    """Meshes made lately by their key; who asks for one that is being made waits for it. Failures are kept too."""

    def __init__(self) -> None:
        # What makes a mesh; none: this process does.
        self.source: Callable[[Part, bool], VolumeMesh] | None = None
        self._lock = threading.Lock()
        self._meshes: OrderedDict[tuple[str, str, bool], Future[VolumeMesh]] = OrderedDict()

    def mesh(self, part: Part, section: bool) -> VolumeMesh:
        regions = [r.model_dump() for r in part.regions]
        key = (
            json.dumps([part.recipe.model_dump(), part.mesh.model_dump(), regions], sort_keys=True),
            part.id,
            section,
        )
        with self._lock:
            found = self._meshes.get(key)
            own: Future[VolumeMesh] = Future()
            if found is None:
                self._meshes[key] = own
                self._drop_oldest()
            else:
                self._meshes.move_to_end(key)
        if found is None:
            found = own
            try:
                own.set_result((self.source or _made)(part, section))
            except BaseException as error:
                own.set_exception(error)
                if not isinstance(error, UlmekError):
                    self.forget(lambda e: e is not None and not isinstance(e, UlmekError))
                    raise
        try:
            return found.result()
        except UlmekError as error:
            raise copy.copy(error) from None

    def _drop_oldest(self) -> None:
        sizes = [_elements(f) for f in self._meshes.values()]
        while len(sizes) > LEAST_KEPT and sum(sizes) > MOST_ELEMENTS:
            self._meshes.popitem(last=False)
            sizes.pop(0)

    def forget(self, is_meant: Any = lambda _: True) -> None:
        with self._lock:
            for key, found in list(self._meshes.items()):
                if is_meant(found.exception() if found.done() else None):
                    del self._meshes[key]


_KEPT = _Kept()


def part_mesh(part: Part, *, section: bool = False) -> VolumeMesh:
    """Mesh of one part in its own axes, or of its ``section``; made once for the same recipe and settings.

    Raises
    ------
    UlmekError : with the place inside the study.
    """
    return _KEPT.mesh(part, section)


def take_meshes_from(source: Callable[[Part, bool], VolumeMesh]) -> None:
    """From now on ``source`` makes the meshes of this process; it is asked again for those that it refused."""
    _KEPT.source = source
    _KEPT.forget(lambda error: error is not None)


def forget_meshes() -> None:
    """Make every mesh anew when it is asked for."""
    _KEPT.forget()


def forget_stopped() -> None:
    """Try again, when asked, what somebody has stopped."""
    _KEPT.forget(lambda error: isinstance(error, StoppedError))


def no_face(name: str, part_id: str, mesh: VolumeMesh) -> UnknownNameError:
    """The error of a face that a part does not have."""
    return UnknownNameError(
        f"part '{part_id}' has no face '{name}'.", hint=f"Its faces are {', '.join(sorted(mesh.faces))}."
    )


def _made(part: Part, section: bool) -> VolumeMesh:
    place, settings = f"parts/{part.id}/mesh", part.mesh
    use = part.recipe.model_dump()
    sizes = {n: value_of(v, "length") for n, v in settings.faces.items()}
    size = value_of(settings.size, "length")
    edges = {tuple(n.split("|")): value_of(v, "length") for n, v in settings.edges.items()}
    spots = [[*(value_of(c, "length") for c in s.at), value_of(s.size, "length")] for s in settings.spots]
    given = {f"faces/{n}": v for n, v in sizes.items()} | {f"edges/{'|'.join(n)}": v for n, v in edges.items()}
    given |= {f"spots/{i}/size": s[3] for i, s in enumerate(spots)}
    for name, wanted in {"size": size, **given}.items():
        if wanted <= 0:
            raise InputError(
                f"the mesh size is {wanted:g} mm.", where=f"{place}/{name}", hint="Give a size above zero."
            )
    mesh: VolumeMesh
    if is_free_form(use) and not section:
        assert part.recipe.file is not None
        located(place, _require_free, part)
        points = np.vstack([np.array(spots).reshape(-1, 4), found_points(settings.found)[:, :4]])
        free: dict[str, Any] = {
            "size": size,
            "per_turn": settings.per_turn,
            "face_sizes": sizes,
            "edge_sizes": edges,
            "spots": points,
        }
        mesh = located(place, aside, part.name, _free_mesh, part.recipe.file, free)
    else:
        solid = _patterned(solid_of_use(use, part.id), settings)
        own = swept_of_file(use) if part.recipe.file is not None else None
        points, found = np.array(spots).reshape(-1, 4), found_points(settings.found)
        if own is not None:
            for placed in (points, found):
                placed[:, :3] = (placed[:, :3] - own.shift) @ own.rotation
        common = {
            "size": size, "face_sizes": sizes, "edge_sizes": edges, "per_turn": settings.per_turn, "spots": points,
            "found": found,
        }  # fmt: skip
        if section:
            mesh = located(place, _section_mesh, solid, settings, common)
        else:
            located(place, _require_swept, solid, settings, own is not None)
            if solid.volume() / size**3 > MANY:
                mesh = located(place, aside, part.name, _swept_mesh, use, part.id, settings, common)
            else:
                mesh = located(place, _swept_mesh, use, part.id, settings, common)
            mesh = mesh if own is None else mesh.placed(own.rotation, own.shift)
    for where, named in (("faces", sizes), ("through", settings.through)):
        for name in named:
            if name not in mesh.faces:
                raise no_face(name, part.id, mesh).at(f"{place}/{where}")
    return located(f"parts/{part.id}/regions", with_regions, mesh, part.regions)


def found_points(found: Sequence[FoundSize]) -> NDArray[np.float64]:
    """Points (k, 5) that were found: where, the size there, and the height of layers, which is the size where none is
    given."""
    return np.array([[*row, row[3]][:5] for row in found]).reshape(-1, 5)


def _require_free(part: Part) -> None:
    if part.mesh.elements != "tets":
        raise InputError("a free-form solid has tetrahedra only.", where="elements", hint="Choose tetrahedra.")
    if part.mesh.through:
        raise InputError("a free-form solid has no layers.", where="through", hint="Give sizes of faces.")
    if part.recipe.kept != "whole":
        raise InputError("a free-form solid is not cut here.", where="recipe/kept", hint="Cut it where it was drawn.")


def _free_mesh(file: FileUse, wanted: dict[str, Any]) -> VolumeMesh:
    """Tetrahedra of a free-form solid."""
    report("reading", 0.0)
    return mesh_free(free_shape(file), **wanted, progress=report)


def _patterned(solid: Solid, settings: MeshSettings) -> Solid:
    """The solid with its regions to be meshed freely, where the settings want that."""
    if settings.pattern == "structured":
        return solid
    # What touches an axis of revolution has a mesh of its own.
    regions = tuple(r if r.name == CORE else replace(r, pattern="paved") for r in solid.partition.regions)
    return replace(solid, partition=replace(solid.partition, regions=regions))


def _section_mesh(solid: Solid, settings: MeshSettings, common: dict[str, Any]) -> VolumeMesh:
    quads = mesh_flat(solid, **common)
    if settings.elements in ("beam", "wedges"):
        raise InputError(
            f"a plane study has no {settings.elements.rstrip('s')}s.", where="elements",
            hint="Choose quads or triangles.",
        )  # fmt: skip
    if settings.elements == "bricks":
        return quads
    return split_into_triangles(quads) if settings.elements == "tets" else with_mid_sides(quads)


def _require_swept(solid: Solid, settings: MeshSettings, is_from_file: bool) -> None:
    """Whether a swept part may have the elements that it is given."""
    elements = settings.elements
    if elements in ("beam", "wedges") and not isinstance(solid, LayeredSolid):
        raise InputError(
            "a revolved part has no layers to be cut along.", where="elements", hint="Choose bricks or tets."
        )
    if elements == "beam" and is_from_file:
        raise InputError("a part from a file cannot be a beam.", where="elements", hint="Make it by a recipe.")
    if elements == "beam" and not (isinstance(solid, LayeredSolid) and len(solid.layers) == 1):
        raise InputError(
            "a beam has one outline all along, and this recipe has several.", where="elements",
            hint="Choose bricks, or a recipe of one layer such as a block, a disc or a washer.",
        )  # fmt: skip
    if settings.through and not isinstance(solid, LayeredSolid):
        raise InputError("a revolved part has no layers.", where="through", hint="Give sizes of faces.")
    if elements == "second-order":
        raise InputError(
            "a solid has no second-order bricks.", where="elements", hint="Choose tets, which are second-order."
        )


def _swept_mesh(use: dict[str, Any], part_id: str, settings: MeshSettings, common: dict[str, Any]) -> VolumeMesh:
    """Elements of a swept part. The solid is made here: its rule for names does not pass between processes."""
    report("bricks", 0.1)
    solid = _patterned(solid_of_use(use, part_id), settings)
    layering = Layering(settings.layers, settings.layer_ratio, settings.through)
    bricks = mesh_solid(solid, layering=layering, **common)
    if settings.elements == "tets" and len(bricks.cut_nodes):
        raise InputError(
            "a bolt is cut across its shank to be tightened, which needs bricks.", where="elements",
            hint="Choose bricks for it.",
        )  # fmt: skip
    if settings.elements == "wedges":
        return split_into_wedges(bricks)
    return split_bricks(bricks) if settings.elements == "tets" else bricks
