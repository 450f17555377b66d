"""What a report is made of: chapters of sentences, tables and pictures, whatever it is typeset as."""

from dataclasses import dataclass, field
from datetime import datetime


@dataclass(frozen=True)
class Words:
    """A paragraph. mark: "bad" or "watch" where it warns."""

    text: str
    mark: str = ""


@dataclass(frozen=True)
class Table:
    """Rows of cells under a head. numbers: columns that are set to the right. share: how wide columns are to each
    other, by what they hold when empty."""

    head: list[str]
    rows: list[list[str]]
    numbers: tuple[int, ...] = ()
    share: tuple[float, ...] = ()


@dataclass(frozen=True)
class Picture:
    """An image, PNG or SVG by its beginning, with what it shows; ``width``: share of the page."""

    image: bytes
    caption: str
    width: float = 1.0

    @property
    def kind(self) -> str:
        """Ending of its file."""
        return "png" if self.image.startswith(b"\x89PNG") else "svg"


@dataclass(frozen=True)
class Gallery:
    """Pictures side by side."""

    pictures: list[Picture]


Block = Words | Table | Picture | Gallery


@dataclass(frozen=True)
class Chapter:
    """A chapter and its blocks."""

    title: str
    blocks: list[Block]


@dataclass(frozen=True)
class Report:
    """A whole report. made: its date. facts: what the first page says beside the title, by name."""

    title: str
    machine: str
    made: datetime
    facts: dict[str, str]
    chapters: list[Chapter] = field(default_factory=list)
