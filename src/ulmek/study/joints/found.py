"""What a joint takes in says how it is made: its values are those of the pieces that are there."""

from typing import Any

from ulmek.study.items import StudyDocument
from ulmek.study.items.joint import Ask, Bolted, Pieces

# Which entry of what is asked the friction of a pair is, by the beginning of its role.
FRICTION: dict[str, dict[str, str]] = {
    "bolted": {"faces": "mu", "wall": "mu", "heads": "mu_heads"},
    "pinned": {"hole": "mu"},
    "pressed": {"fit": "mu"},
    "geared": {"flanks": "mu"},
    "seated": {"seat": "mu"},
    "guided": {"guide": "mu"},
    "on-wall": {"wall": "mu"},
}


def as_found(study: StudyDocument, ask: Ask, pieces: Pieces) -> Ask:
    """What is asked, with tightening and friction as the pieces have them that are there already."""
    found: dict[str, Any] = {}
    for pair in study.pairs:
        begins = pieces.pairs.get(pair.id, "").split(":")[0]
        entry = FRICTION.get(ask.kind, {}).get(begins)
        if entry is not None and pair.law.may_slide == "friction":
            found.setdefault(entry, pair.law.mu)
    if isinstance(ask, Bolted):
        tightened = next((b for b in study.bolts if b.id in pieces.bolts and b.preload), None)
        if tightened is not None:
            written = next(iter(tightened.preload.values()))
            if tightened.torque is None:
                found |= {"tightened_by": "force", "force": written}
            else:
                found |= {"tightened_by": "torque", "torque": written, "nut_factor": tightened.torque.nut_factor}
    return ask.model_copy(update=found)
