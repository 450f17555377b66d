"""What happens on each pair: fields at the nodes of side A, shares, forces and extremes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.laws import Status
from ulmek.core.contact.nodes import ContactNodes
from ulmek.core.model import Model
from ulmek.core.review.trust import Band, PairTrust, as_read, band_of_peak, leak_pressure, pressure_band
from ulmek.core.solve.history import Increment

Array = NDArray[np.float64]


@dataclass(frozen=True)
class PairFields:
    """Fields at the nodes of side A of one pair.

    pressure, frictional_stress (n,) MPa; gap, penetration, sliding (n,) mm (gap positive when
    open, sliding the path length while closed); status (n,): `Status`. friction (n, 3) MPa: the
    frictional stress on side A as a vector; slid (n, 3) mm: its net motion
    along the other side while closed; force (n, 3) N: on side A at each node, as it is in equilibrium. area (n,) mm².
    """

    pressure: Array
    frictional_stress: Array
    gap: Array
    penetration: Array
    sliding: Array
    status: NDArray[np.int64]
    friction: Array
    force: Array
    slid: Array
    normal: Array
    area: Array


def pair_fields(nodes: ContactNodes, increment: Increment, index: int, known: PairTrust) -> PairFields:
    """Fields of pair number ``index`` at an increment; tractions of partly covered nodes with their neighbours."""
    at = nodes.pair == index
    interface = increment.state.interfaces[index]
    is_open = increment.joint.status[at] == Status.OPEN
    # What the linear solver leaves on open nodes is rounding.
    traction = np.where(is_open[:, None], 0.0, increment.joint.traction[at])
    frame = interface.frame
    read = as_read(known, interface.area, traction)
    gap = increment.state.gap[at]
    friction = np.einsum("nk,nkx->nx", read[:, :2], frame[:, :2])
    status = increment.joint.status[at].copy()
    slides_freely = not interface.pair.law.has_tangents
    if slides_freely:
        status[status == Status.STICKING] = Status.SLIDING
    return PairFields(
        pressure=read[:, 2],
        frictional_stress=np.hypot(read[:, 0], read[:, 1]),
        force=np.einsum("nk,nkx->nx", traction, frame) * interface.area[:, None],
        gap=gap,
        penetration=np.maximum(-gap, 0.0) if interface.pair.law.may_open else np.zeros(len(gap)),
        sliding=increment.slid_path[at],
        status=status,
        friction=friction,
        slid=np.einsum("nk,nkx->nx", increment.slid[at], frame[:, :2]),
        normal=frame[:, 2],
        area=interface.area,
    )


def pair_force(positions: Array, increment: Increment, index: int) -> tuple[Array, Array]:
    """What pair number ``index`` does to its side A: force (3,) N and moment (3,) N·mm about the origin.

    positions (n_total, 3) mm: of all triples at the start.
    """
    interface = increment.state.interfaces[index]
    first = sum(len(f.node) for f in increment.state.interfaces[:index])
    here = slice(first, first + len(interface.node))
    is_open = increment.joint.status[here] == Status.OPEN
    traction = np.where(is_open[:, None], 0.0, increment.joint.traction[here])
    forces = np.einsum("nk,nkx->nx", traction, interface.frame) * interface.area[:, None]
    places = positions[interface.node] + (increment.state.u[interface.node] if increment.large else 0.0)
    return forces.sum(axis=0), np.cross(places, forces).sum(axis=0)


@dataclass(frozen=True)
class PairSummary:
    """One pair at one increment, forces in N, stresses in MPa, lengths in mm.

    force (3,): on side A. normal_force: sum of pressure over the faces; friction_force: size of
    the resultant of the frictional stress. Shares are of the area that the pair covers.
    as_one: how much of this increment's sliding is one rigid motion of the closed nodes (0…1).
    squeeze: pressure · h/E, what one element gives under the peak pressure, to judge penetration by.
    yield_share: highest von Mises stress on the pair's faces over the yield stress there, None without one;
    max_plastic_strain: on these faces. moment (3,) N·mm: of what acts on side A, about ``about`` (3,) mm, the middle of
    the area of the pair. use: highest von Mises stress on the faces over what the parts bear there (see `strength`),
    away from singular places; use_anywhere: at these too. bears: the least of
    what the parts bear there (MPa). Bands: between what the peak, the longest sliding, the deepest
    penetration and the uses lie on this mesh. across: elements across the narrowest patch that presses, where it is the
    bend of the faces that makes it as wide as it is. pulls: highest tension (MPa) of a pair that may not open. leak:
    see `leak_pressure`. All from moment on are None or nothing in results of earlier versions.
    """

    normal_force: float
    friction_force: float
    force: tuple[float, float, float]
    peak_pressure: float
    max_penetration: float
    max_sliding: float
    share_open: float
    share_sticking: float
    share_sliding: float
    max_gap: float
    dissipated: float
    as_one: float
    squeeze: float
    yield_share: float | None = None
    max_plastic_strain: float = 0.0
    moment: tuple[float, float, float] | None = None
    about: tuple[float, float, float] | None = None
    pressure_band: Band | None = None
    sliding_band: Band | None = None
    penetration_band: Band | None = None
    use: float | None = None
    use_band: Band | None = None
    use_anywhere: float | None = None
    use_anywhere_band: Band | None = None
    bears: float | None = None
    across: int | None = None
    pulls: float = 0.0
    leak: float | None = None


def summarise_pair(
    model: Model, nodes: ContactNodes, increment: Increment, index: int, known: PairTrust
) -> PairSummary:
    """Extremes, shares and resultants of one pair."""
    f = pair_fields(nodes, increment, index, known)
    total = max(float(f.area.sum()), 1e-300)
    stiffness = nodes.stiffness[nodes.pair == index]

    def share(status: Status) -> float:
        return float(f.area[f.status == status].sum() / total)

    normal = np.einsum("nk,nk->n", f.force, f.normal)
    force = f.force.sum(axis=0)
    rubbing = force - (normal[:, None] * f.normal).sum(axis=0)
    closed = f.status != Status.OPEN
    interface = increment.state.interfaces[index]
    places = model.nodes()[interface.node] + (increment.state.u[interface.node] if increment.large else 0.0)
    about = (places * f.area[:, None]).sum(axis=0) / total
    moment = np.cross(places - about, f.force).sum(axis=0)
    band, across = pressure_band(f.pressure, f.area, known)
    return PairSummary(
        normal_force=float(normal.sum()),
        friction_force=float(np.linalg.norm(rubbing)),
        force=(float(force[0]), float(force[1]), float(force[2])),
        peak_pressure=float(f.pressure.max(initial=0.0)),
        max_penetration=float(f.penetration.max(initial=0.0)),
        max_sliding=float(f.sliding[closed].max(initial=0.0)),
        share_open=share(Status.OPEN),
        share_sticking=share(Status.STICKING),
        share_sliding=share(Status.SLIDING),
        max_gap=float(f.gap.max(initial=0.0)),
        dissipated=float(increment.dissipated[index]),
        as_one=_moved_as_one(model, nodes, increment, index, closed),
        squeeze=float((f.pressure / stiffness).max(initial=0.0)),
        moment=(float(moment[0]), float(moment[1]), float(moment[2])),
        about=(float(about[0]), float(about[1]), float(about[2])),
        pressure_band=band,
        sliding_band=band_of_peak(f.sliding, known.neighbours, closed),
        penetration_band=band_of_peak(f.penetration, known.neighbours),
        pulls=float(-f.pressure.min(initial=0.0)),
        leak=leak_pressure(np.maximum(f.pressure, 0.0), known),
        across=across,
    )


def _moved_as_one(
    model: Model, nodes: ContactNodes, increment: Increment, index: int, closed: NDArray[np.bool_]
) -> float:
    """Share of the slip (squared, by area) that the best-fitting rigid motion explains."""
    at = np.flatnonzero(nodes.pair == index)[closed]
    interface = increment.state.interfaces[index]
    frame = interface.frame[closed]
    slip = np.einsum("nk,nkx->nx", increment.slip[at], frame[:, :2])
    weight = np.sqrt(interface.area[closed])[:, None, None]
    total = float(np.sum((weight[..., 0] * slip) ** 2))
    if total < 1e-24:
        return 0.0
    x = model.nodes()[nodes.node[at]]
    arm = x - x.mean(axis=0)
    extent = max(float(np.abs(arm).max()), 1e-9)
    turns = np.stack([np.cross(axis, arm) for axis in np.eye(3)], axis=2) / extent
    rigid = np.concatenate([np.broadcast_to(np.eye(3), turns.shape), turns], axis=2)
    rigid = np.einsum("nkx,nxj->nkj", frame[:, :2], rigid)
    flat = (rigid * weight).reshape(-1, 6)
    wanted = (increment.slip[at] * weight[..., 0]).ravel()
    fitted = flat @ np.linalg.lstsq(flat, wanted, rcond=1e-9)[0]
    return float(1.0 - np.sum((wanted - fitted) ** 2) / total)
