"""The gap of a pair before anything moves, node by node."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ulmek.core.contact.interface import build_interface
from ulmek.core.errors import InputError, UnknownNameError
from ulmek.core.model import Model
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.spoken import in_words
from ulmek.study.translate import translate

# What is less than this share of the model is how finely round faces are integrated, no gap.
ROUNDING = 1e-7


@dataclass(frozen=True)
class StartGap:
    """node (n,): nodes of side A that face side B. facets (k, c): all of side A. gap (n,) mm: negative where the faces
    overlap."""

    node: NDArray[np.int64]
    facets: NDArray[np.int64]
    gap: NDArray[np.float64]


def start_gap(study: StudyDocument, pair_id: str, *, counted: bool) -> tuple[Model, StartGap]:
    """The gap of a pair as drawn, or as its fit has it ``counted``, and the model that it is of.

    Raises
    ------
    UnknownNameError : no such pair, or one that sleeps. InputError : its sides do not face each other within its search
        distance. UlmekError : a part that cannot be made.
    """
    model = translate(awake(study))
    index = next((i for i, p in enumerate(model.pairs) if p.name == pair_id), None)
    if index is None:
        raise UnknownNameError(
            f"there is no pair '{pair_id}' that acts.", where="pairs", hint="Name one that is awake."
        )
    pair = model.pairs[index] if counted else replace(model.pairs[index], fit="as-drawn")
    try:
        found = build_interface(model, pair, model.nodes())
    except InputError as error:
        raise InputError(in_words(study, error.message), where=f"pairs/{pair_id}", hint=error.hint) from None
    extent = float(np.ptp(model.nodes(), axis=0).max())
    gap = np.where(np.abs(found.gap) < ROUNDING * extent, 0.0, found.gap)
    return model, StartGap(found.node, model.quads(pair.side_a), gap)
