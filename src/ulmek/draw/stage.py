"""The parts of a run as a picture: in their colours, or with a field on them."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.fields import Field
from ulmek.draw.ramp import BOLT_COLOUR, PART_COLOURS, Scale, rgb, scale_of
from ulmek.draw.raster import Surface, View, draw
from ulmek.draw.solids import as_solid
from ulmek.store.fields import part_field_named, values_at_nodes
from ulmek.store.results import ResultReader
from ulmek.store.scene import Skin, skin_of
from ulmek.study.items import StudyDocument
from ulmek.study.units import value_of

Array = NDArray[np.float64]
FRONT = View((0.0, 0.0, 1.0), (0.0, 1.0, 0.0))


@dataclass(frozen=True)
class Shown:
    """What a picture shows. field: of parts, None for their own colours. scale: of the displacement, 1 is true.

    limits: of the colours, in the unit that the field is spoken in, by the data when None. parts: only these (ids).
    is_solid: plane and axisymmetric sections as the solids that they are of. onward: share of the way from the
    increment to the next one. within: points (k, 3) mm that are in the picture too, so that it does not move. is_log:
    colours by powers of ten, where the field has no sign.
    """

    field: str | None = "von_mises"
    increment: int = -1
    scale: float = 1.0
    limits: tuple[float, float] | None = None
    view: View | None = None
    parts: tuple[str, ...] = ()
    is_solid: bool = False
    onward: float = 0.0
    is_log: bool = False
    within: tuple[tuple[float, float, float], ...] = ()


@dataclass(frozen=True)
class Stage:
    """An image (height, width, 3), and what its colours mean: field and scale in spoken units, None without a field.

    highest: of what is shown, in the spoken unit, and where (part, place in mm before the motion)."""

    image: NDArray[np.uint8]
    field: Field | None
    scale: Scale | None
    highest: tuple[float, str, tuple[float, float, float]] | None


def skins_of(reader: ResultReader, parts: tuple[str, ...] = ()) -> dict[int, Skin]:
    """What is drawn of the bodies of a run by their numbers, of those of some parts (ids) or of all: the same at all
    increments.

    Raises
    ------
    UnknownNameError : there is no such part.
    """
    names, offsets = reader.bodies()
    points = reader.points()
    return {
        i: skin_of(names[i], points[offsets[i] : offsets[i + 1]], reader.drawn_faces(i), int(offsets[i]))
        for i in _chosen(names, parts)
    }


def picture(
    study: StudyDocument,
    reader: ResultReader,
    shown: Shown,
    size: tuple[int, int] = (1200, 800),
    skins: dict[int, Skin] | None = None,
) -> Stage:
    """Draw a run; ``skins``: of its bodies, where they are known already.

    Raises
    ------
    UlmekError : no such increment, field or part.
    """
    at = increment_of(reader, shown.increment)
    names, offsets = reader.bodies()
    skins = skins if skins is not None else skins_of(reader, shown.parts)
    chosen = list(skins)
    nodes = reader.points()
    moved = nodes + _between(lambda k: reader.point_field("displacement", k), at, shown.onward) * shown.scale
    field = values = scale = highest = None
    if shown.field is not None:
        name, field = shown.field, part_field_named(shown.field)
        values = (
            _between(lambda k: np.nan_to_num(values_at_nodes(study, reader, name, k)), at, shown.onward) * field.factor
        )
        own = np.concatenate([np.arange(offsets[i], offsets[i + 1]) for i in chosen])
        scale = scale_of(_loud(values[own], field), is_signed=field.is_signed, limits=shown.limits, is_log=shown.is_log)
        top = own[int(np.abs(values[own]).argmax())]
        body = names[int(np.searchsorted(offsets, top, side="right")) - 1]
        highest = (float(values[top]), body, (float(nodes[top, 0]), float(nodes[top, 1]), float(nodes[top, 2])))
    surfaces = []
    for i, skin in skins.items():
        colours = (
            scale.colours(values[skin.vertices])
            if scale is not None and values is not None
            else np.tile(rgb(_part_colour(study, names[i])), (len(skin.vertices), 1))
        )
        surface = surface_of(skin, moved, colours)
        surfaces.append(as_solid(surface, study.space, _thickness(study)) if shown.is_solid else surface)
    view = shown.view or _view(study, is_solid=shown.is_solid)
    return Stage(draw(surfaces, view, size, within=np.array(shown.within).reshape(-1, 3)), field, scale, highest)


def shown_over_all(study: StudyDocument, reader: ResultReader, shown: Shown) -> Shown:
    """The same with limits and an extent that all increments keep within."""
    names, offsets = reader.bodies()
    own = np.concatenate([np.arange(offsets[i], offsets[i + 1]) for i in _chosen(names, shown.parts)])
    nodes, count = reader.points()[own], reader.count()
    box, limits = [], shown.limits
    field = part_field_named(shown.field) if shown.field is not None else None
    low = high = 0.0
    for k in range(count):
        moved = nodes + shown.scale * reader.point_field("displacement", k)[own]
        box += [moved.min(axis=0), moved.max(axis=0)]
        if field is not None and limits is None:
            scale = scale_of(
                _loud(np.nan_to_num(values_at_nodes(study, reader, field.name, k))[own] * field.factor, field),
                is_signed=field.is_signed,
            )
            low, high = min(low, scale.low), max(high, scale.high)
    least, most = np.min(box, axis=0), np.max(box, axis=0)
    corners = tuple((x, y, z) for x in (least[0], most[0]) for y in (least[1], most[1]) for z in (least[2], most[2]))
    solid = shown.is_solid and study.space != "solid"
    return replace(
        shown,
        limits=limits if limits is not None or field is None else (low, high),
        within=() if solid else tuple((float(x), float(y), float(z)) for x, y, z in corners),
    )


def _chosen(names: list[str], parts: tuple[str, ...]) -> list[int]:
    chosen = [i for i, name in enumerate(names) if not parts or name.split("#")[0] in parts]
    if not chosen:
        raise UnknownNameError(
            f"there is no part '{', '.join(parts)}'.", where="parts",
            hint=f"Known: {', '.join(sorted({n.split('#')[0] for n in names}))}.",
        )  # fmt: skip
    return chosen


def _between(read: Callable[[int], Array], at: int, onward: float) -> Array:
    return read(at) if onward <= 0 else (1 - onward) * read(at) + onward * read(at + 1)


def _loud(values: Array, field: Field) -> Array:
    """Without what is only rounding."""
    return np.where(np.abs(values) <= field.quiet * field.factor, 0.0, values)


def _view(study: StudyDocument, *, is_solid: bool) -> View:
    if study.space == "solid":
        return View()
    return View((0.55, 0.35, 0.76), (0.0, 1.0, 0.0)) if is_solid else FRONT


def increment_of(reader: ResultReader, wanted: int) -> int:
    """The number of an increment from 0; below 0 counted from the last."""
    count = reader.count()
    at = wanted + count if wanted < 0 else wanted
    if not 0 <= at < count:
        raise InputError(
            f"there is no increment {wanted}; {count} are stored.", where="increment",
            hint="Count from 0, or from the last as -1.",
        )  # fmt: skip
    return at


def surface_of(skin: Skin, nodes: Array, colours: Array) -> Surface:
    """A skin to be drawn: a vertex at a sharp edge is there once for each face, so that light breaks there."""
    keys = skin.vertices[skin.triangles].astype(np.int64) * (len(skin.faces) + 1) + skin.triangle_face[:, None]
    _, first, flat = np.unique(keys, return_index=True, return_inverse=True)
    triangles = flat.reshape(keys.shape)
    local = skin.triangles.ravel()[first]
    points = nodes[skin.vertices]
    corners = points[local]
    a, b, c = (corners[triangles[:, k]] for k in range(3))
    across = np.cross(b - a, c - a)
    normals = np.zeros((len(first), 3))
    for k in range(3):
        np.add.at(normals, triangles[:, k], across)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    edges = skin.feature_edges + len(corners)
    return Surface(
        np.vstack([corners, points]), triangles, np.vstack([normals, np.zeros_like(points)]),
        np.vstack([colours[local], colours]), edges,
    )  # fmt: skip


def _part_colour(study: StudyDocument, body: str) -> str:
    part = body.split("#")[0]
    if any(bolt.part == part for bolt in study.bolts):
        return BOLT_COLOUR
    index = next((i for i, p in enumerate(study.parts) if p.id == part), 0)
    return PART_COLOURS[index % len(PART_COLOURS)]


def _thickness(study: StudyDocument) -> float:
    return value_of(study.thickness, "length") if study.space in ("plane-strain", "plane-stress") else 0.0
