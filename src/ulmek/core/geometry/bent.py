"""Bent bars: a section swept along straight runs and bends, cut by planes along or across its path."""

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.clip import clipped
from ulmek.core.geometry.outline import Partition, Region, Segment

Array = NDArray[np.float64]
# Places (mm), and directions and angles (rad), closer than this are one.
SAME, ALIGNED = 1e-6, 1e-7
# Points along each run and round each segment at which a bar is looked at; most of a long run.
LOOKS, MOST_LOOKS = 33, 2000


class Frame(NamedTuple):
    """Where a section stands: its origin (3,) mm, and its axes x and y and the way it goes as rows (3, 3)."""

    origin: Array
    axes: Array

    def place(self, points: Array) -> Array:
        """Points (n, 2) of the section in space (n, 3)."""
        return np.asarray(self.origin + points @ self.axes[:2])


ORIGIN = Frame(np.zeros(3), np.eye(3))


@dataclass(frozen=True)
class Run:
    """A straight run of ``length`` (mm), or a bend: ``angle`` (rad) of a turn of the path at ``radius`` (mm), towards
    the direction ``about`` (rad, from the x axis of the section to its y axis)."""

    name: str
    length: float = 0.0
    radius: float = 0.0
    angle: float = 0.0
    about: float = 0.0

    @property
    def is_bend(self) -> bool:
        """Whether it is no straight run."""
        return self.radius > 0

    @property
    def path(self) -> float:
        """Length of its path (mm)."""
        return self.radius * self.angle if self.is_bend else self.length

    def at(self, frame: Frame, share: float) -> Frame:
        """The frame at a share of the run that begins in ``frame``."""
        x, y, along = frame.axes
        if not self.is_bend:
            return Frame(frame.origin + share * self.length * along, frame.axes)
        toward = np.cos(self.about) * x + np.sin(self.about) * y
        axis = np.cross(along, toward)
        turn = _turn(axis, share * self.angle)
        centre = frame.origin + self.radius * toward
        return Frame(centre + turn @ (frame.origin - centre), frame.axes @ turn.T)

    def part(self, low: float, high: float) -> "Run":
        """The run between two shares of it."""
        share = high - low
        return replace(self, angle=self.angle * share) if self.is_bend else replace(self, length=self.length * share)


def _turn(axis: Array, angle: float) -> Array:
    """Turn (3, 3) about a unit axis (Rodrigues)."""
    k = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + np.sin(angle) * k + (1 - np.cos(angle)) * k @ k)


@dataclass(frozen=True)
class BentSolid:
    """A section, the ``partition``, swept along ``runs`` from ``start``; the path closes where it ends as it begins.

    Side faces are called by their run and the segment of the section, or by the run alone where the section has one
    name all round; ``ends`` names the two ends of an open bar, and ``flats`` the segments that planes along the path
    have cut, whose faces go through all runs.
    """

    partition: Partition
    runs: tuple[Run, ...]
    start: Frame = ORIGIN
    ends: tuple[str, str] = ("start", "end")
    flats: frozenset[str] = field(default_factory=frozenset)

    def frames(self) -> list[Frame]:
        """Where each run begins, and where the last one ends."""
        frames = [self.start]
        for run in self.runs:
            frames.append(run.at(frames[-1], 1.0))
        return frames

    def placed_runs(self) -> Iterator[tuple[Run, Frame]]:
        """Each run and where it begins."""
        yield from zip(self.runs, self.frames()[:-1], strict=True)

    @property
    def is_closed(self) -> bool:
        """Whether the path ends where and as it begins."""
        last = self.frames()[-1]
        return bool(
            np.abs(last.origin - self.start.origin).max() < SAME * 10
            and np.abs(last.axes - self.start.axes).max() < 1e-6
        )

    def side_name(self, run: str, segment: str) -> str:
        """Name of the face that a segment sweeps along a run."""
        if segment in self.flats:
            return segment
        names = {s.name for s in self.partition.segments} - self.flats
        return run if len(names) == 1 else f"{run}.{segment}"

    def outline(self) -> Array:
        """Points (n, 2) round the section (mm)."""
        return np.vstack([s.points(np.linspace(0, 1, LOOKS)) for s in self.partition.segments])

    def volume(self) -> float:
        """Exact volume (mm³): area of the section times the way of its centroid (Pappus)."""
        area = sum(r.area() for r in self.partition.regions)
        moment = np.sum([_first_moments(r) for r in self.partition.regions], axis=0)
        total = 0.0
        for run in self.runs:
            toward = np.array([np.cos(run.about), np.sin(run.about)])
            total += area * run.path - (run.angle * float(moment @ toward) if run.is_bend else 0.0)
        return total


def _first_moments(region: Region) -> Array:
    """``∫ x dA`` and ``∫ y dA`` (2,) of a region (mm³), by its boundary."""
    found = np.zeros(2)
    points, weights = np.polynomial.legendre.leggauss(16)
    t = (points + 1) / 2
    for k, loop in enumerate((region.outer, *region.holes)):
        signed = sum(s.swept_area() for s in loop)
        sense = (1.0 if signed > 0 else -1.0) * (1.0 if k == 0 else -1.0)
        for segment in loop:
            at = segment.points(t)
            if segment.centre is None:
                along = np.tile(np.subtract(segment.end, segment.start), (len(t), 1))
            else:
                sweep = segment.length / segment.radius * (1.0 if segment.ccw else -1.0)
                away = at - segment.centre
                along = sweep * np.column_stack([-away[:, 1], away[:, 0]])
            found[0] += sense * float(np.sum(weights / 2 * at[:, 0] ** 2 / 2 * along[:, 1]))
            found[1] -= sense * float(np.sum(weights / 2 * at[:, 1] ** 2 / 2 * along[:, 0]))
    return found


def bent_solid(section: Partition, runs: Sequence[Run]) -> BentSolid:
    """The bar of a section along runs.

    Raises
    ------
    GeometryError : a run of no length, a bend tighter than its section or beyond a turn, a bar that passes through
        itself; ``where`` names the run.
    """
    if not runs:
        raise GeometryError("a bent bar has no runs.", where="runs", hint="Add a straight run or a bend.")
    double = next((r.name for r in runs if sum(o.name == r.name for o in runs) > 1), None)
    if double is not None:
        raise GeometryError(f"two runs are called '{double}'.", where=double, hint="Give each a name of its own.")
    solid = BentSolid(section, tuple(runs))
    around = solid.outline()
    for run in runs:
        if not run.is_bend and run.length < SAME:
            raise GeometryError(
                f"the run '{run.name}' has no length.", where=run.name, hint="Give it one, or take it out."
            )
        if run.is_bend and not ALIGNED < run.angle <= 2 * np.pi + ALIGNED:
            raise GeometryError(
                f"the bend '{run.name}' turns by {np.rad2deg(run.angle):g}°.", where=run.name,
                hint="Give it more than 0° and at most 360°; a coil is made of several.",
            )  # fmt: skip
        if run.is_bend:
            reach = float((around @ [np.cos(run.about), np.sin(run.about)]).max())
            if run.radius <= reach + SAME:
                raise GeometryError(
                    f"the bend '{run.name}' at {run.radius:g} mm folds the section, {reach:.5g} mm of it lie inwards.",
                    where=run.name, hint="Enlarge the radius of the bend: it is that of the section's origin.",
                )  # fmt: skip
    _check_clear(solid)
    return solid


def _check_clear(solid: BentSolid) -> None:
    """Refuse a bar that passes through itself."""
    # The circle about the origin of the section that lies within it; none where the origin lies outside.
    inner = float(np.hypot(*solid.outline().T).min())
    way, points, runs = 0.0, [], []
    for run, frame in solid.placed_runs():
        # No further apart than the bar is thick, however long the run.
        count = max(LOOKS, min(MOST_LOOKS, int(np.ceil(run.path / max(inner, SAME)))))
        for share in np.linspace(0, 1, count, endpoint=False):
            points.append((way + share * run.path, *run.at(frame, float(share)).origin))
            runs.append(run.name)
        way += run.path
    last = solid.frames()[-1]
    if not solid.is_closed:
        points.append((way, *last.origin))
        runs.append(solid.runs[-1].name)
    found = np.array(points)
    s, at = found[:, 0], found[:, 1:]
    for i in range(len(found)):
        along = np.abs(s - s[i])
        if solid.is_closed:
            along = np.minimum(along, way - along)
        near = np.linalg.norm(at - at[i], axis=1)
        # Beside each other along the bar: the chord of half a turn of the tightest bend is shorter than its path.
        clash = np.flatnonzero((near < 2 * inner - SAME) & (along > np.pi * inner + SAME))
        if len(clash):
            x, y, z = at[i]
            raise GeometryError(
                f"the bar passes through itself near ({x:.4g}, {y:.4g}, {z:.4g}) mm, where '{runs[i]}' and "
                f"'{runs[int(clash[0])]}' meet.", where=runs[i], hint="Lengthen a run, or turn a bend to another side.",
            )  # fmt: skip


def cut_bar(solid: BentSolid, normal: Array, at: float, name: str) -> BentSolid:
    """What of a bar lies ahead of the plane ``normal · p = at`` (unit normal, mm); the cut faces are called ``name``.

    Raises
    ------
    GeometryError : the plane leaves nothing or pieces, or meets the bar askew, neither along its path nor straight
        across it.
    """
    around = solid.outline()
    looks = list(_looks(solid))
    heights = [(frame.place(around) @ normal - at) for frame, _, _ in looks]
    if max(float(h.max()) for h in heights) < SAME:
        raise GeometryError("the plane leaves nothing of the bar.", where="cuts", hint="Keep the other side.")
    if min(float(h.min()) for h in heights) > -SAME:
        return solid
    if all(abs(frame.axes[2] @ normal) < ALIGNED * 10 for frame, _, _ in looks):
        return _cut_along(solid, normal, at, name, looks)
    return _cut_across(solid, normal, at, name)


def _looks(solid: BentSolid) -> Iterator[tuple[Frame, int, float]]:
    """Frames along the bar, with the run that each is in and the share of it."""
    for i, (run, frame) in enumerate(solid.placed_runs()):
        for share in np.linspace(0, 1, LOOKS):
            yield run.at(frame, float(share)), i, float(share)


def _askew(p: Array) -> GeometryError:
    x, y, z = p
    return GeometryError(
        f"the plane meets the bar askew near ({x:.4g}, {y:.4g}, {z:.4g}) mm.", where="cuts",
        hint="Cut along the path of the bar, or straight across it.",
    )  # fmt: skip


def _cut_along(
    solid: BentSolid, normal: Array, at: float, name: str, looks: Sequence[tuple[Frame, int, float]]
) -> BentSolid:
    """The bar with its section cut by the line in which the plane meets it all along."""
    lines = np.array([[*(frame.axes[:2] @ normal), at - frame.origin @ normal] for frame, _, _ in looks])
    off = np.abs(lines - lines[0]).max(axis=1)
    if off.max() > SAME * 10:
        raise _askew(looks[int(off.argmax())][0].origin)
    across, height = lines[0, :2], float(lines[0, 2])
    # The section turned and moved so that the line is y = 0 and what is kept above it; then back.
    c, s = float(across[1]), float(across[0])
    there = np.array([[c, -s], [s, c]])
    shift = np.array([0.0, -height])
    regions = [
        _moved(part, there.T, -there.T @ shift, name)
        for region in solid.partition.regions
        for part in clipped(_moved(region, there, shift, ""), 1)
    ]
    named = [replace(r, name=f"{r.name}~{i}") if i else r for i, r in enumerate(regions)]
    return replace(solid, partition=Partition.of(named), flats=solid.flats | {name})


def _moved(region: Region, turn: Array, shift: Array, cut: str) -> Region:
    """The region turned (2, 2), then moved; what `clipped` calls a cut is called ``cut`` where that is a name."""

    def at(p: tuple[float, float]) -> tuple[float, float]:
        x, y = turn @ np.array(p) + shift
        return float(x), float(y)

    def segment(s: Segment) -> Segment:
        name = cut if cut and s.name == "cut.y" else s.name
        return Segment(name, at(s.start), at(s.end), None if s.centre is None else at(s.centre), s.ccw)

    loops = tuple(tuple(segment(s) for s in loop) for loop in (region.outer, *region.holes))
    return replace(region, outer=loops[0], holes=loops[1:])


def _cut_across(solid: BentSolid, normal: Array, at: float, name: str) -> BentSolid:
    """The bar with its path ended where the plane crosses it at right angles."""
    pieces: list[list[tuple[Run, Frame]]] = []
    around = solid.outline()
    ahead_before = False
    for run, frame in solid.placed_runs():
        shares = [0.0, *_crossings(run, frame, normal, at), 1.0]
        for low, high in itertools.pairwise(shares):
            if high - low < ALIGNED:
                continue
            middle = run.at(frame, (low + high) / 2)
            is_ahead = bool(middle.origin @ normal > at)
            begins = run.at(frame, low)
            if is_ahead:
                if not ahead_before:
                    pieces.append([])
                pieces[-1].append((run.part(low, high), begins))
            ahead_before = is_ahead
    if solid.is_closed and len(pieces) > 1 and pieces[0][0][1].origin @ normal > at + SAME:
        # The first piece goes on from the last.
        pieces[0] = pieces.pop() + pieces[0]
    if not pieces:
        raise GeometryError("the plane leaves nothing of the bar.", where="cuts", hint="Keep the other side.")
    if len(pieces) > 1:
        raise GeometryError(
            f"the plane leaves the bar in {len(pieces)} pieces.", where="cuts", hint="Cut it so that one is left."
        )
    piece = pieces[0]
    kept = replace(solid, runs=_renamed([run for run, _ in piece]), start=piece[0][1])
    ends = []
    for frame, own in zip((kept.frames()[0], kept.frames()[-1]), solid.ends, strict=True):
        on_plane = abs(frame.origin @ normal - at) < SAME * 10
        if on_plane and abs(abs(frame.axes[2] @ normal) - 1) > ALIGNED * 10:
            raise _askew(frame.origin)
        ends.append(name if on_plane else own)
    for frame, _, _ in _looks(kept):
        heights = frame.place(around) @ normal - at
        if heights.min() < -SAME * 100:
            raise _askew(frame.origin)
    return replace(kept, ends=(ends[0], ends[1]))


def _renamed(runs: Sequence[Run]) -> tuple[Run, ...]:
    """Runs of which one that was cut at its ends comes again: as one where it goes on, else under another name."""
    out: list[Run] = []
    for run in runs:
        if out and out[-1].name == run.name:
            out[-1] = replace(run, length=out[-1].length + run.length, angle=out[-1].angle + run.angle)
            continue
        again = sum(o.name == run.name for o in out)
        out.append(replace(run, name=f"{run.name}.2") if again else run)
    return tuple(out)


def _crossings(run: Run, frame: Frame, normal: Array, at: float) -> list[float]:
    """Shares of a run, ends left out, at which its path goes through a plane."""
    x, y, along = frame.axes
    off = float(frame.origin @ normal - at)
    if not run.is_bend:
        slope = float(along @ normal) * run.length
        found = [-off / slope] if abs(slope) > SAME else []
    else:
        toward = np.cos(run.about) * x + np.sin(run.about) * y
        # Height over the plane: off + R (1 − cos θ) toward·n + R sin θ along·n.
        a, b = run.radius * float(toward @ normal), run.radius * float(along @ normal)
        size = float(np.hypot(a, b))
        if size < SAME or abs(off + a) > size + SAME:
            return []
        # a cos θ − b sin θ = off + a, so cos(θ + φ) = (off + a) / size with φ = atan2(b, a).
        phase, half = float(np.arctan2(b, a)), float(np.arccos(np.clip((off + a) / size, -1, 1)))
        found = [float((angle - phase) % (2 * np.pi)) / run.angle for angle in (half, -half)]
    return sorted({round(t, 12) for t in found if ALIGNED < t < 1 - ALIGNED})
