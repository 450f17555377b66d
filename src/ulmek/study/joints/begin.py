"""A joint to begin with: what is picked, read as one kind of joint or another and as what can be asked of it."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from ulmek.core.errors import InputError, UlmekError
from ulmek.core.handcalc.fasteners import size_for_hole, thread_for_hole
from ulmek.core.mesh.fitted import FaceShape
from ulmek.study.edits import edited_by
from ulmek.study.items import Patch, StudyDocument
from ulmek.study.items.item import free_id
from ulmek.study.items.joint import (
    ASKS,
    Ask,
    Bolted,
    Geared,
    Guided,
    Hinged,
    JointUse,
    OnWall,
    Pinned,
    Pressed,
    Seated,
)
from ulmek.study.items.step import StepUse
from ulmek.study.joints.fields import label_of
from ulmek.study.joints.follow import followed
from ulmek.study.joints.found import as_found
from ulmek.study.joints.gather import gathered
from ulmek.study.joints.shapes import Shapes, across
from ulmek.study.joints.stack import OFF_AXIS, Hole, Stack, holes_in_line, pattern_of, seat, stack_of

Array = NDArray[np.float64]
# Parts in line lie on each other where they are no farther apart than this share of the hole; in a pinned joint.
APART, APART_PINNED = 0.05, 0.5
# A shank goes into a bore of its own diameter within this share, with a clearance below the second.
PRESSED, GUIDED = 2e-3, 0.1
# What a bolt goes through beyond its thread is wider than it by so much.
CLEAR = 1.01
FASTENERS = ("bolt", "screw", "nut", "stud")
TOOTHED = ("gear", "gear-rack")


def ask_for(study: StudyDocument, faces: list[str], kind: str | None = None) -> Ask:
    """What picked faces are most likely to be joined as, or as a given ``kind``; of a part that is picked as a whole
    (``lug``, ``rollers#2``), the face that fits those of the others best. Values are those of pieces that are there.

    Raises
    ------
    InputError : nothing is picked, or what is picked cannot be joined so. UnknownNameError : there is no such face.
    """
    if not faces:
        raise InputError("nothing is picked.", where="faces", hint="Pick a hole, or a face of each part.")
    if kind is not None and kind not in ASKS:
        raise InputError(f"there is no joint of the kind '{kind}'.", where="kind", hint=f"Known: {', '.join(ASKS)}.")
    shapes = Shapes(study)
    faces = _named(shapes, faces)
    for face in faces:
        shapes.split(face)
    ask = _BEGIN[kind or _likely(shapes, faces)](shapes, faces)
    try:
        return as_found(study, ask, gathered(study, JointUse(id="new", name="New", ask=ask)))
    except UlmekError:
        # It cannot be made so, which is told when it is looked at.
        return ask


def new_joint(study: StudyDocument, ask: Ask, name: str | None) -> Patch:
    """The patch that adds a joint, with those of its pieces that are there already, and a step for loads where the
    study has none and the joint brings none."""
    joint_id = free_id(ask.kind, {j.id for j in study.joints})
    number = "" if joint_id == ask.kind else f" {joint_id.rsplit('-', 1)[1]}"
    joint = JointUse(id=joint_id, name=name or f"{label_of(ask.kind)} joint{number}", ask=ask)
    joint = joint.model_copy(update={"pieces": gathered(study, joint)})
    patch: Patch = [{"op": "add", "path": "/joints/-", "value": joint.model_dump(mode="json")}]
    has_own = isinstance(ask, Geared) or (isinstance(ask, Pressed) and ask.asked != "nothing")
    if not study.steps and not has_own:
        step = StepUse(id="service", name="Service")
        patch.append({"op": "add", "path": "/steps/-", "value": step.model_dump(mode="json")})
    return patch


def join(
    study: StudyDocument, picked: list[str], *, kind: str | None, asked: dict[str, Any], name: str | None
) -> tuple[StudyDocument, JointUse]:
    """The study with what is picked joined, as it is likely to be or as ``kind``, with the entries ``asked`` otherwise;
    and the joint.

    Raises
    ------
    UlmekError : see `ask_for`; an entry that there is not, or one that a joint cannot have.
    """
    begun = ask_for(study, picked, kind)
    try:
        ask = type(begun).model_validate({**begun.model_dump(), **asked})
    except ValidationError as error:
        first = error.errors()[0]
        place = "/".join(str(p) for p in first["loc"])
        raise InputError(
            f"{place}: {first['msg'].removeprefix('Value error, ').rstrip('.')}.", where="ask",
            hint=f"A {begun.kind} joint is asked for {', '.join(sorted(set(begun.model_dump()) - {'kind'}))}.",
        ) from None  # fmt: skip
    return made(study, ask, name)


def made(study: StudyDocument, ask: Ask, name: str | None) -> tuple[StudyDocument, JointUse]:
    """The study with a joint made, and the joint; raises why it cannot be made."""
    after = edited_by(study, new_joint(study, ask, name))
    done = followed(study, after, must=after.joints[-1].id)
    return done, done.joints[-1]


def _named(shapes: Shapes, picked: list[str]) -> list[str]:
    """The faces picked, with one for each part that is picked as a whole."""
    wholes = [p for p in picked if "/" not in p]
    for body in wholes:
        if body not in shapes.bodies:
            raise InputError(
                f"there is no single part '{body}'.", where="faces", hint="Pick one copy of it, or a face of one."
            )
    if not wholes:
        return picked
    rounds = {b: _rounds(shapes, b) for b in (p.split("/")[0] for p in picked)}
    out: list[str] = []
    for p in picked:
        if "/" in p:
            out.append(p)
        elif shapes.part(p).recipe.kind in TOOTHED:
            flanks = [n for n in shapes.mesh(p).faces if n.endswith(".left")]
            out.append(f"{p}/{flanks[len(flanks) // 2]}")
        elif rounds[p]:
            out.append(f"{p}/{_best(rounds, p)}")
        else:
            raise InputError(
                f"{shapes.part(p).name} has no hole and no shank.",
                where="faces",
                hint="Pick the faces that are joined.",
            )
    return out


def _rounds(shapes: Shapes, body: str) -> list[tuple[str, FaceShape]]:
    """Round faces of a body."""
    found = ((name, shapes.shape(body, name)) for name in shapes.mesh(body).faces)
    return [(name, shape) for name, shape in found if shape is not None and shape.kind == "round"]


def _best(rounds: dict[str, list[tuple[str, FaceShape]]], body: str) -> str:
    """The round face of a body that fits one of another body best: of the same radius, holes before shanks, and of
    those that are alike one in line."""
    others = [shape for b, found in rounds.items() if b != body for _, shape in found]

    def off(face: tuple[str, FaceShape]) -> tuple[float, bool, bool]:
        mine = face[1]
        if not others:
            return 0.0 if mine.is_hollow else 1.0, not mine.is_hollow, False
        # Two shanks do not go together.
        ways = []
        for other in others:
            if mine.is_hollow or other.is_hollow:
                away = other.point - mine.point
                is_off = float(np.linalg.norm(across(away, mine.direction))) > OFF_AXIS * 2 * mine.radius
                ways.append((round(abs(other.radius / mine.radius - 1), 3), not mine.is_hollow, is_off))
        return min(ways, default=(1.0, not mine.is_hollow, True))

    return min(rounds[body], key=off)[0]


def _likely(shapes: Shapes, faces: list[str]) -> str:
    """The kind of joint that picked faces look like."""
    owners = [shapes.split(f) for f in faces]
    if len(faces) > 1 and all(shapes.part(b).recipe.kind in TOOTHED for b, _ in owners):
        return "geared"
    found = [shapes.shape(*o) for o in owners]
    hollow = [s for s in found if s is not None and s.kind == "round" and s.is_hollow]
    shanks = [s for s in found if s is not None and s.kind == "round" and not s.is_hollow]
    if hollow and len(hollow) == len(faces):
        return _of_holes(shapes, faces)
    if len(faces) == 2 and hollow and shanks:
        play = (hollow[0].radius - shanks[0].radius) / hollow[0].radius
        if play > GUIDED:
            return "seated"
        return "guided" if play > PRESSED else "pressed"
    return "on-wall" if len({b for b, _ in owners}) == 1 else "seated"


def _of_holes(shapes: Shapes, faces: list[str]) -> str:
    chain = _chain(shapes, faces, APART_PINNED)
    bodies = [h.body for h in chain]
    if len(set(bodies)) < len(bodies):
        return "pinned"
    first = stack_of(shapes, [chain[0].reference])
    pattern = len(pattern_of(shapes, first)[0])
    free = [h.diameter for h in chain]
    is_for_bolts = size_for_hole(min(free)) is not None or _tapped(chain) is not None
    if len(bodies) == 1 and not (pattern > 1 and is_for_bolts):
        return "pressed"
    return "bolted" if is_for_bolts else "pinned"


def _tapped(chain: list[Hole]) -> int | None:
    """Which end of a chain of holes is a thread that the others let its bolt through."""
    for at, rest in ((0, chain[1:]), (len(chain) - 1, chain[:-1])):
        thread = thread_for_hole(chain[at].diameter)
        if rest and thread is not None and min(h.diameter for h in rest) > CLEAR * thread:
            return at
    return None


def _chain(shapes: Shapes, faces: list[str], apart: float) -> list[Hole]:
    """The holes that picked ones belong to: where they are in line or alone, all that lie on each other there; where
    not, those of the bodies picked, one of two ears round what goes between them."""
    stacks = [stack_of(shapes, [f]) for f in dict.fromkeys(faces)]
    first = stacks[0]
    wide = first.holes[0].diameter
    lines = {b: holes_in_line(shapes, b, first.point, first.direction, OFF_AXIS * wide) for b in shapes.bodies}
    picked = list(dict.fromkeys(shapes.split(f)[0] for f in faces))
    if all(lines[b] for b in picked):
        made = {p for j in shapes.study.joints for p in j.pieces.parts}
        clamped = [
            b
            for b in lines
            if b in picked or not (shapes.part(b).recipe.kind in FASTENERS or shapes.part(b).id in made)
        ]
        every = sorted((h for b in clamped for h in lines[b]), key=lambda h: h.middle)
        at = next(i for i, h in enumerate(every) if h.reference == first.holes[0].reference)
        low = high = at
        while low > 0 and -0.5 < (every[low].start - every[low - 1].end) / wide < apart:
            low -= 1
        while high + 1 < len(every) and -0.5 < (every[high + 1].start - every[high].end) / wide < apart:
            high += 1
        chain = every[low : high + 1]
        if all(any(h.body == b for h in chain) for b in picked):
            # The head goes where somebody looked last.
            last = next(i for i, h in enumerate(chain) if h.reference == stacks[-1].holes[0].reference)
            return chain[::-1] if last < len(chain) - 1 - last else chain
    groups = [
        holes_in_line(shapes, s.holes[0].body, s.point, s.direction, OFF_AXIS * s.holes[0].diameter) for s in stacks
    ]
    return _interleaved(groups)


def _interleaved(groups: list[list[Hole]]) -> list[Hole]:
    """Holes of several bodies that are to be brought in line, one body after the other, or one between two ears."""
    for forked, between in ((0, 1), (1, 0)):
        if len(groups) == 2 and len(groups[forked]) == 2 and len(groups[between]) == 1:
            low, high = groups[forked]
            return [low, *groups[between], high]
    return [h for group in groups for h in group]


def _bolted(shapes: Shapes, faces: list[str]) -> Ask:
    chain = _chain(shapes, faces, APART)
    far: dict[str, Any] = {}
    tapped = _tapped(chain)
    if tapped is not None:
        chain = chain[::-1] if tapped else chain
        far = {"far_end": "thread"}
    elif len(chain) == 1:
        far = {"far_end": "ground", "wall": _rests(shapes, chain[0].reference)}
    return Bolted(holes=[h.reference for h in chain], **far)


def _rests(shapes: Shapes, hole: str) -> bool:
    """Whether the far end of a hole alone has a flat face that could rest on a wall."""
    stack: Stack = stack_of(shapes, [hole])
    return seat(shapes, stack, 0, at_end=False) is not None


def _pinned(shapes: Shapes, faces: list[str]) -> Ask:
    return Pinned(holes=[h.reference for h in _chain(shapes, faces, APART_PINNED)])


def _pressed(shapes: Shapes, faces: list[str]) -> Ask:
    bore, shaft = _bore_and_shank(shapes, faces, is_alone=True)
    return Pressed(bore=bore, shaft=shaft)


def _guided(shapes: Shapes, faces: list[str]) -> Ask:
    bore, shank = _bore_and_shank(shapes, faces, is_alone=False)
    play = 2 * (shapes.round_face(bore, hollow=True).radius - shapes.round_face(shank or "", hollow=False).radius)
    return Guided(bore=bore, shank=shank or "", clearance=f"{play:.4g} mm" if play > 1e-6 else "0.05 mm")


def _bore_and_shank(shapes: Shapes, faces: list[str], *, is_alone: bool) -> tuple[str, str | None]:
    bore = shank = None
    for face in faces:
        shape = shapes.shape(*shapes.split(face))
        if shape is not None and shape.kind == "round":
            if shape.is_hollow:
                bore = bore or face
            else:
                shank = shank or face
    if bore is None or (shank is None and not is_alone):
        raise InputError(
            "a bore and a shank are wanted.",
            where="faces",
            hint="Pick the inside of a bore and a shank.",
        )
    return bore, shank


def _geared(shapes: Shapes, faces: list[str]) -> Ask:
    if len(faces) < 2:
        raise InputError("one gear is picked.", where="faces", hint="Pick a tooth of the other gear too.")
    stays, moved = faces[0], faces[-1]
    if shapes.part(shapes.split(moved)[0]).recipe.kind == "gear-rack":
        stays, moved = moved, stays
    return Geared(stays=stays, moved=moved)


def _seated(shapes: Shapes, faces: list[str]) -> Ask:
    first = shapes.split(faces[0])[0]
    a = [f for f in faces if shapes.split(f)[0] == first]
    b = [f for f in faces if shapes.split(f)[0] != first]
    if not b:
        raise InputError("faces of one part are picked.", where="faces", hint="Pick a face of the other part too.")
    # What is picked last stays, and the first comes to it.
    return Seated(a=a, b=b)


def _hinged(shapes: Shapes, faces: list[str]) -> Ask:
    return Hinged(a=faces[0], b=faces[1] if len(faces) > 1 else None)


def _on_wall(shapes: Shapes, faces: list[str]) -> Ask:
    return OnWall(faces=faces)


_BEGIN = {
    "bolted": _bolted,
    "pinned": _pinned,
    "pressed": _pressed,
    "geared": _geared,
    "seated": _seated,
    "guided": _guided,
    "hinged": _hinged,
    "on-wall": _on_wall,
}
assert set(_BEGIN) == set(ASKS)


def _count(number: int, one: str, many: str) -> str:
    return f"{number} {one if number == 1 else many}"


def in_words(study: StudyDocument, joint: JointUse, *, there: StudyDocument | None = None, is_new: bool = True) -> str:
    """ "Bolts M16 ×3, 5 pairs, 1 step": what a joint is made of; of its pieces only those that are new, or those that
    are not, in the study as it was (``there``)."""

    def counts(section: str, item_id: str) -> bool:
        return there is None or is_new != any(i.id == item_id for i in getattr(there, section))

    out = []
    for part in (p for p in study.parts if p.id in joint.pieces.parts and counts("parts", p.id)):
        number = len(part.placements)
        out.append(part.name if number == 1 else f"{part.name} ×{number}")
    own = [b for b in study.bolts if b.id in joint.pieces.bolts and counts("bolts", b.id)]
    lines = sum(b.line is not None for b in own)
    if lines:
        out.append(_count(lines, "line bolt", "line bolts"))
    words = {
        "pairs": ("pair", "pairs"),
        "walls": ("datum wall", "datum walls"),
        "springs": ("soft spring", "soft springs"),
        "links": ("link", "links"),
        "supports": ("support", "supports"),
        "loads": ("load", "loads"),
        "steps": ("step", "steps"),
    }
    for section, (one, many) in words.items():
        number = sum(counts(section, i) for i in joint.pieces.of(section))
        if number:
            out.append(_count(number, one, many))
    return ", ".join(out)
