"""Checkpoints: everything a run needs to go on after an increment, one archive of arrays each.

A killed run leaves whole archives: each is written under another name and then renamed.
"""

import json
import zipfile
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.keys import whole_key
from ulmek.core.model import Increments, Model
from ulmek.core.solve.assembly import Internal
from ulmek.core.solve.choice import SolutionPath
from ulmek.core.solve.history import Increment, StepRecord, StepSoFar
from ulmek.core.solve.state import JointState, State

# Kept besides the ends of the steps: this many of the latest.
LATEST = 3
# Of checkpoints; those of 0.6.0 and before do not say one, and knew models by other keys.
FORMAT = 2

_JOINT = ("z", "forces", "w", "traction", "status")
_STATE = ("masters", "u", "inside", "applied", "contact", "gap", "velocity", "acceleration")
_INCREMENT = ("values", "bolt_force", "shortening", "slid", "slid_path", "slip", "dissipated")


class Checkpoints:
    """The checkpoints of one run, in its folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "checkpoints"

    def keep(self, path: SolutionPath, increment: Increment, records: list[StepRecord]) -> None:
        """Write the checkpoint of a converged increment, and let go of old ones between the ends of steps."""
        self.folder.mkdir(parents=True, exist_ok=True)
        header = {
            "format": FORMAT, "path": path.name, "model": _key_of(path.model),
            "steps": _steps(path.model, increment.step),
            "step": increment.step, "number": increment.number, "time": increment.time, "large": increment.large,
            "iterations": increment.iterations, "kinetic": increment.state.kinetic, "size": increment.so_far.size,
            "records": [asdict(r) for r in records],
        }  # fmt: skip
        arrays = {"header": np.array(json.dumps(header)), **_arrays(increment)}
        unfinished = self.folder / "unfinished"
        with unfinished.open("wb") as file:
            np.savez(file, allow_pickle=False, **arrays)
        unfinished.rename(self._file(increment.number, ends=increment.time == 1.0))
        between = sorted(self.folder.glob("*-between.npz"))
        for old in between[:-LATEST]:
            old.unlink()

    def _file(self, number: int, *, ends: bool) -> Path:
        return self.folder / f"{number:05d}-{'end' if ends else 'between'}.npz"

    def numbers(self) -> list[int]:
        """Numbers of the increments that can be taken up, the first first."""
        return sorted(int(p.name[:5]) for p in self.folder.glob("*.npz"))

    def take_up(self, path: SolutionPath, number: int | None = None) -> tuple[Increment, list[StepRecord]]:
        """An increment to go on after, the latest unless ``number`` is given, and what its steps took so far.

        Raises
        ------
        InputError : there is none, it is damaged, or it belongs to another model or sequence.
        """
        known = self.numbers()
        wanted = number if number is not None else (known[-1] if known else None)
        if wanted is None or wanted not in known:
            raise InputError(
                "there is no checkpoint to go on from." if wanted is None else f"there is no checkpoint {wanted}.",
                hint=f"Known: {', '.join(map(str, known)) or 'none; run from the start'}.",
            )
        file = next(self.folder.glob(f"{wanted:05d}-*.npz"))
        try:
            with file.open("rb") as opened, np.load(opened, allow_pickle=False) as archive:
                arrays = dict(archive)
            header = json.loads(str(arrays["header"]))
            _require_same(header, path)
            return _increment(header, arrays, path), [StepRecord(**r) for r in header["records"]]
        except (OSError, ValueError, KeyError, TypeError, zipfile.BadZipFile) as error:
            raise InputError(f"checkpoint {wanted} is damaged: {error}.", hint="Take an earlier one.") from None


def _arrays(increment: Increment) -> dict[str, NDArray[Any]]:
    state, so_far = increment.state, increment.so_far
    out: dict[str, NDArray[Any]] = {f"joint.{n}": getattr(state.joint, n) for n in _JOINT}
    out |= {f"state.{n}": getattr(state, n) for n in _STATE}
    out |= {n: getattr(increment, n) for n in _INCREMENT}
    out |= {"start.values": so_far.values, "start.bolt_force": so_far.bolt_force}
    for i, interface in enumerate(state.interfaces):
        out[f"frame.{i}"] = interface.frame
    for name in ("modes", "material"):
        for i, values in enumerate(getattr(state.internal, name)):
            # Elastic parts have none: most archives would be zeros.
            if np.any(values):
                out[f"{name}.{i}"] = values
    if so_far.previous is not None:
        out |= {f"previous.{n}": getattr(so_far.previous[0], n) for n in _JOINT}
        out["previous_size"] = np.array(so_far.previous[1])
    return out


def _increment(header: dict[str, Any], arrays: dict[str, NDArray[Any]], path: SolutionPath) -> Increment:
    start = path.start()

    def joint(name: str) -> JointState:
        return JointState(*(arrays[f"{name}.{n}"] for n in _JOINT))

    inner = Internal(
        *(
            tuple(arrays.get(f"{name}.{i}", values) for i, values in enumerate(getattr(start.internal, name)))
            for name in ("modes", "material")
        )
    )
    interfaces = tuple(replace(f, frame=arrays[f"frame.{i}"]) for i, f in enumerate(start.interfaces))
    state = State(
        joint=joint("joint"),
        internal=inner,
        interfaces=interfaces,
        kinetic=header["kinetic"],
        **{n: arrays[f"state.{n}"] for n in _STATE},
    )
    previous = (joint("previous"), float(arrays["previous_size"])) if "previous_size" in arrays else None
    so_far = StepSoFar(arrays["start.values"], arrays["start.bolt_force"], header["size"], previous)
    return Increment(
        step=header["step"],
        number=header["number"],
        time=header["time"],
        state=state,
        iterations=header["iterations"],
        large=header["large"],
        so_far=so_far,
        **{n: arrays[n] for n in _INCREMENT},
    )


def _key_of(model: Model) -> str:
    """Key of all that must be the same to go on: everything but the steps."""
    return whole_key(replace(model, steps=()))


def _steps(model: Model, upto: int) -> list[str]:
    """Steps in words; sizes of increments may change."""
    plain = [replace(s, increments=Increments(), released=frozenset()) for s in model.steps[: upto + 1]]
    released = [sorted(s.released) for s in model.steps[: upto + 1]]
    return [f"{s!r} {r}" for s, r in zip(plain, released, strict=True)]


def _require_same(header: dict[str, Any], path: SolutionPath) -> None:
    if header.get("format") != FORMAT:
        raise InputError("its checkpoints were written by another version of Ulmek.", hint="Run it from the start.")
    if header["model"] != _key_of(path.model):
        raise InputError(
            "the study has changed in more than its steps: its checkpoints belong to another model.",
            hint="Run it from the start.",
        )
    if header["steps"] != _steps(path.model, header["step"]):
        raise InputError(
            "a step that is already done, or under way, has changed.",
            where="steps",
            hint="Run from the start, or take the change back; increment sizes and later steps may change.",
        )
    if header["path"] != path.name:
        raise InputError(
            f"the checkpoint is of the {header['path']} path, and the study now needs the {path.name} one.",
            where="path",
            hint="Set the path of the study, or run from the start.",
        )
