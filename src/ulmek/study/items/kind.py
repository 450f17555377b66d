"""What a kind of item is, besides its schema, and what its translation may look around for."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from numpy.typing import NDArray

from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Body, Face
from ulmek.study.items.item import Item


class Around(Protocol):
    """What is around an item while it is translated."""

    @property
    def study(self) -> Any:
        """The whole `StudyDocument`."""
        ...

    @property
    def bodies(self) -> tuple[Body, ...]:
        """All parts, every copy, meshed and in place."""
        ...

    def faces(self, references: list[str], place: str) -> tuple[Face, ...]:
        """Faces by their references; UnknownNameError with ``place`` and position."""
        ...

    def body(self, name: str) -> str:
        """The one body that ``name`` means."""
        ...

    def copies(self, part: str) -> list[tuple[str, NDArray[Any]]]:
        """Name and rotation (3, 3) of every copy of a part."""
        ...

    def mesh(self, part: str) -> VolumeMesh:
        """Mesh of a part in its own axes."""
        ...


@dataclass(frozen=True)
class Kind:
    """A kind of item.

    name: what it is called in addresses and commands; label: in words. list: where the document keeps it. item: its
    schema. becomes: the list of the core model that its ``translate(item, around)`` makes entries of, "" for kinds
    that are translated with the whole. is_named: it has an id and a name. check: raises for what the schema alone
    cannot place.
    """

    name: str
    label: str
    list: str
    item: type[Item]
    becomes: str = ""
    translate: Callable[[Any, Around], tuple[Any, ...]] | None = None
    is_named: bool = True
    check: Callable[[Any], None] | None = None
