"""Routes that read a run along a line: paths through the parts, their edges, imprints and outlines of pairs, beams."""

from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Depends
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from ulmek.api.checks import by_hand
from ulmek.api.context import Context, context
from ulmek.api.looking import PartsDrawn, Point, parts_of
from ulmek.api.results import part_values, reader_of, stored_increment
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.mesh.facets import is_edges
from ulmek.core.review.edges import edges_between, nearest_edge
from ulmek.core.review.inside import places
from ulmek.store.fields import friction_of, pair_values
from ulmek.store.flat import along_outline
from ulmek.store.profile import Way, profile
from ulmek.store.texts import study_of
from ulmek.study.checks.along import ByHand

router = APIRouter(prefix="/api/runs/{run_id}/increments/{increment}", tags=["runs"])
Ctx = Annotated[Context, Depends(context)]
Array = NDArray[np.float64]


class PathOrder(BaseModel):
    """A path through points (mm, at the start), looked at in so many places; or, of one point, along the edge nearest
    to it where two faces of a part meet, looked at in its nodes."""

    points: Annotated[list[Point], Field(min_length=1, max_length=400)]
    samples: Annotated[int, Field(ge=2, le=2000)] = 201
    field: str = "von_mises"
    about: list[float] | None = None
    part: str | None = None


class PathValues(BaseModel):
    """What a path meets: distance along it (mm), place (mm, at the start), value as the field is stored, part, and size
    of the element (mm); value and part are None where there is no material, value too where
    it cannot be told. edge: the two faces ("part/face") that meet along it. by_hand: the closed form, where one is
    known."""

    distance: list[float]
    at: list[list[float]]
    value: list[float | None]
    part: list[str | None]
    size: list[float]
    edge: list[str] = []
    by_hand: ByHand | None = None


@router.post("/path")
def along_path(run_id: int, increment: int, order: PathOrder, ctx: Ctx) -> PathValues:
    """A field along a path through the parts, from the elements, or along an edge of one."""
    if len(order.points) == 1:
        return _along_edge(run_id, increment, order, ctx)
    corners = np.array(order.points)
    lengths = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(corners, axis=0), axis=1))])
    if not lengths[-1] > 0:
        raise InputError("the path has no length.", where="points", hint="Give two different points.")
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, 0.0, order.part)
        distance = np.linspace(0.0, lengths[-1], order.samples)
        points = np.column_stack([np.interp(distance, lengths, corners[:, k]) for k in range(3)])
        found = places(parts.nodes, parts.groups, points)
        values = np.asarray(found.weights @ part_values(ctx, run_id, reader, order.field, at, order.about))
        bodies = [parts.names[b] if b >= 0 else None for b in found.body]
        return PathValues(
            distance=distance.tolist(),
            at=points.tolist(),
            value=[float(v) if b >= 0 and not np.isnan(v) else None for v, b in zip(values, found.body, strict=True)],
            part=bodies,
            size=found.size.tolist(),
            by_hand=by_hand(ctx, run_id, reader, at, order.field, points, bodies),
        )


def _along_edge(run_id: int, increment: int, order: PathOrder, ctx: Context) -> PathValues:
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        parts = parts_of(reader, at, 0.0, None)
        point = np.array(order.points[0])
        body = _body_named(parts, order.part) if order.part is not None else _nearest_body(parts, point)
        first = int(parts.offsets[body])
        own = parts.nodes[first : int(parts.offsets[body + 1])]
        edge = nearest_edge(edges_between(reader.faces(body)), own, point)
        if edge is None:
            name = parts.names[body]
            raise InputError(f"no faces of '{name}' meet in an edge.", where="points", hint="Give the path two ends.")
        chain = own[edge.nodes]
        steps = np.linalg.norm(np.diff(chain, axis=0), axis=1)
        values = part_values(ctx, run_id, reader, order.field, at, order.about)[edge.nodes + first]
        return PathValues(
            distance=np.concatenate([[0.0], np.cumsum(steps)]).tolist(),
            at=chain.tolist(),
            value=[None if np.isnan(v) else float(v) for v in values],
            part=[parts.names[body]] * len(chain),
            size=np.maximum(np.append(steps, 0.0), np.append(0.0, steps)).tolist(),
            edge=[f"{parts.names[body]}/{name}" for name in edge.faces],
        )


def _body_named(parts: PartsDrawn, name: str) -> int:
    if name not in parts.names:
        raise UnknownNameError(f"there is no body '{name}'.", where="part")
    return parts.names.index(name)


def _nearest_body(parts: PartsDrawn, point: Array) -> int:
    node = int(np.linalg.norm(parts.nodes - point, axis=1).argmin())
    return int(np.searchsorted(parts.offsets, node, side="right")) - 1


class ProfileInfo(BaseModel):
    """A field over a pair's imprint along one way; see `Profile`. Values as the field is stored."""

    way: Way
    ways: list[Way]
    unit: Literal["mm", "°"]
    at: list[float]
    mean: list[float]
    highest: list[float]


@router.get("/profile/{pair}/{field}")
def profile_of_pair(
    run_id: int, increment: int, pair: str, field: str, ctx: Ctx, way: Way | None = None
) -> ProfileInfo:
    """Mean and highest of a field around, along, across or outward over the imprint of a pair of a solid."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        values = pair_values(study_of(ctx.store.run(run_id).document), reader, pair, field, at)
        found = profile(reader, pair, values, way)
        return ProfileInfo(
            way=found.way,
            ways=list(found.ways),
            unit=found.unit,
            at=found.at.tolist(),
            mean=found.mean.tolist(),
            highest=found.highest.tolist(),
        )


class AlongBeam(BaseModel):
    """Section forces of a beam at both ends of every element: the way (mm) along its line, axial force, shear along the
    two axes of the section (N), torsion and bending about them (N·mm)."""

    way: list[float]
    axial: list[float]
    shear: list[list[float]]
    torsion: list[float]
    bending: list[list[float]]


@router.get("/beams/{body}")
def along_beam(run_id: int, increment: int, body: str, ctx: Ctx) -> AlongBeam:
    """Axial force, shear, torsion and bending along a part that is led as a beam."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        if body not in reader.bodies()[0]:
            raise UnknownNameError(f"there is no body '{body}'.", where="body")
        if body not in reader.beams():
            raise InputError(
                "no section forces are kept of it.", where="body",
                hint="Only parts led as beams have them; a run of an earlier version is run again for them.",
            )  # fmt: skip
        found = reader.along_beam(body, at)
        forces = found.forces.reshape(-1, 6)
        return AlongBeam(
            way=found.at.ravel().tolist(),
            axial=forces[:, 0].tolist(),
            shear=forces[:, 1:3].T.tolist(),
            torsion=forces[:, 3].tolist(),
            bending=forces[:, 4:].T.tolist(),
        )


class AlongPair(BaseModel):
    """A pair of a section along its outline: the way (mm) from its first contact node, and there pressure, frictional
    stress (signed along the way) and what friction can hold (MPa), gap (mm, below zero where they cross), and place
    (mm, at the start). held is None where the law has no friction, gap where nothing faces."""

    way: list[float]
    pressure: list[float]
    friction: list[float]
    held: list[float] | None
    gap: list[float | None]
    at: list[list[float]]


@router.get("/along/{pair}")
def along_pair(run_id: int, increment: int, pair: str, ctx: Ctx) -> AlongPair:
    """What happens along the outline of a pair of a plane or axisymmetric section."""
    with reader_of(ctx, run_id) as reader:
        at = stored_increment(reader, increment)
        study = study_of(ctx.store.run(run_id).document)
        pressure = pair_values(study, reader, pair, "pressure", at)
        node, facets = reader.pair_patch(pair)
        if not is_edges(facets):
            raise InputError("only pairs of a section have an outline.", where="pair", hint="Look at its imprint.")
        points = reader.points()
        order, way = along_outline(points, facets, node)
        moved = points[node] + reader.point_field("displacement", at)[node]
        onward = np.gradient(moved[order], axis=0) if len(order) > 1 else np.zeros((len(order), 3))
        onward /= np.maximum(np.linalg.norm(onward, axis=1, keepdims=True), 1e-300)
        mu = friction_of(study, pair)
        gap = pair_values(study, reader, pair, "gap", at)[order]
        is_open = pair_values(study, reader, pair, "status", at)[order] == 0
        return AlongPair(
            way=way.tolist(),
            pressure=pressure[order].tolist(),
            friction=np.einsum("ni,ni->n", reader.pair_vector(pair, "friction", at)[order], onward).tolist(),
            held=None if mu is None else (mu * pressure[order]).tolist(),
            gap=[None if o and g == 0 else float(g) for o, g in zip(is_open, gap, strict=True)],
            at=points[node][order].tolist(),
        )
