"""Bolts by their stress area and property class (ISO 898-1:2013)."""

import numpy as np

from ulmek.core.handcalc.threads import COARSE, metric_thread, proof_load
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.bolt import BoltUse
from ulmek.study.items.joint import Bolted
from ulmek.study.ledger.parts import bolt_diameter
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
    force = max(at.now.bolts[n].force for n in names) / (part.recipe.share if part is not None else 1.0)
    thread = metric_thread(diameter)
    shank = float(np.pi / 4 * diameter**2)
    values = [
        CheckedValue(
            name=f"Stress in the thread, M{diameter:g}", quantity="stress", hand=force / thread.stress_area, source=ISO
        ),
        CheckedValue(name="Stress in the shank", quantity="stress", hand=force / shank, source="F/A"),
    ]
    strength = bolt.strength or (ask.strength if ask is not None else None)
    conditions = [Condition(text="It is pulled along its axis only; bending comes on top", met=None)]
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
    else:
        conditions.append(Condition(text="No property class is given to judge it by", met=None))
    return HandCheck(kind="bolt", id=bolt.id, title=f"{bolt.name}: stress area", values=values, conditions=conditions)
