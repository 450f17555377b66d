"""Which way a load leaves the part that it acts on: through its joints, as is meant, or through what holds the part."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.review.summary import Summary
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import part_of
from ulmek.study.ledger.cells import Remark, step_name
from ulmek.study.ledger.purpose import Purpose, purpose_of

Array = NDArray[np.float64]

# Joints that are there to pass a load on. Share of a load that may pass beside them without a word.
PASS_ON: frozenset[Purpose] = frozenset({"bolted", "pinned", "pressed", "geared"})
ASIDE = 0.5


def passed_by(study: StudyDocument, now: Summary) -> list[Remark]:
    """What is remarked of parts whose load leaves through their own supports, though joints are there to pass it on:
    then the joints are hardly tried, and what is said of them is of another machine."""
    step = study.steps[now.step].id
    out = []
    for part in study.parts:
        names = [
            p.name
            for p in study.pairs
            if p.meant == "to-hold" and step not in p.released and purpose_of(study, p) in PASS_ON
            and part.id in {part_of(ref) for ref in (*p.a, *p.b)}
        ]  # fmt: skip
        force = _force_on(study, part.id, now) if names else np.zeros(3)
        size = float(force @ force)
        if size == 0:
            continue
        held = {s.id: s.name for s in study.supports if _parts_of(study, s.faces, s.handle) == {part.id}}
        by = {c.name: -float(np.array(c.force) @ force) / size for c in now.carriers if c.name in held}
        if sum(by.values()) > ASIDE:
            most = held[max(by, key=lambda name: by[name])]
            text = (
                f"{sum(by.values()):.0%} of the force on {part.name} leaves through '{most}', which holds it, and not "
                f"through {', '.join(names)} ({step_name(study, now.step)}): the joint is hardly tried. "
                "Hold what it is joined to instead, or say that the pair is meant to carry nothing."
            )
            out.append(Remark(grade="watch", row=part.id, text=text))
    return out


def _force_on(study: StudyDocument, part: str, now: Summary) -> Array:
    """Force (3,) N of the loads that act on one part alone."""
    total = np.zeros(3)
    for load in study.loads:
        value = now.values.get(load.id, 0.0)
        if load.kind == "force" and value and _parts_of(study, load.faces, load.handle) == {part}:
            way = np.array(load.direction, float)
            total += value * way / np.linalg.norm(way)
    return total


def _parts_of(study: StudyDocument, faces: list[str], handle: str | None) -> set[str]:
    """Parts of which faces are, or those of a handle."""
    at = next((h.faces for h in study.handles if h.id == handle), [])
    return {part_of(ref) for ref in (*faces, *at)}
