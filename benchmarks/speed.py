"""What solving costs, as ratios to one plain factorization of the same stiffness, measured in one run.

Inside each timed part: meshing is the mesher on empty caches; assembly is element stiffness, sparse
pattern and scatter;
one factorization is analysis and numeric factorization of the tied assembly with nothing kept; the
condensed path is everything from the meshed model to the last increment, without review numbers; a
what-if is the same again with another friction coefficient, on the kept factor and with first trials from
the history before; an iteration of the full
path is one of Newton's steps with everything in it; a sample of a series is what the whole of it takes for one
more, by all workers together. Seconds depend on the machine: quote the ratios.
"""

import argparse
import contextlib
import cProfile
import dataclasses
import multiprocessing
import pstats
import re
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import scipy.sparse as sp
from threadpoolctl import threadpool_limits

from ulmek.core.contact.finder import find_touching
from ulmek.core.contact.interface import all_rows, build_interface, widened
from ulmek.core.contact.nodes import contact_nodes
from ulmek.core.coupling.constraints import constrain
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES
from ulmek.core.layout import lay_out
from ulmek.core.material.elastic import Elastic
from ulmek.core.material.plastic import Plastic
from ulmek.core.mesh.free import mesh_free
from ulmek.core.mesh.solid import mesh_solid
from ulmek.core.mesh.volume import VolumeMesh
from ulmek.core.model import Body, Face, Increments, Load, Model, Pair, PairLaw, Step, Support
from ulmek.core.review.hot_spots import hot_spots
from ulmek.core.review.inside import Cells, places, plane_cut
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.condensed import Condensed
from ulmek.core.solve.condensed_path import CondensedPath
from ulmek.core.solve.full_path import FullPath
from ulmek.core.solve.history import Increment, Landmark, solve_history
from ulmek.core.solve.linear import factor_with_kept
from ulmek.core.solve.state import Iteration
from ulmek.demo import DEMOS, demo_study
from ulmek.runs.series import run_series
from ulmek.runs.solve import THREADS, solve_study
from ulmek.study.checks import hand_checks
from ulmek.study.meshes import forget_meshes
from ulmek.study.translate import translate

Result = TypeVar("Result")
# Of a series that shows what a sample costs.
SAMPLES = 24
# One Newton iteration needs no history: two increments of the first step show its price.
FULL_INCREMENTS = 2


class _Enough(Exception):
    """Ends a run that has shown what it costs."""


class _Counter:
    """Counts iterations and increments; may end the run."""

    def __init__(self, most: int = 10**9) -> None:
        self.iterations, self.most = 0, most
        self.history: list[Landmark] = []

    @property
    def increments(self) -> int:
        return len(self.history)

    def step_began(self, index: int, step: Step) -> None: ...

    def iterated(self, step: int, time: float, iteration: Iteration) -> None:
        self.iterations += 1

    def cut_back(self, step: int, time: float, size: float, *, slowly: bool = False) -> None: ...

    def converged(self, increment: Increment) -> None:
        self.history.append(increment.landmark)
        if self.increments >= self.most:
            raise _Enough


class _Forgetful(_Counter):
    """Keeps no history: the memory is the solver's alone."""

    def converged(self, increment: Increment) -> None: ...


def main() -> None:
    """Print one table per model."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--full-on-all", action="store_true", help="also time the full path on the largest model")
    options = parser.parse_args()
    with threadpool_limits(limits=THREADS):
        translate(demo_study("wall-bracket"))
        CondensedPath(two_blocks(12.0))  # compiled kernels are loaded
        forget_meshes()
        meshing, model = _timed(lambda: translate(demo_study("wall-bracket")))
        plain = _table("wall-bracket: five bodies, nine pairs, four bolts", model, full=True)
        _row("meshing to one factorization", meshing / plain)
        bricks = sum(len(body.mesh.cells) for body in model.bodies)
        _row("seconds of meshing for 100k bricks", 1e5 * meshing / bricks)
        searching, _ = _timed(lambda: find_touching(model.bodies, distance=1.0, angle=40.0))
        _row("search for touching faces to one factorization", searching / plain)
        for size in (2.0, 1.6):
            blocks = two_blocks(size)
            _table("two blocks, one pair", blocks, full=size > 1.9 or options.full_on_all)
    _bricks()
    _tetrahedra()
    _mixed(yielding_punch(2.6, 24.0))
    for name in MODELS:
        alone, condensed = _peak(_factor_alone, name), _peak(_condensed_alone, name)
        sys.stdout.write(f"\n{name}: peak memory, each in a process of its own\n")
        _row("MB of assembly and one plain factorization", alone, form=".0f")
        _row("condensed path, whole history, to that", condensed / alone)
    whole, outcome = _timed(lambda: solve_study(demo_study("wall-bracket")))
    sys.stdout.write("\nwall-bracket from document to result, review numbers included\n")
    _row("whole solve to one factorization", whole / plain)
    _row("increments", sum(s.increments for s in outcome.steps), form="d")
    _series(plain)
    for name in DEMOS:
        _estimates(name)
    sys.stdout.write(f"peak memory of this process: {_peak_so_far():.0f} MB\n")


def _series(plain: float) -> None:
    """What a sample of a series costs once each worker has its factors."""
    study = demo_study("wall-bracket")
    series = study.series[0].model_copy(update={"samples": SAMPLES})
    told: list[tuple[int, float, int]] = []
    with tempfile.TemporaryDirectory() as folder:
        run_series(study, series, Path(folder), tell=lambda p: told.append((p.done, time.perf_counter(), p.workers)))
    # Each worker's first sample is left out.
    begun = next((done, at) for done, at, workers in told if done >= 2 * workers)
    sys.stdout.write(f"\nwall-bracket, a series on {told[-1][2]} workers\n")
    _row("a sample to one factorization", (told[-1][1] - begun[1]) / (told[-1][0] - begun[0]) / plain)


def _estimates(name: str) -> None:
    """What the estimates of error and the hand checks are of a whole run, and recovery of stress with summaries."""
    study = demo_study(name)
    profile = cProfile.Profile()
    whole, outcome = _timed(lambda: profile.runcall(solve_study, study))
    checks, _ = _timed(lambda: hand_checks(study, translate(study), outcome.summaries))
    estimates = _seconds_of(("review/trust.py", "review/recover.py/disagreement"), profile)
    _row(f"{name}: estimates of error to the whole run", estimates / whole, form=".3f")
    _row(f"{name}: hand checks to the whole run", checks / whole, form=".3f")
    _row(f"{name}: recovery, summaries and all of review to the whole run", outcome.timing["review"] / whole)


def _seconds_of(wanted: tuple[str, ...], profile: cProfile.Profile) -> float:
    """Seconds in functions or whole modules, called from elsewhere, and in all that they call."""
    called: dict[Any, Any] = pstats.Stats(profile).stats  # type: ignore[attr-defined]

    def is_wanted(function: tuple[str, int, str]) -> bool:
        return any(f"{function[0]}/{function[2]}".endswith(w) or function[0].endswith(w) for w in wanted)

    seconds: float = sum(
        by[3]
        for function, (*_, callers) in called.items()
        if is_wanted(function)
        for caller, by in callers.items()
        if not is_wanted(caller)
    )
    return seconds


def two_blocks(size: float) -> Model:
    """Two blocks with unlike meshes, pressed in 5 increments and sheared to 0.8 µp in 5."""
    steel = Elastic(210e3, 0.3)

    def block(name: str, mesh: float, at: float) -> Body:
        solid = RECIPES["block"].solid({"length": 50, "depth": 50, "height": 25})
        plain = mesh_solid(solid, size=mesh)
        return Body(name, dataclasses.replace(plain, nodes=plain.nodes + np.array([0, 0, at])), steel)

    law = PairLaw(True, "friction", 0.3)
    fifth = Increments(0.2, 0.01, 0.2)
    top = (Face("upper", "top"),)
    return Model(
        (block("lower", 1.13 * size, 0.0), block("upper", size, 25.0)),
        (Pair("joint", (Face("upper", "bottom"),), (Face("lower", "top"),), law, 1.0),),
        (),
        (Support("floor", (Face("lower", "bottom"),), (True, True, True)),),
        (Load("press", "pressure", top), Load("push", "force", top, (1.0, 0.0, 0.0))),
        (
            Step("press", {"press": 50.0}, increments=fifth),
            Step("push", {"push": 0.8 * 0.3 * 50.0 * 2500}, increments=fifth),
        ),
    )


def yielding_punch(size: float, across: float) -> Model:
    """A small punch that yields, pressed on a large elastic block and pushed."""
    law, top = PairLaw(True, "friction", 0.3), (Face("punch", "top"),)
    base = mesh_solid(RECIPES["block"].solid({"length": 80, "depth": 80, "height": 50}), size=size)
    small = mesh_solid(RECIPES["block"].solid({"length": across, "depth": across, "height": 20}), size=across / 10)
    small = dataclasses.replace(small, nodes=small.nodes + np.array([0, 0, 50.0]))
    soft = Plastic(210e3, 0.3, ((0.0, 40.0), (0.05, 300.0)))
    return Model(
        (Body("base", base, Elastic(210e3, 0.3)), Body("punch", small, soft)),
        (Pair("joint", (Face("punch", "bottom"),), (Face("base", "top"),), law, 1.0),),
        (),
        (Support("floor", (Face("base", "bottom"),), (True, True, True)),),
        (Load("press", "pressure", top), Load("push", "force", top, (1.0, 0.0, 0.0))),
        (Step("press", {"press": 60.0}), Step("push", {"push": 6.0 * across**2})),
    )


def _mixed(model: Model) -> None:
    """The mixed path beside the full one, over the same first increments."""
    seconds = {}
    for way in ("full", "mixed"):
        some = _Counter(FULL_INCREMENTS)
        began = time.perf_counter()
        path = FullPath(model, way=way)
        with contextlib.suppress(_Enough):
            solve_history(path, some)
        seconds[way] = time.perf_counter() - began
    assert path.linear.interior is not None
    sys.stdout.write("\na yielding punch on a large elastic block\n")
    _row("unknowns", path.unknowns, form="d")
    _row("unknowns that stay in Newton's method", path.unknowns - len(path.linear.interior.inner), form="d")
    _row("full path to mixed path, two increments", seconds["full"] / seconds["mixed"])


def _table(title: str, model: Model, *, full: bool) -> float:
    """Ratios of one model; gives the seconds of one plain factorization."""
    began = time.perf_counter()
    path = CondensedPath(model)
    prepared = time.perf_counter() - began
    counter = _Counter()
    history, _ = _timed(lambda: solve_history(path, counter))
    plain = _plain_factorization(path.system)
    assembly, _ = _timed(Structure(model, path.system.layout).stiffness)
    other = _other_friction(model)
    heard = _Counter()
    again, repeated = _timed(lambda: _again(other, path, counter.history, heard))
    sys.stdout.write(f"\n{title}\n")
    _row("unknowns", path.unknowns, form="d")
    _row("unknowns at the joint", path.joint_unknowns, form="d")
    _row("increments", counter.increments, form="d")
    _row("iterations", counter.iterations, form="d")
    _row("seconds of one plain factorization", plain)
    _row("assembly to one factorization", assembly / plain)
    _row("condensed path, all, to one factorization", (prepared + history) / plain)
    _row("of which condensing", prepared / plain)
    _row("what-if (another µ) to one factorization", again / plain)
    _row("what-if to the condensed path", again / (prepared + history))
    _row("iterations in the what-if", heard.iterations, form="d")
    _row("factorizations in the what-if", repeated.timing.factorizations, form="d")
    if full:
        _full(model, plain, counter, prepared + history)
    return plain


def _bricks() -> None:
    """Meshing a swept solid of about 100k bricks beside one factorization of its stiffness."""
    solid = RECIPES["plate"].solid({"thickness": 40, "hole_diameter": 30})
    mesh_solid(solid, size=20.0)  # compiled kernels are loaded
    meshing, mesh = _timed(lambda: mesh_solid(solid, size=3.0))
    sys.stdout.write("\na plate with four holes\n")
    _row("bricks", len(mesh.cells), form="d")
    _row("seconds of meshing for 100k bricks", 1e5 * meshing / len(mesh.cells))
    factoring = _factorization_of(mesh)
    _row("meshing to one factorization", meshing / factoring)
    cells = [Cells(mesh.kind, mesh.cells, np.zeros(len(mesh.cells), np.int64))]
    low, high = mesh.nodes.min(axis=0), mesh.nodes.max(axis=0)
    for name, look in (
        ("cut by a plane", lambda: plane_cut(mesh.nodes, cells, np.array([1.0, 0.3, 0.2]), 1.0)),
        ("path of 300 points", lambda: places(mesh.nodes, cells, np.linspace(low, high, 300))),
        ("hot spots", lambda: hot_spots(cells, mesh.nodes[:, 0] * mesh.nodes[:, 1])),
    ):
        _row(f"{name} to one factorization", _timed(look)[0] / factoring, form=".3f")


def _tetrahedra() -> None:
    """Meshing a free-form solid beside one factorization of its stiffness."""
    shape = kernel.shape_of(RECIPES["bolt"].solid({}))
    mesh_free(shape, size=8.0)  # compiled kernels are loaded
    meshing, mesh = _timed(lambda: mesh_free(shape, size=1.6))
    sys.stdout.write("\na bolt as a free-form solid\n")
    _row("tetrahedra", len(mesh.cells), form="d")
    _row("seconds of meshing for 50k tetrahedra", 5e4 * meshing / len(mesh.cells))
    _row("meshing to one factorization", meshing / _factorization_of(mesh))


def _factorization_of(mesh: VolumeMesh) -> float:
    """Seconds of one plain factorization of the stiffness of a mesh that is held at one face."""
    held = next(iter(mesh.faces))
    model = Model(
        (Body("part", mesh, Elastic(210e3, 0.3)),), (), (), (Support("s", (Face("part", held),), (True, True, True)),),
        (), (Step("load", {}),),
    )  # fmt: skip
    structure = Structure(model, lay_out(model))
    constraints = constrain(model, structure.layout)
    free = sp.csr_matrix(constraints.matrix[:, constraints.free])
    block = sp.csr_matrix(free.T @ structure.stiffness() @ free)
    factor_with_kept(block, 0)
    return _timed(lambda: factor_with_kept(block, 0))[0]


def _tied_block(system: Condensed) -> sp.csr_matrix:
    free = system.constraints.matrix[:, system.constraints.free]
    tied = system.stiffness + system.gather.T @ sp.diags(system.spring) @ system.gather
    return sp.csr_matrix(free.T @ tied @ free)


def _peak(action: Callable[[str], None], name: str) -> float:
    """Largest memory (MB) of a fresh process that does ``action`` on a model."""
    with multiprocessing.get_context("spawn").Pool(1) as pool:
        return pool.apply(_memory_of, (action, name))


def _memory_of(action: Callable[[str], None], name: str) -> float:
    with threadpool_limits(limits=THREADS):
        action(name)
    return _peak_so_far()


def _peak_so_far() -> float:
    """Largest memory (MB) of this process; rusage would count what its parent had when it was made."""
    status = Path("/proc/self/status").read_text()
    return int(re.search(r"VmHWM:\s+(\d+)", status)[1]) / 1024  # type: ignore[index]


def _condensed_alone(name: str) -> None:
    solve_history(CondensedPath(MODELS[name]()), _Forgetful())


def _factor_alone(name: str) -> None:
    """The same stiffness, factored with nothing kept."""
    model = MODELS[name]()
    structure = Structure(model, lay_out(model))
    constraints = constrain(model, structure.layout)
    interfaces = tuple(
        widened(build_interface(model, pair, model.nodes()), model, structure.layout) for pair in model.pairs
    )
    gather = all_rows(interfaces, 3 * structure.layout.n_total)
    nodes, _ = contact_nodes(model, interfaces, sp.csr_matrix(constraints.matrix[:, constraints.free]))
    spring = np.repeat(nodes.area * nodes.stiffness, 3)
    free = constraints.matrix[:, constraints.free]
    factor_with_kept(sp.csr_matrix(free.T @ (structure.stiffness() + gather.T @ sp.diags(spring) @ gather) @ free), 0)


def _plain_factorization(system: Condensed) -> float:
    block = _tied_block(system)
    factor_with_kept(block, 0)  # first call: threads start
    return min(_timed(lambda: factor_with_kept(block, 0))[0] for _ in range(2))


def _other_friction(model: Model) -> Model:
    pairs = tuple(
        dataclasses.replace(p, law=dataclasses.replace(p.law, mu=1.1 * p.law.mu)) if p.law.mu else p
        for p in model.pairs
    )
    return dataclasses.replace(model, pairs=pairs)


def _again(model: Model, earlier: CondensedPath, like: list[Landmark], listener: _Counter) -> CondensedPath:
    path = CondensedPath(model, earlier=earlier)
    assert path.is_reused
    solve_history(path, listener, like=like)
    return path


def _full(model: Model, plain: float, condensed: _Counter, condensed_seconds: float) -> None:
    full, some = FullPath(model), _Counter(FULL_INCREMENTS)
    began = time.perf_counter()
    with contextlib.suppress(_Enough):
        solve_history(full, some)
    each = (time.perf_counter() - began) / some.iterations
    factoring = full.timing.factor / full.timing.factorizations
    _row("full path: an iteration to one factorization", each / plain)
    _row("full path: an iteration to its own factorization", each / factoring)
    _row("full path, all iterations expected, to the condensed path", each * condensed.iterations / condensed_seconds)


def _row(name: str, value: float, *, form: str = ".2f") -> None:
    sys.stdout.write(f"  {name:58} {value:{form}}\n")


def _timed(action: Callable[[], Result]) -> tuple[float, Result]:
    began = time.perf_counter()
    result = action()
    return time.perf_counter() - began, result


MODELS: dict[str, Callable[[], Model]] = {
    "wall-bracket": lambda: translate(demo_study("wall-bracket")),
    "two blocks, 42k": lambda: two_blocks(2.0),
    "two blocks, 91k": lambda: two_blocks(1.6),
}

if __name__ == "__main__":
    main()
