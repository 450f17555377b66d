"""The table of fields: what each is called and measured in, where it lives, how it comes from what is stored.

Result files, exports, the server's routes, legends and menus follow from it.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.material.rubber import Rubber
from ulmek.core.model import Material
from ulmek.core.review.components import about_axis, deformation, in_axes, principal, vectors_about_axis
from ulmek.core.review.inside import Cells
from ulmek.core.review.strain import elastic_energy, elastic_strain, rubber_energy, stretched

Array = NDArray[np.float64]
Where = Literal["part", "pair"]
# How a field of parts comes from a stored one: as it is, one of its columns, its length, its principal values from the
# largest to the smallest, its components in the axes or about the axis of each part, its length once the motion of
# each part as a rigid body is taken out, as a share of what the part bears, as strain or as energy; painted
# on it by its pairs. Of a pair: as it
# is, the length of a vector, once for all increments, as a share of what friction can hold, or added up over the
# increments.
Rule = Literal[
    "stored", "column", "length", "principal", "own-axes", "about-axis", "moved-about-axis", "local", "of-strength",
    "strain", "energy", "painted", "once", "of-friction", "work",
]  # fmt: skip
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

    @property
    def is_about_axis(self) -> bool:
        """Whether it depends on an axis, each part's own or another."""
        return self.rule in ("about-axis", "moved-about-axis")


# What single precision and the end of an iteration leave of nothing, by unit.
QUIET = {"MPa": 1e-6, "mm": 1e-9, "–": 1e-9, "N·mm/mm³": 1e-12, "N·mm/mm²": 1e-9}


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


def _strain(name: str, label: str, column: int) -> Field:
    return Field(name, label, "part", "–", "%", 100.0, True, "stress", "strain", column)


def _motion(name: str, label: str, rule: Rule, column: int = 0, *, is_signed: bool = True) -> Field:
    return Field(name, label, "part", "mm", "mm", 1.0, is_signed, "displacement", rule, column)


_COMPONENTS = {"xx": "Stress along x", "yy": "Stress along y", "zz": "Stress along z"}
_OWN = {
    "xx": "Stress along the part's own x",
    "yy": "Stress along the part's own y",
    "zz": "Stress along the part's own z",
}
_ABOUT = tuple(enumerate(("radial", "hoop", "axial")))
_PRINCIPAL = tuple(enumerate(("largest", "middle", "smallest")))
PART_FIELDS = {
    f.name: f
    for f in (
        Field("von_mises", "Von Mises stress", "part", "MPa", "MPa", 1.0, False, "von_mises"),
        Field("use", "Von Mises stress over strength", "part", "–", "%", 100.0, False, "von_mises", "of-strength"),
        Field("plastic_strain", "Plastic strain", "part", "–", "%", 100.0, False, "plastic_strain"),
        Field("stress_error", "Error of stress", "part", "MPa", "MPa", 1.0, False, "stress_error"),
        _motion("displacement", "Displacement", "length", is_signed=False),
        _motion("deformation", "Change of shape (rigid motion out)", "local", is_signed=False),
        *(_motion(f"displacement_{x}", f"Displacement {x}", "column", i) for i, x in enumerate("xyz")),
        *(_motion(f"displacement_{n}", f"{n.capitalize()} displacement", "moved-about-axis", i) for i, n in _ABOUT),
        *(_stress(f"principal_{n}", f"{n.capitalize()} principal stress", "principal", i) for i, n in _PRINCIPAL),
        *(_stress(f"stress_{n}", f"{n.capitalize()} stress", "about-axis", i) for i, n in _ABOUT),
        *(
            _stress(f"stress_{name}", _COMPONENTS.get(name, f"Shear {name}"), "column", i)
            for i, name in enumerate(STRESSES)
        ),
        *(
            _stress(f"own_{name}", _OWN.get(name, f"Shear {name} in the part's own axes"), "own-axes", i)
            for i, name in enumerate(STRESSES)
        ),
        *(
            _strain(f"strain_{n}", f"{n.capitalize()} principal strain", i) for i, n in _PRINCIPAL
        ),
        Field("energy", "Elastic energy in a volume", "part", "N·mm/mm³", "mJ/mm³", 1.0, False, "stress", "energy"),
        Field(
            "contact_pressure", "Contact pressure of all pairs", "part", "MPa", "MPa", 1.0, False, "pressure", "painted"
        ),
    )
}  # fmt: skip
PAIR_FIELDS = {
    f.name: f
    for f in (
        Field("pressure", "Contact pressure", "pair", "MPa", "MPa", 1.0, False, "pressure"),
        Field("frictional_stress", "Frictional stress", "pair", "MPa", "MPa", 1.0, False, "frictional_stress"),
        Field(
            "friction_use", "Friction over what it can hold", "pair", "–", "%", 100.0, False, "pressure", "of-friction"
        ),
        Field("gap", "Gap", "pair", "mm", "µm", 1000.0, False, "gap"),
        Field("start_gap", "Gap at the start", "pair", "mm", "µm", 1000.0, True, "start_gap", "once"),
        Field("penetration", "Penetration", "pair", "mm", "µm", 1000.0, False, "penetration"),
        Field("sliding", "Sliding distance", "pair", "mm", "µm", 1000.0, False, "sliding"),
        Field("net_sliding", "Net sliding", "pair", "mm", "µm", 1000.0, False, "slid", "length"),
        Field(
            "work", "Work of friction on an area", "pair", "N·mm/mm²", "mJ/mm²", 1.0, False, "frictional_stress", "work"
        ),
        Field("status", "Status", "pair", "0 open 1 sticking 2 sliding", "", 1.0, False, "status"),
    )
}  # fmt: skip
# What a result file keeps of every pair and increment.
PAIR_STORED = tuple(f.name for f in PAIR_FIELDS.values() if f.rule == "stored")
# The same of vectors: frictional stress on side A (MPa), and how far it has slid on the whole while closed (mm).
PAIR_VECTORS = {"friction": "MPa", "slid": "mm"}
FIELDS = (*PART_FIELDS.values(), *PAIR_FIELDS.values())


@dataclass(frozen=True)
class Body:
    """What fields have to know of a body: its nodes, its own axes (rows, through ``origin``, mm), what its von Mises
    stress is judged against (MPa, None where nothing is given), and its material."""

    here: slice
    origin: Array
    axes: Array
    strength: float | None
    material: Material


@dataclass(frozen=True)
class Nodes:
    """What values are of: points (n, 3) mm, how they moved (n, 3) mm, bodies, elements, and whether the section is
    turned about an axis. ``about``: another axis than each part's own z."""

    points: Array
    moved: Array
    bodies: list[Body]
    groups: list[Cells]
    is_axisymmetric: bool = False
    about: Axis | None = None


def values_of(field: Field, stored: Array, nodes: Nodes) -> Array:
    """Values (n,) of a field of parts from what is ``stored`` (n,) or (n, k) of its source; not a number where it
    cannot be told."""
    rule, column = field.rule, field.column
    if rule == "column":
        return stored[:, column]
    if rule == "length":
        return np.asarray(np.linalg.norm(stored, axis=1))
    if rule == "principal":
        return principal(stored)[:, column]
    if rule == "stored":
        return stored
    return np.concatenate([_of_body(field, stored[b.here], b, nodes) for b in nodes.bodies])


def _of_body(field: Field, stored: Array, body: Body, nodes: Nodes) -> Array:
    points, column = nodes.points[body.here], field.column
    origin, axis = nodes.about if nodes.about is not None else (body.origin, body.axes[2])
    if field.rule == "local":
        return deformation(points, stored)
    if field.rule == "own-axes":
        return in_axes(stored, body.axes)[:, column]
    if field.rule == "about-axis":
        return about_axis(stored, points, origin, axis)[:, column]
    if field.rule == "moved-about-axis":
        return vectors_about_axis(stored, points, origin, axis)[:, column]
    if field.rule == "of-strength":
        return stored / body.strength if body.strength else np.full(len(stored), np.nan)
    material = body.material
    if field.rule == "energy":
        if isinstance(material, Rubber):
            return rubber_energy(stretched(_only(nodes, body), body.here), stored, material)
        return elastic_energy(stored, material.young, material.poisson)
    if not material.law().is_linear:
        return np.log(stretched(_only(nodes, body), body.here))[:, column]
    return elastic_strain(stored, material.young, material.poisson)[:, column]


def _only(nodes: Nodes, body: Body) -> tuple[Array, Array, list[Cells], bool]:
    """Points, motion and elements of one body alone."""
    first, last = body.here.start, body.here.stop
    groups = []
    for g in nodes.groups:
        own = (g.nodes[:, 0] >= first) & (g.nodes[:, 0] < last)
        groups.append(replace(g, nodes=g.nodes[own], body=g.body[own]))
    return nodes.points, nodes.moved, [g for g in groups if len(g.nodes)], nodes.is_axisymmetric
