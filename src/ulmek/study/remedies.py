"""Ways to mend what preflight finds, each one edit."""

import difflib
from typing import Any

import jsonpointer
import numpy as np

from ulmek.core.contact.interface import PairInterface
from ulmek.core.errors import UlmekError, UnknownNameError
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.handcalc.threads import proof_load
from ulmek.core.mesh.facets import facet_areas, facet_normals
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Face, Model
from ulmek.study.edits import check_recipe
from ulmek.study.finding import Remedy
from ulmek.study.items import KINDS, Part, Patch, StudyDocument
from ulmek.study.items.bolt import BoltUse
from ulmek.study.items.item import free_id
from ulmek.study.items.load import LoadUse
from ulmek.study.meshes import part_mesh
from ulmek.study.recipe_values import recipe_values
from ulmek.study.spoken import face_name

# A part is moved this much (mm) further than to first touch, so that it presses when it is let go.
BEYOND = 1e-3
# Share of the force that a soft spring takes while the gap closes.
SOFT = 0.01
# A force this far off the normal of a gap (cosine) does not close it.
ALONG = 0.3
# What a bolt is tightened to (share of the proof load of class 8.8), and (N) where its size is not known.
OF_PROOF, UNKNOWN_SIZE = 0.7, 10e3


def remedies_of_gap(study: StudyDocument, body: str, pairs: list[int], gaps: list[PairInterface]) -> list[Remedy]:
    """What can be done with a body that only ``pairs`` (positions in the study) could stop, which start apart.

    gaps: their interfaces. A force on the body gives three more ways than closing up: to move it to touch in a step of
    its own and then let the force take over, to hold it by a soft spring, and to move it all the way instead.
    """
    close = [{"op": "replace", "path": f"/pairs/{number}/fit", "value": "closed-up"} for number in pairs]
    remedies = [Remedy(does="Close the gap at the start", edit=close)] if close else []
    load = next((ld for ld in study.loads if ld.kind == "force" and ld.values and _acts_on(study, ld, body)), None)
    travel = _travel(load, gaps) if load is not None else None
    if load is not None and travel is not None:
        remedies += [
            Remedy(does="Move it to touch, then load it", edit=_touch_first(study, load, travel + BEYOND)),
            Remedy(does="Hold it by a soft spring", edit=_soft_spring(study, load, travel)),
            Remedy(does="Move it instead, and read the force", edit=_moved_instead(study, load, travel + BEYOND)),
        ]
    return remedies


def remedies_of_refusal(study: StudyDocument, error: UlmekError) -> list[Remedy]:
    """For what no model can be made of: no step, a face that is not there but nearly so, a dimension too much."""
    kind, _, rest = error.where.partition("/")
    item_id, *path = rest.split("/")
    if error.where == "steps" and not study.steps:
        step = {"op": "add", "path": "/steps/-", "value": {"id": "step-1", "name": "Step 1"}}
        return [Remedy(does="Add a step", edit=[step])]
    items: list[Any] = getattr(study, kind, []) if kind in {k.list for k in KINDS.values()} else []
    index = next((n for n, i in enumerate(items) if getattr(i, "id", None) == item_id), None)
    if index is None:
        return []
    at = "/".join(("", kind, str(index), *path))
    if path[:2] == ["recipe", "dimensions"] and len(path) == 3:
        return _as_usual(items[index], path[2], at)
    return _nearly_so(study, at) if error.code == UnknownNameError.code else []


def _nearly_so(study: StudyDocument, at: str) -> list[Remedy]:
    """The face whose name is nearest to the one that is written there."""
    written = jsonpointer.resolve_pointer(study.model_dump(mode="json"), at, None)
    if not isinstance(written, str) or "/" not in written:
        return []
    owner, _, face = written.partition("/")
    part = next((p for p in study.parts if p.id == owner.split("#")[0]), None)
    if part is None:
        return []
    faces = part_mesh(part, section=study.space != "solid").faces
    near = difflib.get_close_matches(face, faces, n=1) if face not in faces else []
    return [
        Remedy(
            does=f"Take {face_name(study, f'{owner}/{n}')}",
            edit=[{"op": "replace", "path": at, "value": f"{owner}/{n}"}],
        )
        for n in near
    ]


def _as_usual(part: Part, name: str, at: str) -> list[Remedy]:
    """The dimension as the recipe has it, where a part can be made so."""
    dimension = next((d for d in RECIPES[part.recipe.kind].dimensions if d.name == name), None)
    if dimension is None or name not in part.recipe.dimensions:
        return []
    others = {n: v for n, v in part.recipe.dimensions.items() if n != name}
    try:
        check_recipe(part.model_copy(update={"recipe": part.recipe.model_copy(update={"dimensions": others})}))
    except UlmekError:
        return []
    return [
        Remedy(does=f"Make it {dimension.default:g}{dimension.unit}, as usual", edit=[{"op": "remove", "path": at}])
    ]


def remedies_of_loose(study: StudyDocument, model: Model, body: str) -> list[Remedy]:
    """Where nothing holds anything: to hold the largest flat face of the body that has nothing else to do."""
    if model.supports:
        return []
    busy = {f for pair in model.pairs for f in (*pair.side_a, *pair.side_b)} | {
        f for ld in model.loads for f in ld.faces
    }
    mesh = next(b.mesh for b in model.bodies if b.name == body)
    free = [n for n in mesh.faces if Face(body, n) not in busy and _is_flat(mesh, n)]
    if not free:
        return []
    turned = model.space == "axisymmetric"
    size = {n: facet_areas(mesh.nodes, mesh.faces[n], thickness=model.thickness, turned=turned).sum() for n in free}
    face = f"{body}/{max(free, key=lambda n: size[n])}"
    named = face_name(study, face)
    support = {"id": free_id("hold", [s.id for s in study.supports]), "name": f"Hold {named}"[:80], "faces": [face]}
    return [Remedy(does=f"Hold {named}", edit=[{"op": "add", "path": "/supports/-", "value": support}])]


def _is_flat(mesh: VolumeMesh, face: str) -> bool:
    normals = facet_normals(mesh.nodes, mesh.faces[face])
    return bool(np.abs(normals - normals[0]).max() < 1e-6)


def remedies_of_surplus(study: StudyDocument, body: str) -> list[Remedy]:
    """For a body that need not be there: to leave its part out, where that has no other copies."""
    index, part = next((n, p) for n, p in enumerate(study.parts) if p.id == body.split("#")[0])
    if len(part.placements) > 1:
        return []
    edit = [{"op": "replace", "path": f"/parts/{index}/in_analysis", "value": False}]
    return [Remedy(does=f"Leave {part.name} out of the analysis", edit=edit)]


def _acts_on(study: StudyDocument, load: LoadUse, body: str) -> bool:
    handle = next((h for h in study.handles if h.id == load.handle), None)
    faces = load.faces or (handle.faces if handle else [])
    return any(ref.split("/")[0] in (body, body.split("#")[0]) for ref in faces)


def _travel(load: LoadUse, gaps: list[PairInterface]) -> float | None:
    """How far (mm) the part moves along a force to touch; None where the force does not close a gap."""
    along = np.array(load.direction or (0.0, 0.0, 0.0)) / np.linalg.norm(load.direction or (1.0, 0.0, 0.0))
    found = []
    for interface in gaps:
        nearest = int(np.argmin(interface.gap))
        cosine = abs(float(interface.frame[nearest, 2] @ along))
        if cosine > ALONG:
            found.append(interface.least_gap / cosine)
    return min(found) if found else None


def _where(load: LoadUse) -> dict[str, Any]:
    return {"faces": load.faces} if load.faces else {"handle": load.handle}


def _touch_first(study: StudyDocument, load: LoadUse, travel: float) -> Patch:
    """A step before the force's first, in which the part is moved to touch; it is let go when the force comes."""
    first = next(n for n, s in enumerate(study.steps) if s.id in load.values)
    step = free_id("touch", [s.id for s in study.steps])
    motion = {
        "id": free_id("touch", [ld.id for ld in study.loads]), "name": f"Move to touch, {load.name}"[:80],
        "kind": "displacement", "direction": load.direction, **_where(load), "values": {step: f"{travel:.6g} mm"},
        "released": [s.id for s in study.steps[first:]],
    }  # fmt: skip
    return [
        {"op": "add", "path": f"/steps/{first}", "value": {"id": step, "name": "Move to touch"}},
        {"op": "add", "path": "/loads/-", "value": motion},
    ]


def _soft_spring(study: StudyDocument, load: LoadUse, travel: float) -> Patch:
    """A handle on the faces of the force, or the one it acts on, held by springs that take little of it."""
    largest = max(abs(load.number(v)) for v in load.values.values())
    stiffness = [f"{SOFT * largest / travel:.3g} N/mm"] * 3
    patch: Patch = []
    handle = load.handle
    if handle is None:
        handle = free_id("soft", [h.id for h in study.handles])
        made = {"id": handle, "name": f"Hold, {load.name}"[:80], "kind": "averaging", "faces": load.faces}
        patch.append({"op": "add", "path": "/handles/-", "value": made})
    spring = {
        "id": free_id("soft", [s.id for s in study.springs]), "name": "Soft spring", "a": handle,
        "stiffness": stiffness,
    }  # fmt: skip
    return [*patch, {"op": "add", "path": "/springs/-", "value": spring}]


def _moved_instead(study: StudyDocument, load: LoadUse, travel: float) -> Patch:
    """A prescribed motion in place of the force, a little beyond touching in every step in which the force acts."""
    at = f"/loads/{[ld.id for ld in study.loads].index(load.id)}"
    values = {step: written if written == "off" else f"{travel:.6g} mm" for step, written in load.values.items()}
    motion = load.model_dump(mode="json") | {"kind": "displacement", "values": values, "courses": {}}
    return [{"op": "replace", "path": at, "value": motion}]


def remedies_of_slack(study: StudyDocument, bolt: BoltUse) -> list[Remedy]:
    """To tighten a bolt in the first step, to a usual share of its proof load where its size is known."""
    if not study.steps or bolt.torque is not None:
        return []
    step, force = study.steps[0], UNKNOWN_SIZE
    part = next((p for p in study.parts if p.id == bolt.part), None)
    if part is not None:
        try:
            diameter = recipe_values(RECIPES[part.recipe.kind], part.recipe.dimensions)["diameter"]
            force = OF_PROOF * proof_load(diameter, "8.8")
        except (UlmekError, KeyError):
            pass
    written = f"{force / 1000:.2g} kN"
    edit = [{"op": "add", "path": f"/bolts/{study.bolts.index(bolt)}/preload/{step.id}", "value": written}]
    return [Remedy(does=f"Tighten to {written} in {step.name}", edit=edit)]
