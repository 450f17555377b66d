"""What the browser draws: skins, feature edges and patches as one binary block with a JSON header."""

import json
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.facets import corners_of, drawn_triangles, is_edges, shape_of
from ulmek.core.mesh.volume import VolumeMesh

Array = NDArray[np.float64]

# Edges between facets that meet at more than this are drawn in ink.
FEATURE_ANGLE = np.deg2rad(35.0)


@dataclass(frozen=True)
class Skin:
    """Skin of one body: vertices (n,) as global nodes, triangles and mesh edges into them.

    triangle_face (t,): position of each triangle's face name in ``faces``. Of a plane section the faces are its edges:
    rims (r, 2), rim_face (r,) as for triangles, which belong to none.
    """

    body: str
    vertices: NDArray[np.int64]
    triangles: NDArray[np.int64]
    triangle_face: NDArray[np.int64]
    faces: list[str]
    feature_edges: NDArray[np.int64]
    mesh_edges: NDArray[np.int64]
    rims: NDArray[np.int64]
    rim_face: NDArray[np.int64]


def section_faces(cells: NDArray[np.int64]) -> dict[str, NDArray[np.int64]]:
    """What of a plane section is drawn: all of it, as facets of quads or of triangles with middles."""
    return {"section": cells[:, : {4: 4, 6: 6, 8: 4}[cells.shape[1]]]}


def skin_of(body: str, nodes: Array, faces: dict[str, NDArray[np.int64]], offset: int) -> Skin:
    """Skin of a body from its named faces; ``nodes`` are the body's own, ``offset`` its first global number."""
    names = list(faces)
    facets = np.vstack([faces[n] for n in names])
    quads = corners_of(facets)
    owner = np.repeat(np.arange(len(names)), [len(faces[n]) for n in names])
    used, flat = np.unique(quads, return_inverse=True)
    local: NDArray[np.int64] = flat.reshape(quads.shape)
    cuts = shape_of(facets).triangles
    triangles = np.vstack([local[:, list(cut)] for cut in cuts])
    features, edges = _edges(nodes[used], local, owner)
    none = np.zeros((0, 2), dtype=np.int64)
    return Skin(
        body, used + offset, triangles, np.tile(owner, len(cuts)), names, features, edges, none, none[:, 0]
    )  # fmt: skip


def skin_of_section(body: str, nodes: Array, mesh: VolumeMesh, offset: int) -> Skin:
    """Skin of a plane section, whose faces are its named edges; arguments as for `skin_of`."""
    skin = skin_of(body, nodes, section_faces(mesh.cells), offset)
    names = list(mesh.faces)
    local = np.full(len(nodes), -1)
    local[skin.vertices - offset] = np.arange(len(skin.vertices))
    rims = np.vstack([local[mesh.faces[name][:, :2]] for name in names])
    return replace(
        skin, faces=names, triangle_face=np.full(len(skin.triangles), len(names)), rims=rims,
        rim_face=np.repeat(np.arange(len(names)), [len(mesh.faces[name]) for name in names]),
    )  # fmt: skip


def _edges(
    nodes: Array, quads: NDArray[np.int64], owner: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Edges at sharp corners or between differently named flat faces; and all edges."""
    corners = quads.shape[1]
    sides = np.vstack([quads[:, [i, (i + 1) % corners]] for i in range(corners)])
    which = np.tile(np.arange(len(quads)), corners)
    keys = np.sort(sides, axis=1)
    order = np.lexsort((keys[:, 1], keys[:, 0]))
    keys, which = keys[order], which[order]
    first = np.flatnonzero(np.any(np.diff(keys, axis=0, prepend=-1) != 0, axis=1))
    p = nodes[quads]
    normal = np.cross(p[:, 2] - p[:, 0], p[:, corners - 1] - p[:, 1])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    paired = first[np.append(np.diff(first), len(keys) - first[-1]) == 2]
    cosine = np.einsum("ij,ij->i", normal[which[paired]], normal[which[paired + 1]])
    sharp = paired[cosine < np.cos(FEATURE_ANGLE)]
    # The rim of a plane section belongs to one facet only.
    rim = first[np.append(np.diff(first), len(keys) - first[-1]) == 1]
    return keys[np.concatenate([sharp, rim])], keys[first]


def pack(header: dict[str, Any], arrays: dict[str, NDArray[Any]]) -> bytes:
    """One block: length of the header (uint32), JSON header with offsets, then the arrays.

    float arrays become float32, integer arrays uint32; each starts at a multiple of 4 bytes.
    """
    entries, parts, position = {}, [], 0
    for name, array in arrays.items():
        kind = "float32" if np.issubdtype(array.dtype, np.floating) else "uint32"
        data = np.ascontiguousarray(array, dtype=kind).tobytes()
        entries[name] = {"kind": kind, "offset": position, "length": len(data) // 4}
        parts.append(data)
        position += len(data)
    text = json.dumps({**header, "arrays": entries}).encode()
    text += b" " * (-len(text) % 4)
    return len(text).to_bytes(4, "little") + text + b"".join(parts)


def pack_scene(skins: list[Skin], nodes: Array, extra_header: dict[str, Any], extra: dict[str, NDArray[Any]]) -> bytes:
    """Scene of all bodies: positions per skin vertex, triangles, their face, and edges."""
    header: dict[str, Any] = {"bodies": [], **extra_header}
    arrays: dict[str, NDArray[Any]] = {}
    for i, skin in enumerate(skins):
        header["bodies"].append({"name": skin.body, "faces": skin.faces})
        arrays[f"positions{i}"] = nodes[skin.vertices].ravel()
        arrays[f"triangles{i}"] = skin.triangles.ravel()
        arrays[f"face{i}"] = skin.triangle_face
        arrays[f"features{i}"] = skin.feature_edges.ravel()
        arrays[f"edges{i}"] = skin.mesh_edges.ravel()
        arrays[f"rims{i}"] = skin.rims.ravel()
        arrays[f"rimface{i}"] = skin.rim_face
    return pack(header, {**arrays, **extra})


# A pair of a plane section is drawn as a strip into the part, this share of the section wide.
STRIP = 0.025


def patch_of(nodes: Array, node: NDArray[np.int64], facets: NDArray[np.int64]) -> tuple[Array, NDArray[np.int64]]:
    """Positions and triangles of side A of a pair: of its ``facets`` those whose corners are all contact nodes
    (``node``, n); the edges of a section become a strip, whose nodes are these twice."""
    position = np.full(len(nodes), -1)
    position[node] = np.arange(len(node))
    local = position[facets]
    local = local[(position[corners_of(facets)] >= 0).all(axis=1)]
    if not is_edges(facets):
        return nodes[node], drawn_triangles(local)
    along = nodes[node][local[:, 1]] - nodes[node][local[:, 0]]
    inward = np.zeros((len(node), 3))
    for k in (0, 1):
        np.add.at(inward, local[:, k], np.column_stack([-along[:, 1], along[:, 0], np.zeros(len(along))]))
    inward /= np.maximum(np.linalg.norm(inward, axis=1, keepdims=True), 1e-300)
    depth = STRIP * float(np.ptp(nodes, axis=0).max())
    n, (a, b) = len(node), local[:, :2].T
    triangles = np.vstack([np.column_stack([a, b, b + n]), np.column_stack([a, b + n, a + n])])
    # A little in front of the section, so that it is not hidden by it.
    front = np.array([0.0, 0.0, depth / 20])
    return np.vstack([nodes[node] + front, nodes[node] + depth * inward + front]), triangles
