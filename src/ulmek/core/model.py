"""The core model: bodies, pairs, bolts, supports, loads and steps, in mm, N and MPa.

A field counts in the key by which kept factors are found again, unless it is marked as a mere `value` (`core.keys`).
"""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.axes import Axes, axes_at
from ulmek.core.element.response import Space
from ulmek.core.element.section import Section
from ulmek.core.errors import InputError
from ulmek.core.keys import value
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.material.rubber import Rubber
from ulmek.core.mesh.volume import VolumeMesh

Enforcement = Literal["exact", "augmented", "penalty"]
Fit = Literal["as-drawn", "overlap-removed", "closed-up", "value"]
Slide = Literal["no", "freely", "friction"]
Path = Literal["automatic", "condensed", "mixed", "full", "iterative"]
Material = Elastic | Plastic | Rubber


@dataclass(frozen=True)
class Body:
    """One solid: a mesh already in place, and its material. allowable: stress it is judged against (MPa), if any."""

    name: str
    mesh: VolumeMesh
    material: Material
    allowable: float | None = value(default=None)


@dataclass(frozen=True)
class Face:
    """A named face of a body."""

    body: str
    name: str


@dataclass(frozen=True)
class PairLaw:
    """What a pair may do: open or not; slide not, freely, or with friction coefficient ``mu``."""

    may_open: bool = value()
    may_slide: Slide = value()
    mu: float = value(default=0.0)

    def __post_init__(self) -> None:
        if self.may_slide == "friction" and not 0 <= self.mu <= 10:
            raise InputError(f"the friction coefficient is {self.mu:g}.", where="mu", hint="Give 0 to 10.")
        if self.may_slide == "friction" and not self.may_open:
            raise InputError(
                "a pair that may not open cannot slide with friction.",
                where="may_slide",
                hint="Let it open, or slide freely.",
            )

    @property
    def short_name(self) -> str:
        """tied, captive, smooth, friction or grip."""
        if self.may_slide == "friction":
            return "friction"
        table = {(False, "no"): "tied", (False, "freely"): "captive", (True, "freely"): "smooth", (True, "no"): "grip"}
        return table[(self.may_open, self.may_slide)]

    def structure(self) -> bool:
        """Whether tangential rows are kept: the only part of a law that the factor knows."""
        return self.has_tangents

    @property
    def has_tangents(self) -> bool:
        """Whether tangential motion is resisted at all."""
        return self.may_slide == "no" or (self.may_slide == "friction" and self.mu > 0)


@dataclass(frozen=True)
class Pair:
    """Two face sets, or one and a datum ``wall``, that may touch; side A carries the integration.

    ``search`` (mm): gaps wider than this at the start are left out. ``penalty`` is the stiffness
    as a multiple of E/h; augmented repeats it until no node penetrates by more than ``allowed`` (mm).
    ``fit``: how the drawn gap counts: as drawn; with overlap removed; closed
    up (gaps and overlaps within the search are none); or set to ``interference`` (mm, negative for a
    clearance) all over. Overlap is resolved along the first step.
    """

    name: str
    side_a: tuple[Face, ...]
    side_b: tuple[Face, ...]
    law: PairLaw
    search: float
    enforcement: Enforcement = value(default="exact")
    penalty: float = value(default=100.0)
    allowed: float = value(default=1e-4)
    wall: str | None = None
    fit: Fit = value(default="as-drawn")
    interference: float = value(default=0.0)


@dataclass(frozen=True)
class Wall:
    """A datum wall: a rigid plane, cylinder or sphere for a part that is not modelled.

    point (mm): on the plane, on the cylinder's axis, or the sphere's middle. direction: out of the plane
    towards what may touch it, or along the cylinder's axis. radius (mm). hollow: touched from inside.
    handle: what moves it, None for a fixed wall.
    """

    name: str
    kind: Literal["plane", "cylinder", "sphere"]
    point: tuple[float, float, float]
    direction: tuple[float, float, float] = (0.0, 0.0, 1.0)
    radius: float = 0.0
    hollow: bool = False
    handle: str | None = None


@dataclass(frozen=True)
class Bolt:
    """A fastener shortened along its axis: a body cut at mid-shank, or a line between two handles.

    axis: unit vector from the shank to the head. body: the cut body, or None for a line with its
    ``head`` and ``foot`` handles (foot None: the ground) and its ``stiffness`` EA/L (N/mm). spring: name of the spring
    that a line stands for, one that acts only while head and foot move apart along the axis.
    """

    name: str
    axis: tuple[float, float, float]
    body: str | None = None
    head: str | None = None
    foot: str | None = None
    stiffness: float = 0.0
    spring: str | None = None


@dataclass(frozen=True)
class Handle:
    """A point that moves a set of faces as a rigid plate, or follows their average motion, or leads a whole body.

    A radial one has a single component, its first: the mean motion of its faces away from the line of its ``axes``.
    body: the body that is rigid and moves with the handle; with ``station``, only that station of a beam. A handle
    that leads nothing is a free point, for springs, masses and links. mass (t).
    """

    name: str
    at: tuple[float, float, float]
    faces: tuple[Face, ...] = ()
    kind: Literal["rigid", "averaging", "radial"] = "rigid"
    mass: float = 0.0
    body: str | None = None
    station: int | None = None
    axes: Axes | None = None

    @property
    def bodies(self) -> set[str]:
        """Names of the bodies that move with it."""
        return {face.body for face in self.faces} | ({self.body} if self.body is not None else set())


@dataclass(frozen=True, eq=False)
class Beam:
    """A straight body whose sections stay flat and keep their shape, each led by the handle of its station.

    frame (3, 3): rows along the beam, y and z of the section. line (k, 3) mm: centroids of the stations in order.
    stations: their handles, k names. station_of (n,): station of each of the body's nodes.
    """

    body: str
    section: Section
    frame: NDArray[np.float64]
    line: NDArray[np.float64]
    stations: tuple[str, ...]
    station_of: NDArray[np.int64]


@dataclass(frozen=True)
class Spring:
    """Springs between two handles (or a handle and the ground) along and about the coordinate axes, or ``axes``.

    stiffness (3,) N/mm, turning (3,) N·mm/rad.
    """

    name: str
    a: str
    b: str | None
    stiffness: tuple[float, float, float]
    turning: tuple[float, float, float] = (0.0, 0.0, 0.0)
    axes: Axes | None = None


@dataclass(frozen=True)
class Link:
    """Handle ``b`` follows handle ``a`` in the marked components: x, y, z, turns about them; or those of ``axes``."""

    name: str
    a: str
    b: str
    components: tuple[bool, bool, bool, bool, bool, bool]
    axes: Axes | None = None


@dataclass(frozen=True)
class Support:
    """Faces, or a handle, held at zero in the marked components (x, y, z; turns of a handle), or those of ``axes``.

    is_symmetry: the faces lie in a plane of symmetry, across the one component that is marked.
    """

    name: str
    faces: tuple[Face, ...]
    components: tuple[bool, bool, bool]
    handle: str | None = None
    turns: tuple[bool, bool, bool] = (False, False, False)
    is_symmetry: bool = False
    axes: Axes | None = None


LoadKind = Literal["force", "pressure", "displacement", "radial", "moment", "rotation", "gravity", "spin"]
# Kinds that move what they act on, instead of pushing it.
PRESCRIBED: frozenset[LoadKind] = frozenset({"displacement", "radial", "rotation"})


@dataclass(frozen=True)
class Load:
    """Something that acts on faces, on a handle or on all bodies, scaled by its value over the steps.

    ``force``: the value (N) along ``direction``, spread evenly over the faces, or at the handle.
    ``pressure``: the value (MPa) against the faces. ``moment``: the value (N·mm) about ``direction``
    at the handle. ``displacement``, ``rotation``: the value (mm, rad) along or about ``direction``; kept also in later
    steps. ``radial``: the value (mm) away from the axis through
    ``centre`` along ``direction``, which every node moves straight; along the axis it is free.
    ``gravity``: acceleration (mm/s²) along
    ``direction`` of all bodies. ``spin``: angular speed (rad/s) about the axis through ``centre``.
    """

    name: str
    kind: LoadKind
    faces: tuple[Face, ...]
    direction: tuple[float, float, float] = (0.0, 0.0, 0.0)
    handle: str | None = None
    centre: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def prescribes(self) -> bool:
        """Whether it prescribes a motion."""
        return self.kind in PRESCRIBED


@dataclass(frozen=True)
class Increments:
    """Sizes of increments as shares of a step: first, least, largest; and how many at most."""

    start: float = 0.25
    least: float = 0.01
    largest: float = 0.25
    most: int = 60

    def __post_init__(self) -> None:
        if not 0 < self.least <= self.start <= self.largest <= 1:
            raise InputError(
                f"increments least {self.least:g}, start {self.start:g}, largest {self.largest:g} are out of order.",
                where="increments",
                hint="Keep 0 < least ≤ start ≤ largest ≤ 1.",
            )


@dataclass(frozen=True)
class Dynamics:
    """Inertia in a step: its duration (s), and damping proportional to mass (1/s)."""

    duration: float
    damping: float = 0.0


@dataclass(frozen=True)
class Step:
    """End values of loads (held when not named), preloads tightened in this step (N), and what is off.

    released: names of supports, prescribed motions and pairs that do not act in this step. courses:
    points (share of the step, value) that a load passes on its way to its end value; a point at 0 makes
    it jump. large:
    large turns and strains are followed. dynamics: None for a static step.
    """

    name: str
    loads: dict[str, float] = field(default_factory=dict)
    preloads: dict[str, float] = field(default_factory=dict)
    increments: Increments = field(default_factory=Increments)
    released: frozenset[str] = frozenset()
    courses: dict[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    large: bool = False
    dynamics: Dynamics | None = None

    def stops(self) -> list[float]:
        """Shares of the step at which a course bends: increments end there."""
        return sorted({t for course in self.courses.values() for t, _ in course if t > 0} | {1.0})

    def value(self, load: str, time: float, start: float, end: float) -> float:
        """Value of a load at a share ``time`` of the step, which it begins at ``start``."""
        points = [(0.0, start), *self.courses.get(load, ()), (1.0, end)]
        return float(np.interp(time, [t for t, _ in points], [v for _, v in points]))


@dataclass(frozen=True)
class Model:
    """Everything the solver needs."""

    bodies: tuple[Body, ...]
    pairs: tuple[Pair, ...]
    bolts: tuple[Bolt, ...]
    supports: tuple[Support, ...]
    loads: tuple[Load, ...]
    steps: tuple[Step, ...] = value()
    handles: tuple[Handle, ...] = ()
    springs: tuple[Spring, ...] = ()
    links: tuple[Link, ...] = ()
    walls: tuple[Wall, ...] = ()
    beams: tuple[Beam, ...] = ()
    space: Space = "solid"
    thickness: float = 1.0
    path: Path = value(default="automatic")

    def structure(self) -> frozenset[str]:
        """What does not act in the first step: the first factor is made without it."""
        return self.steps[0].released if self.steps else frozenset()

    def amounts(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Multiples of the load patterns for load values, and 1 for what is constant (see `Constraints`).

        Forces of a spin grow with its square.
        """
        own = [v * v if ld.kind == "spin" else v for ld, v in zip(self.loads, values, strict=True)]
        return np.array([*own, 1.0], float)

    def offsets(self) -> NDArray[np.int64]:
        """First global node number of each body, and the total, shape (n_bodies + 1,)."""
        return self._offsets

    def nodes(self) -> NDArray[np.float64]:
        """All nodes (n, 3) in mm, body after body; not to be written to."""
        return self._nodes

    def body_index(self, name: str) -> int:
        """Position of a body by name."""
        return self._places[name]

    # Asked for thousands of times in a large assembly.
    @cached_property
    def _offsets(self) -> NDArray[np.int64]:
        return np.cumsum([0, *(len(b.mesh.nodes) for b in self.bodies)])

    @cached_property
    def _nodes(self) -> NDArray[np.float64]:
        return np.vstack([b.mesh.nodes for b in self.bodies])

    @cached_property
    def across_symmetry(self) -> dict[int, NDArray[np.float64]]:
        """Directions (k, 3), unit and square to each other, across the planes of symmetry that a node lies in, and out
        from the axis that it lies on: a normal has nothing along them."""
        nodes = self.nodes()
        found: dict[int, list[NDArray[np.float64]]] = {}
        for support in self.supports:
            if support.is_symmetry:
                at = self.nodes_of(support.faces)
                across = axes_at(support.axes, nodes[at])[:, int(np.flatnonzero(support.components)[0])]
                for node, direction in zip(at.tolist(), across, strict=True):
                    found.setdefault(node, []).append(direction)
        if self.space == "axisymmetric":
            for node in np.flatnonzero(nodes[:, 0] <= 1e-9 * np.abs(nodes).max()).tolist():
                found.setdefault(node, []).append(np.array([1.0, 0.0, 0.0]))
        return {node: _squared(directions) for node, directions in found.items()}

    @cached_property
    def held_askew(self) -> dict[int, NDArray[np.float64]]:
        """A direction (3,) in which a node is held, or moved, of those that are so along other than coordinate axes."""
        nodes = self.nodes()
        found: dict[int, NDArray[np.float64]] = {}
        for support in self.supports:
            if support.axes is not None:
                at = self.nodes_of(support.faces)
                held = axes_at(support.axes, nodes[at])[:, int(np.flatnonzero(support.components)[0])]
                found |= dict(zip(at.tolist(), held, strict=True))
        for load in self.loads:
            if load.kind == "displacement" and np.count_nonzero(load.direction) > 1:
                moved = np.array(load.direction) / np.linalg.norm(load.direction)
                found |= {node: moved for node in self.nodes_of(load.faces).tolist() if node not in found}
        return found

    @cached_property
    def _places(self) -> dict[str, int]:
        return {b.name: i for i, b in enumerate(self.bodies)}

    def nodes_of(self, faces: tuple[Face, ...]) -> NDArray[np.int64]:
        """Global numbers of the nodes on ``faces``, each once."""
        offsets = self.offsets()
        indices = [self.body_index(face.body) for face in faces]
        parts = [self.bodies[i].mesh.faces[f.name].ravel() + offsets[i] for i, f in zip(indices, faces, strict=True)]
        return np.unique(np.concatenate(parts)) if parts else np.zeros(0, np.int64)

    def nodes_led(self, handle: Handle) -> NDArray[np.int64]:
        """Global numbers of the nodes that a rigid handle moves."""
        if handle.body is None:
            return self.nodes_of(handle.faces)
        i = self.body_index(handle.body)
        whole = np.arange(*self.offsets()[i : i + 2])
        return whole if handle.station is None else whole[self.beam(handle.body).station_of == handle.station]

    def beam(self, body: str) -> Beam:
        """The beam that a body is."""
        return next(b for b in self.beams if b.body == body)

    @property
    def beam_bodies(self) -> set[str]:
        """Names of the bodies that are beams: they have no solid elements."""
        return {b.body for b in self.beams}

    def keeps_sections(self, pair: Pair) -> bool:
        """Whether both sides of a pair are bodies that are rigid, or whose sections are: then rows of contact depend on
        each other."""
        rigid = self.beam_bodies | {h.body for h in self.handles if h.body is not None}
        return all(face.body in rigid for face in (*pair.side_a, *pair.side_b))

    def arcs_of(self, faces: tuple[Face, ...]) -> NDArray[np.float64]:
        """True radii of the facets of ``faces`` (k, 7), in the order of `quads`; see `face_arcs`."""
        out = []
        for face in faces:
            mesh = self.bodies[self.body_index(face.body)].mesh
            out.append(mesh.arcs.get(face.name, np.zeros((len(mesh.faces[face.name]), 7))))
        return np.vstack(out)

    def quads(self, faces: tuple[Face, ...]) -> NDArray[np.int64]:
        """Facets of ``faces`` in global node numbers: quads (k, 4), triangles (k, 6), edges (k, 2) or (k, 3).

        Raises
        ------
        InputError : faces of unlike elements together.
        """
        if len({self.bodies[self.body_index(f.body)].mesh.faces[f.name].shape[1] for f in faces}) > 1:
            raise InputError(
                "one side of a pair has faces of first-order and of second-order elements.",
                hint="Make two pairs of it, or mesh these parts alike.",
            )
        offsets = self.offsets()
        out = []
        for face in faces:
            i = self.body_index(face.body)
            out.append(self.bodies[i].mesh.faces[face.name] + offsets[i])
        return np.vstack(out)


def _squared(directions: list[NDArray[np.float64]]) -> NDArray[np.float64]:
    """The span of a few directions as rows that are unit and square to each other."""
    if len(directions) == 1:
        return directions[0][None]
    _, size, rows = np.linalg.svd(np.array(directions))
    return np.asarray(rows[: int((size > 1e-6).sum())])
