"""What a solution took."""

from dataclasses import dataclass


@dataclass
class Timing:
    """Seconds spent, and how often the big matrix was factored."""

    assembly: float = 0.0
    factor: float = 0.0
    condense: float = 0.0
    contact: float = 0.0
    factorizations: int = 0
