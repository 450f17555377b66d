"""Which path solves a model, and why."""

from ulmek.core.model import Model
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.full_path import FullPath

SolutionPath = CondensedPath | FullPath

# Dense matrices of more rows cost more than they save (findings: 15–20k).
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
    if model.path == "full" or (model.path == "automatic" and reason):
        return FullPath(model, backend=backend), reason or "asked for"
    lender = earlier if isinstance(earlier, CondensedPath) else None
    return CondensedPath(model, backend=backend, earlier=lender), "parts stay elastic and motions small"


def why_full(model: Model) -> str:
    """What in the model needs the full path, "" when nothing does."""
    if any(not body.material.law().is_linear for body in model.bodies):
        return "a material yields or is rubber"
    if any(step.large for step in model.steps):
        return "a step follows large motion"
    if any(step.dynamics is not None for step in model.steps):
        return "a step has inertia"
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
