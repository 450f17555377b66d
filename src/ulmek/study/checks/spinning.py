"""Flat rings and discs that spin about their axes."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ulmek.core.handcalc.rings import spinning_ring_stress
from ulmek.core.model import Body, Load
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.part import Part
from ulmek.study.translate import body_names

Array = NDArray[np.float64]
SOURCE = "Timoshenko and Goodier 1970, article 32"
# A ring is flat that is no longer than this share of its outer radius; radii are the same within this share; and a body
# is a ring that fills it up to this share, which the chords of its mesh cut off.
FLAT, SAME, FULL = 0.5, 1e-3, 0.02


@dataclass(frozen=True)
class _Ring:
    """Radii of bore (0 without one) and rim, and the length along the axis (mm)."""

    inner: float
    outer: float
    length: float


def spinning_check(at: At, part: Part) -> HandCheck | None:
    """A ring or disc that spins about its own axis, alone; None of what is neither, or does not spin."""
    turning = [load for load in at.model.loads if load.kind == "spin" and at.now.values[load.name]]
    body = at.model.bodies[at.model.body_index(body_names(part)[0])]
    if len(turning) != 1 or body.name in at.model.beam_bodies or body.material.density == 0:
        return None
    ring = _ring(at, body, turning[0])
    if ring is None:
        return None
    speed, law = at.now.values[turning[0].name], body.material
    stress = spinning_ring_stress(law.density, speed, ring.inner, ring.outer, law.poisson)
    now = at.now.parts[body.name]
    is_alone = not any(f.body == body.name for sides in at.pairs.values() for side in sides for f in side)
    is_long = at.model.space == "plane-strain" or (at.model.space != "plane-stress" and ring.length > FLAT * ring.outer)
    return HandCheck(
        kind="part",
        id=part.id,
        title=f"{part.name}: spinning {'ring' if ring.inner else 'disc'}",
        values=[
            CheckedValue(
                name="Hoop stress at the bore" if ring.inner else "Stress in the middle", quantity="stress",
                hand=stress, computed=now.max_von_mises, band=now.stress_band, source=SOURCE,
            )
        ],
        conditions=[
            Condition(text="It is flat: its length is less than half of its radius", met=not is_long),
            Condition(text="Nothing touches it", met=is_alone),
            Condition(text="No metal has yielded", met=now.max_plastic_strain == 0),
            Condition(text="What holds it lets it widen freely", met=None),
        ],
    )  # fmt: skip


def _ring(at: At, body: Body, load: Load) -> _Ring | None:
    """The ring, or sector of one, that a body is about the axis of a spin; None of anything else."""
    mesh, space = body.mesh, at.model.space
    if space == "axisymmetric":
        radii, along, sector = np.abs(mesh.nodes[:, 0]), mesh.nodes[:, 1], 1.0
    else:
        axis = np.array(load.direction) / np.linalg.norm(load.direction)
        arm = mesh.nodes - np.array(load.centre)
        across = arm - np.outer(arm @ axis, axis)
        radii, along = np.linalg.norm(across, axis=1), arm @ axis
        sector = share_of_turn(across[radii > (1 - SAME) * radii.max()], axis)
    inner, outer = float(radii.min()), float(radii.max())
    inner = 0.0 if inner < SAME * outer else inner
    is_plane = space.startswith("plane")
    length = at.model.thickness if is_plane else float(np.ptp(along))
    # What a ring of these measures fills, and what the body does.
    full = (outer - inner) * length if space == "axisymmetric" else np.pi * (outer**2 - inner**2) * length * sector
    fills = mesh.volume() * (length if is_plane else 1.0)
    return _Ring(inner, outer, length) if abs(fills / full - 1) < FULL else None


def share_of_turn(rim: Array, axis: Array) -> float:
    """Share of a turn about an ``axis`` that points (n, 3) across it go round."""
    first = rim[0] / np.linalg.norm(rim[0])
    angles = np.sort(np.arctan2(rim @ np.cross(axis, first), rim @ first))
    gaps = np.diff(np.append(angles, angles[0] + 2 * np.pi))
    widest = float(gaps.max())
    return 1.0 if widest < 3 * float(np.median(gaps[gaps > 1e-9])) else 1 - widest / (2 * np.pi)
