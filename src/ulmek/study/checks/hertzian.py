"""Lines, points and crossed cylinders by Hertz, for the force that a pair carries now."""

import dataclasses

import numpy as np
from numpy.typing import NDArray

from ulmek.core.handcalc.hertz import Hertz
from ulmek.core.mesh.facets import corners_of, facet_normals
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.pair import PairUse
from ulmek.study.ledger.pairs import RESOLVED
from ulmek.study.ledger.purpose import are_beams
from ulmek.study.resolved import hertz_of

Array = NDArray[np.float64]
# Friction this share of what presses changes what Hertz says of stress below by little.
LITTLE = 0.1
SOURCE = "Hertz 1882; Johnson 1985, ch. 4"


def hertz_check(at: At, pair: PairUse) -> HandCheck | None:
    """The check of one pair; None where Hertz does not speak of it, or nothing presses."""
    side_a, side_b = at.pairs[pair.id]
    now = at.now.pairs[pair.id]
    if now.normal_force <= 0:
        return None
    parts_of_it = 2 ** len(planes_through(at, pair.id))
    # Beams press at a point on any mesh, and as wide as Hertz says in truth.
    of_beams = are_beams(at.study, pair)
    model = dataclasses.replace(at.model, beams=()) if of_beams else at.model
    hertz = hertz_of(model, side_a, side_b, parts_of_it * now.normal_force)
    if hertz is None:
        return None
    values = values_of(hertz)
    if not of_beams:
        values[0] = values[0].model_copy(update={"computed": now.peak_pressure, "band": now.pressure_band})
    # A beam's own stress knows nothing of what is below the contact (Tresca; Johnson 1985, ch. 6).
    limits = [y for side in (side_a, side_b) if (y := at.body(side[0]).material.yield_stress) is not None]
    passes_yield = hertz.shear > min(limits, default=np.inf) / 2
    across = now.across
    of_whole = "" if parts_of_it == 1 else f"; the force is {parts_of_it} times that of the modelled part"
    conditions = [
        Condition(text=f"What presses is narrow beside the radii{of_whole}", met=True),
        Condition(text="No metal has yielded", met=not at.has_yielded(pair) and not (of_beams and passes_yield)),
        Condition(text="Friction is little", met=now.friction_force <= LITTLE * now.normal_force),
    ]
    if not of_beams:
        seen = None if across is None else across >= RESOLVED
        conditions.append(Condition(text=f"The mesh shows the peak ({RESOLVED} elements across)", met=seen))
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: {title_of(hertz)}",
        values=values,
        conditions=conditions,
    )


def values_of(hertz: Hertz) -> list[CheckedValue]:
    """What Hertz says of a contact, the peak first."""
    wide = [("Half width of what presses", hertz.half_width if hertz.is_line else hertz.short)]
    if not hertz.is_line and not hertz.is_point:
        wide.append(("Half length of what presses", hertz.half_width))
    return [
        CheckedValue(name="Peak pressure", quantity="stress", hand=hertz.peak, source=SOURCE),
        *(CheckedValue(name=name, quantity="length", hand=value, source=SOURCE) for name, value in wide),
        CheckedValue(name="Largest shear stress below", quantity="stress", hand=hertz.shear, source=SOURCE),
        CheckedValue(name="Its depth", quantity="length", hand=hertz.shear_depth, source=SOURCE),
    ]


def title_of(hertz: Hertz) -> str:
    """What kind of contact it is."""
    where = "along a line" if hertz.is_line else "at a point" if hertz.is_point else "at an ellipse"
    return f"contact {where}"


def planes_through(at: At, pair: str) -> list[tuple[Array, Array]]:
    """Planes of symmetry through what presses, each with a point (3,) mm and a unit normal: half of it is modelled for
    each. Those across a line at its ends are none: what lies along it is modelled as long as it is."""
    model, summary = at.model, at.now.pairs[pair]
    side_a, _ = at.pairs[pair]
    shape = at.shape(side_a[0])
    axis = shape.direction if shape is not None and shape.kind == "round" else None
    if summary.about is None:
        return []
    nodes, found = model.nodes(), []
    on_a = model.nodes_of(side_a)
    for support in model.supports:
        if not support.is_symmetry or not support.faces:
            continue
        facets = model.quads(support.faces)
        normal = facet_normals(nodes, facets).mean(axis=0)
        normal /= max(float(np.linalg.norm(normal)), 1e-300)
        is_end = axis is not None and abs(float(normal @ axis)) > 0.9
        shared = np.intersect1d(on_a, np.unique(corners_of(facets)))
        if is_end or not len(shared):
            continue
        # What presses lies at the plane, not where the face meets it far away.
        away = np.linalg.norm(nodes[shared] - np.array(summary.about), axis=1).min()
        if away < 0.5 * float(np.ptp(nodes[on_a], axis=0).max()):
            found.append((nodes[shared[0]], normal))
    return found
