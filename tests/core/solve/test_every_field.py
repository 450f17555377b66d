"""Whatever field of a model changes: the solution on kept factors is that of a fresh start.

Every field of every dataclass in two models, which have an item of each kind between them, is changed by
itself. A model that the change makes impossible must be refused in both ways.
"""

import dataclasses
from collections.abc import Iterator
from functools import lru_cache
from typing import Any, get_args

import numpy as np
import pytest

from tests.conftest import Recorder, block_body
from ulmek.core.errors import UlmekError
from ulmek.core.material.elastic import Elastic
from ulmek.core.model import (
    Bolt,
    Dynamics,
    Face,
    Handle,
    Increments,
    Link,
    Load,
    Model,
    Pair,
    PairLaw,
    Space,
    Spring,
    Step,
    Support,
    Wall,
)
from ulmek.core.solve.choice import SolutionPath, choose_path
from ulmek.core.solve.history import Increment, solve_history
from ulmek.study.items import read_study
from ulmek.study.translate import translate
from ulmek.verify.case import base_document, block_part, hold

# So many changes of a field are tried, in as many items that have it.
ENOUGH = 2
HEAVY = Elastic(210e3, 0.3, 355.0, 7.85e-9)
QUICK = Increments(0.9, 0.1, 1.0)


def _blocks() -> Model:
    """Two blocks, a wall, a line bolt into the ground, handles, a spring, a link, loads of every quantity."""
    lower, upper = (
        dataclasses.replace(b, material=HEAVY, allowable=200.0)
        for b in (block_body("lower", (50, 50, 20), 25), block_body("upper", (40, 40, 20), 20, at=20))
    )
    joint = Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), PairLaw(True, "friction", 0.3), 1.0)
    stop = Pair("stop", (Face("upper", "right"),), (), PairLaw(True, "freely"), 1.0, wall="wall")
    grip, end, free, other = (
        Handle("grip", (0.0, 0.0, 40.0), (Face("upper", "top"),)),
        Handle("end", (0.0, 0.0, 60.0)),
        Handle("free", (-20.0, 0.0, 30.0), (Face("upper", "left"),), "averaging"),
        Handle("far", (-60.0, 0.0, 30.0), mass=1e-4),
    )
    loads = (
        Load("press", "force", (), (0.0, 0.0, -1.0), "grip"),
        Load("push", "pressure", (Face("upper", "near"),)),
        Load("turn", "moment", (), (0.0, 0.0, 1.0), "grip"),
        Load("weight", "gravity", (), (0.0, 0.0, -1.0)),
        Load("spin", "spin", (), (0.0, 0.0, 1.0), None, (1.0, 0.0, 0.0)),
        Load("shift", "displacement", (), (1.0, 0.0, 0.0), "far"),
    )
    held = (
        Support("floor", (Face("lower", "bottom"),), (True, True, True)),
        Support("post", (), (False, True, True), "far", (True, True, True)),
    )
    steps = (
        Step("one", {"press": 2e4, "weight": 9810.0}, {"pull": 800.0}, QUICK, courses={"press": ((0.5, 5e3),)}),
        Step("two", {"push": 3.0, "turn": 2e4, "spin": 300.0, "shift": 0.01}, {}, QUICK, released=frozenset({"stop"})),
    )
    return Model(
        (lower, upper), (joint, stop), (Bolt("pull", (0.0, 0.0, 1.0), head="end", stiffness=5e4),), held, loads, steps,
        handles=(grip, end, free, other),
        springs=(Spring("soft", "free", "far", (100.0, 50.0, 50.0), (1e4, 1e4, 1e4)),),
        links=(Link("rod", "grip", "end", (True,) * 6),),
        walls=(Wall("wall", "plane", (20.001, 0.0, 0.0), (-1.0, 0.0, 0.0)),),
    )  # fmt: skip


def _beam() -> Model:
    """A cantilevered bar as a beam."""
    study = base_document("bar", "Bar")
    bar = block_part("bar", (10, 6, 60), 20)
    study["parts"] = [{**bar, "mesh": {**bar["mesh"], "elements": "beam"}}]
    study["supports"] = [hold("root", ["x", "y", "z"], "bar/bottom")]
    study["loads"] = [{"id": "push", "name": "Push", "kind": "force", "faces": ["bar/top"], "direction": [1, 1, 1],
                       "values": {"load": "500 N"}}]  # fmt: skip
    study["steps"] = [{"id": "load", "name": "Load", "increments": {"start": 0.4, "least": 0.1, "largest": 0.5}}]
    return translate(read_study(study))


MODELS = {"blocks": _blocks, "beam": _beam}


@lru_cache
def _solved(name: str) -> tuple[Model, SolutionPath]:
    model = MODELS[name]()
    path, _ = choose_path(model)
    _run(path)
    return model, path


def _run(path: SolutionPath) -> list[Increment]:
    heard = Recorder()
    solve_history(path, heard)
    return heard.increments


WORDS = {word for kind in (Space,) for word in get_args(kind)}


def _other(value: Any) -> Iterator[Any]:
    """A value of the same kind that is not the same."""
    if isinstance(value, bool):
        yield not value
    elif isinstance(value, int):
        yield value + 1
    elif isinstance(value, float):
        yield value * 0.97 if value else 0.013
    elif isinstance(value, str):
        choices = {
            "friction": "no", "freely": "friction", "exact": "penalty", "as-drawn": "value", "rigid": "averaging",
            "averaging": "rigid", "solid": "plane-strain", "plane": "sphere", "force": "moment", "automatic": "full",
        }  # fmt: skip
        yield choices.get(value, f"{value}-other")
    elif isinstance(value, np.ndarray) and value.size:
        if np.issubdtype(value.dtype, np.floating):
            changed = value.copy()
            changed.flat[value.size // 2] += 0.01 * max(float(np.abs(value).max()), 1.0)
            yield changed
        else:
            yield value[:-1]
    elif isinstance(value, frozenset):
        yield value ^ {"floor"}
    elif value is None:
        yield from ("wall", "upper", "grip", 17.0, 1, Dynamics(0.01))


def _changed(item: Any, place: str) -> Iterator[tuple[str, Any]]:
    """Copies of a model's part, each with one field of it or of what it holds changed, and where."""
    if dataclasses.is_dataclass(item) and not isinstance(item, type):
        for entry in dataclasses.fields(item):
            at = f"{type(item).__name__}.{entry.name}"
            for where, new in _changed(getattr(item, entry.name), at):
                try:
                    yield where, dataclasses.replace(item, **{entry.name: new})
                except (UlmekError, ValueError):
                    continue
    elif isinstance(item, tuple) and item:
        for i, one in enumerate(item):
            for where, new in _changed(one, place):
                yield where, (*item[:i], new, *item[i + 1 :])
        yield place, item[:-1]
    elif isinstance(item, dict) and item:
        for key, one in list(item.items())[-1:]:
            for where, new in _changed(one, place):
                yield where, {**item, key: new}
            yield place, {k: v for k, v in item.items() if k != key}
    else:
        for new in _other(item):
            yield place, new


# What a solver that is not prepared for a broken model stumbles over, the same in both ways.
STUMBLES = (
    UlmekError, KeyError, IndexError, ValueError, StopIteration, TypeError, AssertionError, AttributeError,
    RuntimeError,
)  # fmt: skip


def _answer(model: Model, earlier: SolutionPath | None) -> list[Increment] | type[Exception]:
    try:
        path, _ = choose_path(model, earlier=earlier)
        return _run(path)
    except STUMBLES as error:
        return type(error)


@pytest.mark.filterwarnings("ignore")
@pytest.mark.parametrize("name", MODELS)
def test_kept_factors_answer_as_fresh_ones_whatever_field_changes(name: str) -> None:
    model, kept = _solved(name)
    seen: dict[str, int] = {}
    solved = 0
    for where, other in _changed(model, name):
        if seen.get(where, 0) == ENOUGH:
            continue
        answer, fresh = _answer(other, kept), _answer(other, None)
        seen[where] = seen.get(where, 0) + 1
        if isinstance(fresh, type) or isinstance(answer, type):
            assert answer is fresh, where
            continue
        solved += 1
        assert len(answer) == len(fresh), where
        for a, b in zip(answer, fresh, strict=True):
            size = float(np.abs(b.state.u).max())
            assert np.abs(a.state.u - b.state.u).max() <= 1e-9 * size, where
            force = float(np.abs(b.joint.forces).max(initial=1.0))
            assert np.abs(a.joint.forces - b.joint.forces).max(initial=0.0) <= 1e-9 * force, where
    print(f"{name}: {len(seen)} fields, {sum(seen.values())} changes, {solved} of them solved")  # noqa: T201
    assert solved > len(seen) / 2
    # No field of anything in the model was passed over.
    assert _fields_of(model) <= seen.keys()


def _fields_of(item: Any) -> set[str]:
    """Fields of everything in a model that hold something to change."""
    out: set[str] = set()
    if dataclasses.is_dataclass(item):
        for entry in dataclasses.fields(item):
            held = getattr(item, entry.name)
            within = _fields_of(held)
            empty = isinstance(held, (tuple, dict, np.ndarray)) and len(held) == 0
            out |= within or (set() if empty else {f"{type(item).__name__}.{entry.name}"})
    elif isinstance(item, tuple):
        out = set().union(*(_fields_of(one) for one in item)) if item else out
    return out
