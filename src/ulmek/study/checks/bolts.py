"""Bolts by their stress area and property class (ISO 898-1:2013)."""

import numpy as np

from ulmek.core.handcalc.threads import COARSE, edge_stress, metric_thread, proof_load
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.bolt import BoltUse
from ulmek.study.items.joint import Bolted
from ulmek.study.ledger.parts import BENDS, bolt_diameter, worst_of
from ulmek.study.translate import body_names

ISO = "ISO 898-1:2013, stress area by ISO 724"


def bolt_check(at: At, bolt: BoltUse) -> HandCheck | None:
    """Force of a bolt over its stress area, and over the proof load of its property class; None without a thread of
    that diameter."""
    part = next((p for p in at.study.parts if p.id == bolt.part), None)
    joint = next((j for j in at.study.joints if bolt.id in j.pieces.bolts), None)
    ask = joint.ask if joint is not None and isinstance(joint.ask, Bolted) else None
    diameter = bolt_diameter(bolt, part)
    if diameter not in COARSE:
        return None
    names = body_names(part) if part is not None else [bolt.id]
    # Of a half or a quarter, the whole bolt is reckoned.
    share = part.recipe.share if part is not None else 1.0
    force = max(at.now.bolts[n].force for n in names) / share
    thread = metric_thread(diameter)
    cut = worst_of(at.now, names, share)
    shank = float(np.pi / 4 * diameter**2)
    values = [
        CheckedValue(
            name=f"Stress in the thread, M{diameter:g}", quantity="stress", hand=force / thread.stress_area, source=ISO
        ),
        CheckedValue(name="Stress in the shank", quantity="stress", hand=force / shank, source="F/A"),
    ]
    is_straight: bool | None = None
    if cut is not None:
        edge, pulled = edge_stress(*cut, thread.stress_area), edge_stress(cut[0], 0.0, 0.0, thread.stress_area)
        is_straight = edge < (1 + BENDS) * pulled
        name = "Edge of the thread with shear and bending of the run"
        values.append(CheckedValue(name=name, quantity="stress", hand=edge, source=f"N/A + M/W, 3 (Q/A)²; {ISO}"))
    strength = bolt.strength or (ask.strength if ask is not None else None)
    conditions = [
        Condition(
            text=f"It is pulled along its axis only: shear and bending add less than {BENDS:.0%}", met=is_straight
        )
    ]
    if strength is not None:
        values.append(
            CheckedValue(
                name=f"Proof load of class {strength}",
                quantity="force",
                hand=proof_load(diameter, strength),
                computed=force,
                sense="below",
                source=ISO,
            )
        )
        # Tightening may ask more of a bolt than all that follows.
        tight = [i for i, step in enumerate(at.study.steps) if step.id in bolt.preload]
        ends = [s for s in at.summaries if tight and s.step == tight[0]]
        if ends and ends[-1] is not at.now:
            tightened = max(ends[-1].bolts[n].force for n in names) / share
            as_tightened = {"name": f"Proof load of class {strength}, as tightened", "computed": tightened}
            values.append(values[-1].model_copy(update=as_tightened))
    else:
        conditions.append(Condition(text="No property class is given to judge it by", met=None))
    return HandCheck(kind="bolt", id=bolt.id, title=f"{bolt.name}: stress area", values=values, conditions=conditions)
