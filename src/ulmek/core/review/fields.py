"""The table of fields: what each is called and measured in, where it lives, how it comes from what is stored.

Result files, exports, the server's routes, legends and menus follow from it.
"""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.review.components import about_axis, deformation, principal

Array = NDArray[np.float64]
Where = Literal["part", "pair"]
# How a field comes from a stored one: as it is, one of its columns, its length, its principal values from the largest
# to the smallest, its radial, hoop and axial components about each part's own axis, or its length once the motion of
# each part as a rigid body is taken out.
Rule = Literal["stored", "column", "length", "principal", "about-axis", "local"]
Axis = tuple[Array, Array]


@dataclass(frozen=True)
class Field:
    """One field. unit: as it is stored; spoken: the unit people read it in, and factor what a stored value is
    multiplied by for that. is_signed: values below zero mean something. source: the stored field it comes from, by
    rule and column. quiet: values (as stored) up to this size are rounding, and nothing is told of them."""

    name: str
    label: str
    where: Where
    unit: str
    spoken: str
    factor: float
    is_signed: bool
    source: str
    rule: Rule = "stored"
    column: int = 0

    @property
    def quiet(self) -> float:
        """See the class."""
        return QUIET.get(self.unit, 0.0)


# What single precision and the end of an iteration leave of nothing, by unit.
QUIET = {"MPa": 1e-6, "mm": 1e-9, "–": 1e-9}


@dataclass(frozen=True)
class Stored:
    """What a result file stores at nodes: so many values at each, in a unit."""

    width: int
    unit: str


STORED = {
    "displacement": Stored(3, "mm"),
    "stress": Stored(6, "MPa"),
    "von_mises": Stored(1, "MPa"),
    "plastic_strain": Stored(1, "–"),
    "stress_error": Stored(1, "MPa"),
    "force": Stored(3, "N"),
}
STRESSES = ("xx", "yy", "zz", "xy", "yz", "zx")


def _stress(name: str, label: str, rule: Rule, column: int) -> Field:
    return Field(name, label, "part", "MPa", "MPa", 1.0, True, "stress", rule, column)


_COMPONENTS = {"xx": "Stress along x", "yy": "Stress along y", "zz": "Stress along z"}
PART_FIELDS = {
    f.name: f
    for f in (
        Field("von_mises", "Von Mises stress", "part", "MPa", "MPa", 1.0, False, "von_mises"),
        Field("plastic_strain", "Plastic strain", "part", "–", "%", 100.0, False, "plastic_strain"),
        Field("stress_error", "Error of stress", "part", "MPa", "MPa", 1.0, False, "stress_error"),
        Field("displacement", "Displacement", "part", "mm", "mm", 1.0, False, "displacement", "length"),
        Field("deformation", "Displacement, rigid motion out", "part", "mm", "mm", 1.0, False, "displacement", "local"),
        *(
            Field(f"displacement_{x}", f"Displacement {x}", "part", "mm", "mm", 1.0, True, "displacement", "column", i)
            for i, x in enumerate("xyz")
        ),
        *(
            _stress(f"principal_{name}", f"{name.capitalize()} principal stress", "principal", i)
            for i, name in enumerate(("largest", "middle", "smallest"))
        ),
        *(
            _stress(f"stress_{name}", f"{name.capitalize()} stress, part's own axis", "about-axis", i)
            for i, name in enumerate(("radial", "hoop", "axial"))
        ),
        *(
            _stress(f"stress_{name}", _COMPONENTS.get(name, f"Shear {name}"), "column", i)
            for i, name in enumerate(STRESSES)
        ),
    )
}
PAIR_FIELDS = {
    f.name: f
    for f in (
        Field("pressure", "Contact pressure", "pair", "MPa", "MPa", 1.0, False, "pressure"),
        Field("frictional_stress", "Frictional stress", "pair", "MPa", "MPa", 1.0, False, "frictional_stress"),
        Field("gap", "Gap", "pair", "mm", "µm", 1000.0, False, "gap"),
        Field("penetration", "Penetration", "pair", "mm", "µm", 1000.0, False, "penetration"),
        Field("sliding", "Sliding distance", "pair", "mm", "µm", 1000.0, False, "sliding"),
        Field("status", "Status", "pair", "0 open 1 sticking 2 sliding", "", 1.0, False, "status"),
    )
}
FIELDS = (*PART_FIELDS.values(), *PAIR_FIELDS.values())


def values_of(field: Field, stored: Array, points: Array, axes: list[tuple[slice, Axis]]) -> Array:
    """Values (n,) of a field of parts from what is ``stored`` (n,) or (n, k) of its source.

    points (n, 3) mm. axes: for each body its nodes, and origin (mm) and direction of its own axis.
    """
    if field.rule == "local":
        return np.concatenate([deformation(points[s], stored[s]) for s, _ in axes])
    if field.rule == "column":
        return stored[:, field.column]
    if field.rule == "length":
        return np.asarray(np.linalg.norm(stored, axis=1))
    if field.rule == "principal":
        return principal(stored)[:, field.column]
    if field.rule == "about-axis":
        return np.concatenate([about_axis(stored[s], points[s], *axis)[:, field.column] for s, axis in axes])
    return stored
