"""Which path solves a model, and why."""

from ulmek.core.contact.interface import all_rows, build_interface, widened
from ulmek.core.coupling.constraints import constrain
from ulmek.core.errors import InputError
from ulmek.core.model import Model
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.full_path import FullPath
from ulmek.core.solve.interior import is_worth_it
from ulmek.core.solve.layout import lay_out

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
        mixed = model.path == "mixed" if model.path != "automatic" else _may_mix(model)
        if mixed and not _is_still(model):
            raise InputError(
                "the mixed path follows neither large motion nor inertia.", where="path", hint="Choose automatic."
            )
        if mixed:
            reason = f"{reason or 'asked for'}; parts that stay elastic are condensed"
        return FullPath(model, mixed=mixed, backend=backend), reason or "asked for"
    lender = earlier if isinstance(earlier, CondensedPath) else None
    return CondensedPath(model, backend=backend, earlier=lender), "parts stay elastic and motions small"


def _is_still(model: Model) -> bool:
    """Whether stiffness of elastic parts never changes."""
    return not any(step.large or step.dynamics is not None for step in model.steps)


def _may_mix(model: Model) -> bool:
    """Whether condensing the elastic parts of a yielding model pays."""
    if not _is_still(model) or all(not body.material.law().is_linear for body in model.bodies):
        return False
    layout = lay_out(model)
    interfaces = [widened(build_interface(model, pair, model.nodes()), model, layout) for pair in model.pairs]
    released = model.steps[0].released if model.steps else frozenset()
    constraints = constrain(model, layout, released=released)
    return is_worth_it(model, layout, constraints, all_rows(tuple(interfaces), 3 * layout.n_total))


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
