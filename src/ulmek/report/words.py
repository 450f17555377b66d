"""Numbers with their unit, and names, as a report writes them."""

from ulmek.study.items import StudyDocument
from ulmek.study.spoken import face_name
from ulmek.study.units import SYSTEMS, Kind, factor_to


def amount(value: float | None, kind: Kind, digits: int = 3) -> str:
    """A value in internal units with the unit that suits its size: ``12.3 kN``.

    >>> amount(12345.0, "force"), amount(0.0, "force"), amount(None, "force")
    ('12.3 kN', '0 N', '–')
    """
    if value is None:
        return "–"
    units = next(iter(SYSTEMS.values()))[kind]
    unit = next((u for u, least in units if abs(value) * factor_to(u, kind) >= least and value), units[-1][0])
    return f"{number(value * factor_to(unit, kind), digits)} {unit}"


def number(value: float, digits: int = 3) -> str:
    """A number with so many figures, without an exponent where it is of ordinary size.

    >>> number(12345.678), number(0.00001234), number(-0.0)
    ('12300', '1.23e-05', '0')
    """
    if value == 0:
        return "0"
    text = f"{value:.{digits}g}"
    if "e+" in text:
        return f"{float(text):.0f}" if abs(value) < 1e7 else text
    return text


def share(value: float | None) -> str:
    """A share as per cent, of what is not nothing at least one figure.

    >>> share(0.123), share(0.0), share(None), share(2e-5)
    ('12 %', '0 %', '–', '0.002 %')
    """
    if value is None:
        return "–"
    percent = 100 * value
    return f"{percent:.0f} %" if percent == 0 or abs(percent) >= 1 else f"{percent:.1g} %"


def vector(values: tuple[float, float, float]) -> str:
    """A direction.

    >>> vector((0.0, -1.0, 0.5))
    '(0, -1, 0.5)'
    """
    return f"({', '.join(number(v) for v in values)})"


def faces(study: StudyDocument, references: list[str]) -> str:
    """Faces by the names that users know."""
    return ", ".join(face_name(study, r) for r in references)
