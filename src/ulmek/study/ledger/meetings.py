"""Faces that are in no pair and met during the run, and the pair that would keep them apart."""

from ulmek.core.contact.meetings import Meeting
from ulmek.core.review.summary import Summary
from ulmek.study.finding import Remedy
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import free_id, part_of
from ulmek.study.ledger.cells import Remark, step_name
from ulmek.study.spoken import face_name
from ulmek.study.touching import MU


def met(study: StudyDocument, shown: list[Summary]) -> list[Remark]:
    """What is remarked of meetings up to the last of the summaries, each once, with when it was and where."""
    first: dict[tuple[str, str], tuple[Summary, Meeting]] = {}
    deepest: dict[tuple[str, str], float] = {}
    for summary in shown:
        for meeting in summary.met or ():
            key = _sides(meeting)
            first.setdefault(key, (summary, meeting))
            deepest[key] = max(deepest.get(key, 0.0), meeting.depth)
    left_out = [(set(left.a), set(left.b)) for left in study.left_out]
    return [
        _remark(study, sides, summary, meeting, deepest[sides])
        for sides, (summary, meeting) in first.items()
        if not any({*sides} & a and {*sides} & b for a, b in left_out)
    ]


def _sides(meeting: Meeting) -> tuple[str, str]:
    """References of the two faces, or of the face and the id of the wall; copies of a part together, but for those that
    meet each other."""
    faces = [f for f in (meeting.a, meeting.b) if f is not None]
    apart = [f"{f.body}/{f.name}" for f in faces]
    whole = [f"{part_of(ref)}/{f.name}" for ref, f in zip(apart, faces, strict=True)]
    refs = apart if len(set(whole)) < len(set(apart)) else whole
    return refs[0], meeting.wall or refs[-1]


def _remark(study: StudyDocument, sides: tuple[str, str], summary: Summary, meeting: Meeting, deepest: float) -> Remark:
    a, b = sides
    names = [face_name(study, a), next((w.name for w in study.walls if w.id == b), "") or face_name(study, b)]
    at = ", ".join(f"{c:.4g}" for c in meeting.at)
    whom = f"{names[0]} folds onto itself" if a == b else f"{names[0]} meets {names[1]}"
    text = (
        f"{whom} in {step_name(study, summary.step)}, at {at} mm, and goes {deepest:.2g} mm into it: they are in no "
        "pair, so nothing holds them apart. What is said from then on is wrong there."
    )
    # One facet far: what lies further along a face that folds is not about to meet.
    search = f"{meeting.size:.3g} mm"
    # No pair has a face on both its sides.
    remedies = [_pair(study, meeting, sides, names, search)] if a != b else []
    return Remark(grade="bad", row=part_of(a), text=text, remedies=remedies)


def _pair(study: StudyDocument, meeting: Meeting, sides: tuple[str, str], names: list[str], search: str) -> Remedy:
    stem = f"{part_of(sides[0])}-{meeting.wall or part_of(sides[1])}"[:40]
    free = free_id(stem, {p.id for p in study.pairs})
    other = {"b": [], "wall": meeting.wall} if meeting.wall is not None else {"b": [sides[1]]}
    value = {
        "id": free, "name": " – ".join(names)[:80], "a": [sides[0]], **other, "search": search,
        "law": {"may_open": True, "may_slide": "friction", "mu": MU},
    }  # fmt: skip
    return Remedy(does="Make a pair of them", edit=[{"op": "add", "path": "/pairs/-", "value": value}])
