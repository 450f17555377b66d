"""Fits of holes and shafts by class: limits of ISO 286-1:2010, tables 1 to 3, up to 500 mm."""

import bisect
import re
from dataclasses import dataclass

from ulmek.core.errors import InputError

# Upper ends of the ranges of nominal diameters (mm), and what belongs to them in µm.
RANGES = (3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500)
GRADES: dict[int, tuple[int, ...]] = {
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
}
# Shafts below the nominal size: their upper deviation is minus this.
BELOW: dict[str, tuple[int, ...]] = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
# Shafts above it: their lower deviation; k for grades 4 to 7 only.
ABOVE: dict[str, tuple[int, ...]] = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
# r and s change within the ranges above 50 mm: upper ends of the finer ones, and their lower deviations.
FINER = (3, 6, 10, 18, 30, 50, 65, 80, 100, 120, 140, 160, 180, 200, 225, 250, 280, 315, 355, 400, 450, 500)
ABOVE_FINER: dict[str, tuple[int, ...]] = {
    "r": (10, 15, 19, 23, 28, 34, 41, 43, 51, 54, 63, 65, 68, 77, 80, 84, 94, 98, 108, 114, 126, 132),
    "s": (14, 19, 23, 28, 35, 43, 53, 59, 71, 79, 92, 100, 108, 122, 130, 140, 158, 170, 190, 208, 232, 252),
}


@dataclass(frozen=True)
class Fit:
    """Limits of a fit in mm: deviations (lower, upper) of hole and shaft; overlap of the radii at least and at most,
    negative for a clearance."""

    hole: tuple[float, float]
    shaft: tuple[float, float]
    least_overlap: float
    most_overlap: float


def fit_limits(fit: str, diameter: float) -> Fit:
    """Limits of a fit such as ``H7/s6`` on a nominal ``diameter`` (mm).

    Raises
    ------
    InputError : another hole than H, a class or diameter that the tables do not have.
    """
    match = re.fullmatch(r"\s*H(\d{1,2})\s*/\s*([a-z])(\d{1,2})\s*", fit)
    if not match:
        raise InputError(f"'{fit}' is not a fit with a hole of class H.", where="fit", hint="Write it like H7/s6.")
    if not 1 <= diameter <= RANGES[-1]:
        raise InputError(
            f"the diameter is {diameter:g} mm, outside 1 to {RANGES[-1]} mm.", where="diameter",
            hint="Give the overlap in numbers.",
        )  # fmt: skip
    letter = match[2]
    hole = (0.0, _grade(int(match[1]), diameter))
    width = _grade(int(match[3]), diameter)
    at, finer = bisect.bisect_left(RANGES, diameter), bisect.bisect_left(FINER, diameter)
    if letter in BELOW:
        upper = -float(BELOW[letter][at])
        shaft = (upper - width, upper)
    elif letter in ABOVE and not (letter == "k" and int(match[3]) > 7):
        shaft = (float(ABOVE[letter][at]), ABOVE[letter][at] + width)
    elif letter in ABOVE_FINER:
        shaft = (float(ABOVE_FINER[letter][finer]), ABOVE_FINER[letter][finer] + width)
    else:
        raise InputError(
            f"the shaft class {letter}{match[3]} is not in the tables.", where="fit",
            hint=f"Known: {', '.join([*BELOW, *ABOVE, *ABOVE_FINER])}; k with grades up to 7.",
        )  # fmt: skip
    in_mm = [v / 1000 for v in (*hole, *shaft)]
    return Fit(
        (in_mm[0], in_mm[1]), (in_mm[2], in_mm[3]), (in_mm[2] - in_mm[1]) / 2, (in_mm[3] - in_mm[0]) / 2
    )  # fmt: skip


def _grade(grade: int, diameter: float) -> float:
    if grade not in GRADES:
        raise InputError(
            f"tolerance grade {grade} is not in the tables.", where="fit", hint=f"Known: {', '.join(map(str, GRADES))}."
        )
    return float(GRADES[grade][bisect.bisect_left(RANGES, diameter)])
