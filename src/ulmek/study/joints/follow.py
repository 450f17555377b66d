"""Joints follow what they join: made anew where that or what is asked for changes; what was set by hand stays.

What a joint would have been made of before an edit is compared with what it is made of after it: only what differs
between the two is written, so that everything else of a piece belongs to whoever edits it.
"""

from typing import Any

from ulmek.core.errors import UlmekError, located
from ulmek.study.items import KINDS, StudyDocument, read_study
from ulmek.study.items.joint import JointUse
from ulmek.study.joints.found import as_found
from ulmek.study.joints.kinds import MAKERS
from ulmek.study.joints.made import SECTIONS, Made, Maker
from ulmek.study.take_out import closure

# Joints may move parts of each other: how often they are gone through at most.
ROUNDS = 4
# Steps that come before all others: overlaps and tightening act first, and gears are loose until they are driven.
FIRST_STEPS = ("tighten", "press", "drive")
KIND_OF = {kind.list: kind.name for kind in KINDS.values()}


def made_of(study: StudyDocument, joint: JointUse, *, is_alone: bool = False) -> Made:
    """What a joint is made of in a study, or would be if nothing were between its parts (``is_alone``); raises what
    its maker raises, with the joint's place."""
    maker = Maker(study, joint, is_alone=is_alone)
    located(f"joints/{joint.id}", MAKERS[joint.ask.kind], maker, joint.ask)
    return maker.made


def followed(before: StudyDocument, after: StudyDocument, *, must: str | None = None) -> StudyDocument:
    """The edited study with its joints as they are asked to be now.

    A joint that cannot be made of what the edit leaves stays as it is; preflight says so (`problem_of_joint`). The one
    that ``must`` be made raises why it cannot.
    """
    for _ in range(ROUNDS):
        start = after
        for joint in after.joints:
            was = next((j for j in before.joints if j.id == joint.id), None)
            if was is not None and was.ask == joint.ask and _around(before, was) == _around(after, joint):
                continue
            try:
                target = made_of(after, joint)
            except UlmekError:
                if joint.id == must:
                    raise
                continue
            after = _with(after, joint, _made_before(before, after, joint, was), target)
        if after == start:
            return after
        before = start
    return after


def problem_of_joint(study: StudyDocument, joint: JointUse) -> UlmekError | None:
    """Why a joint cannot be made of what it joins any more, if so."""
    try:
        made_of(study, joint)
    except UlmekError as error:
        return error
    return None


def _around(study: StudyDocument, joint: JointUse) -> list[Any]:
    """What a joint is made from: all parts that are none of its own pieces."""
    own = joint.pieces.parts
    return [(p.id, p.name, p.recipe, p.placements, p.material) for p in study.parts if p.id not in own]


def _made_before(before: StudyDocument, after: StudyDocument, joint: JointUse, was: JointUse | None) -> Made:
    """What a joint was made of before an edit; of a new one, what it takes in, as that is."""
    has_pieces = any(joint.pieces.of(s) for s in SECTIONS)
    if was is None and not has_pieces:
        return Made()
    try:
        if was is not None:
            return made_of(before, was)
        made = made_of(after, joint.model_copy(update={"ask": as_found(after, joint.ask, joint.pieces)}))
    except UlmekError:
        # What it was made of cannot be told from what was changed by hand: all of it is made anew.
        return Made()
    taken = {(s, role) for s in SECTIONS for role in joint.pieces.of(s).values()}
    return Made({key: item for key, item in made.pieces.items() if key in taken})


def _with(study: StudyDocument, joint: JointUse, base: Made, target: Made) -> StudyDocument:
    """The study with the pieces of a joint made, or made anew."""
    plain = study.model_dump(mode="json")
    own = next(j for j in plain["joints"] if j["id"] == joint.id)["pieces"]
    gone = {
        (s, i)
        for s in SECTIONS
        for i, role in joint.pieces.of(s).items()
        if (s, role) not in target.pieces and ((s, role) in base.pieces or not base.pieces)
    }
    if gone:
        left, _ = closure(study, {(KIND_OF[s], i) for s, i in gone if not _is_needed(study, s, i)})
        plain |= {KINDS[name].list: items for name, items in left.items()}
        own = next(j for j in plain["joints"] if j["id"] == joint.id)["pieces"]
    for (part, copy), place in target.places.items():
        entry = next(p for p in plain["parts"] if p["id"] == part)
        entry["placements"][copy] = place.model_dump(mode="json")
    for reference, size in target.sizes.items():
        if reference not in base.sizes:
            body, face = reference.split("/", 1)
            entry = next(p for p in plain["parts"] if p["id"] == body.split("#")[0])
            entry["mesh"]["faces"].setdefault(face, f"{size:.3g} mm")
    for (section, role), item in target.pieces.items():
        listed = plain[section]
        position = next((n for n, i in enumerate(listed) if own[section].get(i["id"]) == role), None)
        if position is not None:
            was = base.pieces.get((section, role))
            listed[position] = item if was is None else _merged(was, listed[position], item)
        elif (section, role) not in base.pieces:
            listed.insert(0 if section == "steps" and role in FIRST_STEPS else len(listed), item)
            own[section][item["id"]] = role
    return read_study(plain)


def _is_needed(study: StudyDocument, section: str, item_id: str) -> bool:
    """Whether a material is that of a part which stays."""
    return section == "materials" and any(p.material == item_id for p in study.parts)


def _merged(base: Any, now: Any, target: Any) -> Any:
    """``now`` with what differs between base and target."""
    if base == target:
        return now
    if not (isinstance(base, dict) and isinstance(now, dict) and isinstance(target, dict)):
        return target
    kept = {k: v for k, v in now.items() if k in target or k not in base}
    changed = {k: _merged(base.get(k), now.get(k), v) for k, v in target.items() if base.get(k) != v or k in now}
    return {**kept, **changed}
