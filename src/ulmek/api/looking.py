"""Routes that look into the parts of a run: cuts by a plane, paths, hot spots, and forces over cuts and faces."""

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Depends, Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ulmek.api.context import Context, context
from ulmek.api.results import About, part_values, reader_of, stored_increment
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.review.components import principal_axes, spread_over
from ulmek.core.review.edges import edges_of
from ulmek.core.review.hot_spots import hot_spots
from ulmek.core.review.inside import Cells, cells_of_vtk, plane_cut, surface_of_value
from ulmek.core.review.resultant import resultant
from ulmek.store.fields import nodes_of_face, part_field_named
from ulmek.store.results import ResultReader, not_kept
from ulmek.store.scene import pack
from ulmek.store.texts import study_of
from ulmek.study.items import StudyDocument
from ulmek.study.ledger.parts import singular_name

router = APIRouter(prefix="/api/runs/{run_id}/increments/{increment}", tags=["runs"])
Ctx = Annotated[Context, Depends(context)]
Array = NDArray[np.float64]
Point = Annotated[list[float], Field(min_length=3, max_length=3)]


@dataclass(frozen=True)
class PartsDrawn:
    """The bodies of a run: their names, first nodes, elements, and nodes where they are drawn (mm)."""

    names: list[str]
    offsets: NDArray[np.int64]
    groups: list[Cells]
    nodes: Array


def parts_of(reader: ResultReader, increment: int, scale: float, part: str | None) -> PartsDrawn:
    """Bodies at an increment, moved by the result times ``scale``; the elements of one part, or of all."""
    names, offsets = reader.bodies()
    nodes = reader.points()
    if scale:
        nodes = nodes + scale * reader.point_field("displacement", increment)
    groups = cells_of_vtk(*reader.cells(), offsets)
    if part is not None:
        chosen = [i for i, name in enumerate(names) if name.split("#")[0] == part]
        if not chosen:
            raise UnknownNameError(f"there is no part '{part}'.", where="part")
        groups = [Cells(g.kind, g.nodes[m], g.body[m]) for g in groups for m in [np.isin(g.body, chosen)]]
    return PartsDrawn(names, offsets, groups, nodes)


class PlaneOfCut(BaseModel):
    """A plane: its normal, and its distance (mm) from the origin along it."""

    normal: Point
    offset: float

    def unit(self) -> Array:
        """The normal at unit length."""
        size = float(np.linalg.norm(self.normal))
        if not size > 0:
            raise InputError("the plane has no direction.", where="normal", hint="Give a normal that is not zero.")
        return np.array(self.normal) / size


class CutOrder(PlaneOfCut):
    """A cut to be shown: of one part or all, moved by the result times ``scale``."""

    field: str = "von_mises"
    about: list[float] | None = None
    part: str | None = None
    scale: float = 1.0


@router.post("/cut", response_class=Response)
def cut_by_plane(run_id: int, increment: int, order: CutOrder, ctx: Ctx) -> Response:
    """A field on a plane cut, from the elements: points (moved), values, triangles and their bodies, binary."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, order.scale, order.part)
        found = plane_cut(parts.nodes, parts.groups, order.unit(), order.offset)
        values = np.asarray(found.weights @ part_values(ctx, run_id, reader, order.field, at, order.about))
        is_told = ~np.isnan(values[found.triangles]).any(axis=1)
        arrays = {
            "positions": np.asarray(found.weights @ parts.nodes).ravel(),
            "values": np.nan_to_num(values),
            "triangles": found.triangles[is_told].ravel(),
            "body": found.body[is_told],
        }
        return Response(pack({"bodies": parts.names}, arrays), media_type="application/octet-stream")


class SurfaceOrder(BaseModel):
    """Where a field of one part or of all has a value (as it is stored), moved by the result times ``scale``."""

    level: float
    field: str = "von_mises"
    about: list[float] | None = None
    part: str | None = None
    scale: float = 1.0


@router.post("/surface", response_class=Response)
def surface_with_value(run_id: int, increment: int, order: SurfaceOrder, ctx: Ctx) -> Response:
    """The surface inside the parts on which a field has one value: as a cut, binary."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, order.scale, order.part)
        values = part_values(ctx, run_id, reader, order.field, at, order.about)
        found = surface_of_value(parts.nodes, parts.groups, values, order.level)
        arrays = {
            "positions": np.asarray(found.weights @ parts.nodes).ravel(),
            "values": np.full(found.weights.shape[0], order.level),
            "triangles": found.triangles.ravel(),
            "body": found.body,
        }
        return Response(pack({"bodies": parts.names}, arrays), media_type="application/octet-stream")


class Crosses(BaseModel):
    """Principal stresses at places spread over the parts: places (mm, moved), values (MPa, the largest first), and
    their directions (unit vectors in the same order)."""

    at: list[list[float]]
    values: list[list[float]]
    directions: list[list[list[float]]]


# So many places at most carry a cross.
MOST_CROSSES = 700


@router.get("/crosses")
def list_crosses(run_id: int, increment: int, ctx: Ctx, part: str | None = None, scale: float = 1.0) -> Crosses:
    """Directions of principal stress over what is seen of the parts."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, scale, part)
        chosen = [i for i, name in enumerate(parts.names) if part in (None, name.split("#")[0])]
        seen = np.concatenate(
            [np.unique(np.vstack(list(reader.drawn_faces(i).values()))) + parts.offsets[i] for i in chosen]
        )
        picked = seen[spread_over(parts.nodes[seen], MOST_CROSSES)]
        values, directions = principal_axes(reader.point_field("stress", at)[picked])
        return Crosses(at=parts.nodes[picked].tolist(), values=values.tolist(), directions=directions.tolist())


class HotSpotInfo(BaseModel):
    """A place where a field is highest in its surroundings: its body, point (mm, at the start) and value as stored.

    spread: how far the elements there disagree, in MPa, of stresses. singular: where stress grows with every finer
    mesh, what it is and what can be done; empty elsewhere.
    """

    body: str
    at: Point
    value: float
    spread: float | None
    singular: str


@router.get("/hot-spots/{field}")
def list_hot_spots(
    run_id: int, increment: int, field: str, ctx: Ctx, part: str | None = None, about: About = None
) -> list[HotSpotInfo]:
    """Separate hot spots of a field, the highest first; none where it is nothing but rounding."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, 0.0, part)
        values = np.nan_to_num(part_values(ctx, run_id, reader, field, at, about))
        told = part_field_named(field)
        is_stress = told.unit == "MPa" and told.source in ("stress", "von_mises")
        spread = reader.point_field("stress_error", at) if is_stress else None
        study = study_of(ctx.store.run(run_id).document)
        places = reader.singular() if is_stress else []
        return [
            HotSpotInfo(
                body=parts.names[s.body],
                at=parts.nodes[s.node].tolist(),
                value=s.value,
                spread=None if spread is None else float(spread[s.node]),
                singular=next((singular_name(study, p.kind, p.name) for p in places if s.node in p.around), ""),
            )
            for s in hot_spots(parts.groups, values, quiet=told.quiet)
        ]


class SingularLines(BaseModel):
    """A singular place: what it is, what can be done, and lines (mm, moved) along it; in a section corners are points,
    lines of one, and come first."""

    text: str
    lines: list[list[Point]]


@router.get("/singular")
def list_singular(
    run_id: int, increment: int, ctx: Ctx, part: str | None = None, scale: float = 1.0
) -> list[SingularLines]:
    """Where stress has no value, on one part or all; nothing of runs of earlier versions."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, scale, None)
        chosen = [i for i, name in enumerate(parts.names) if part in (None, name.split("#")[0])]
        edges = np.vstack([edges_of(reader.drawn_faces(i)) + parts.offsets[i] for i in chosen])
        study = study_of(ctx.store.run(run_id).document)
        out = []
        for place in reader.singular():
            along = edges[np.isin(edges, place.nodes).all(axis=1)]
            corners = np.zeros(0, np.int64)
            if study.space != "solid":
                corners = np.setdiff1d(np.intersect1d(edges, place.nodes), along)
            if len(along) or len(corners):
                text = singular_name(study, place.kind, place.name)
                lines = [*parts.nodes[corners[:, None]].tolist(), *parts.nodes[along].tolist()]
                out.append(SingularLines(text=text, lines=lines))
        return out


class ResultantOrder(BaseModel):
    """Over which cut or faces forces are added up: what lies beyond a plane through a part, or faces ("part/face").

    about: the point of the moment (mm); none is the middle of the cut or of the faces' nodes.
    """

    plane: PlaneOfCut | None = None
    part: str | None = None
    faces: list[str] = []
    about: Point | None = None


class Resultant(BaseModel):
    """Force (N) and its moment (N·mm) about a point (mm).

    Over a cut they act from the material beyond the plane on what lies before it; over faces, on the part from outside.
    """

    force: Point
    moment: Point
    about: Point


@router.post("/resultant")
def add_up_forces(run_id: int, increment: int, order: ResultantOrder, ctx: Ctx) -> Resultant:
    """Force and moment over a cut through a part or over faces, from the forces at the nodes."""
    if (order.plane is None) == (not order.faces):
        raise InputError("give a plane or faces.", where="plane", hint="One of both says where forces are added up.")
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        if "force" not in reader.stored() or np.isnan(forces := reader.point_field("force", at)).any():
            raise not_kept()
        document = study_of(ctx.store.run(run_id).document)
        scale = 1.0 if _is_large(document, reader.summaries()[at].step) else 0.0
        parts = parts_of(reader, at, scale, order.part)
        if order.plane is not None:
            normal = order.plane.unit()
            own = np.unique(np.concatenate([g.nodes.ravel() for g in parts.groups]))
            beyond = own[parts.nodes[own] @ normal > order.plane.offset]
            cut = plane_cut(parts.nodes, parts.groups, normal, order.plane.offset)
            middles = np.asarray(cut.weights @ parts.nodes)
            if not len(middles):
                raise InputError("the plane does not cut the part.", where="plane", hint="Move it into the part.")
        else:
            beyond = np.unique(
                np.concatenate([nodes_of_face(reader, parts.names, parts.offsets, name) for name in order.faces])
            )
            middles = parts.nodes[beyond]
        about = np.array(order.about) if order.about is not None else middles.mean(axis=0)
        force, moment = resultant(parts.nodes, forces, beyond, about)
        return Resultant(force=force.tolist(), moment=moment.tolist(), about=about.tolist())


def _is_large(document: StudyDocument, step: int) -> bool:
    return document.steps[step].large_motion
