"""Checks before a run: what is loose, what starts apart, what is connected to nothing, how big it is."""

import dataclasses
import itertools

import numpy as np
from pydantic import BaseModel

from ulmek.core.contact.interface import PairInterface, build_interface
from ulmek.core.contact.loose import LooseMotion, loose_motions
from ulmek.core.contact.sleep import sleeping_pairs
from ulmek.core.errors import InputError, UlmekError
from ulmek.core.mesh.volume import PLANE
from ulmek.core.model import Model, Pair, Path
from ulmek.core.review.nested import nested_bodies
from ulmek.core.solve.choice import foresee
from ulmek.core.solve.forecast import joint_unknowns_of, memory_of, unknowns_of
from ulmek.study.awake import awake, left_out_items, on_the_whole, sleep_in_words
from ulmek.study.finding import Finding, Remedy
from ulmek.study.items import KINDS, StudyDocument
from ulmek.study.joints.follow import problem_of_joint
from ulmek.study.plausible import doubts
from ulmek.study.remedies import (
    remedies_of_gap,
    remedies_of_loose,
    remedies_of_refusal,
    remedies_of_slack,
    remedies_of_surplus,
)
from ulmek.study.resolved import unresolved
from ulmek.study.spoken import body_name, face_name, in_words
from ulmek.study.symmetry import broken_symmetry
from ulmek.study.take_out import listed
from ulmek.study.touching import suggestions
from ulmek.study.translate import translate
from ulmek.study.units import value_of

# Gaps below this share of the model's size count as touching.
TOUCHING = 1e-5
# Bytes per kept value and increment in a result file (float32).
RESULT_VALUE_BYTES = 4
# Faces within this share of the model's size of each other want to be looked at.
NEAR = 5e-4
# Nodes of a pair that a rigid handle may lead: of more, what each carries is not determined.
MOST_LED = 1


class PairStart(BaseModel):
    """How a pair starts: smallest gap (mm, negative when overlapping) and covered share of side A."""

    id: str
    gap: float | None
    cover: float
    nodes: int
    size_a: float


class RunSize(BaseModel):
    """Expected size of a run, and on which path it will be solved, for what reason."""

    unknowns: int
    joint_unknowns: int
    path: Path
    path_reason: str
    memory_mb: float
    result_mb: float


class Preflight(BaseModel):
    """All findings, worst first, the start of every pair, and the size of the run."""

    may_run: bool
    findings: list[Finding]
    pairs: list[PairStart]
    size: RunSize | None = None


def preflight(study: StudyDocument) -> Preflight:
    """Check what is awake of a study; problems that no model survives come back as findings, not as exceptions."""
    try:
        analysed = awake(study)
        model = translate(analysed)
    except UlmekError as error:
        return _refused(study, error)
    found = _checked(analysed, model)
    told = sleep_in_words(study)
    if told:
        kind, first = min(left_out_items(study))
        where = f"{KINDS[kind].list}/{first}"
        found.findings.append(Finding(grade="good", code="left-out", text=told, where=where))
    for remedy in (remedy for finding in found.findings for remedy in finding.remedies):
        remedy.edit = on_the_whole(remedy.edit, study, analysed)
    return found


def _checked(study: StudyDocument, model: Model) -> Preflight:
    findings: list[Finding] = []
    interfaces, starts = _start_pairs(study, model, findings)
    _check_connected(study, model, findings)
    _check_paired(study, model, findings)
    _check_nested(study, model, findings)
    _check_budget(study, model, findings)
    _check_led(study, model, interfaces, findings)
    extent = float(np.ptp(model.nodes(), axis=0).max())
    loose = loose_motions(model, interfaces, touching=TOUCHING * extent)
    # What is connected to nothing is told once.
    told = {f.body for f in findings if f.code == "unconnected"}
    for motion in (m for m in loose if m.body not in told):
        finding = _loose_finding(study, motion)
        finding.remedies = remedies_of_loose(study, model, motion.body)
        findings.append(finding)
    _remedy_gaps(study, model, interfaces, findings)
    if not loose:
        _held_by_friction(study, model, interfaces, TOUCHING * extent, findings)
        findings.append(Finding(grade="good", code="held", text="Nothing is loose."))
    _check_acting(study, findings)
    findings += doubts(study, model)
    findings += broken_symmetry(study, model)
    findings += unresolved(study, model, interfaces)
    findings += _left_behind(study)
    order = {"stop": 0, "watch": 1, "good": 2}
    findings.sort(key=lambda f: (order[f.grade], f.code != "held"))
    may_run = not any(f.grade == "stop" for f in findings)
    return Preflight(may_run=may_run, findings=findings, pairs=starts, size=_size(model, interfaces, study))


def _left_behind(study: StudyDocument) -> list[Finding]:
    """Joints that cannot be made of what they join any more."""
    found = []
    for joint in study.joints:
        error = problem_of_joint(study, joint)
        if error is not None:
            text = f"{joint.name} no longer follows its parts: {in_words(study, error.message)}"
            hint = f"Its pieces are as they were. {in_words(study, error.hint)}".strip()
            found.append(Finding(grade="watch", code="joint", text=text, where=f"joints/{joint.id}", hint=hint))
    return found


def require_runnable(study: StudyDocument) -> None:
    """Refuse a study that preflight stops.

    Raises
    ------
    InputError : with the words, places and advice of all findings that stop.
    """
    stops = [f for f in preflight(study).findings if f.grade == "stop"]
    if stops:
        more = "".join(f" {f.where}: {f.text}" for f in stops[1:])
        raise InputError(f"{stops[0].text}{more}", where=stops[0].where, hint=stops[0].hint)


def _refused(study: StudyDocument, error: UlmekError) -> Preflight:
    text, hint = in_words(study, error.message), in_words(study, error.hint)
    remedies = remedies_of_refusal(study, error)
    finding = Finding(grade="stop", code=error.code, text=text, where=error.where, hint=hint, remedies=remedies)
    return Preflight(may_run=False, findings=[finding], pairs=[])


def _start_pairs(
    study: StudyDocument, model: Model, findings: list[Finding]
) -> tuple[list[PairInterface], list[PairStart]]:
    interfaces, starts = [], []
    nodes = model.nodes()
    extent = float(np.ptp(nodes, axis=0).max())
    for number, (use, pair) in enumerate(zip(study.pairs, model.pairs, strict=True)):
        at = f"/pairs/{number}"
        try:
            interface = build_interface(model, pair, nodes)
        except InputError as error:
            findings.append(
                Finding(
                    grade="stop",
                    code="apart",
                    text=in_words(study, error.message),
                    where=f"pairs/{use.id}",
                    hint=error.hint,
                )
            )
            starts.append(PairStart(id=use.id, gap=None, cover=0.0, nodes=0, size_a=0.0))
            continue
        interfaces.append(interface)
        gap = interface.least_gap
        starts.append(
            PairStart(id=use.id, gap=gap, cover=interface.cover, nodes=len(interface.node), size_a=interface.size)
        )
        if gap < -TOUCHING * extent:
            text = f"{use.name} starts with an overlap of {-gap:.4g} mm, which counts as interference."
            hint = "If it is a drawing error, set the fit to overlap removed."
            if use.fit == "as-drawn":
                edit = [{"op": "replace", "path": f"{at}/fit", "value": "overlap-removed"}]
                findings.append(
                    Finding(
                        grade="watch", code="overlap", text=text, where=f"pairs/{use.id}/fit", hint=hint,
                        remedies=[Remedy(does="Remove the overlap", edit=edit)],
                    )
                )  # fmt: skip
            elif use.fit == "overlap-removed":
                text = (
                    f"{use.name}: the overlap of {-gap:.3g} mm is taken away at the start, at {interface.crossing} of "
                    f"{len(interface.node)} nodes."
                )
                findings.append(Finding(grade="good", code="removed", text=text, where=f"pairs/{use.id}/fit"))
        elif gap > TOUCHING * extent:
            how = "is closed up at the start, drawn apart by" if use.fit == "closed-up" else "starts apart by"
            text = f"{use.name} {how} {gap:.3g} mm."
            findings.append(Finding(grade="good", code="gap", text=text, where=f"pairs/{use.id}"))
        # A tie holds what side A covers of B and more: where a part was split, both sides are of one size.
        is_tied = not pair.law.may_open and pair.law.may_slide == "no"
        if (
            interface.cover < 0.5
            and pair.wall is None
            and not is_tied
            and _cover_of_swapped(model, pair) > 1.5 * interface.cover
        ):
            swap = [
                {"op": "move", "from": f"{at}/a", "path": f"{at}/was_a"},
                {"op": "move", "from": f"{at}/b", "path": f"{at}/a"},
                {"op": "move", "from": f"{at}/was_a", "path": f"{at}/b"},
            ]
            text = f"side B covers only {interface.cover:.0%} of side A of {use.name}."
            findings.append(
                Finding(
                    grade="watch",
                    code="cover",
                    text=text,
                    where=f"pairs/{use.id}",
                    hint="A should be the fully covered one.",
                    remedies=[Remedy(does="Swap the sides", edit=swap)],
                )
            )
    return interfaces, starts


def _cover_of_swapped(model: Model, pair: Pair) -> float:
    """How much of side B side A covers."""
    swapped = dataclasses.replace(pair, side_a=pair.side_b, side_b=pair.side_a)
    return build_interface(model, swapped, model.nodes()).cover


def _check_connected(study: StudyDocument, model: Model, findings: list[Finding]) -> None:
    named = {face.body for pair in model.pairs for face in (*pair.side_a, *pair.side_b)}
    held = {face.body for s in model.supports for face in s.faces}
    held |= {face.body for ld in model.loads if ld.prescribes for face in ld.faces}
    held |= {body for handle in model.handles if handle.station is None for body in handle.bodies}
    for body in model.bodies:
        if body.name not in named | held:
            part, name = body.name.split("#")[0], body_name(study, body.name)
            findings.append(
                Finding(
                    grade="stop", code="unconnected", body=body.name, where=f"parts/{part}",
                    text=f"{name} is connected to nothing: no support holds it and it is in no pair.",
                    hint="Add a pair with its neighbour or a support, or remove the part.",
                    remedies=remedies_of_surplus(study, body.name),
                )
            )  # fmt: skip


def _check_paired(study: StudyDocument, model: Model, findings: list[Finding]) -> None:
    """Faces that touch and are in no pair, and faces that two pairs join."""
    extent = float(np.ptp(model.nodes(), axis=0).max())
    for s in suggestions(study, distance=NEAR * extent):
        if s.pair is not None or s.is_left_out:
            continue
        how = f"overlap by {-s.gap:.3g} mm" if s.gap < -TOUCHING * extent else "touch"
        if s.gap > TOUCHING * extent:
            how = f"are {s.gap:.3g} mm apart"
        findings.append(
            Finding(
                grade="watch", code="unpaired", where="pairs",
                text=f"{_faces(study, s.a)} and {_faces(study, s.b)} {how} and are in no pair.",
                hint="They will pass through each other. Make them a pair, or leave them out where pairs are found.",
                remedies=[
                    Remedy(does="Make them a pair", edit=[{"op": "add", "path": "/pairs/-", "value": s.new_pair}])
                ],
            )
        )  # fmt: skip
    for one, other in itertools.combinations(study.pairs, 2):
        if any(set(one.a) & set(a) and set(one.b) & set(b) for a, b in ((other.a, other.b), (other.b, other.a))):
            findings.append(
                Finding(
                    grade="watch", code="twice", where=f"pairs/{other.id}",
                    text=f"{one.name} and {other.name} join the same faces: their contact counts twice.",
                    hint="Take one of them out, unless they act in different steps.",
                    remedies=[
                        Remedy(
                            does=f"Take {other.name} out",
                            edit=[{"op": "remove", "path": f"/pairs/{study.pairs.index(other)}"}],
                        )
                    ],
                )
            )  # fmt: skip


def _faces(study: StudyDocument, references: list[str]) -> str:
    return ", ".join(face_name(study, reference) for reference in references)


def _check_nested(study: StudyDocument, model: Model, findings: list[Finding]) -> None:
    names = {p.id: p.name for p in study.parts}
    solids = [b for b in model.bodies if b.mesh.kind not in PLANE]
    for inner, outer, doubled in nested_bodies(solids):
        one, other = (names[n.split("#")[0]] for n in (inner, outer))
        text = f"{one} and {other} are the same body twice in one place." if doubled else f"{one} lies inside {other}."
        findings.append(
            Finding(
                grade="watch", code="nested", text=text, where=f"parts/{inner.split('#')[0]}",
                hint="Take one of them out, or move it.", body=inner, remedies=remedies_of_surplus(study, inner),
            )
        )  # fmt: skip


def _check_budget(study: StudyDocument, model: Model, findings: list[Finding]) -> None:
    elements = sum(len(b.mesh.cells) for b in model.bodies)
    if elements > study.element_budget:
        findings.append(
            Finding(
                grade="watch", code="budget", where="element_budget",
                text=f"the mesh has {elements} elements, more than the {study.element_budget} that it may have.",
                hint="Enlarge element sizes where nothing happens, or the budget.",
                remedies=[
                    Remedy(
                        does=f"Allow {elements} elements",
                        edit=[{"op": "replace", "path": "/element_budget", "value": elements}],
                    )
                ],
            )
        )  # fmt: skip


def _check_led(study: StudyDocument, model: Model, interfaces: list[PairInterface], findings: list[Finding]) -> None:
    """Rigid handles that lead nodes of a pair: what presses there passes the part by, and what each node carries is
    not determined."""
    names = {p.id: p.name for p in study.pairs}
    for number, use in enumerate(study.handles):
        if use.kind != "rigid" or not use.faces:
            continue
        faces = next(h.faces for h in model.handles if h.name == use.id)
        led = np.unique(model.quads(faces))
        for interface in interfaces:
            shared = int(np.count_nonzero(np.isin(interface.node, led)))
            if shared <= MOST_LED:
                continue
            edit = [{"op": "replace", "path": f"/handles/{number}/kind", "value": "averaging"}]
            findings.append(
                Finding(
                    grade="watch", code="led", where=f"handles/{use.id}",
                    text=f"{use.name} leads {shared} nodes of {names[interface.pair.name]} rigidly: what presses there "
                    "goes into it past the part, and what each of them carries cannot be told.",
                    hint="Let it lead its faces on average, or lead faces that nothing touches.",
                    remedies=[Remedy(does="Lead them on average", edit=edit)],
                )
            )  # fmt: skip


def _loose_finding(study: StudyDocument, motion: LooseMotion) -> Finding:
    part = motion.body.split("#")[0]
    return Finding(
        grade="stop", code="loose", body=motion.body, where=f"parts/{part}",
        text=f"{body_name(study, motion.body)} is loose: it can move {listed(motion.motions)}.",
        hint="Add a support or a pair that stops this, or friction to one that slides.",
        motion=list(motion.direction),
    )  # fmt: skip


def _remedy_gaps(study: StudyDocument, model: Model, interfaces: list[PairInterface], findings: list[Finding]) -> None:
    """Parts that only pairs which start apart could stop: name these pairs and offer to close them."""
    if not any(f.code == "loose" for f in findings):
        return
    wide = max((pair.search for pair in model.pairs), default=0.0)
    still = {motion.body for motion in loose_motions(model, interfaces, touching=wide)}
    for position, finding in enumerate(findings):
        if finding.code != "loose" or finding.body in still:
            continue
        apart = [
            (number, use)
            for number, (use, pair) in enumerate(zip(study.pairs, model.pairs, strict=True))
            if finding.body in {face.body for face in (*pair.side_a, *pair.side_b)}
            and next((f.least_gap for f in interfaces if f.pair.name == pair.name), 0.0) > 0
        ]
        names = ", ".join(use.name for _, use in apart)
        gaps = [f for f in interfaces if f.pair.name in {use.id for _, use in apart} and f.least_gap > 0]
        findings[position] = finding.model_copy(
            update={
                "code": "apart-loose",
                "text": f"{finding.text} Only {names}, which starts apart, could stop it.",
                "where": f"pairs/{apart[0][1].id}/fit" if apart else finding.where,
                "hint": "Close the gap at the start, move the part to touch first, or hold it by a weak spring.",
                "remedies": remedies_of_gap(study, finding.body or "", [n for n, _ in apart], gaps),
            }
        )


def _held_by_friction(
    study: StudyDocument, model: Model, interfaces: list[PairInterface], touching: float, findings: list[Finding]
) -> None:
    for motion in loose_motions(model, interfaces, touching=touching, with_friction=False):
        name, motions = body_name(study, motion.body), listed(motion.motions)
        text = f"{name} is held by friction alone: it could move {motions}."
        findings.append(
            _loose_finding(study, motion).model_copy(
                update={
                    "grade": "watch",
                    "code": "friction-only",
                    "text": text,
                    "hint": "It slides once friction is used up.",
                }
            )
        )


def _check_acting(study: StudyDocument, findings: list[Finding]) -> None:
    tightened = any(b.preload for b in study.bolts)
    pressed = any(f.code == "overlap" for f in findings) or any(
        p.fit == "value" and value_of(p.interference, "length") > 0 for p in study.pairs
    )
    if not tightened and not pressed and not any(ld.values for ld in study.loads):
        findings.append(
            Finding(
                grade="watch",
                code="idle",
                text="Nothing acts: no load has a value, no bolt is tightened and no pair overlaps.",
                where="steps",
                hint="Give a load a value in a step.",
            )
        )
    for bolt in study.bolts:
        if not bolt.preload:
            findings.append(
                Finding(
                    grade="watch",
                    code="slack",
                    text=f"{bolt.name} is never tightened.",
                    where=f"bolts/{bolt.id}/preload",
                    hint="Give it a preload in a step.",
                    remedies=remedies_of_slack(study, bolt),
                )
            )


def _size(model: Model, interfaces: list[PairInterface], study: StudyDocument) -> RunSize:
    unknowns = unknowns_of(model)
    asleep = sleeping_pairs(model, tuple(interfaces))
    rows = {f.pair.name: len(f.node) * (3 if f.pair.law.has_tangents else 1) for f in interfaces}
    joint = sum(rows.values()) + len(model.bolts)
    awake = joint - sum(rows[name] for name in asleep)
    increments = sum(int(np.ceil(1 / s.increments.largest)) for s in study.steps)
    contact_values = sum(7 * len(f.node) for f in interfaces)
    path, reason = foresee(model, unknowns, joint_unknowns_of(model))
    return RunSize(
        unknowns=unknowns,
        joint_unknowns=joint,
        path=path,
        path_reason=reason,
        memory_mb=memory_of(path, unknowns, awake) / 1e6,
        result_mb=increments * (unknowns / 3 * 10 + contact_values) * RESULT_VALUE_BYTES / 1e6,
    )
