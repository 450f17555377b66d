"""Which path solves a model, and why."""

from ulmek.core.errors import InputError
from ulmek.core.model import Model
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.full_path import FullPath

SolutionPath = CondensedPath | FullPath

# Dense matrices of more rows cost more than they save.
MOST_JOINT_UNKNOWNS = 15_000


def choose_path(
    model: Model, *, backend: str | None = None, earlier: SolutionPath | None = None
) -> tuple[SolutionPath, str]:
    """The path for a model and the reason in words; an ``earlier`` path lends its factor where it serves.

    Raises
    ------
    InputError, LooseError : see `condense`.
    """
    reason = why_full(model)
    if model.path in ("full", "mixed") or (model.path == "automatic" and reason):
        is_still = not any(step.large or step.dynamics is not None for step in model.steps)
        if model.path == "mixed" and not is_still:
            raise InputError(
                "the mixed path follows neither large motion nor inertia.", where="path", hint="Choose automatic."
            )
        wanted = {"mixed": True, "full": False}.get(model.path, None if is_still else False)
        path = FullPath(model, mixed=wanted, backend=backend)
        condensed = "; parts that stay elastic are condensed" if path.name == "mixed" else ""
        return path, (reason or "asked for") + condensed
    lender = earlier if isinstance(earlier, CondensedPath) else None
    found = CondensedPath(model, backend=backend, earlier=lender)
    shared = sorted(found.system.without_friction)
    if shared and model.path == "automatic":
        # There are more contact nodes than their faces have motions: without some of their friction it would be less.
        return FullPath(model, mixed=None, backend=backend), f"what holds the faces of '{shared[0]}' holds some twice"
    return found, "parts stay elastic and motions small"


def why_full(model: Model) -> str:
    """What in the model needs the full path, "" when nothing does."""
    if any(not body.material.law().is_linear for body in model.bodies):
        return "a material yields or is rubber"
    if any(step.large for step in model.steps):
        return "a step follows large motion"
    if any(step.dynamics is not None for step in model.steps):
        return "a step has inertia"
    rigid = next((p.name for p in model.pairs if p.enforcement == "exact" and model.keeps_sections(p)), None)
    if rigid is not None:
        return f"in '{rigid}' sections that keep their shape touch each other"
    joint = sum(
        len(
            {
                int(n)
                for face in pair.side_a
                for n in model.bodies[model.body_index(face.body)].mesh.faces[face.name].flat
            }
        )
        * (3 if pair.law.has_tangents else 1)
        for pair in model.pairs
    )
    if joint > MOST_JOINT_UNKNOWNS:
        return f"the joints have {joint} unknowns"
    return ""
