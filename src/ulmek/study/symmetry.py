"""Planes of symmetry that a study does not keep to: parts that go through one or lie beyond it, and halves that nothing
holds, and bolts of which it is not said how much."""

import numpy as np

from ulmek.core.axes import axes_at
from ulmek.core.model import Model
from ulmek.study.finding import Finding, Remedy
from ulmek.study.items import StudyDocument
from ulmek.study.items.item import free_id
from ulmek.study.spoken import body_name, face_name
from ulmek.study.take_out import listed

# A body goes beyond a plane where its nodes do by more than this share of its size.
BEYOND = 1e-4
# Faces that a recipe has where only half or a quarter of it is kept.
CUT = "cut"


def broken_symmetry(study: StudyDocument, model: Model) -> list[Finding]:
    """All that contradicts the planes of symmetry of a study that translates to ``model``."""
    return [*_beyond(study, model), *_held_twice(study), *_open_halves(study, model), *_unsaid_shares(study)]


def _unsaid_shares(study: StudyDocument) -> list[Finding]:
    """Halves and quarters of bolts of which nobody has said what their preload means."""
    found = []
    parts = {p.id: p for p in study.parts}
    for number, bolt in enumerate(study.bolts):
        part = parts[bolt.part] if bolt.part is not None else None
        if part is None or part.recipe.share == 1.0 or bolt.means is not None or not bolt.preload:
            continue
        kept, step = part.recipe.kept, next(iter(bolt.preload))
        times = round(1 / part.recipe.share)
        whole = bolt.force_in(step) * times / 1e3
        said = [("whole", f"It is that of the whole bolt: the {kept} takes 1/{times} of it"),
                ("modelled", f"It is that of the {kept}: the whole bolt has {times} times as much")]  # fmt: skip
        found.append(
            Finding(
                grade="watch", code="share", where=f"bolts/{bolt.id}",
                text=f"a {kept} of each of {bolt.name} is modelled and takes all of its preload: the whole bolt would "
                f"have {whole:.4g} kN.",
                hint="Say which of the two the preload is meant of.",
                remedies=[
                    Remedy(does=does, edit=[{"op": "add", "path": f"/bolts/{number}/means", "value": means}])
                    for means, does in said
                ],
            )
        )  # fmt: skip
    return found


def _beyond(study: StudyDocument, model: Model) -> list[Finding]:
    """Bodies that go through a plane of symmetry, or lie on its other side."""
    found = []
    names = {s.id: s.name for s in study.supports}
    nodes = {b.name: b.mesh.nodes for b in model.bodies}
    seen: set[tuple[float, ...]] = set()
    for support in model.supports:
        if not support.is_symmetry:
            continue
        normal = axes_at(support.axes, np.zeros((1, 3)))[0][int(np.flatnonzero(support.components)[0])]
        owner = support.faces[0].body
        mesh = next(b.mesh for b in model.bodies if b.name == owner)
        at = float((mesh.nodes[mesh.faces[support.faces[0].name].ravel()] @ normal).mean())
        plane_key = tuple(np.round([*normal, at], 6).tolist())
        if plane_key in seen:
            continue
        seen.add(plane_key)
        side = np.sign((nodes[owner] @ normal).mean() - at)
        through: list[str] = []
        across: list[str] = []
        for name, points in nodes.items():
            height = side * (points @ normal - at)
            slack = BEYOND * float(np.ptp(points, axis=0).max())
            if height.min() < -slack:
                (through if height.max() > slack else across).append(body_name(study, name))
        plane = f"the plane of {names[support.name]}"
        if support.axes is None:
            plane = f"{'xyz'[int(np.flatnonzero(support.components)[0])]} = {at:g} mm, {plane}"
        where = f"supports/{support.name}"
        if through:
            verb = "goes" if len(through) == 1 else "go"
            found.append(
                Finding(
                    grade="watch", code="whole", where=where, text=f"{listed(through)} {verb} through {plane}.",
                    hint="Only one half is modelled there: cut all parts by that plane, or hold the faces otherwise.",
                )
            )  # fmt: skip
        if across:
            verb = "lies" if len(across) == 1 else "lie"
            found.append(
                Finding(
                    grade="watch", code="doubled", where=where, text=f"{listed(across)} {verb} beyond {plane}.",
                    hint="What lies there is the mirror image of this side already: leave it out, or hold the faces "
                    "otherwise.",
                )
            )  # fmt: skip
    return found


def _held_twice(study: StudyDocument) -> list[Finding]:
    """Faces that two supports hold as symmetry."""
    found = []
    planes = [(n, s) for n, s in enumerate(study.supports) if s.kind == "symmetry"]
    for k, (_, one) in enumerate(planes):
        for number, other in planes[k + 1 :]:
            shared = [f for f in other.faces if f in one.faces]
            if not shared:
                continue
            rest = [f for f in other.faces if f not in shared]
            edit = {"op": "replace", "path": f"/supports/{number}/faces", "value": rest}
            gone = {"op": "remove", "path": f"/supports/{number}"}
            found.append(
                Finding(
                    grade="watch", code="twice", where=f"supports/{other.id}",
                    text=f"{one.name} and {other.name} both hold {face_name(study, shared[0])} as symmetry.",
                    hint="One is enough.",
                    remedies=[Remedy(does=f"Take it from {other.name}", edit=[edit if rest else gone])],
                )
            )  # fmt: skip
    return found


def _open_halves(study: StudyDocument, model: Model) -> list[Finding]:
    """Parts of which a half or a quarter is modelled, with a cut that nothing holds or touches."""
    used = {f for s in study.supports for f in s.faces}
    used |= {f for p in study.pairs for f in (*p.a, *p.b)} | {f for h in study.handles for f in h.faces}
    used |= {f for load in study.loads for f in load.faces}
    # Copies of a part are held together or not at all.
    used = {f"{f.split('/')[0].split('#')[0]}/{f.split('/')[1]}" for f in used}
    faces = {b.name.split("#")[0]: b.mesh.faces for b in model.bodies}
    taken = {s.id for s in study.supports}
    found = []
    for part in study.parts:
        if part.recipe.kept == "whole":
            continue
        free = [
            name for name in faces[part.id]
            if name.split(".")[0] == CUT and f"{part.id}/{name}" not in used
        ]  # fmt: skip
        if not free:
            continue
        edits = []
        for name in free:
            stem = f"symmetry-{part.id}-{name.replace('.', '-')}"[:44]
            own = free_id(stem, taken)
            taken.add(own)
            value = {
                "id": own, "name": f"Symmetry of {part.name}"[:80], "kind": "symmetry", "faces": [f"{part.id}/{name}"]
            }  # fmt: skip
            edits.append({"op": "add", "path": "/supports/-", "value": value})
        found.append(
            Finding(
                grade="watch", code="open-half", where=f"parts/{part.id}",
                text=f"only a {part.recipe.kept} of {part.name} is modelled, and nothing holds its cut.",
                hint="Without that it bends as a half does alone.",
                remedies=[Remedy(does="Hold it as symmetry", edit=edits)],
            )
        )  # fmt: skip
    return found
