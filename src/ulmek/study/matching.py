"""Meshes of pieces that match where a plane has cut them."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ulmek.study.meshes import part_mesh
from ulmek.study.pieces import Piece, middles

Array = NDArray[np.float64]

# Middles of facets that are closer than this (mm) are one.
SAME = 1e-5
# Of the finest spacing that either side has along the cut: finer than all that the rest of a piece asks for there.
FINER = 0.9


def do_match(pieces: list[Piece]) -> bool:
    """Whether every facet of a cut face lies on one of the other side."""
    behind, ahead = (_facets([p for p in pieces if p.is_ahead is side]) for side in (False, True))
    if len(behind) != len(ahead):
        return False
    return not len(behind) or float(np.max(cKDTree(behind).query(ahead)[0])) < SAME


def matched(pieces: list[Piece]) -> list[Piece]:
    """The pieces with one size of mesh on both sides of their cut faces where that lets swept meshes match; as they are
    where they match already, or do not even so."""
    is_swept = all(
        p.part.recipe.file is not None and p.part.recipe.file.shape is not None and p.part.mesh.elements == "bricks"
        for p in pieces
    )
    if not is_swept or do_match(pieces):
        return pieces
    size = f"{FINER * min(_finest(p) for p in pieces if p.cuts):.4g} mm"
    finer = [_with_size(p, size) for p in pieces]
    return finer if do_match(finer) else pieces


def _with_size(piece: Piece, size: str) -> Piece:
    faces = {**piece.part.mesh.faces, **dict.fromkeys(piece.cuts, size)}
    mesh = piece.part.mesh.model_copy(update={"faces": faces})
    return replace(piece, part=piece.part.model_copy(update={"mesh": mesh}))


def _facets(pieces: list[Piece]) -> Array:
    """Middles (n, 3) of the facets of cut faces (mm)."""
    found = [middles(part_mesh(p.part), name) for p in pieces for name in p.cuts]
    return np.vstack(found) if found else np.zeros((0, 3))


def _finest(piece: Piece) -> float:
    """The shortest side of a facet of the cut faces of a piece that runs along the outline that is swept (mm)."""
    mesh = part_mesh(piece.part)
    corners = np.vstack([mesh.nodes[mesh.faces[name][:, :4]] for name in piece.cuts])
    # Facets of a side begin with their bottom.
    return float(np.linalg.norm(corners[:, 1] - corners[:, 0], axis=1).min())
