"""Rows of pairs: whether each stays shut, crosses, slides and stays below yield, as it is meant to."""

from ulmek.core.review.pair_fields import PairSummary
from ulmek.core.review.summary import Summary
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import part_of
from ulmek.study.items.pair import PairUse
from ulmek.study.ledger.cells import Cell, Grade, Remark, Row, between, scaled, step_name, use_cell
from ulmek.study.ledger.purpose import AT_A_POINT, INSTEAD, Purpose, are_beams, is_tightened, purpose_of
from ulmek.study.translate import body_names
from ulmek.study.units import value_of

# A pair has touched where more of it than this share was ever shut.
TOUCHED = 1e-9
# A joint counts as opened when less than this share of what was shut after tightening is still shut; it is told when
# less than the second share is.
STILL_SHUT, ALL_SHUT = 0.5, 0.9
# A pair slides as a whole when this share of its closed area slides, and this share of the slip is
# one rigid motion: faces that only stretch against each other under load slide nearly everywhere
# too, but not as one.
SLIDES_WHOLE, AS_ONE = 0.95, 0.8
# So far (mm) faces that are drawn together creep when they spread under what presses them.
CREEPS = 0.01
# Penetration is judged against what one element gives under the peak pressure, the overlap of a fit, and how far bolts
# are drawn.
PENETRATION_WATCH, PENETRATION_BAD = 0.02, 0.1
# Elements across what presses that its peak takes for 5 % (Hertz, `tests/core/review/test_trust.py`).
RESOLVED = 7
# A pressure p on bent faces stresses metal below by about this share of p at most (Johnson 1985, section 4.1 and 3.4).
BELOW_A_PEAK = 0.62


def pair_row(study: StudyDocument, pair: PairUse, shown: list[Summary], remarks: list[Remark]) -> Row:
    """The row of one pair after the increments that are ``shown``; what matters is added to the remarks."""
    now, course = shown[-1].pairs[pair.id], [s.pairs[pair.id] for s in shown]
    opened: list[Remark] = []
    crossed: list[Remark] = []
    slid: list[Remark] = []
    cells = {
        "pressure": _opening_cell(study, pair, shown, opened),
        "penetration": _penetration_cell(study, pair, shown[-1], [p.max_penetration * 1000 for p in course], crossed),
        "sliding": _sliding_cell(study, pair, shown, slid),
        "yielding": _yield_cell(study, pair, shown),
    }
    if pair.meant == "to-seal":
        cells["pressure"] = _sealing_cell(pair, cells["pressure"], now, opened)
    elif pair.meant != "to-hold":
        measure, said = ("sliding", slid) if pair.meant == "to-slide" else ("pressure", opened)
        has_touched = max(_closed(s, pair.id) for s in shown) > TOUCHED
        cells[measure] = _as_meant(pair, cells[measure], said, has_touched=has_touched)
    cells["pressure"] = _resolved(cells["pressure"], now, of_beams=are_beams(study, pair))
    remarks += [*opened, *crossed, *slid]
    return Row(
        id=pair.id,
        name=pair.name,
        kind="pair",
        shares=(now.share_open, now.share_sliding, now.share_sticking),
        **cells,
    )


def _acting(study: StudyDocument, summary: Summary) -> str:
    """The loads that act at an increment, in words."""
    words = []
    for load in study.loads:
        value = summary.values.get(load.id, 0.0)
        if value:
            words.append(f"{load.name.lower()} {load.spoken(value)}")
    return ", ".join(words) or "no load"


def _as_meant(pair: PairUse, cell: Cell, said: list[Remark], *, has_touched: bool) -> Cell:
    """The cell of the measure by which a pair is judged that is meant to do something else than to stay shut and hold.
    ``said``: what was remarked of that measure, which goes where the pair does as it is meant.

    Of a pair that has not touched, or that slides freely by its law, nothing is known of sliding and opening.
    """
    if pair.meant == "to-carry-nothing":
        is_so, wrong = not has_touched, "presses, though it is meant to carry nothing."
    elif not has_touched or cell.grade == "none":
        return cell
    elif pair.meant == "to-slide":
        if cell.grade == "watch":
            return cell
        is_so, wrong = cell.grade == "bad", "holds, though it is meant to slide."
    else:
        is_so, wrong = bool(said), "stays shut, though it is meant to open."
    said.clear()
    if is_so:
        return cell.judged("good", f"As it is meant: {cell.verdict[0].lower()}{cell.verdict[1:]}")
    said.append(Remark(grade="watch", row=pair.id, text=f"{pair.name} {wrong}"))
    return cell.judged("watch", f"It {wrong}")


def _sealing_cell(pair: PairUse, cell: Cell, now: PairSummary, said: list[Remark]) -> Cell:
    """Whether a pair that is meant to seal does: by the pressure on the easiest way through."""
    if now.leak is None:
        return cell.judged("unsure", "Cannot tell whether it seals: its faces have not two rims to leak between.")
    if now.leak > 0:
        said.clear()
        return cell.judged("good", f"Seals: {now.leak:.3g} MPa must be overcome on the easiest way through.")
    said.append(Remark(grade="bad", row=pair.id, text=f"{pair.name} leaks: a way through it is open."))
    return cell.judged("bad", "Leaks: a way through it is open.")


def _resolved(cell: Cell, now: PairSummary, *, of_beams: bool) -> Cell:
    """No tick beside a peak that the mesh cannot show."""
    if of_beams and now.peak_pressure > 0 and cell.grade in ("good", "none"):
        return cell.judged("unsure", f"{cell.verdict} Cannot tell its peak: {AT_A_POINT} {INSTEAD}")
    if now.across is None or now.across >= RESOLVED or cell.grade not in ("good", "none") or cell.band is None:
        return cell
    elements = f"{now.across} element{'s' * (now.across > 1)}"
    told = f"{cell.verdict} Cannot tell its peak on this mesh, which is {between(cell.band, 'MPa')}: it presses over "
    return cell.judged("unsure", f"{told}{elements}, where it takes {RESOLVED}. Mesh finer there.")


def _closed(summary: Summary, pair_id: str) -> float:
    return 1.0 - float(summary.pairs[pair_id].share_open)


def _opening_cell(study: StudyDocument, pair: PairUse, shown: list[Summary], remarks: list[Remark]) -> Cell:
    """Peak pressure; its verdict tells whether the pair stays shut."""
    now = shown[-1].pairs[pair.id]
    cell = Cell(
        value=now.peak_pressure, unit="MPa", trend=[s.pairs[pair.id].peak_pressure for s in shown], grade="good",
        verdict="Shut where it presses.", band=now.pressure_band,
    )  # fmt: skip
    if max(_closed(s, pair.id) for s in shown) <= TOUCHED:
        return cell.judged("none", "Has not touched.")
    if not pair.law.may_open:
        if now.pulls <= 1e-6 * max(now.peak_pressure, now.pulls):
            return cell.judged("good", "May not open.")
        text = f"may not open, and pulls with up to {now.pulls:.3g} MPa: left to itself it would open there."
        remarks.append(Remark(grade="watch", row=pair.id, text=f"{pair.name} {text}"))
        return cell.judged("watch", text[0].upper() + text[1:])
    tighten = is_tightened(study)
    if not tighten or purpose_of(study, pair) not in ("bolted", "seated", "on-wall"):
        # Nothing was tightened: a pair that is pressed less lets go of part of its faces, as it should.
        if _closed(shown[-1], pair.id) >= TOUCHED:
            return cell
        remarks.append(Remark(grade="watch", row=pair.id, text=f"{pair.name} has come apart."))
        return cell.judged("watch", "Has come apart.")
    tight = [s for s in shown if study.steps[s.step].id in tighten]
    reference = _closed(tight[-1], pair.id) if tight else max(_closed(s, pair.id) for s in shown)
    if reference < TOUCHED or (tight and shown[-1] is tight[-1]):
        return cell
    left = _closed(shown[-1], pair.id) / reference
    worst = min(shown[shown.index(tight[-1]) if tight else 0 :], key=lambda s: _closed(s, pair.id))
    low = _closed(worst, pair.id) / reference
    if left < STILL_SHUT:
        first = next(
            s
            for s in shown
            if s.number >= (tight[-1].number if tight else 0) and _closed(s, pair.id) < STILL_SHUT * reference
        )
        whole = "has come apart" if left < TOUCHED else f"opens: {1 - left:.0%} of what was shut has opened"
        text = f"{whole}, from {step_name(study, first.step)}, at {_acting(study, first)}."
        advice = "Raise the preload, stiffen the parts, or reduce the pull."
        remarks.append(Remark(grade="bad", row=pair.id, text=f"{pair.name} {text} {advice}"))
        return cell.judged("bad", text[0].upper() + text[1:])
    if low < ALL_SHUT:
        text = f"{1 - low:.0%} of what was shut after tightening has opened."
        remarks.append(Remark(grade="watch", row=pair.id, text=f"{pair.name}: {text}"))
        return cell.judged("watch", text)
    is_open = 1 - _closed(shown[-1], pair.id)
    return cell.judged("good", f"Stays as shut as after tightening; {is_open:.0%} of its faces is open.")


def _penetration_cell(
    study: StudyDocument, pair: PairUse, now: Summary, trend: list[float], remarks: list[Remark]
) -> Cell:
    """How far surfaces cross, against what is small beside: the worst of what it is compared with."""
    found = now.pairs[pair.id]
    cell = Cell(
        value=trend[-1], unit="µm", trend=list(trend), grade="good", verdict="Surfaces do not cross.",
        band=scaled(found.penetration_band, 1000),
    )  # fmt: skip
    against = {"what one element gives under the peak pressure": found.squeeze}
    overlap = value_of(pair.interference, "length") if pair.fit == "value" else 0.0
    if overlap > 0:
        against["the overlap of the fit"] = overlap
    names = {part_of(ref) for ref in (*pair.a, *pair.b)}
    drawn = [b.shortening for n, b in now.bolts.items() if n.split("#")[0] in names and b.shortening > 0]
    if drawn:
        against["how far its bolts are drawn"] = min(drawn)
    what, ratio = max(
        ((w, found.max_penetration / size if size > 0 else 0.0) for w, size in against.items()), key=lambda a: a[1]
    )
    if ratio < 1e-6:
        return cell
    if ratio < PENETRATION_WATCH:
        return cell.judged("good", f"{ratio:.1%} of {what}.")
    grade: Grade = "bad" if ratio > PENETRATION_BAD else "watch"
    text = f"surfaces cross by {ratio:.0%} of {what}."
    advice = "Raise the penalty stiffness or enforce exactly."
    remarks.append(Remark(grade=grade, row=pair.id, text=f"{pair.name}: {text} {advice}"))
    return cell.judged(grade, text[0].upper() + text[1:])


# What sliding as a whole means where it is what the joint is for.
SLIDES_BY_NATURE: dict[Purpose, str] = {
    "geared": "Flanks slide on each other as teeth do.",
    "pinned": "The pin turns or slides in its hole.",
    "guided": "Slides, as a guide does.",
    "hinged": "Turns, as a hinge does.",
}
ADVICE: dict[Purpose, str] = {
    "bolted": "Raise preload or friction, or let the bolts bear.",
    "pressed": "Raise the overlap or the friction, or make the fit longer.",
}


def _sliding_cell(study: StudyDocument, pair: PairUse, shown: list[Summary], remarks: list[Remark]) -> Cell:
    now = shown[-1].pairs[pair.id]
    cell = Cell(
        value=now.max_sliding * 1000, unit="µm", trend=[s.pairs[pair.id].max_sliding * 1000 for s in shown],
        grade="good", verdict="May not slide.", band=scaled(now.sliding_band, 1000),
    )  # fmt: skip
    if pair.law.may_slide == "no":
        return cell
    if pair.law.may_slide == "freely":
        return cell.judged("none", "Slides freely by its law.")
    if max(_closed(s, pair.id) for s in shown) <= TOUCHED:
        return cell.judged("none", "Has not touched.")
    tighten, purpose = is_tightened(study), purpose_of(study, pair)

    def slides(s: Summary) -> bool:
        p = s.pairs[pair.id]
        closed = 1.0 - p.share_open
        tightening = study.steps[s.step].id in tighten
        is_all = p.share_sliding >= SLIDES_WHOLE * closed and p.as_one > AS_ONE
        return bool(closed > TOUCHED and not tightening and is_all)

    first = next((s for s in shown if slides(s)), None)
    if first is not None:
        if purpose in SLIDES_BY_NATURE and pair.meant == "to-hold":
            return cell.judged("good", SLIDES_BY_NATURE[purpose])
        if purpose == "pressed" and _is_pushed(study, pair, first):
            return cell.judged("good", f"Is pushed along from {step_name(study, first.step)}, as it is moved.")
        state = "slides" if slides(shown[-1]) else "has slid"
        text = f"{state} as a whole from {step_name(study, first.step)}, at {_acting(study, first)}."
        advice = ADVICE.get(purpose, "Raise friction or what presses it, or say that it is meant to slide.")
        remarks.append(Remark(grade="bad", row=pair.id, text=f"{pair.name} {text} {advice}"))
        return cell.judged("bad", text[0].upper() + text[1:])
    closed = 1.0 - now.share_open
    part = now.share_sliding / closed if closed > TOUCHED else 0.0
    if part > SLIDES_WHOLE:
        if purpose in ("bolted", "seated", "pressed") and now.max_sliding < CREEPS:
            return cell.judged("good", "Spreads under what presses it, but does not move as one.")
        return cell.judged("watch", "Faces creep against each other everywhere, but not as one.")
    return cell.judged("good", f"Holds: {1 - part:.0%} of what is shut sticks.")


def _is_pushed(study: StudyDocument, pair: PairUse, at: Summary) -> bool:
    """Whether a motion of one of the parts of a pair is prescribed where it slides."""
    names = {part_of(ref) for ref in (*pair.a, *pair.b)}
    handles = {h.id: {part_of(ref) for ref in h.faces} for h in study.handles}
    for load in study.loads:
        on = {part_of(ref) for ref in load.faces} | handles.get(load.handle or "", set())
        if load.kind in ("displacement", "rotation") and on & names and study.steps[at.step].id in load.values:
            return True
    return False


def _yield_cell(study: StudyDocument, pair: PairUse, shown: list[Summary]) -> Cell:
    """Stress at the pair's faces now; a part that has yielded, here or underneath, is not passed over."""
    now = shown[-1].pairs[pair.id]
    sides = {part_of(ref) for ref in (*pair.a, *pair.b)}
    parts = [part for part in study.parts if part.id in sides]
    materials = {m.id: m for m in study.materials}
    of = "allowed" if any(materials[p.material].bears_less for p in parts) else "yield"
    everywhere = any(part.judged == "everywhere" for part in parts)
    if now.use_anywhere is None:
        cell = use_cell(now.yield_share, None, [s.pairs[pair.id].yield_share for s in shown], of)
    elif everywhere:
        trend = [s.pairs[pair.id].use_anywhere for s in shown]
        cell = use_cell(now.use_anywhere, now.use_anywhere_band, trend, of)
    elif now.use is None:
        cell = use_cell(None, None, [None] * len(shown), of)
        cell = cell.judged("none", "Not judged: all of these faces lies within an element of a sharp edge.")
    else:
        cell = use_cell(now.use, now.use_band, [s.pairs[pair.id].use for s in shown], of)
    if now.max_plastic_strain > 0:
        return cell.judged("bad", f"Has yielded here: equivalent plastic strain up to {now.max_plastic_strain:.2%}.")
    under = [p.name for p in parts if any(shown[-1].parts[n].max_plastic_strain > 0 for n in body_names(p))]
    if under and cell.grade != "bad":
        return cell.judged("watch", f"Below yield at these faces, but {' and '.join(under)} has yielded elsewhere.")
    return below_a_peak(cell, now)


def below_a_peak(cell: Cell, now: PairSummary, of: str = "") -> Cell:
    """No tick for the stress below a peak of pressure that the mesh cannot show, where it may pass what is borne;
    ``of``: the pair in words, where that is not what the cell is of."""
    is_resolved = now.across is None or now.across >= RESOLVED
    if is_resolved or cell.grade not in ("good", "watch") or now.pressure_band is None or not cell.value:
        return cell
    high = now.pressure_band[1]
    if now.bears is None or (high is not None and BELOW_A_PEAK * high < now.bears):
        return cell
    peak = between(now.pressure_band, "MPa")
    told = f"Cannot tell on this mesh: the peak of pressure{of} is {peak}, and stress below follows it."
    return cell.judged("unsure", told)
