"""What touches in a study, in its own words: suggestions for pairs, and which of them are pairs already."""

from collections import Counter
from dataclasses import dataclass

from pydantic import BaseModel

from ulmek.core.contact.finder import Touching, find_touching
from ulmek.core.model import Body, Face
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import free_id, part_of
from ulmek.study.items.left_out import LeftOut
from ulmek.study.items.pair import PairUse
from ulmek.study.translate import translate_parts
from ulmek.study.units import value_of

# A suggestion that is new gets friction, as dry steel on steel has it.
MU = 0.15


class Suggestion(BaseModel):
    """Two groups of faces that could be a pair.

    a, b: face references, a the better covered or finer side. gap (mm): least distance, negative for an overlap.
    area (mm²): covered. cover: share of side a. pair: the pair that these faces are in already. new_pair: the entry
    to add to the study's pairs. places: how often it occurs, for parts with copies. is_left_out: somebody has said
    that it shall be no pair.
    """

    a: list[str]
    b: list[str]
    gap: float
    area: float
    cover: float
    places: int
    pair: str | None
    new_pair: dict[str, object]
    is_left_out: bool = False


def suggestions(
    study: StudyDocument, *, distance: float = 1.0, angle: float = 40.0, search: str | None = None
) -> list[Suggestion]:
    """All faces of different parts in the analysis within ``distance`` (mm) and ``angle`` (degrees) of facing each
    other. search: the distance as written, which new pairs then search within too.

    Raises
    ------
    UlmekError : a part that cannot be made, with its place.
    """
    bodies = translate_parts(awake(study))
    thickness = value_of(study.thickness, "length") if study.space.startswith("plane") else 1.0
    turned = study.space == "axisymmetric"
    found = find_touching(bodies, distance=distance, angle=angle, thickness=thickness, turned=turned)
    taken, groups = {p.id for p in study.pairs}, _by_part(found)
    there = _There.of(study, bodies)
    ends = [frozenset({_part(g[0].a[0]), _part(g[0].b[0])}) for g in groups]
    between = Counter(ends)
    all_of_them = [
        _suggestion(study, group, there, taken, is_alone=between[two] == 1)
        for group, two in zip(groups, ends, strict=True)
    ]
    if search is None:
        return all_of_them
    return [s.model_copy(update={"new_pair": {**s.new_pair, "search": search}}) for s in all_of_them]


def _part(face: Face) -> str:
    return face.body.split("#")[0]


def _by_part(found: list[Touching]) -> list[list[Touching]]:
    """Findings between copies of the same two parts that share the faces of a copied part belong together."""
    groups: list[list[Touching]] = []
    for one in found:
        same = next((g for g in groups if _belong(g[0], one)), None)
        if same is None:
            groups.append([one])
        else:
            same.append(one)
    return groups


def _belong(one: Touching, other: Touching) -> bool:
    if (_part(one.a[0]), _part(one.b[0])) != (_part(other.a[0]), _part(other.b[0])):
        return False
    for side in ("a", "b"):
        mine, theirs = getattr(one, side), getattr(other, side)
        if mine[0].body != theirs[0].body and {f.name for f in mine} != {f.name for f in theirs}:
            return False
    return one.a[0].body != other.a[0].body or one.b[0].body != other.b[0].body


def _suggestion(
    study: StudyDocument, group: list[Touching], there: "_There", taken: set[str], *, is_alone: bool
) -> Suggestion:
    """``is_alone``: whether nothing else touches between the two parts, whose names then tell the pair."""
    sides = [
        _references(study, {face for t in group for face in side})
        for side in ([*_all(group, "a")], [*_all(group, "b")])
    ]
    names = {p.id: p.name for p in study.parts}
    owners = [part_of(side[0]) for side in sides]
    free = free_id(f"{owners[0]}-{owners[1]}"[:40], taken)
    taken.add(free)
    gap = min(t.gap for t in group)
    covered = sum(t.area for t in group)
    faces = ["" if is_alone else f" {side[0].split('/')[1]}" for side in sides]
    name = " – ".join(f"{names[owner]}{face}" for owner, face in zip(owners, faces, strict=True))
    new_pair = {
        "id": free, "name": name[:80], "a": sides[0], "b": sides[1],
        "law": {"may_open": True, "may_slide": "friction", "mu": MU},
    }  # fmt: skip
    return Suggestion(
        a=sides[0], b=sides[1], gap=gap, area=covered, cover=sum(t.cover for t in group) / len(group),
        places=len(group), pair=next((name for name, sides in there.pairs if sides.have(group)), None),
        new_pair=new_pair, is_left_out=any(sides.have(group) for sides in there.left_out),
    )  # fmt: skip


def _all(group: list[Touching], side: str) -> list[Face]:
    return [face for t in group for face in (t.a if side == "a" else t.b)]


def _references(study: StudyDocument, faces: set[Face]) -> list[str]:
    """References of faces: those that all copies of a part have are written once for the part."""
    copies = {p.id: len(p.placements) for p in study.parts}
    out = []
    for part in sorted({_part(f) for f in faces}):
        for name in sorted({f.name for f in faces if _part(f) == part}):
            having = sorted(f.body for f in faces if _part(f) == part and f.name == name)
            out += [f"{part}/{name}"] if len(having) == copies[part] else [f"{body}/{name}" for body in having]
    return out


@dataclass(frozen=True)
class _Sides:
    """The faces of the two sides of a pair, or of what is left out."""

    one: set[Face]
    other: set[Face]

    def have(self, group: list[Touching]) -> bool:
        """Whether they have all faces of a finding, whichever way round."""
        a, b = set(_all(group, "a")), set(_all(group, "b"))
        return (a <= self.one and b <= self.other) or (a <= self.other and b <= self.one)


@dataclass(frozen=True)
class _There:
    """Faces of the pairs that there are, by their ids, and of what is left out."""

    pairs: list[tuple[str, _Sides]]
    left_out: list[_Sides]

    @staticmethod
    def of(study: StudyDocument, bodies: tuple[Body, ...]) -> "_There":
        by_part: dict[str, list[Body]] = {}
        for body in bodies:
            for owner in {body.name, body.name.split("#")[0]}:
                by_part.setdefault(owner, []).append(body)

        def sides(item: PairUse | LeftOut) -> _Sides:
            return _Sides(_expanded(by_part, item.a), _expanded(by_part, item.b))

        return _There([(p.id, sides(p)) for p in study.pairs], [sides(left) for left in study.left_out])


def _expanded(by_part: dict[str, list[Body]], references: list[str]) -> set[Face]:
    out = set()
    for reference in references:
        owner, name = reference.split("/", 1)
        out |= {Face(body.name, name) for body in by_part.get(owner, [])}
    return out
