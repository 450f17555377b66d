"""Dimensions written as expressions of others, "2*d + 1 mm": sums, products and quotients with their units checked."""

import re
from collections.abc import Mapping
from typing import Any, Literal

import pint

from ulmek.core.errors import InputError, UlmekError, UnitError
from ulmek.study.units import EXAMPLES, LARGEST, quantity_of, value_of

Kind = Literal["length", "angle", "count", "number"]
Written = Mapping[str, str | int | float]
# What an expression may be made of; powers are left out, so that none takes long.
ALLOWED = re.compile(r"[A-Za-zµ°_0-9.+\-*/() ]{1,120}")
NAME = re.compile(r"(?<![A-Za-z_0-9.])[A-Za-z_][A-Za-z_0-9]*")
# A number followed by a unit or name counts as one thing: "d/2 mm" is d/(2 mm).
WITH_UNIT = re.compile(
    r"(?<![A-Za-z_0-9.])(\d+\.?\d*(?:[eE][+-]?\d{1,3})?|\.\d+)\s*(?![eE][+-]?\d)([A-Za-zµ°][A-Za-zµ°_0-9]*)"
)
UNITS: dict[Kind, str] = {"length": "mm", "angle": "deg", "count": "", "number": ""}
IN_WORDS: dict[Kind, str] = {"length": "a length", "angle": "an angle", "count": "a number", "number": "a number"}
# Whole to rounding.
WHOLE = 1e-9


class Dimensions:
    """Written dimensions by name; they may refer to each other.

    written: as entered; plain numbers as numbers. kinds: of each of them; what has none here shows it by its unit.
    """

    def __init__(self, written: Written, kinds: Mapping[str, Kind] | None = None) -> None:
        self._written = written
        self._kinds: dict[str, Kind] = dict(kinds or {})
        self._known: dict[str, float] = {}
        self._asked: list[str] = []

    def value(self, name: str) -> float:
        """The value of a dimension: lengths in mm, angles in degrees.

        Raises
        ------
        UnitError, InputError : it cannot be read, or is made of itself; ``where`` names it.
        """
        if name in self._known:
            return self._known[name]
        if name in self._asked:
            round_about = " → ".join([*self._asked[self._asked.index(name) :], name])
            raise InputError(
                f"these dimensions are made of each other: {round_about}.", where=name,
                hint="Give one of them a value of its own.",
            )  # fmt: skip
        self._asked.append(name)
        try:
            text = str(self._written[name])
            if name not in self._kinds:
                self._kinds[name] = self._kind_of(text)
            self._known[name] = self.read(text, self._kinds[name])
        except UlmekError as error:
            raise error if error.where else error.at(name) from None
        finally:
            self._asked.pop()
        return self._known[name]

    def said(self, name: str) -> str:
        """The value of a dimension with its unit; raises as `value`."""
        unit = {"length": " mm", "angle": "°"}.get((self.value(name), self._kinds[name])[1], "")
        return f"{self._known[name]:.6g}{unit}"

    def is_expression(self, text: str) -> bool:
        """Whether an entry is made of others, or of several numbers: "10 mm + 2 mm" or "(3 mm)", but not "5 N/mm"."""
        if not set(NAME.findall(text)).isdisjoint(self._written):
            return True
        return bool(re.search(r"[(]|\d[^+\-*/()]*(?<![eE])[+\-*/]\s*[\d(.]", text))

    def read(self, text: str, kind: Kind) -> float:
        """The value of any entry that may speak of the dimensions; raises as `value` does."""
        if not self.is_expression(text):
            if self._written and NAME.fullmatch(text):
                raise InputError(f"there is no dimension '{text}'.", hint=f"Known are {', '.join(self._written)}.")
            return _plain(text, kind)
        hint = f"Write {IN_WORDS[kind]} such as 2*{next(iter(self._written), 'width')} + 1 mm: + - * / and brackets."
        quantity = self._quantity(text, hint)
        try:
            value = float(quantity.to(UNITS[kind]).magnitude)
        except pint.DimensionalityError:
            raise UnitError(f"'{text}' is not {IN_WORDS[kind]}, but in {quantity.units}.", hint=hint) from None
        if not abs(value) < LARGEST:
            raise InputError(f"'{text}' has no value that can be computed with.", hint=hint)
        whole = round(value)
        return float(whole) if kind == "count" and abs(value - whole) < WHOLE else value

    def _quantity(self, text: str, hint: str) -> Any:
        """What an expression comes to, with its units."""
        if not ALLOWED.fullmatch(text) or "**" in text:
            raise InputError(f"'{text[:60]}' is not an expression.", hint=hint)
        names = {}
        for name in set(NAME.findall(text)) & set(self._written):
            value = self.value(name)
            names[name] = quantity_of(value, UNITS[self._kinds[name]])
        try:
            return quantity_of(WITH_UNIT.sub(r"(\1*\2)", text), "", names)
        except pint.DimensionalityError as error:
            raise UnitError(f"the units in '{text}' do not fit: {error}.", hint=hint) from None
        except ZeroDivisionError:
            raise InputError(f"'{text}' divides by zero.", hint=hint) from None
        except Exception:  # pint raises many kinds for text that is no expression
            raise InputError(f"'{text}' is not an expression.", hint=hint) from None

    def _kind_of(self, text: str) -> Kind:
        """What a dimension measures, by its units."""
        hint = f"Write {EXAMPLES['length']}, {EXAMPLES['angle']}, or a plain number."
        quantity = self._quantity(text, hint)
        if quantity.check("[length]"):
            return "length"
        if quantity.check("[]"):
            return "number" if quantity.units == quantity_of(1.0, "").units else "angle"
        raise UnitError(f"'{text}' is no length, angle or number.", hint=hint)


def _plain(text: str, kind: Kind) -> float:
    if kind == "length":
        return value_of(text, "length")
    if kind == "angle":
        return float(quantity_of(value_of(text, "angle"), "rad").to("deg").magnitude)
    try:
        return float(text)
    except ValueError:
        raise InputError(f"'{text[:60]}' is not a number.", hint="Give a number without a unit.") from None
