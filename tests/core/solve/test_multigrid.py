"""One cycle as an approximate inverse: of a block, of one with places of fewer unknowns, and with a border."""

import numpy as np
import pytest
import scipy.sparse as sp
from scipy.sparse.linalg import LinearOperator, cg

from tests.conftest import block_body
from ulmek.core.coupling.constraints import constrain
from ulmek.core.errors import LooseError
from ulmek.core.layout import lay_out
from ulmek.core.model import Face, Model, Step, Support
from ulmek.core.solve import multigrid
from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.iterative import rigid_modes
from ulmek.core.solve.multigrid import Multigrid
from ulmek.core.solve.products import product


def _plate(mesh: float, *, guided: bool = False) -> tuple[sp.csr_matrix, np.ndarray, np.ndarray]:
    """Stiffness of a slender plate that is clamped at one end, the numbers of its unknowns and their rigid motions;
    ``guided``: its lower face slides on a plane, so that places there have two unknowns."""
    body = block_body("plate", (80, 20, 5), mesh)
    supports = (Support("root", (Face("plate", "left"),), (True, True, True)),)
    if guided:
        supports += (Support("guide", (Face("plate", "bottom"),), (False, False, True)),)
    model = Model((body,), (), (), supports, (), (Step("s"),))
    layout = lay_out(model)
    constraints = constrain(model, layout)
    free = sp.csr_matrix(constraints.matrix[:, constraints.free])
    stiffness = sp.csr_matrix(free.T @ Structure(model, layout).stiffness() @ free)
    return stiffness, constraints.free, rigid_modes(layout, constraints)[constraints.free]


def _iterations(stiffness: sp.csr_matrix, cycle: Multigrid) -> int:
    heard: list[float] = []
    load = np.cos(np.arange(stiffness.shape[0]))
    guide = LinearOperator(stiffness.shape, matvec=cycle)
    found, info = cg(stiffness, load, rtol=1e-8, maxiter=200, M=guide, callback=lambda _: heard.append(0.0))
    assert info == 0
    assert np.linalg.norm(stiffness @ found - load) < 2e-8 * np.linalg.norm(load)
    return len(heard)


@pytest.mark.parametrize("guided", [False, True])
def test_cycles_need_as_few_iterations_on_a_fine_mesh(guided: bool) -> None:
    counts = []
    for mesh in (2.5, 1.25):
        stiffness, kept, modes = _plate(mesh, guided=guided)
        counts.append(_iterations(stiffness, Multigrid(stiffness, kept, modes)))
    assert counts[0] < 40
    assert counts[1] < 1.5 * counts[0]


def test_a_cycle_is_symmetric_and_positive() -> None:
    stiffness, kept, modes = _plate(2.5)
    cycle = Multigrid(stiffness, kept, modes)
    x, y = np.random.default_rng(1).standard_normal((2, len(kept)))
    assert x @ cycle(y) == pytest.approx(y @ cycle(x), rel=1e-4)
    assert x @ cycle(x) > 0


def test_what_everything_is_coupled_to_borders_the_rest(monkeypatch: pytest.MonkeyPatch) -> None:
    """A master that moves the whole far end along, as a handle does."""
    stiffness, kept, modes = _plate(2.5)
    grips = sp.random(stiffness.shape[0], 1, density=0.3, random_state=2, format="csr")
    moves = sp.hstack([sp.identity(stiffness.shape[0]), grips], format="csr")
    bordered = sp.csr_matrix(moves.T @ stiffness @ moves + sp.diags([0.0] * stiffness.shape[0] + [stiffness.max()]))
    number, none = np.append(kept, kept.max() + 3), np.vstack([modes, np.zeros((1, 6))])
    monkeypatch.setattr(multigrid, "LONG_ROW", 400)
    cycle = Multigrid(bordered, number, none)
    assert list(cycle._border) == [stiffness.shape[0]]
    assert _iterations(bordered, cycle) < 45


def test_a_matrix_that_holds_nothing_is_refused() -> None:
    stiffness, kept, modes = _plate(5.0)
    with pytest.raises(LooseError):
        Multigrid(sp.csr_matrix(stiffness.shape), kept, modes)


def test_products_are_those_of_the_whole_matrix() -> None:
    stiffness, _, _ = _plate(2.5)
    for kind in (np.float64, np.float32):
        matrix, x = stiffness.astype(kind), np.sin(np.arange(stiffness.shape[0])).astype(kind)
        found = product(matrix, x)
        assert found.dtype == kind
        assert np.abs(found - matrix @ x).max() < 10 * np.finfo(kind).eps * np.abs(found).max()
