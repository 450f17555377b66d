"""Keys of models: two models with the same key are the same in all that the key covers.

A key is computed from every field of a model, so that a new field counts by default. What may change without another
factor of the stiffness (friction, fits, values of loads) is marked where it is defined, by `value`; such classes may
say in `structure` what of their values counts all the same.
"""

import hashlib
from dataclasses import MISSING, field, fields, is_dataclass
from typing import Any

import numpy as np

_VALUE = "value"


def value(*, default: Any = MISSING, default_factory: Any = MISSING) -> Any:
    """A dataclass field that is a mere value: another one needs no other factor."""
    return field(default=default, default_factory=default_factory, metadata={_VALUE: True})


def is_value(entry: Any) -> bool:
    """Whether a dataclass field is a mere value."""
    return bool(entry.metadata.get(_VALUE, False))


def structure_key(model: Any) -> str:
    """Key of all that decides the factors of a model and what is kept with them; values do not count."""
    found = hashlib.sha256()
    _take(found, model, with_values=False)
    return found.hexdigest()


def whole_key(item: Any) -> str:
    """Key of all that a model, or a part of one, says, values too."""
    found = hashlib.sha256()
    _take(found, item, with_values=True)
    return found.hexdigest()


def _take(found: Any, item: Any, *, with_values: bool) -> None:
    """Feed ``item`` to a hash, so that different items give different bytes."""
    if is_dataclass(item):
        found.update(f"<{type(item).__name__}".encode())
        for entry in fields(item):
            if with_values or not is_value(entry):
                found.update(f" {entry.name}=".encode())
                _take(found, getattr(item, entry.name), with_values=with_values)
        if not with_values and hasattr(item, "structure"):
            _take(found, item.structure(), with_values=False)
        found.update(b">")
    elif isinstance(item, np.ndarray):
        found.update(f"array {item.dtype} {item.shape} ".encode())
        found.update(np.ascontiguousarray(item).tobytes())
    elif isinstance(item, dict):
        _take(found, [pair for key in sorted(item) for pair in (key, item[key])], with_values=with_values)
    elif isinstance(item, (list, tuple)):
        found.update(f"[{len(item)} ".encode())
        for one in item:
            _take(found, one, with_values=with_values)
        found.update(b"]")
    elif isinstance(item, (set, frozenset)):
        _take(found, sorted(item), with_values=with_values)
    elif item is None or isinstance(item, (str, int, float, bool)):
        found.update(f"{type(item).__name__} {item!r};".encode())
    else:
        raise TypeError(f"a {type(item).__name__} has no key: say in core/keys.py how it counts.")
