"""What chapters say of what was modelled: parts, materials, pairs, what holds and drives, sequence, closed forms."""

from ulmek.core.errors import UlmekError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.report.blocks import Block, Table, Words
from ulmek.report.words import amount, faces, number, share, vector
from ulmek.store.results import ResultReader
from ulmek.study.items import StudyDocument
from ulmek.study.items.axes import component_name
from ulmek.study.items.contact import EnforcementChoice, Law
from ulmek.study.items.load import LoadUse
from ulmek.study.items.material import Material
from ulmek.study.items.part import Part
from ulmek.study.items.support import SupportUse
from ulmek.study.joints.follow import made_of

SPACES = {
    "solid": "solids", "plane-strain": "plane strain", "plane-stress": "plane stress", "axisymmetric": "axisymmetric",
}  # fmt: skip
FITS = {
    "as-drawn": "as drawn", "overlap-removed": "overlap removed", "closed-up": "gaps closed", "value": "overlap",
}  # fmt: skip
MEANT = {
    "to-hold": "hold",
    "to-slide": "slide",
    "to-open": "open",
    "to-seal": "seal",
    "to-carry-nothing": "carry nothing",
}
SLIDES = {"no": "does not slide", "freely": "slides freely"}


def assembly(study: StudyDocument, reader: ResultReader) -> list[Block]:
    """Parts with their shapes, materials and meshes."""
    names, _ = reader.bodies()
    materials = {m.id: m.name for m in study.materials}
    rows = []
    for part in study.parts:
        copies = sum(name.split("#")[0] == part.id for name in names)
        asleep = "" if copies else " (left out of the analysis)"
        rows.append(
            [part.name + asleep, _shape(part), materials[part.material], str(max(copies, len(part.placements)))]
        )
    words = f"The study is of {SPACES[study.space]}"
    if study.space in ("plane-strain", "plane-stress"):
        words += f", {study.thickness} thick: forces are of this thickness"
    blocks: list[Block] = [
        Words(f"{words}. Lengths are in the axes of the study, and stresses are what they are in the deformed parts."),
        Table(["Part", "Shape", "Material", "Copies"], rows, (3,), (3, 6, 3, 1)),
        Table(
            ["Material", "E", "ν", "Yield", "Allowable", "Density", "Behaviour"],
            [
                [
                    m.name, m.young or "–", "–" if m.poisson is None else number(m.poisson), m.yield_stress or "–",
                    m.allowable or "–", m.density or "–", _behaviour(m),
                ]
                for m in study.materials
            ],
            share=(3, 2, 1, 2, 2, 2.4, 4),
        ),
    ]  # fmt: skip
    return blocks


def _shape(part: Part) -> str:
    recipe = part.recipe
    if recipe.file is not None:
        return f"solid {recipe.file.solid + 1} of {recipe.file.name}"
    known = RECIPES.get(recipe.kind)
    label = known.label if known else {"drawn": "Drawn part", "bent": "Bent bar"}.get(recipe.kind, recipe.kind)
    labels = {d.name: d.label for d in known.dimensions} if known else {}
    sizes = [f"{labels.get(name, name)} {value}" for name, value in recipe.dimensions.items()]
    left = [f"without {feature}" for feature in recipe.dropped]
    kept = [] if recipe.kept == "whole" else [f"its {recipe.kept}"]
    return "; ".join([label, *sizes, *kept, *left])


def _behaviour(material: Material) -> str:
    hardening, rubber = material.hardening, material.rubber
    if rubber is not None:
        return f"rubber, C10 {rubber.c10}, C01 {rubber.c01}, bulk modulus {rubber.bulk}"
    if hardening is None:
        return "elastic"
    first, last = hardening.table[0], hardening.table[-1]
    kinematic = f", kinematic share {number(hardening.kinematic_share)}" if hardening.kinematic_share else ""
    return f"yields from {first.stress} to {last.stress} at a plastic strain of {share(last.strain)}{kinematic}"


def pairs(study: StudyDocument) -> list[Block]:
    """Pairs with what they may do."""
    shared = {c.id: c for c in study.contacts}
    rows = []
    for pair in study.pairs:
        owner = shared.get(pair.contact or "", pair)
        wall = next((w.name for w in study.walls if w.id == pair.wall), "")
        fit = f"{FITS[pair.fit]} {pair.interference}" if pair.fit == "value" else FITS[pair.fit]
        rows.append(
            [
                pair.name, faces(study, pair.a), faces(study, pair.b) or f"datum wall {wall}", _law(owner.law),
                _enforced(owner.enforcement), fit, MEANT[pair.meant],
            ]
        )  # fmt: skip
    head = ["Pair", "Side A", "Side B", "Law", "Enforced", "At the start", "Meant to"]
    blocks: list[Block] = [Table(head, rows, share=(3, 4, 4, 3, 3, 2.4, 1.8))]
    return blocks if rows else [Words("No parts touch in this study.")]


def _law(law: Law) -> str:
    slides = SLIDES.get(law.may_slide, f"Coulomb friction, µ = {number(law.mu)}")
    return f"{'may open' if law.may_open else 'stays shut'}, {slides}"


def _enforced(e: EnforcementChoice) -> str:
    if e.method == "exact":
        return "exactly, no penetration"
    stiffness = f"penalty, {number(e.stiffness)} E/h"
    return stiffness if e.method == "penalty" else f"{stiffness}, augmented to {e.allowed}"


def sequence(study: StudyDocument) -> list[Block]:
    """What acts in each step, as the board draws it, and what holds."""
    head = ["", *(f"{i + 1} {s.name}" for i, s in enumerate(study.steps))]
    rows = [[f"{bolt.name} (bolt)", *_course(study, bolt.preload, "length kept")] for bolt in study.bolts]
    rows += [[f"{load.name} ({load.sort.label.lower()})", *_load_course(study, load)] for load in study.loads]
    held: list[tuple[str, list[str]]] = [(f"{s.name} (support)", s.released) for s in study.supports]
    held += [(f"{p.name} (pair)", p.released) for p in study.pairs]
    rows += [[name, *("–" if s.id in released else "acts" for s in study.steps)] for name, released in held]
    rows += [["Large motion", *("followed" if s.large_motion else "–" for s in study.steps)]]
    if any(s.dynamics for s in study.steps):
        rows += [["Inertia", *("–" if s.dynamics is None else f"over {s.dynamics.duration}" for s in study.steps)]]
    asleep = [s.name for s in study.steps if not s.in_analysis]
    blocks: list[Block] = [Table(head, rows, share=(4, *(2.4 for _ in study.steps)))]
    if asleep:
        blocks.append(Words(f"Left out of the analysis: {', '.join(asleep)}."))
    holds = [[s.name, "support", _where(study, s.faces, s.handle), _held(s)] for s in study.supports]
    holds += [
        [ld.name, ld.sort.label, _where(study, ld.faces, ld.handle), vector(ld.direction) if ld.direction else "–"]
        for ld in study.loads
    ]
    holds += [[w.name, "datum wall", w.kind, f"at ({', '.join(w.at)})"] for w in study.walls]
    holds += [[h.name, "handle", faces(study, h.faces) or (h.part or "a free point"), h.kind] for h in study.handles]
    blocks.append(Table(["What holds and drives", "Kind", "On", "How"], holds, share=(3, 3, 5, 3)))
    return blocks


def _course(study: StudyDocument, values: dict[str, str], else_: str) -> list[str]:
    cells, began = [], False
    for step in study.steps:
        cells.append(values.get(step.id, else_ if began else "–"))
        began = began or step.id in values
    return cells


def _load_course(study: StudyDocument, load: LoadUse) -> list[str]:
    cells = _course(study, load.values, "held")
    for i, step in enumerate(study.steps):
        if step.id in load.released:
            cells[i] = "lets go"
        elif load.courses.get(step.id):
            cells[i] = f"by way of {', '.join(p.value for p in load.courses[step.id])} to {cells[i]}"
    return cells


def _where(study: StudyDocument, on: list[str], handle: str | None) -> str:
    named = next((h.name for h in study.handles if h.id == handle), "")
    return f"handle {named}" if named else faces(study, on) or "all parts"


def _held(support: SupportUse) -> str:
    whole = {"fixed": "all directions", "symmetry": "plane of symmetry"}
    return whole.get(support.kind, ", ".join(component_name(c, support.axes) for c in support.components))


def closed_forms(study: StudyDocument) -> list[Block]:
    """Hand calculations of the joints, with what they rest on."""
    rows = []
    for joint in study.joints:
        try:
            found = made_of(study, joint).figures
        except UlmekError as error:
            rows.append([joint.name, "cannot be made any more", "–", "–", str(error), "–"])
            continue
        for f in found:
            if f.quantity == "share":
                value, least, most = share(f.value), share(f.least), share(f.most)
            else:
                value, least, most = (amount(v, f.quantity) for v in (f.value, f.least, f.most))
            span = "–" if f.least is None and f.most is None else f"{least} … {most}"
            rows.append([joint.name, f.name, value, span, "holds" if f.holds else f.why, f.source or "–"])
    if not rows:
        return [Words("No joint of this study was made as a whole: none has a closed form of its own.")]
    head = ["Joint", "Figure", "Value", "Range", "What it rests on", "Source"]
    return [Table(head, rows, (2,), (3, 3, 2, 3, 4, 4))]
