"""Lines, points and crossed cylinders by Hertz, for the force that a pair carries now."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.mesh.facets import corners_of, facet_normals
from ulmek.study.checks.check import At, CheckedValue, Condition, HandCheck
from ulmek.study.items.pair import PairUse
from ulmek.study.ledger.pairs import RESOLVED
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
    hertz = hertz_of(at.model, side_a, side_b, parts_of_it * now.normal_force)
    if hertz is None:
        return None
    is_line = np.isinf(hertz.short)
    values = [
        CheckedValue(
            name="Peak pressure", quantity="stress", hand=hertz.peak, computed=now.peak_pressure,
            band=now.pressure_band, source=SOURCE,
        ),
        CheckedValue(
            name="Half width of what presses", quantity="length", hand=hertz.half_width if is_line else hertz.short,
            source=SOURCE,
        ),
        CheckedValue(name="Largest shear stress below", quantity="stress", hand=hertz.shear, source=SOURCE),
        CheckedValue(name="Its depth", quantity="length", hand=hertz.shear_depth, source=SOURCE),
    ]  # fmt: skip
    across = now.across
    what = "line" if is_line else "point" if hertz.half_width == hertz.short else "ellipse"
    of_whole = "" if parts_of_it == 1 else f"; the force is {parts_of_it} times that of the modelled part"
    return HandCheck(
        kind="pair",
        id=pair.id,
        title=f"{pair.name}: contact along a line" if is_line else f"{pair.name}: contact at {what_of(what)}",
        values=values,
        conditions=[
            Condition(text=f"What presses is narrow beside the radii{of_whole}", met=True),
            Condition(text="No metal has yielded", met=not at.has_yielded(pair)),
            Condition(text="Friction is little", met=now.friction_force <= LITTLE * now.normal_force),
            Condition(
                text=f"The mesh shows the peak ({RESOLVED} elements across)",
                met=None if across is None else across >= RESOLVED,
            ),
        ],
    )


def what_of(what: str) -> str:
    """A patch with its article."""
    return {"point": "a point", "ellipse": "an ellipse"}[what]


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
