"""What chapters say of what came back: verdicts, pictures, imprints, histories, mesh, balance."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.facets import is_edges
from ulmek.core.review.balance import Carrier
from ulmek.core.review.fields import PAIR_FIELDS
from ulmek.core.review.summary import Summary
from ulmek.draw.plots import Curve, curves, framed, imprint
from ulmek.draw.ramp import scale_of
from ulmek.draw.stage import Shown, picture
from ulmek.report.blocks import Block, Gallery, Picture, Table, Words
from ulmek.report.words import amount, number, share
from ulmek.store.fields import friction_of
from ulmek.store.flat import along_outline, lay_flat
from ulmek.store.results import ResultReader
from ulmek.study.checks import hand_checks
from ulmek.study.items import StudyDocument
from ulmek.study.ledger import COLUMNS, Cell, Row, build_ledger
from ulmek.study.settling import Settled
from ulmek.study.spoken import body_name
from ulmek.study.translate import translate
from ulmek.study.units import Kind

Array = NDArray[np.float64]
MARKS = {"good": "✓", "watch": "!", "bad": "✗", "unsure": "?", "none": "·"}
# So many lines are told apart in one plot.
MOST_LINES = 6
# Values of the ledger, in the units that it speaks in, of which nothing is told.
ROUNDING = 1e-6
SIZE = (1400, 900)


def verdicts(study: StudyDocument, summaries: list[Summary], at: int) -> list[Block]:
    """The ledger with its remarks."""
    ledger = build_ledger(study, summaries, at)
    tables = []
    # Parts and bolts have their strength alone to be judged by: beside the columns of pairs it would be squeezed.
    for head, columns, widths, rows in (
        ("Pairs", COLUMNS, (3, 4, 4, 4, 4), [r for r in ledger.rows if r.kind == "pair"]),
        ("Parts and bolts", ("yielding",), (3, 16), [r for r in ledger.rows if r.kind != "pair"]),
    ):
        lines = [[_row_name(row), *(_cell(getattr(row, column)) for column in columns)] for row in rows]
        if lines:
            tables.append(Table([head, *(c.capitalize() for c in columns)], lines, share=widths))
    remarks: list[Block] = [Words(r.text, r.grade) for r in ledger.remarks]
    signs = (
        "✓ good, ! watch, ✗ not good, ? cannot be told on this mesh, · not judged. Values are those at the end; "
        "in brackets, between what they lie on this mesh. Assumptions bound them too."
    )
    return [*(remarks or [Words("Nothing stands out.")]), *tables, Words(signs)]


def _row_name(row: Row) -> str:
    return row.name + (" (bolts)" if row.kind == "bolts" else "") + (f", of {row.joint}" if row.joint else "")


def _cell(cell: Cell | None) -> str:
    if cell is None:
        return ""
    value = ""
    if cell.value is not None:
        # What rounding leaves is nothing.
        band = f" ({_band(cell.band)})" if cell.band is not None and cell.value > ROUNDING else ""
        value = f"{number(cell.value if abs(cell.value) > ROUNDING else 0.0)}{band} {cell.unit}. "
    return f"{MARKS[cell.grade]} {value}{cell.verdict}"


def _band(band: tuple[float, float | None]) -> str:
    low, high = band
    return f"{number(low)} and more" if high is None else f"{number(low)}–{number(high)}"


def pictures(study: StudyDocument, reader: ResultReader, fields: list[str], at: int) -> list[Block]:
    """The assembly in the colours of its parts, and each of the ``fields`` on it."""
    blocks: list[Block] = []
    for field in [None, *fields]:
        stage = picture(study, reader, Shown(field=field, increment=at), SIZE)
        if stage.field is None:
            title = "The parts, moved as computed, at true scale"
        else:
            title = f"{stage.field.label} at the end"
        told = title
        if stage.highest is not None and stage.field is not None:
            value, body, place = stage.highest
            where = ", ".join(amount(float(np.round(x, 6)), "length") for x in place)
            told += f": {number(value)} {stage.field.spoken} in {body_name(study, body)} at ({where})"
        blocks.append(Picture(framed(stage, title), f"{told}.", 0.75))
    return blocks


def imprints(study: StudyDocument, reader: ResultReader, at: int) -> list[Block]:
    """Contact pressure of every pair where it presses: laid flat, of sections along their outline."""
    points, flat, lines = reader.points(), [], []
    names = {p.id: p.name for p in study.pairs}
    for pair in reader.pairs():
        node, facets = reader.pair_patch(pair)
        name = names[pair]
        pressure = reader.pair_field(pair, "pressure", at)
        if float(pressure.max(initial=0.0)) <= PAIR_FIELDS["pressure"].quiet:
            flat.append(f"{name} presses nowhere at the end.")
        elif is_edges(facets):
            order, way = along_outline(points, facets, node)
            rub = reader.pair_field(pair, "frictional_stress", at)[order]
            curve = [Curve("pressure", way, pressure[order]), Curve("frictional stress", way, rub)]
            mu = friction_of(study, pair)
            if mu is not None:
                curve.append(Curve("µ · pressure", way, mu * pressure[order], is_dashed=True))
            plot = curves(name, "way along the outline (mm)", "MPa", curve)
            lines.append(Picture(plot.encode(), f"{name}: pressure and friction along its path at the end."))
        else:
            shape = lay_flat(points, facets, node)
            image = imprint(name, "MPa", shape, pressure, scale_of(pressure, is_signed=False))
            how = "unrolled" if shape.is_unrolled else "seen along its normal"
            lines.append(Picture(image, f"{name}, {how}: contact pressure at the end.", 0.48))
    halves = [p for p in lines if p.width < 1]
    blocks: list[Block] = [p for p in lines if p.width == 1]
    blocks += [Gallery(halves[i : i + 2]) for i in range(0, len(halves), 2)]
    return [*blocks, *(Words(text) for text in flat)]


def histories(study: StudyDocument, summaries: list[Summary]) -> list[Block]:
    """Forces of bolts and pairs, contact pressure, and what prescribed motions take, over the steps."""
    time = np.array([s.step + s.time for s in summaries])
    marks = {s.name: float(i + 1) for i, s in enumerate(study.steps) if i < summaries[-1].step + 1}
    names = {p.id: p.name for p in study.pairs} | {b.id: b.name for b in study.bolts}

    def bolt(s: Summary, n: str) -> float:
        return s.bolts[n].force / 1e3

    def across(s: Summary, n: str) -> float:
        return s.pairs[n].normal_force / 1e3

    def pressure(s: Summary, n: str) -> float:
        return s.pairs[n].peak_pressure

    blocks: list[Block] = []
    drawn: list[tuple[str, str, list[str], Callable[[Summary, str], float]]] = [
        ("Force of the bolts", "kN", list(summaries[0].bolts), bolt),
        ("Force across the pairs", "kN", list(summaries[0].pairs), across),
        ("Peak contact pressure", "MPa", list(summaries[0].pairs), pressure),
    ]
    for title, unit, which, value in drawn:
        most = sorted(which, key=lambda n: -max(abs(value(s, n)) for s in summaries))[:MOST_LINES]
        if not most:
            continue
        lines = [Curve(_named(study, names, n), time, np.array([value(s, n) for s in summaries])) for n in most]
        left = f" The {len(most)} largest of {len(which)}." if len(which) > len(most) else ""
        plot = curves(title, "time in steps", unit, lines, marks=marks)
        blocks.append(Picture(plot.encode(), f"{title} over the steps.{left}"))
    blocks += [Picture(p.encode(), told) for p, told in _drives(study, summaries)]
    return blocks


def _named(study: StudyDocument, names: dict[str, str], n: str) -> str:
    return names.get(n) or body_name(study, n)


def _drives(study: StudyDocument, summaries: list[Summary]) -> list[tuple[str, str]]:
    """Torque over the angle of prescribed turns, force over the way of prescribed displacements."""
    out = []
    for load in study.loads:
        if load.kind not in ("rotation", "displacement") or load.direction is None:
            continue
        found = [(s, c) for s in summaries for c in s.carriers if c.kind == "motion" and c.name == load.id]
        if not found or not any(s.values.get(load.id) for s, _ in found):
            continue
        axis = np.array(load.direction) / np.linalg.norm(load.direction)
        turns = load.kind == "rotation"
        way = np.array([s.values[load.id] for s, _ in found])
        took = np.array([float((_moment(c) if turns else np.array(c.force)) @ axis) for _, c in found])
        x, y = (np.rad2deg(way), took / 1e3) if turns else (way, took)
        labels = ("angle (°)", "torque (N·m)") if turns else ("way (mm)", "force (N)")
        plot = curves(load.name, *labels, [Curve(labels[1].split(" ")[0], x, y)])
        out.append((plot, f"{load.name}: {labels[1].split(' ')[0]} over {labels[0].split(' ')[0]}."))
    return out


def _moment(carrier: Carrier) -> Array:
    """About where it acts."""
    return np.asarray(np.array(carrier.moment) - np.cross(carrier.about, carrier.force))


def mesh(study: StudyDocument, reader: ResultReader, summary: Summary, settled: Settled | None) -> list[Block]:
    """Elements of every part, how far neighbours disagree about stress, and how far it was ``settled``."""
    names, offsets = reader.bodies()
    numbers, starts, _ = reader.cells()
    first = numbers[starts[:-1]]
    rows = []
    for part in study.parts:
        own = [i for i, n in enumerate(names) if n.split("#")[0] == part.id]
        if not own:
            continue
        elements = sum(int(((first >= offsets[i]) & (first < offsets[i + 1])).sum()) for i in own)
        nodes = sum(int(offsets[i + 1] - offsets[i]) for i in own)
        told = [summary.parts[names[i]] for i in own]
        highest, apart = max(t.max_von_mises for t in told), max(t.stress_error for t in told)
        rows.append(
            [
                part.name, part.mesh.size, str(elements), str(nodes), amount(highest, "stress"),
                amount(apart, "stress"), share(apart / highest) if highest > 0 else "–",
            ]
        )  # fmt: skip
    head = ["Part", "Element size", "Elements", "Nodes", "Highest von Mises", "Elements disagree by", "of the highest"]
    words = (
        "How far elements around a node disagree about its stress tells where the mesh is too coarse. What a finer "
        "mesh would say has not been computed: whether the highest values are settled cannot be told from one mesh."
    )
    table = Table(head, rows, (2, 3, 4, 5, 6))
    return [table, Words(words)] if settled is None else [table, *_settled(settled)]


def _settled(settled: Settled) -> list[Block]:
    """What finer meshes said."""
    rows = []
    for m in settled.measures:
        values = ", ".join("–" if v is None else number(v.value) for v in m.values)
        low, high = m.band or (None, None)
        span = (
            "" if low is None else f" ({number(low)} and more)" if high is None else f" ({number(low)}–{number(high)})"
        )
        rows.append([f"{m.name} ({m.unit})", values, f"{'' if m.limit is None else number(m.limit)}{span}", m.told])
    told = f"Settled within {share(settled.within)} on {len(settled.meshes)} meshes. {settled.ended}"
    head = ["What is judged", "On each mesh", "Goes to", "What is to be said"]
    return [Words(told), Table(head, rows, (), (4, 4, 3, 5))]


def checks(study: StudyDocument, summaries: list[Summary]) -> list[Block]:
    """Hand calculations beside the last increment, each with the conditions that it rests on."""
    blocks: list[Block] = []
    for check in hand_checks(study, translate(study), summaries):
        rows = []
        for v in check.values:
            by_hand, computed = (
                "–" if x is None else share(x) if v.quantity == "share" else amount(x, v.quantity)
                for x in (v.hand, v.computed)
            )
            off = "–" if v.difference is None else f"{v.difference:+.1%}".replace("%", " %")
            used = off if v.sense == "same" else f"{share(v.difference)} of it"
            rows.append([v.name, by_hand, computed, used, v.source or "–"])
        marks = {True: "met", False: "NOT met", None: "cannot be told"}
        rests = "; ".join(f"{c.text}: {marks[c.met]}" for c in check.conditions)
        blocks.append(Words(f"{check.title}. It rests on: {rests}." if rests else f"{check.title}."))
        blocks.append(
            Table(["Figure", "By hand", "Computed", "Difference", "Source"], rows, (1, 2, 3), (4, 2, 2, 2, 4))
        )
    return blocks


def balance(study: StudyDocument, summary: Summary) -> list[Block]:
    """What carries force, and whether all of it closes."""
    lists = (study.supports, study.loads, study.walls, study.bolts, study.springs, study.links)
    names = {item.id: item.name for items in lists for item in items}
    rows = [
        [f"{names.get(c.name, body_name(study, c.name))} ({c.kind})", *_components(c.force, "force"),
         *_components(tuple(_moment(c)), "moment")]
        for c in summary.carriers
    ]  # fmt: skip
    b = summary.balance
    rows.append(["All loads", *_components(b.applied, "force"), "", "", ""])
    head = ["On the parts", "Fx", "Fy", "Fz", "Mx", "My", "Mz"]
    worst = max(b.parts.values(), default=0.0)
    words = (
        f"Loads and what carries them close to {b.closing_error:.1e} of the largest force, {amount(b.scale, 'force')}; "
        f"of single parts at most {amount(worst, 'force')} is left over. Moments are about where each acts."
    )
    return [Table(head, rows, (1, 2, 3, 4, 5, 6), (4, 2, 2, 2, 2, 2, 2)), Words(words)]


def _components(values: tuple[float, ...], kind: Kind) -> list[str]:
    """Components; what is rounding beside the others is nothing."""
    most = max(abs(v) for v in values)
    return [amount(0.0 if abs(v) < 1e-6 * most else float(v), kind) for v in values]
