"""What a hand calculation says beside a run."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, computed_field

from ulmek.core.errors import InputError
from ulmek.core.mesh.fitted import FaceShape, face_shape
from ulmek.core.model import Body, Face, Model
from ulmek.core.review.summary import Summary
from ulmek.study.items import StudyDocument
from ulmek.study.items.pair import PairUse
from ulmek.study.translate import true_bodies
from ulmek.study.units import Kind


class CheckedValue(BaseModel):
    """A value by hand, in mm, N, MPa, N·mm or a share, and beside it what the run has; none where it has no such.

    sense: both are the same thing, or what is computed has to stay below what is reckoned. band: between what the
    computed one lies on its mesh.
    """

    name: str
    quantity: Kind | Literal["share"]
    hand: float
    computed: float | None = None
    band: tuple[float, float | None] | None = None
    sense: Literal["same", "below"] = "same"
    source: str = ""

    @computed_field  # type: ignore[prop-decorator]
    @property
    def difference(self) -> float | None:
        """By what share the computed value is above the one by hand; of a limit, the share of it that is used."""
        if self.computed is None or self.hand == 0:
            return None
        return self.computed / self.hand - (1.0 if self.sense == "same" else 0.0)


class Condition(BaseModel):
    """What the formulas rest on, and whether it is met; None where the run cannot tell."""

    text: str
    met: bool | None


class Reckoning(BaseModel):
    """What one formula says, and what it rests on."""

    title: str
    values: list[CheckedValue]
    conditions: list[Condition]

    @computed_field  # type: ignore[prop-decorator]
    @property
    def holds(self) -> bool:
        """Whether nothing that it rests on is known not to be met."""
        return all(c.met is not False for c in self.conditions)


class HandCheck(Reckoning):
    """One hand calculation beside a run: of a pair, a bolt, a joint or a part, by its id."""

    kind: Literal["pair", "bolt", "joint", "part"]
    id: str


@dataclass(frozen=True)
class At:
    """An increment of a run with the model that was solved."""

    study: StudyDocument
    model: Model
    summaries: list[Summary]

    @property
    def now(self) -> Summary:
        """The increment that is looked at, the last of ``summaries``."""
        return self.summaries[-1]

    @cached_property
    def pairs(self) -> dict[str, tuple[tuple[Face, ...], tuple[Face, ...]]]:
        """Sides of the pairs between parts, by their ids."""
        return {p.name: (p.side_a, p.side_b) for p in self.model.pairs if p.side_b}

    def shape(self, face: Face) -> FaceShape | None:
        """What a face is; None where it is neither flat nor round nor part of a ball."""
        try:
            return face_shape(self.true_body(face).mesh, face.name)
        except InputError:
            return None

    @cached_property
    def _true(self) -> dict[str, Body]:
        is_section = self.model.space != "solid"
        return {b.name: b for b in self.model.bodies} if is_section else true_bodies(self.study)

    def true_body(self, face: Face) -> Body:
        """The body that has a face, all corners of whose faces lie on the true surface."""
        return self._true[face.body]

    def body(self, face: Face) -> Body:
        """The body that has a face."""
        return self.model.bodies[self.model.body_index(face.body)]

    def nodes(self, face: Face) -> NDArray[np.float64]:
        """Points (n, 3) mm of a face, on its true surface."""
        mesh = self.true_body(face).mesh
        return mesh.nodes[np.unique(mesh.faces[face.name])]

    def has_yielded(self, pair: PairUse) -> bool:
        """Whether metal has yielded at the faces of a pair or in a part that has one."""
        now, sides = self.now, self.pairs[pair.id]
        names = {f.body for side in sides for f in side}
        return now.pairs[pair.id].max_plastic_strain > 0 or any(now.parts[n].max_plastic_strain > 0 for n in names)
