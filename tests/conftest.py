"""Shared pieces: small models and studies whose answers are known in closed form."""

import dataclasses
from typing import Any

import numpy as np
import pytest

from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.material.elastic import Elastic
from ulmek.core.mesh.sweep import mesh_layered
from ulmek.core.model import Body
from ulmek.core.solve.history import Increment
from ulmek.core.solve.state import Iteration
from ulmek.verify.case import base_document, block_part

STEEL = Elastic(210e3, 0.3, 355.0)


def block_body(name: str, size: tuple[float, float, float], mesh: float, *, at: float = 0.0, turn: float = 0.0) -> Body:
    """A block of ``size`` (mm), its bottom at height ``at``, turned about z by ``turn`` (rad)."""
    solid = RECIPES["block"].solid(dict(zip(("length", "depth", "height"), size, strict=True)))
    plain = mesh_layered(solid, size=mesh)
    c, s = np.cos(turn), np.sin(turn)
    nodes = plain.nodes @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]]) + [0, 0, at]
    return Body(name, dataclasses.replace(plain, nodes=nodes), STEEL)


class Recorder:
    """Listener that keeps every increment."""

    def __init__(self) -> None:
        self.increments: list[Increment] = []
        self.cutbacks = 0

    def step_began(self, index: int, step: object) -> None: ...

    def iterated(self, step: int, time: float, iteration: Iteration) -> None: ...

    def cut_back(self, step: int, time: float, size: float, *, slowly: bool = False) -> None:
        self.cutbacks += 1

    def converged(self, increment: Increment) -> None:
        self.increments.append(increment)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What drives the page takes longest and comes first: at the end no process waits for another's last test."""
    items.sort(key=lambda item: not item.nodeid.startswith("tests/web/"))


@pytest.fixture
def two_blocks() -> dict[str, Any]:
    """A small slider pressed on a base: solves in a second."""
    study = base_document("two-blocks", "Two blocks")
    study["parts"] = [block_part("base", (60, 60, 20), 15), block_part("slider", (40, 40, 10), 10, at=20)]
    study["pairs"] = [{"id": "joint", "name": "Slider – base", "a": ["slider/bottom"], "b": ["base/top"]}]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["base/bottom"]}]
    study["loads"] = [
        {"id": "press", "name": "Press", "kind": "pressure", "faces": ["slider/top"], "values": {"press": "20 MPa"}},
        {"id": "push", "name": "Push", "kind": "force", "faces": ["slider/right"], "direction": [-1, 0, 0],
         "values": {"push": "2 kN"}},
    ]  # fmt: skip
    study["steps"] = [{"id": "press", "name": "Press"}, {"id": "push", "name": "Push"}]
    return study
