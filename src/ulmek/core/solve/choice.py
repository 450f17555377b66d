"""Which path solves a model, and why."""

from ulmek.core.errors import InputError
from ulmek.core.model import Model, Path
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.forecast import joint_unknowns_of, memory_of, room, unknowns_of
from ulmek.core.solve.full_path import FullPath, is_still

SolutionPath = CondensedPath | FullPath

# Dense matrices of more rows cost more than they save; so do factors in every iteration of more unknowns.
MOST_JOINT_UNKNOWNS, MOST_FACTORED = 15_000, 60_000


def choose_path(
    model: Model, *, backend: str | None = None, earlier: SolutionPath | None = None
) -> tuple[SolutionPath, str]:
    """The path for a model and the reason in words; an ``earlier`` path lends its factor where it serves.

    Raises
    ------
    InputError, LooseError : see `condense`.
    """
    unknowns = unknowns_of(model)
    way, reason = foresee(model, unknowns, joint_unknowns_of(model))
    if way == "mixed" and not is_still(model):
        raise InputError(
            "the mixed path follows neither large motion nor inertia.", where="path", hint="Choose automatic."
        )
    is_automatic = model.path == "automatic"
    may_condense = is_automatic and memory_of("condensed", unknowns, 0) < room()
    if way != "condensed":
        path = FullPath(model, way=way, may_condense=may_condense and bool(why_full(model)), backend=backend)
        condensed = "; parts that stay elastic are condensed" if path.name == "mixed" else ""
        return path, reason + condensed
    lender = earlier if isinstance(earlier, CondensedPath) else None
    found = CondensedPath(model, backend=backend, earlier=lender)
    shared = sorted(found.system.without_friction)
    if shared and is_automatic:
        # There are more contact nodes than their faces have motions: without some of their friction it would be less.
        del found
        way, reason = _with_newton(f"what holds the faces of '{shared[0]}' holds some twice", unknowns)
        return FullPath(model, way=way, may_condense=may_condense, backend=backend), reason
    return found, reason


def foresee(model: Model, unknowns: int, joint: int) -> tuple[Path, str]:
    """The path that a model with so many unknowns, and so many at its joints, asks for, and the reason in words."""
    if model.path != "automatic":
        return model.path, "asked for"
    reason = why_full(model)
    if reason:
        return _with_newton(reason, unknowns)
    if joint > MOST_JOINT_UNKNOWNS:
        return "iterative", f"the joints have {joint} unknowns"
    needed = memory_of("condensed", unknowns, joint)
    if needed > room():
        return "iterative", f"factors would take {needed / 1e9:.0f} GB of memory"
    return "condensed", "parts stay elastic and motions small"


def _with_newton(reason: str, unknowns: int) -> tuple[Path, str]:
    if unknowns <= MOST_FACTORED:
        return "full", reason
    return "iterative", f"{reason}, and {unknowns} unknowns are too many to be factored again and again"


def why_full(model: Model) -> str:
    """What in the model needs Newton's method on everything, "" when nothing does."""
    if any(not body.material.law().is_linear for body in model.bodies):
        return "a material yields or is rubber"
    if any(step.large for step in model.steps):
        return "a step follows large motion"
    if any(step.dynamics is not None for step in model.steps):
        return "a step has inertia"
    rigid = next((p.name for p in model.pairs if p.enforcement == "exact" and model.keeps_sections(p)), None)
    if rigid is not None:
        return f"in '{rigid}' sections that keep their shape touch each other"
    return ""
