"""All errors of the computation, in one tree.

    UlmekError
    ├── InputError            something given cannot be used; says where and what to do
    │   ├── GeometryError     impossible or contradictory dimensions, bad outlines
    │   ├── UnitError         a quantity without a unit, or with the wrong kind of unit
    │   └── UnknownNameError  a reference to a part, face, material or step that is not there
    ├── MeshError             a region could not be meshed; says where
    └── SolveError            the solution could not go on
        ├── LooseError        something can move and nothing stops it
        ├── InvertedError     an element is turned inside out by its displacements
        ├── NotConvergedError the increment became smaller than the least allowed
        └── StoppedError      stopped on request

Every error carries ``where`` (a path such as ``parts/bracket/recipe/thickness``) and ``hint``
(what to do), so that the interface can point at the place.
"""

from collections.abc import Callable
from typing import Any, TypeVar

Made = TypeVar("Made")


class UlmekError(Exception):
    """Base of all errors raised on purpose.

    Parameters
    ----------
    message : what was wrong and what was got, in the user's words.
    where : path of the place in the study, ``""`` when it concerns the whole.
    hint : what to do about it.
    """

    code = "error"

    def __init__(self, message: str, *, where: str = "", hint: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.where = where
        self.hint = hint

    def __str__(self) -> str:
        text = f"{self.where}: {self.message}" if self.where else self.message
        return f"{text} {self.hint}".strip()

    def at(self, prefix: str) -> "UlmekError":
        """The same error with ``prefix`` put before its place, for callers that know more."""
        self.where = "/".join(p for p in (prefix, self.where) if p)
        return self


class InputError(UlmekError):
    """Something given cannot be used."""

    code = "bad-input"


class GeometryError(InputError):
    """Dimensions or outlines that no solid can have."""

    code = "bad-geometry"


class UnitError(InputError):
    """A quantity without a unit, with an unknown unit, or with the wrong kind of unit."""

    code = "bad-unit"


class UnknownNameError(InputError):
    """A reference to something that the study does not have."""

    code = "unknown-name"


class MeshError(UlmekError):
    """A region could not be meshed."""

    code = "mesh"


class SolveError(UlmekError):
    """The solution could not go on.

    mechanism: bodies that nothing holds then, each with a sample of its rigid motion: three translations (mm) and
    three turns (rad) about the middle of the body.
    """

    code = "solve"
    mechanism: tuple[tuple[str, tuple[float, ...]], ...] = ()


class LooseError(SolveError):
    """Something can move and nothing stops it."""

    code = "loose"


class InvertedError(SolveError):
    """An element is turned inside out by its displacements."""

    code = "inverted"


class NotConvergedError(SolveError):
    """The increment became smaller than the least allowed."""

    code = "not-converged"


class StoppedError(SolveError):
    """The run was stopped on request."""

    code = "stopped"


def located(place: str, function: Callable[..., Made], *args: Any) -> Made:
    """Call, with ``place`` put before the place of any error raised, unless that names it already."""
    try:
        return function(*args)
    except UlmekError as error:
        raise error if error.where.startswith(place.split("/")[0] + "/") else error.at(place) from None
