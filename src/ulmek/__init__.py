"""Ulmek: what a bolted, pinned, pressed or geared joint does under load.

In a script: ``study = ulmek.open_study("bracket.json")``, ``run = study.solve()``, ``run.ledger()``; see
docs/scripting.md.
"""

from typing import TYPE_CHECKING, Any

from ulmek.version import VERSION as __version__

if TYPE_CHECKING:
    from ulmek.script import open_demo, open_run, open_study

__all__ = ["__version__", "open_demo", "open_run", "open_study"]


def __getattr__(name: str) -> Any:
    """What scripts use, loaded when it is used first: commands and workers need not wait for it."""
    if name in __all__:
        from ulmek import script

        return getattr(script, name)
    raise AttributeError(f"module 'ulmek' has no attribute '{name}'")
