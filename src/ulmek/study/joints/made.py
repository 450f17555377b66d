"""What a joint is made of: pieces by their roles, where its parts go, and its closed form."""

import re
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import BaseModel

from ulmek.study.items import Material, MeshSettings, Part, Placement, RecipeUse, StudyDocument
from ulmek.study.items.item import Item, free_id
from ulmek.study.items.joint import JointUse, Pieces
from ulmek.study.units import Kind

SECTIONS = tuple(Pieces.model_fields)
LONGEST_ID = 48


class HandFigure(BaseModel):
    """A value of a joint's closed form, known before any run.

    quantity: what it measures, "share" for one without a unit. least, most: its range by the scatter of tightening or
    the limits of a fit. holds: whether what it rests on is met; why: what is not. source: of the formula.
    """

    name: str
    quantity: Kind | Literal["share"]
    value: float
    least: float | None = None
    most: float | None = None
    holds: bool = True
    why: str = ""
    source: str = ""


@dataclass
class Made:
    """pieces: items by (list of the document, role), as plain JSON. places: where copies of parts that the joint moves
    stand. sizes: of elements (mm) that faces of parts get, unless they have one. figures: its closed form. told: what
    there is to say of it."""

    pieces: dict[tuple[str, str], dict[str, Any]] = field(default_factory=dict)
    places: dict[tuple[str, int], Placement] = field(default_factory=dict)
    sizes: dict[str, float] = field(default_factory=dict)
    figures: list[HandFigure] = field(default_factory=list)
    told: list[str] = field(default_factory=list)


class Maker:
    """Collects what a joint is made of; what is made keeps its id from one time to the next."""

    def __init__(self, study: StudyDocument, joint: JointUse, *, is_alone: bool = False) -> None:
        """``is_alone``: makes all pairs, whether or not others have their faces."""
        self.joint, self.whole, self.is_alone = joint, study, is_alone
        own = joint.pieces
        self.study = study.model_copy(
            update={s: [i for i in getattr(study, s) if i.id not in own.of(s)] for s in SECTIONS}
        )
        self.made = Made()
        self._ids = {(s, role): i for s in SECTIONS for i, role in own.of(s).items()}
        self._taken = {s: {i.id for i in getattr(study, s)} for s in SECTIONS}

    def id(self, section: str, role: str) -> str:
        """The id of the piece of a role: the one that it has, or a free one."""
        if (section, role) not in self._ids:
            stem = f"{self.joint.id}-{re.sub(r'[^a-z0-9]+', '-', role.lower()).strip('-')}"[: LONGEST_ID - 3].strip("-")
            found = free_id(stem, self._taken[section])
            self._taken[section].add(found)
            self._ids[section, role] = found
        return self._ids[section, role]

    def add(self, section: str, role: str, item: Item) -> str:
        """Make an item (its id is given here) a piece; returns the id."""
        found = self.id(section, role)
        names = {i.name for i in getattr(self.study, section)}
        plain = item.model_dump(mode="json") | {"id": found}
        if plain["name"] in names:
            plain["name"] = f"{plain['name']} · {self.joint.name}"[:80]
        self.made.pieces[section, role] = plain
        return found

    def part(self, role: str, name: str, recipe: RecipeUse, material: str, size: float, places: list[Placement]) -> str:
        """Make a part in ``places``, meshed with elements of ``size`` (mm)."""
        mesh = MeshSettings(size=f"{size:.3g} mm", per_turn=24)
        use = Part(id="part", name=name, recipe=recipe, material=material, mesh=mesh, placements=places)
        return self.add("parts", role, use)

    def material(self, wanted: Material) -> str:
        """The id of a material of the study that is like the one wanted, or of a new piece."""
        plain = wanted.model_dump(exclude={"id", "name"})
        same = next((m for m in self.study.materials if m.model_dump(exclude={"id", "name"}) == plain), None)
        return same.id if same is not None else self.add("materials", "material", wanted)

    def taken_part(self, role: str) -> Part | None:
        """The part of the study that has a role in the joint, where it is there already."""
        return next((p for p in self.whole.parts if self.joint.pieces.parts.get(p.id) == role), None)

    def keep_places(self, study: StudyDocument) -> None:
        """Keep the parts where a changed study has them, and go on with that."""
        for before, after in zip(self.study.parts, study.parts, strict=True):
            for copy, (was, now) in enumerate(zip(before.placements, after.placements, strict=True)):
                if was != now:
                    self.made.places[before.id, copy] = now
        self.study = study

    def figure(self, name: str, quantity: Kind | Literal["share"], value: float, **more: Any) -> None:
        """Add a value of the closed form."""
        self.made.figures.append(HandFigure(name=name, quantity=quantity, value=value, **more))

    def is_paired(self, one: list[str], other: list[str]) -> bool:
        """Whether faces of both lists are in a pair that is none of the joint's."""
        return not self.is_alone and any(
            (set(p.a) & set(one) and set(p.b) & set(other)) or (set(p.b) & set(one) and set(p.a) & set(other))
            for p in self.study.pairs
        )
