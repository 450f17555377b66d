"""Quantities written with their unit ("18 kN", "0.005 in") and their values in mm, N, MPa, tonne, s."""

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any, Literal

import pint

from ulmek.core.errors import UnitError

Kind = Literal[
    "length", "force", "stress", "density", "angle", "moment", "stiffness", "turning stiffness", "mass", "time",
    "acceleration", "angular speed", "area", "volume", "energy",
]  # fmt: skip

# The internal unit of each kind; they are consistent with each other.
INTERNAL: dict[Kind, str] = {
    "length": "mm",
    "force": "N",
    "stress": "MPa",
    "density": "tonne/mm**3",
    "angle": "rad",
    "moment": "N*mm",
    "stiffness": "N/mm",
    "turning stiffness": "N*mm/rad",
    "mass": "tonne",
    "time": "s",
    "acceleration": "mm/s**2",
    "angular speed": "rad/s",
    "area": "mm**2",
    "volume": "mm**3",
    "energy": "N*mm",
}
EXAMPLES: dict[Kind, str] = {
    "length": "12 mm or 0.5 in",
    "force": "18 kN or 400 lbf",
    "stress": "210 GPa or 355 MPa",
    "density": "7850 kg/m^3",
    "angle": "30 deg",
    "moment": "120 N*m",
    "stiffness": "250 N/mm",
    "turning stiffness": "1500 N*m/rad",
    "mass": "2.5 kg",
    "time": "0.2 s",
    "acceleration": "9.81 m/s^2",
    "angular speed": "1450 rpm",
    "area": "40 mm^2",
    "volume": "12 cm^3",
    "energy": "1.5 J",
}

# Unit systems that people choose from: for each kind the units that values are read in, the largest first, each with
# the least figure that it is used for. Units at the same position stand for each other. The server speaks in the first.
SYSTEMS: dict[str, dict[Kind, list[tuple[str, float]]]] = {
    "mm, N, MPa": {
        "length": [("mm", 0.1), ("µm", 0)],
        "force": [("kN", 1), ("N", 0)],
        "stress": [("MPa", 0)],
        "density": [("kg/m³", 0)],
        "angle": [("°", 0)],
        "moment": [("N·m", 1), ("N·mm", 0)],
        "stiffness": [("N/mm", 0)],
        "turning stiffness": [("N·m/rad", 0)],
        "mass": [("kg", 0)],
        "time": [("s", 0)],
        "acceleration": [("m/s²", 0)],
        "angular speed": [("rad/s", 0)],
        "area": [("mm²", 0)],
        "volume": [("cm³", 0.1), ("mm³", 0)],
        "energy": [("J", 0.1), ("mJ", 0)],
    },
    "m, N, Pa": {
        "length": [("m", 1e-4), ("µm", 0)],
        "force": [("N", 0)],
        "stress": [("Pa", 0)],
        "density": [("kg/m³", 0)],
        "angle": [("rad", 0)],
        "moment": [("N·m", 0)],
        "stiffness": [("N/m", 0)],
        "turning stiffness": [("N·m/rad", 0)],
        "mass": [("kg", 0)],
        "time": [("s", 0)],
        "acceleration": [("m/s²", 0)],
        "angular speed": [("rad/s", 0)],
        "area": [("m²", 0)],
        "volume": [("m³", 0)],
        "energy": [("J", 0)],
    },
    "in, lbf, psi": {
        "length": [("in", 0.01), ("thou", 0)],
        "force": [("lbf", 0)],
        "stress": [("psi", 0)],
        "density": [("lb/in³", 0)],
        "angle": [("°", 0)],
        "moment": [("lbf·in", 0)],
        "stiffness": [("lbf/in", 0)],
        "turning stiffness": [("lbf·in/rad", 0)],
        "mass": [("lb", 0)],
        "time": [("s", 0)],
        "acceleration": [("ft/s²", 0)],
        "angular speed": [("rpm", 0)],
        "area": [("in²", 0)],
        "volume": [("in³", 0)],
        "energy": [("ft·lbf", 0)],
    },
}

# Squares of larger values, in internal units, would overflow in norms and energies.
LARGEST = 1e30
# Number, then a unit of letters, digits, products, quotients and one-digit powers: no expressions.
WRITTEN = re.compile(r"^\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d{1,3})?)\s*([A-Za-zµ°²³/*^0-9· ]{0,30})$")


@lru_cache(maxsize=1)
def _registry() -> pint.UnitRegistry:  # type: ignore[type-arg]
    return pint.UnitRegistry(cache_folder=None)


@lru_cache(maxsize=4096)
def value_of(text: str, kind: Kind) -> float:
    """Value of a written quantity in the internal unit of its kind.

    >>> value_of("18 kN", "force"), value_of("1 in", "length")
    (18000.0, 25.4)

    Raises
    ------
    UnitError : no number, no unit, an unknown unit, or one that does not measure ``kind``.
    """
    match = WRITTEN.match(text)
    hint = f"Write a {kind} with its unit, such as {EXAMPLES[kind]}."
    if not match:
        raise UnitError(f"'{text[:60]}' is not a number with a unit.", hint=hint)
    number, unit = float(match[1]), match[2].strip()
    if not unit:
        raise UnitError(f"'{text}' has no unit.", hint=hint)
    if re.search(r"\^\s*\d\d|\*\*|\d{2}", unit):
        raise UnitError(f"'{unit}' is not a unit.", hint=hint)
    try:
        value = float(_registry().Quantity(number, unit.replace("·", "*")).to(INTERNAL[kind]).magnitude)
    except pint.DimensionalityError:
        raise UnitError(f"'{text}' is not a {kind}.", hint=hint) from None
    except Exception:  # pint raises many kinds for text that is no unit
        raise UnitError(f"'{unit}' in '{text}' is not a known unit.", hint=hint) from None
    if not abs(value) < LARGEST:
        raise UnitError(f"'{text}' is larger than anything that can be computed with.", hint=hint)
    return value


def quantity_of(written: str | float, unit: str, names: Mapping[str, Any] | None = None) -> Any:
    """A value with its unit, or what an expression of ``names`` (quantities) comes to; pint raises for what is none."""
    if isinstance(written, str):
        return _registry().Quantity(_registry().parse_expression(written, **(names or {})))
    return _registry().Quantity(written, unit)


def factor_to(unit: str, kind: Kind) -> float:
    """What internal values of a kind are multiplied by to read in a unit.

    >>> factor_to("kN", "force")
    0.001
    """
    return float(f"{1 / value_of(f'1 {unit}', kind):.12g}")


def spoken(kind: Kind) -> tuple[str, float]:
    """The unit that values of a kind are spoken of in, and the factor to it."""
    unit = next(iter(SYSTEMS.values()))[kind][0][0]
    return unit, factor_to(unit, kind)
