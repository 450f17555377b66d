"""What supports, prescribed motions and links ask of triples, direction by direction, and the axes in which to give it.

A triple of which something is asked along other than the coordinate axes has axes of its own: the directions asked, one
after another, each made square to those before it. In these axes what is held is a component again.
"""

from dataclasses import dataclass

import numpy as np
import scipy.sparse as sp
from numpy.typing import NDArray

from ulmek.core.axes import Axes, axes_at
from ulmek.core.errors import InputError
from ulmek.core.layout import Layout
from ulmek.core.model import Link, Load, Model, Support

Array = NDArray[np.float64]
Ids = NDArray[np.int64]

# Parts of a unit vector below this are nothing: directions are typed with six digits or so.
NOTHING = 2e-6


@dataclass(frozen=True)
class Asked:
    """Directions (k, 3) at triples (k,), and by how much (k,) they move per unit of what asks."""

    triple: Ids
    direction: Array
    share: Array

    @staticmethod
    def of(groups: list[tuple[Ids, Array, float]]) -> "Asked":
        """Groups of triples (m,) with a direction each (m, 3) and a share, one after another."""
        none = np.zeros(0, np.int64), np.zeros((0, 3)), 0.0
        groups = [none, *groups]
        return Asked(
            np.concatenate([g[0] for g in groups]),
            np.vstack([g[1] for g in groups]),
            np.concatenate([np.full(len(g[0]), g[2]) for g in groups]),
        )


def of_support(model: Model, layout: Layout, support: Support) -> Asked:
    """What a support holds."""
    if support.handle is None:
        at = model.nodes_of(support.faces)
        return Asked.of(_chosen(at, axes_at(support.axes, layout.positions[at]), support.components))
    first = np.array([layout.handles[support.handle]])
    axes = axes_at(support.axes, layout.positions[first])
    return Asked.of([*_chosen(first, axes, support.components), *_chosen(first + 1, axes, support.turns)])


def of_link(layout: Layout, link: Link) -> Asked:
    """What a link leads of its second handle."""
    first = np.array([layout.handles[link.b]])
    axes = axes_at(link.axes, layout.positions[first])
    return Asked.of([*_chosen(first, axes, link.components[:3]), *_chosen(first + 1, axes, link.components[3:])])


def of_motion(model: Model, layout: Layout, load: Load) -> Asked:
    """What a load that prescribes a motion moves, and keeps from going sideways.

    Raises
    ------
    InputError : a radial motion of nodes on its axis, or about an axis that a section does not have.
    """
    if load.kind == "radial":
        return _radial(model, layout, load)
    at = model.nodes_of(load.faces) if load.handle is None else np.array([layout.handles[load.handle]])
    if load.kind == "rotation":
        at = at + 1
    direction = np.array(load.direction) / np.linalg.norm(load.direction)
    return Asked.of([(at, np.tile(direction, (len(at), 1)), 1.0)])


def _radial(model: Model, layout: Layout, load: Load) -> Asked:
    x, y, z = np.abs(load.direction)
    if model.space == "axisymmetric" or (model.space != "solid" and max(x, y) > NOTHING * z):
        raise InputError(
            f"the radial motion '{load.name}' is about an axis that a plane study does not have.",
            where=f"loads/{load.name}", hint="Turn it about z, or move the faces along x.",
        )  # fmt: skip
    at = model.nodes_of(load.faces)
    places = layout.positions[at]
    line = np.array(load.direction) / np.linalg.norm(load.direction)
    away = places - np.array(load.centre)
    radius = np.linalg.norm(away - np.outer(away @ line, line), axis=1)
    if radius.min() < NOTHING * max(1.0, float(radius.max())):
        raise InputError(
            f"the radial motion '{load.name}' moves nodes on its axis.",
            where=f"loads/{load.name}/centre", hint="Choose faces off the axis, or another axis.",
        )  # fmt: skip
    axes = Axes.about(load.centre, load.direction).at(places)
    return Asked.of([(at, axes[:, 0], 1.0), (at, axes[:, 1], 0.0)])


def _chosen(at: Ids, axes: Array, chosen: tuple[bool, ...]) -> list[tuple[Ids, Array, float]]:
    return [(at, axes[:, k], 0.0) for k in np.flatnonzero(chosen)]


@dataclass(frozen=True)
class LocalAxes:
    """Axes of their own, as rows (3, 3), of those triples that have them."""

    rows: dict[int, Array]

    @staticmethod
    def of(asked: list[Asked], *, led: Ids, in_plane: bool) -> "LocalAxes":
        """Axes for all that is asked of triples that are not ``led`` by others; of a section only what lies in its
        plane counts."""
        triple = np.concatenate([a.triple for a in asked]) if asked else np.zeros(0, np.int64)
        direction = np.vstack([a.direction for a in asked]) if asked else np.zeros((0, 3))
        if in_plane:
            direction = direction * [1.0, 1.0, 0.0]
        is_off = (np.abs(direction) > NOTHING).sum(axis=1) > 1
        wanted = np.isin(triple, np.setdiff1d(triple[is_off], led))
        found: dict[int, list[Array]] = {}
        for t, d in zip(triple[wanted].tolist(), direction[wanted], strict=True):
            so_far = found.setdefault(t, [])
            rest = d - sum(((d @ e) * e for e in so_far), np.zeros(3))
            # Twice is enough to be square to rounding (Giraud, Langou and Rozložník 2005).
            rest = rest - sum(((rest @ e) * e for e in so_far), np.zeros(3))
            if np.linalg.norm(rest) > NOTHING:
                so_far.append(rest / np.linalg.norm(rest))
        return LocalAxes({t: _completed(axes) for t, axes in found.items()})

    def components(self, triple: Ids, direction: Array) -> Array:
        """Directions (k, 3) at triples (k,) in the axes of these; parts that are rounding are zero."""
        out = direction.copy()
        for k in np.flatnonzero(np.isin(triple, list(self.rows))).tolist():
            out[k] = self.rows[int(triple[k])] @ direction[k]
        return np.where(np.abs(out) > NOTHING, out, 0.0)

    def matrix(self, n_masters: int) -> sp.csr_matrix:
        """Components along the coordinate axes from those along the triples' own (n_masters, n_masters)."""
        at = np.array(sorted(self.rows), np.int64)
        plain = np.ones(n_masters)
        dofs = 3 * at[:, None] + np.arange(3)
        plain[dofs.ravel()] = 0.0
        blocks = np.array([self.rows[int(t)] for t in at]).reshape(-1, 3, 3)
        # Row c, column k: component c of the k-th axis.
        own = sp.csr_matrix(
            (blocks.ravel(), (np.tile(dofs, (1, 3)).ravel(), np.repeat(dofs, 3, axis=1).ravel())),
            shape=(n_masters, n_masters),
        )
        return sp.csr_matrix(sp.diags(plain) + own)


def _completed(axes: list[Array]) -> Array:
    """One to three unit vectors square to each other, made three; the last is that across a section's plane."""
    if len(axes) == 1:
        upright = np.array([0.0, 0, 1]) if abs(axes[0][2]) < 0.9 else np.array([1.0, 0, 0])
        second = np.cross(upright, axes[0])
        axes = [axes[0], second / np.linalg.norm(second)]
    if len(axes) == 2:
        axes = [*axes, np.cross(axes[0], axes[1])]
    return np.array(axes)
