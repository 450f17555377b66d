"""The ledger: what came back, pair by pair and part by part, each with its verdict and advice."""

import math
from typing import Any, Literal

from pydantic import BaseModel

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.review.pair_fields import PairSummary
from ulmek.core.review.summary import Summary
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.plausible import LARGE_BOW, LARGE_TURN
from ulmek.study.recipe_values import recipe_values
from ulmek.study.translate import body_names
from ulmek.study.units import value_of

COLUMNS = ("pressure", "penetration", "sliding", "yielding")
Grade = Literal["good", "watch", "bad", "none"]

# A joint counts as opened when less than this share of what was shut after tightening is still shut.
# A pair has touched where more of it than this share was ever shut.
TOUCHED = 1e-9
STILL_SHUT = 0.5
# A pair slides as a whole when this share of its closed area slides, and this share of the slip is
# one rigid motion: faces that only stretch against each other under load slide nearly everywhere
# too, but not as one.
SLIDES_WHOLE, AS_ONE = 0.95, 0.8
# Penetration is judged against what one element gives under the peak pressure.
PENETRATION_WATCH, PENETRATION_BAD = 0.02, 0.1


class Cell(BaseModel):
    """One entry of the ledger: the value now, its unit, its course, and its verdict."""

    value: float | None
    unit: str
    trend: list[float | None]
    grade: Grade
    verdict: str


class Row(BaseModel):
    """One pair, part or bolt group; ``joint``: the name of the joint that it is a piece of, if any."""

    id: str
    name: str
    kind: Literal["pair", "part", "bolts"]
    pressure: Cell | None = None
    penetration: Cell | None = None
    sliding: Cell | None = None
    yielding: Cell | None = None
    shares: tuple[float, float, float] | None = None
    joint: str | None = None


class Ledger(BaseModel):
    """All rows and the sentences that matter at one increment."""

    increment: int
    rows: list[Row]
    remarks: list[dict[str, str]]
    closing_error: float


def _by_joints(study: StudyDocument, rows: list[Row]) -> list[Row]:
    """The rows with the pieces of each joint together, in the order of the joints, what belongs to none last."""
    sections = {"pair": "pairs", "part": "parts", "bolts": "bolts"}
    order: dict[tuple[str, str], int] = {
        (kind, i): n
        for n, joint in enumerate(study.joints)
        for kind, section in sections.items()
        for i in joint.pieces.of(section)
    }
    for row in rows:
        at = order.get((row.kind, row.id.split("#")[0]))
        row.joint = None if at is None else study.joints[at].name
    return sorted(rows, key=lambda row: order.get((row.kind, row.id.split("#")[0]), len(study.joints)))


def build_ledger(study: StudyDocument, summaries: list[Summary], increment: int) -> Ledger:
    """The ledger at ``increment`` (position in ``summaries``), trends over all of them."""
    study = awake(study)
    shown = summaries[: increment + 1]
    now = summaries[increment]
    rows: list[Row] = []
    remarks: list[dict[str, str]] = []
    for pair in study.pairs:
        rows.append(_pair_row(study, pair, shown, remarks))
    for part in study.parts:
        rows.append(_part_row(study, part, shown, remarks))
    for bolt in study.bolts:
        rows.append(_bolt_row(study, bolt, shown, remarks))
    return Ledger(
        increment=increment, rows=_by_joints(study, rows), remarks=remarks, closing_error=now.balance.closing_error
    )


def _step_name(study: StudyDocument, summary: Summary) -> str:
    return f"step {summary.step + 1}, {study.steps[summary.step].name}"


def _acting(study: StudyDocument, summary: Summary) -> str:
    """The loads that act at an increment, in words."""
    words = []
    for load in study.loads:
        value = summary.values.get(load.id, 0.0)
        if value:
            words.append(f"{load.name.lower()} {load.spoken(value)}")
    return ", ".join(words) or "no load"


def _pair_row(study: StudyDocument, pair: Any, shown: list[Summary], remarks: list[dict[str, str]]) -> Row:
    now = shown[-1].pairs[pair.id]

    def trend(key: str, factor: float = 1.0) -> list[float | None]:
        values = [getattr(s.pairs[pair.id], key) for s in shown]
        return [None if value is None else value * factor for value in values]

    opened: list[dict[str, str]] = []
    crossed: list[dict[str, str]] = []
    slid: list[dict[str, str]] = []
    cells = {
        "pressure": _opening_cell(study, pair, shown, trend("peak_pressure"), opened),
        "penetration": _penetration_cell(pair, now, trend("max_penetration", 1000.0), crossed),
        "sliding": _sliding_cell(study, pair, shown, trend("max_sliding", 1000.0), slid),
        "yielding": _pair_yield_cell(study, pair, shown[-1], trend("yield_share")),
    }
    if pair.meant != "to-hold":
        measure, said = ("sliding", slid) if pair.meant == "to-slide" else ("pressure", opened)
        has_touched = max(_closed(s, pair.id) for s in shown) > TOUCHED
        cells[measure] = _as_meant(pair, cells[measure], said, has_touched=has_touched)
    remarks += [*opened, *crossed, *slid]
    return Row(
        id=pair.id,
        name=pair.name,
        kind="pair",
        shares=(now.share_open, now.share_sliding, now.share_sticking),
        **cells,
    )


def _as_meant(pair: Any, cell: Cell, said: list[dict[str, str]], *, has_touched: bool) -> Cell:
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
        told = f"As it is meant: {cell.verdict[0].lower()}{cell.verdict[1:]}"
        return cell.model_copy(update={"grade": "good", "verdict": told})
    said.append({"grade": "watch", "row": pair.id, "text": f"{pair.name} {wrong}"})
    return cell.model_copy(update={"grade": "watch", "verdict": f"It {wrong}"})


def _closed(summary: Summary, pair_id: str) -> float:
    return 1.0 - float(summary.pairs[pair_id].share_open)


def _opening_cell(
    study: StudyDocument,
    pair: Any,
    shown: list[Summary],
    trend: list[float | None],
    remarks: list[dict[str, str]],
) -> Cell:
    """Peak pressure; its verdict tells whether the pair stays shut."""
    value = trend[-1]
    never = max(_closed(s, pair.id) for s in shown) <= TOUCHED
    if never:
        return Cell(value=value, unit="MPa", trend=trend, grade="none", verdict="Has not touched.")
    if not pair.law.may_open:
        return Cell(value=value, unit="MPa", trend=trend, grade="good", verdict="May not open.")
    bolts_tighten = {step for bolt in study.bolts for step in bolt.preload}
    if not bolts_tighten:
        # Nothing was tightened: a pair that is pressed less lets go of part of its faces, as it should.
        apart = _closed(shown[-1], pair.id) < 1e-9
        verdict = "Has come apart." if apart else "Shut where it presses."
        if apart:
            remarks.append({"grade": "watch", "row": pair.id, "text": f"{pair.name} has come apart."})
        return Cell(value=value, unit="MPa", trend=trend, grade="watch" if apart else "good", verdict=verdict)
    tight = [s for s in shown if study.steps[s.step].id in bolts_tighten]
    reference = _closed(tight[-1], pair.id) if tight else max(_closed(s, pair.id) for s in shown)
    if reference < 1e-9 or (tight and shown[-1] is tight[-1]):
        return Cell(value=value, unit="MPa", trend=trend, grade="good", verdict="Shut where it presses.")
    left = _closed(shown[-1], pair.id) / reference
    worst = min(shown[shown.index(tight[-1]) if tight else 0 :], key=lambda s: _closed(s, pair.id))
    low = _closed(worst, pair.id) / reference
    if left < STILL_SHUT:
        first = next(
            s
            for s in shown
            if s.number >= (tight[-1].number if tight else 0) and _closed(s, pair.id) < STILL_SHUT * reference
        )
        whole = "has come apart" if left < 1e-9 else f"opens: {1 - left:.0%} of what was shut has opened"
        text = f"{whole}, from {_step_name(study, first)}, at {_acting(study, first)}."
        remarks.append(
            {
                "grade": "bad",
                "row": pair.id,
                "text": f"{pair.name} {text} Raise the preload, stiffen the parts, or reduce the pull.",
            }
        )
        return Cell(value=value, unit="MPa", trend=trend, grade="bad", verdict=text[0].upper() + text[1:])
    if low < 0.9:
        text = f"{1 - low:.0%} of what was shut after tightening has opened."
        remarks.append({"grade": "watch", "row": pair.id, "text": f"{pair.name}: {text}"})
        return Cell(value=value, unit="MPa", trend=trend, grade="watch", verdict=text)
    return Cell(value=value, unit="MPa", trend=trend, grade="good", verdict="Stays shut.")


def _penetration_cell(pair: Any, now: PairSummary, trend: list[float | None], remarks: list[dict[str, str]]) -> Cell:
    value = trend[-1]
    squeeze = now.squeeze
    ratio = now.max_penetration / squeeze if squeeze > 0 else 0.0
    if ratio < PENETRATION_WATCH:
        verdict = (
            "Surfaces do not cross."
            if ratio < 1e-6
            else f"{ratio:.1%} of what one element gives under the peak pressure."
        )
        return Cell(value=value, unit="µm", trend=trend, grade="good", verdict=verdict)
    grade: Grade = "bad" if ratio > PENETRATION_BAD else "watch"
    text = f"surfaces cross by {ratio:.0%} of what one element gives under the peak pressure."
    remarks.append(
        {"grade": grade, "row": pair.id, "text": f"{pair.name}: {text} Raise the penalty stiffness or enforce exactly."}
    )
    return Cell(value=value, unit="µm", trend=trend, grade=grade, verdict=text[0].upper() + text[1:])


def _sliding_cell(
    study: StudyDocument,
    pair: Any,
    shown: list[Summary],
    trend: list[float | None],
    remarks: list[dict[str, str]],
) -> Cell:
    value = trend[-1]
    if pair.law.may_slide == "no":
        return Cell(value=value, unit="µm", trend=trend, grade="good", verdict="May not slide.")
    if pair.law.may_slide == "freely":
        return Cell(value=value, unit="µm", trend=trend, grade="none", verdict="Slides freely by its law.")
    if max(_closed(s, pair.id) for s in shown) <= TOUCHED:
        return Cell(value=value, unit="µm", trend=trend, grade="none", verdict="Has not touched.")
    bolts_tighten = {step for bolt in study.bolts for step in bolt.preload}

    def slides(s: Summary) -> bool:
        p = s.pairs[pair.id]
        closed = 1.0 - p.share_open
        tightening = study.steps[s.step].id in bolts_tighten
        return bool(closed > 1e-9 and not tightening and p.share_sliding >= SLIDES_WHOLE * closed and p.as_one > AS_ONE)

    first = next((s for s in shown if slides(s)), None)
    if first is not None:
        state = "slides" if slides(shown[-1]) else "has slid"
        text = f"{state} as a whole from {_step_name(study, first)}, at {_acting(study, first)}."
        remarks.append(
            {
                "grade": "bad",
                "row": pair.id,
                "text": f"{pair.name} {text} Raise preload or friction, or let the bolts bear.",
            }
        )
        return Cell(value=value, unit="µm", trend=trend, grade="bad", verdict=text[0].upper() + text[1:])
    now = shown[-1].pairs[pair.id]
    closed = 1.0 - now.share_open
    part = now.share_sliding / closed if closed > 1e-9 else 0.0
    if part > SLIDES_WHOLE:
        return Cell(
            value=value,
            unit="µm",
            trend=trend,
            grade="watch",
            verdict="Faces creep against each other everywhere, but not as one.",
        )
    return Cell(
        value=value, unit="µm", trend=trend, grade="good", verdict=f"Holds: {1 - part:.0%} of what is shut sticks."
    )


def _yield_cell(share: float | None, trend: list[float | None]) -> Cell:
    if share is None:
        return Cell(value=None, unit="of yield", trend=trend, grade="none", verdict="No yield stress given.")
    grade: Grade = "bad" if share > 1 else "watch" if share > 0.9 else "good"
    words = {
        "bad": "Above the yield stress: metal yields here.",
        "watch": "Close to yield.",
        "good": "Stays below yield.",
    }
    return Cell(value=share, unit="of yield", trend=trend, grade=grade, verdict=words[grade])


def _pair_yield_cell(study: StudyDocument, pair: Any, now: Summary, trend: list[float | None]) -> Cell:
    """Stress at the pair's faces now; a part that has yielded, here or underneath, is not passed over."""
    cell = _yield_cell(now.pairs[pair.id].yield_share, trend)
    strain = now.pairs[pair.id].max_plastic_strain
    if strain > 0:
        text = f"Has yielded here: equivalent plastic strain up to {strain:.2%}."
        return cell.model_copy(update={"grade": "bad", "verdict": text})
    sides = {reference.split("/")[0].split("#")[0] for reference in (*pair.a, *pair.b)}
    under = [
        part.name
        for part in study.parts
        if part.id in sides and any(now.parts[n].max_plastic_strain > 0 for n in body_names(part))
    ]
    if under and cell.grade != "bad":
        text = f"Below yield at these faces, but {' and '.join(under)} has yielded elsewhere."
        return cell.model_copy(update={"grade": "watch", "verdict": text})
    return cell


def _part_row(study: StudyDocument, part: Any, shown: list[Summary], remarks: list[dict[str, str]]) -> Row:
    names = body_names(part)

    def highest(s: Summary) -> float | None:
        values = [share for n in names if (share := s.parts[n].yield_share) is not None]
        return max(values, default=None)

    trend = [highest(s) for s in shown]
    cell = _yield_cell(trend[-1], trend)
    strain = max(shown[-1].parts[n].max_plastic_strain for n in names)
    if strain > 0:
        first = next(s for s in shown if max(s.parts[n].max_plastic_strain for n in names) > 0)
        text = f"yields from {_step_name(study, first)}: equivalent plastic strain up to {strain:.2%} by now."
        remarks.append({"grade": "bad", "row": part.id, "text": f"{part.name} {text}"})
        cell = cell.model_copy(update={"grade": "bad", "verdict": text[0].upper() + text[1:]})
    elif cell.grade == "bad":
        first = next(s for s in shown if (highest(s) or 0) > 1)
        remarks.append(
            {
                "grade": "bad",
                "row": part.id,
                "text": f"{part.name} passes yield from {_step_name(study, first)} "
                f"(linear stress {cell.value:.2f} of yield, at its hottest spot).",
            }
        )
    _followed(study, part, shown, remarks)
    return Row(id=part.id, name=part.name, kind="part", yielding=cell)


def _followed(study: StudyDocument, part: Any, shown: list[Summary], remarks: list[dict[str, str]]) -> None:
    """Remark where a part went further than the small motion of a step is true for."""
    small = [s for s in shown if not study.steps[s.step].large_motion]

    def most(summary: Summary) -> tuple[float, float]:
        bodies = [summary.parts[n] for n in body_names(part)]
        return max(b.turn for b in bodies), max(b.bow for b in bodies)

    far = [(s, *most(s)) for s in small if most(s)[0] > LARGE_TURN or most(s)[1] > LARGE_BOW]
    if not far:
        return
    first, turn, bow = far[0][0], max(t for _, t, _ in far), max(b for _, _, b in far)
    turned, bent = f"turns by about {math.degrees(turn):.2g}°", f"bends by {bow:.2g} times its thickness"
    how = turned if turn > LARGE_TURN else bent
    text = (
        f"{part.name} {how} where only small motion is followed, from {_step_name(study, first)}: "
        "what is said of it is wrong. Let that step follow large motion."
    )
    remarks.append({"grade": "bad", "row": part.id, "text": text})


def _shank_diameter(part: Any) -> float:
    """Shank diameter of a bolt part, the recipe's own where none is written (mm)."""
    recipe = RECIPES[part.recipe.kind]
    return recipe.complete(recipe_values(recipe, part.recipe.dimensions))["diameter"]


def _bolt_row(study: StudyDocument, bolt: Any, shown: list[Summary], remarks: list[dict[str, str]]) -> Row:
    """Bolt force over the force at which the shank yields."""
    if bolt.part is None:
        forces: list[float | None] = [s.bolts[bolt.id].force / 1000 for s in shown]
        cell = Cell(value=None, unit="", trend=forces, grade="none", verdict=f"Force {forces[-1]:.1f} kN.")
        return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", yielding=cell)
    part = next(p for p in study.parts if p.id == bolt.part)
    material = next(m for m in study.materials if m.id == part.material)
    names = body_names(part)
    diameter = _shank_diameter(part)
    if material.yield_stress is None:
        return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", yielding=_yield_cell(None, [None] * len(shown)))
    limit = value_of(material.yield_stress, "stress") * math.pi * diameter**2 / 4
    trend: list[float | None] = [max(abs(s.bolts[n].force) for n in names) / limit for s in shown]
    cell = _yield_cell(trend[-1], trend)
    force = max(shown[-1].bolts[n].force for n in names) / 1000
    cell = cell.model_copy(update={"verdict": f"Highest force {force:.1f} kN. {cell.verdict}"})
    if cell.grade == "bad":
        remarks.append(
            {
                "grade": "bad",
                "row": bolt.id,
                "text": f"{bolt.name}: the shank yields at {force:.1f} kN. Use a larger bolt or a higher grade.",
            }
        )
    return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", yielding=cell)
