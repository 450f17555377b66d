"""Rows of parts and bolts: whether each stays below what it bears, and how far each went."""

import math

import numpy as np

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.handcalc.threads import COARSE, edge_stress, metric_thread, proof_load
from ulmek.core.review.summary import PartSummary, Summary
from ulmek.study.items import StudyDocument
from ulmek.study.items.bolt import BoltUse
from ulmek.study.items.item import part_of
from ulmek.study.items.part import Part
from ulmek.study.ledger.cells import Cell, Remark, Row, step_name, use_cell
from ulmek.study.ledger.pairs import below_a_peak
from ulmek.study.plausible import LARGE_BOW, LARGE_TURN
from ulmek.study.recipe_values import recipe_values
from ulmek.study.translate import body_names
from ulmek.study.units import value_of

# What shear and bending may add to the stress of a bolt without being told.
BENDS = 0.1
# A support that takes more than this share of what a loaded part hands on is told.
BYPASSED = 0.2


def part_row(study: StudyDocument, part: Part, shown: list[Summary], remarks: list[Remark]) -> Row:
    """The row of one part after the increments that are ``shown``; what matters is added to the remarks."""
    names = body_names(part)
    material = next(m for m in study.materials if m.id == part.material)
    of = "allowed" if material.bears_less else "yield"
    now = [shown[-1].parts[n] for n in names]
    is_old = all(p.use_anywhere is None for p in now)

    def use(p: PartSummary) -> float | None:
        if is_old:
            return p.yield_share
        return p.use_anywhere if part.judged == "everywhere" else p.use

    def highest(s: Summary) -> float | None:
        return max((u for n in names if (u := use(s.parts[n])) is not None), default=None)

    trend = [highest(s) for s in shown]
    worst = max(now, key=lambda p: use(p) or 0.0)
    band = worst.use_anywhere_band if part.judged == "everywhere" else worst.use_band
    if trend[-1] is None and not is_old and any(p.use_anywhere is not None for p in now):
        cell = use_cell(None, None, trend, of).judged(
            "none", "Not judged: all of it lies within an element of a sharp edge."
        )
    else:
        cell = use_cell(trend[-1], None if is_old else band, trend, of, _beside(study, part, now))
    strain = max(p.max_plastic_strain for p in now)
    if strain > 0:
        first = next(s for s in shown if max(s.parts[n].max_plastic_strain for n in names) > 0)
        text = f"yields from {step_name(study, first.step)}: equivalent plastic strain up to {strain:.2%} by now."
        remarks.append(Remark(grade="bad", row=part.id, text=f"{part.name} {text}"))
        cell = cell.judged("bad", text[0].upper() + text[1:])
    elif cell.grade == "bad":
        first = next(s for s in shown if (highest(s) or 0) > 1)
        what = "yield" if of == "yield" else "its allowable stress"
        text = f"{part.name} passes {what} from {step_name(study, first.step)} "
        text = f"{text}(linear stress {cell.value:.2f} of it, at its hottest spot)."
        remarks.append(Remark(grade="bad", row=part.id, text=text))
    elif part.mesh.elements != "beam":
        # A beam's stress is that of its section; what happens below what presses on it is told of the pair.
        for pair in (p for p in study.pairs if p.id in shown[-1].pairs):
            if part.id in {part_of(ref) for ref in (*pair.a, *pair.b)}:
                cell = below_a_peak(cell, shown[-1].pairs[pair.id], f" of {pair.name}")
    _followed(study, part, shown, remarks)
    _bypassed(study, part, shown[-1], remarks)
    return Row(id=part.id, name=part.name, kind="part", yielding=cell)


def _beside(study: StudyDocument, part: Part, now: list[PartSummary]) -> str:
    """What is said of a singular place that is higher than what is judged."""
    sharp = max((p.singular for p in now if p.singular is not None), key=lambda s: s.stress, default=None)
    if sharp is None or part.judged == "everywhere":
        return ""
    where = singular_name(study, sharp.kind, sharp.name)
    return f" Not judged: {sharp.stress:.3g} MPa at {where}, which grows with every finer mesh."


def singular_name(study: StudyDocument, kind: str, name: str) -> str:
    """A singular place in words, and what can be done."""
    if kind == "inner-corner":
        return "a sharp inner corner (give it a radius)"
    if kind == "contact-edge":
        pair = next((p.name for p in study.pairs if p.id == name), name)
        return f"the edge of contact of {pair}"
    names = {s.id: s.name for s in study.supports} | {h.id: h.name for h in study.handles}
    held = names.get(name, name)
    return f"the end of what {held} holds"


def _bypassed(study: StudyDocument, part: Part, now: Summary, remarks: list[Remark]) -> None:
    """Remark where a loaded part passes what acts on it to a support of its own instead of to its pairs."""
    loaded = any(part.id in {part_of(ref) for ref in load.faces} for load in study.loads if now.values.get(load.id))
    pairs = [p for p in study.pairs if p.wall is None and p.meant == "to-hold" and p.id in now.pairs]
    through = np.zeros(3)
    is_joined = False
    for pair in pairs:
        sides = [{part_of(ref) for ref in side} for side in (pair.a, pair.b)]
        if any(part.id in side for side in sides) and sides[0] != sides[1]:
            is_joined = True
            through += np.array(now.pairs[pair.id].force) * (1.0 if part.id in sides[0] else -1.0)
    if not loaded or not is_joined:
        return
    held = [s for s in study.supports if s.faces and {part_of(ref) for ref in s.faces} == {part.id}]
    carriers = {c.name: np.array(c.force) for c in now.carriers if c.kind == "support"}
    for support in held:
        if support.kind == "symmetry" or support.id not in carriers:
            continue
        out, rest = float(np.linalg.norm(carriers[support.id])), float(np.linalg.norm(through))
        if out > BYPASSED * (out + rest):
            text = (
                f"{part.name} passes {out / (out + rest):.0%} of what it hands on to {support.name}, "
                f"which holds it itself: its joints carry the rest only."
            )
            remarks.append(Remark(grade="watch", row=part.id, text=text))


def _followed(study: StudyDocument, part: Part, shown: list[Summary], remarks: list[Remark]) -> None:
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
        f"{part.name} {how} where only small motion is followed, from {step_name(study, first.step)}: "
        "what is said of it is wrong. Let that step follow large motion."
    )
    remarks.append(Remark(grade="bad", row=part.id, text=text))


def shank_diameter(part: Part) -> float:
    """Shank diameter of a bolt part, the recipe's own where none is written (mm)."""
    recipe = RECIPES[part.recipe.kind]
    return recipe.complete(recipe_values(recipe, part.recipe.dimensions))["diameter"]


def bolt_row(study: StudyDocument, bolt: BoltUse, shown: list[Summary], remarks: list[Remark]) -> Row:
    """Bolt force over the proof load of its property class; over the force at which the shank yields where it has none;
    the force alone where neither is known."""
    part = next((p for p in study.parts if p.id == bolt.part), None)
    names = body_names(part) if part is not None else [bolt.id]
    # Of a half or a quarter, the whole bolt is judged.
    share = part.recipe.share if part is not None else 1.0
    forces = [max(abs(s.bolts[n].force) for n in names) / share for s in shown]
    limit, of = _bolt_limit(study, bolt, part)
    if part is None and forces[-1] == 0.0 and max(forces) > 0:
        slack: list[float | None] = [f / 1000 for f in forces]
        told = "Is slack: it holds nothing."
        remarks.append(Remark(grade="watch", row=bolt.id, text=f"{bolt.name} is slack: it holds nothing."))
        cell = Cell(value=0.0, unit="kN", trend=slack, grade="watch", verdict=told)
        return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", part=bolt.part, yielding=cell)
    if limit is None:
        in_kn: list[float | None] = [f / 1000 for f in forces]
        told = f"Highest force {forces[-1] / 1000:.1f} kN. No property class is given to judge it by."
        cell = Cell(value=None, unit="", trend=in_kn, grade="none", verdict=told)
        return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", part=bolt.part, yielding=cell)
    trend: list[float | None] = [f / limit for f in forces]
    now, use = shown[-1], forces[-1] / limit
    off = now.balance.closing_error * now.balance.scale / share / limit
    cell = use_cell(use, (max(use - off, 0.0), use + off), trend, of)
    force = forces[-1] / 1000
    whole = "" if share == 1.0 else " of the whole bolt"
    cell = cell.judged(cell.grade, f"Highest force {force:.1f} kN{whole}. {cell.verdict}")
    cut = worst_of(now, names, share)
    if cut is not None and cell.grade != "bad":
        cell = _with_bending(bolt, cut, limit, of, bolt_diameter(bolt, part), cell, remarks)
    if cell.grade == "bad":
        what = f"the shank yields at {force:.1f} kN" if of == "yield" else f"{force:.1f} kN are above its proof load"
        text = f"{bolt.name}: {what}. Use a larger bolt or a higher grade."
        remarks.append(Remark(grade="bad", row=bolt.id, text=text))
    return Row(id=f"bolts:{bolt.id}", name=bolt.name, kind="bolts", part=bolt.part, yielding=cell)


def _with_bending(
    bolt: BoltUse, cut: tuple[float, float, float], limit: float, of: str, diameter: float | None, cell: Cell,
    remarks: list[Remark],
) -> Cell:  # fmt: skip
    """The cell with what shear and bending add at the edge of the thread, or of the shank where yield is the measure:
    metal there may pass what the section as a whole does not, which is told and not judged as bad."""
    assert diameter is not None
    area = metric_thread(diameter).stress_area if of == "proof" else math.pi * diameter**2 / 4
    use = edge_stress(*cut, area) * area / limit
    if use < (1 + BENDS) * abs(cut[0]) / limit:
        return cell
    where, what = ("thread", "the proof stress") if of == "proof" else ("shank", "yield")
    told = f"With bending of {cut[2] / 1000:.3g} N·m and shear of {cut[1] / 1000:.3g} kN the edge of its {where} bears"
    told = f"{told} {use:.2f} of {what}."
    if use <= 1:
        return cell.judged(cell.grade, f"{cell.verdict} {told}")
    remarks.append(Remark(grade="watch", row=bolt.id, text=f"{bolt.name}: {told[0].lower()}{told[1:]}"))
    return cell.judged("watch", f"{cell.verdict} {told}")


def worst_of(now: Summary, names: list[str], share: float) -> tuple[float, float, float] | None:
    """Tension (N), shear (N) and bending (N·mm) of the whole bolt, of which a ``share`` is modelled, in the cut that is
    stressed most among all its copies; None where no cuts are known."""
    cuts = [cut for n in names if (cut := now.bolts[n].worst) is not None]
    if not cuts:
        return None
    worst = max(cuts, key=lambda cut: cut.stress)
    return worst.axial / share, worst.shear / share, worst.bending / share


def bolt_diameter(bolt: BoltUse, part: Part | None) -> float | None:
    """Nominal diameter (mm) of a bolt, None of a line that is tightened by force."""
    if part is not None:
        return shank_diameter(part)
    return value_of(bolt.torque.diameter, "length") if bolt.torque is not None else None


def _bolt_limit(study: StudyDocument, bolt: BoltUse, part: Part | None) -> tuple[float | None, str]:
    """The force (N) that a bolt may bear, and what of it that is."""
    diameter = bolt_diameter(bolt, part)
    if bolt.strength is not None and diameter in COARSE:
        return proof_load(diameter, bolt.strength), "proof"
    material = next((m for m in study.materials if part is not None and m.id == part.material), None)
    if material is None or material.yield_stress is None or diameter is None:
        return None, "yield"
    return value_of(material.yield_stress, "stress") * math.pi * diameter**2 / 4, "yield"
