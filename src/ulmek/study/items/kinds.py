"""The table of kinds of items: the document's lists, checks, edits, translation and the page follow from it."""

from typing import Literal

from ulmek.study.items import (
    bolt,
    contact,
    handle,
    joint,
    left_out,
    link,
    load,
    material,
    pair,
    part,
    spring,
    step,
    support,
    wall,
)
from ulmek.study.items.kind import Kind

KindName = Literal[
    "material",
    "part",
    "pair",
    "left-out",
    "bolt",
    "wall",
    "handle",
    "spring",
    "link",
    "support",
    "load",
    "step",
    "joint",
    "contact",
]
# In the order in which the document lists them.
KINDS: dict[str, Kind] = {
    module.KIND.name: module.KIND
    for module in (
        material,
        part,
        pair,
        left_out,
        bolt,
        wall,
        handle,
        spring,
        link,
        support,
        load,
        step,
        joint,
        contact,
    )
}
