"""The core model: bodies, pairs, bolts, supports, loads and steps, in mm, N and MPa."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.volume import VolumeMesh

Enforcement = Literal["exact", "penalty"]
Fit = Literal["as-drawn", "overlap-removed", "closed-up", "value"]
Slide = Literal["no", "freely", "friction"]


@dataclass(frozen=True)
class Body:
    """One solid: a mesh already in place, and its material."""

    name: str
    mesh: VolumeMesh
    material: Elastic


@dataclass(frozen=True)
class Face:
    """A named face of a body."""

    body: str
    name: str


@dataclass(frozen=True)
class PairLaw:
    """What a pair may do: open or not; slide not, freely, or with friction coefficient ``mu``."""

    may_open: bool
    may_slide: Slide
    mu: float = 0.0

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

    @property
    def has_tangents(self) -> bool:
        """Whether tangential motion is resisted at all."""
        return self.may_slide == "no" or (self.may_slide == "friction" and self.mu > 0)


@dataclass(frozen=True)
class Pair:
    """Two face sets that may touch; side A carries the integration.

    ``search`` (mm): gaps wider than this at the start are left out. ``penalty`` is the stiffness
    as a multiple of E/h. ``fit``: how the drawn gap counts: as drawn; with overlap removed; closed
    up (gaps and overlaps within the search are none); or set to ``interference`` (mm, negative for a
    clearance) all over. Overlap is resolved along the first step.
    """

    name: str
    side_a: tuple[Face, ...]
    side_b: tuple[Face, ...]
    law: PairLaw
    search: float
    enforcement: Enforcement = "exact"
    penalty: float = 100.0
    fit: Fit = "as-drawn"
    interference: float = 0.0


@dataclass(frozen=True)
class Bolt:
    """A body whose shank is shortened at its cut plane along +z of its own axis."""

    name: str
    body: str
    axis: tuple[float, float, float]


@dataclass(frozen=True)
class Support:
    """Faces held at zero in the marked components (x, y, z)."""

    name: str
    faces: tuple[Face, ...]
    components: tuple[bool, bool, bool]


@dataclass(frozen=True)
class Load:
    """Something that acts on faces, scaled by its value over the steps.

    ``force``: the value (N) along ``direction``, spread evenly over the faces.
    ``pressure``: the value (MPa) against the faces. ``displacement``: the value (mm) along
    ``direction``, which must be a coordinate axis; the faces keep it also in later steps.
    """

    name: str
    kind: Literal["force", "pressure", "displacement"]
    faces: tuple[Face, ...]
    direction: tuple[float, float, float] = (0.0, 0.0, 0.0)


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
class Step:
    """End values of loads (held when not named) and preloads tightened in this step (N)."""

    name: str
    loads: dict[str, float] = field(default_factory=dict)
    preloads: dict[str, float] = field(default_factory=dict)
    increments: Increments = field(default_factory=Increments)


@dataclass(frozen=True)
class Model:
    """Everything the solver needs."""

    bodies: tuple[Body, ...]
    pairs: tuple[Pair, ...]
    bolts: tuple[Bolt, ...]
    supports: tuple[Support, ...]
    loads: tuple[Load, ...]
    steps: tuple[Step, ...]

    def offsets(self) -> NDArray[np.int64]:
        """First global node number of each body, and the total, shape (n_bodies + 1,)."""
        return np.cumsum([0, *(len(b.mesh.nodes) for b in self.bodies)])

    def nodes(self) -> NDArray[np.float64]:
        """All nodes (n, 3) in mm, body after body."""
        return np.vstack([b.mesh.nodes for b in self.bodies])

    def body_index(self, name: str) -> int:
        """Position of a body by name."""
        return next(i for i, b in enumerate(self.bodies) if b.name == name)

    def quads(self, faces: tuple[Face, ...]) -> NDArray[np.int64]:
        """Quads of ``faces`` in global node numbers, shape (k, 4)."""
        offsets = self.offsets()
        out = []
        for face in faces:
            i = self.body_index(face.body)
            out.append(self.bodies[i].mesh.faces[face.name] + offsets[i])
        return np.vstack(out)
