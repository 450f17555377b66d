"""What a study asks for that its author can hardly mean: told before the run, with a remedy where there is one."""

import numpy as np
from numpy.typing import NDArray

from ulmek.core.axes import Axes
from ulmek.core.model import PRESCRIBED, Body, Model
from ulmek.study.finding import Finding, Remedy
from ulmek.study.items import Material, StudyDocument
from ulmek.study.items.axes import axes_of
from ulmek.study.items.item import part_of
from ulmek.study.items.load import LoadUse
from ulmek.study.items.step import StepUse
from ulmek.study.items.support import SupportUse
from ulmek.study.spoken import face_name
from ulmek.study.units import value_of

Array = NDArray[np.float64]

# Unit directions with more than this of each other are held and moved at once.
SAME_WAY = 1e-6
# Small displacement theory takes a turn θ for tan θ: 1 % of the motion is lost at 10°, and lengths grow by θ²/2.
LARGE_TURN = np.deg2rad(5.0)
# A plate that bends by more than its thickness carries as a skin does, too (Timoshenko and Woinowsky-Krieger 1959,
# Theory of Plates and Shells, art. 96).
LARGE_BOW = 1.0
# Young's moduli (MPa) of what machines are made of, from hard plastics to hard metal.
SOFTEST, STIFFEST = 500.0, 750e3


def doubts(study: StudyDocument, model: Model) -> list[Finding]:
    """All that is doubted in a study that translates to ``model``."""
    return [*_far_motions(study, model), *_moved_while_held(study), *_unlikely_materials(study)]


def _acts_in(load: LoadUse, study: StudyDocument) -> list[tuple[int, StepUse, float]]:
    """Steps, with their numbers, at whose end a load has a value, and the largest that it has in them (internal)."""
    found, last = [], 0.0
    for number, step in enumerate(study.steps):
        before, last = last, load.number(load.values[step.id]) if step.id in load.values else last
        passed = [load.number(point.value) for point in load.courses.get(step.id, [])]
        largest = max((abs(v) for v in (before, last, *passed)), default=0.0)
        if largest > 0 and step.id not in load.released:
            found.append((number, step, largest))
    return found


def _far_motions(study: StudyDocument, model: Model) -> list[Finding]:
    """Steps of small motion in which something is turned far, or moved by more than a part is thick."""
    found = []
    thickness = {b.name.split("#")[0]: _thinnest(b) for b in model.bodies}
    for load in study.loads:
        if load.kind not in PRESCRIBED:
            continue
        owners = [part_of(ref) for ref in load.faces]
        is_turn = load.kind == "rotation"
        limit = LARGE_TURN if is_turn else LARGE_BOW * min((thickness[p] for p in owners), default=np.inf)
        far = [(n, s, v) for n, s, v in _acts_in(load, study) if v > limit and not s.large_motion]
        if not far:
            continue
        steps, largest = ", ".join(s.name for _, s, _ in far), max(v for _, _, v in far)
        follow = [{"op": "replace", "path": f"/steps/{n}/large_motion", "value": True} for n, _, _ in far]
        verb = "turns" if is_turn else "moves"
        what = "a turn" if is_turn else "a motion beyond the thickness of a part"
        found.append(
            Finding(
                grade="watch",
                code="far",
                text=f"{load.name} {verb} by {load.spoken(largest)}, but only small motion is followed in: {steps}.",
                where=f"steps/{far[0][1].id}",
                hint=f"Small motion is not true for {what} like this: stresses and forces go wrong.",
                remedies=[Remedy(does="Follow large motion", edit=follow)],
            )
        )
    return found


def _thinnest(body: Body) -> float:
    """The least extent of a body (mm); a section has none across its plane."""
    extents = np.ptp(body.mesh.nodes, axis=0)
    return float(extents[extents > 0].min(initial=np.inf))


def _moved_while_held(study: StudyDocument) -> list[Finding]:
    """Faces and handles that a load moves in a direction in which a support holds them at the same time."""
    found, names = [], {h.id: h.name for h in study.handles}
    for load in study.loads:
        if load.kind not in PRESCRIBED or load.on_average:
            continue
        moved = _ways_moved(load)
        for position, support in enumerate(study.supports):
            held = _ways_held(support, turns=load.kind == "rotation")
            shared = sorted(set(load.faces) & set(support.faces))
            is_same = bool(shared) or (load.handle is not None and load.handle == support.handle)
            together = [s for _, s, _ in _acts_in(load, study) if s.id not in support.released]
            if is_same and bool(np.any(np.abs(moved @ held.T) > SAME_WAY)) and together:
                what = face_name(study, shared[0]) if shared else names[load.handle or ""]
                released = [*support.released, *(s.id for s in together)]
                let_go = {"op": "replace", "path": f"/supports/{position}/released", "value": released}
                found.append(
                    Finding(
                        grade="stop",
                        code="held-and-moved",
                        text=f"{load.name} moves {what} in {together[0].name}, while {support.name} holds it there.",
                        where=f"loads/{load.id}",
                        hint=f"Let {support.name} go in that step, or move something else.",
                        remedies=[Remedy(does=f"Let {support.name} go there", edit=[let_go])],
                    )
                )
    return found


def _ways_moved(load: LoadUse) -> Array:
    """Unit directions (k, 3) that a load moves things along, or about; both across its axis for a radial motion."""
    axes = Axes.along(load.direction or (0.0, 0.0, 1.0))
    return np.array([axes.second, axes.third] if load.kind == "radial" else [axes.first])


def _ways_held(support: SupportUse, *, turns: bool) -> Array:
    """Unit directions (k, 3) that a support holds along, or about (``turns``); none for what changes from place to
    place."""
    if support.kind == "fixed":
        return np.eye(3)
    axes = axes_of(support.axes)
    if axes is not None and axes.is_round:
        return np.zeros((0, 3))
    own = np.eye(3) if axes is None else np.array([axes.first, axes.second, axes.third])
    stem = "turn-" if turns else ""
    return own[[f"{stem}{axis}" in support.components for axis in "xyz"]]


def _unlikely_materials(study: StudyDocument) -> list[Finding]:
    """Moduli that no material of a machine has: mostly a unit that was not meant."""
    found = []
    for number, material in enumerate(study.materials):
        young = _young(material)
        if young is None or SOFTEST <= young <= STIFFEST:
            continue
        factor = 1000.0 if young < SOFTEST else 1e-3
        meant = f"{young * factor / 1000:g} GPa"
        is_likely = SOFTEST <= young * factor <= STIFFEST
        change = [{"op": "replace", "path": f"/materials/{number}/young", "value": meant}]
        way = "softer than a hard plastic" if young < SOFTEST else "stiffer than hard metal"
        found.append(
            Finding(
                grade="watch",
                code="unlikely",
                text=f"{material.name} has a Young's modulus of {material.young}: {way}.",
                where=f"materials/{material.id}",
                hint="Is this the unit that was meant?",
                remedies=[Remedy(does=f"Make it {meant}", edit=change)] if is_likely else [],
            )
        )
    return found


def _young(material: Material) -> float | None:
    """Young's modulus (MPa), None for a rubber."""
    return None if material.young is None or material.rubber is not None else value_of(material.young, "stress")
