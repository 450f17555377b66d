"""What the demo costs, and how that compares with one plain factorization of the same stiffness.

Inside each timed part: meshing is the cached mesher called on empty caches; assembly is element
stiffness and scatter; one factorization is analysis and numeric factorization of the tied assembly
with nothing kept; the whole solve is everything from the study to the last increment, meshing and
review numbers included. Seconds depend on the machine and its load: quote the ratios.
"""

import resource
import sys
import time

import scipy.sparse as sp
from threadpoolctl import threadpool_limits

from ulmek.core.solve.assembly import Structure
from ulmek.core.solve.condensed import condense
from ulmek.core.solve.layout import lay_out
from ulmek.core.solve.linear import factor_with_kept
from ulmek.demo import demo_study
from ulmek.runs.solve import THREADS, solve_study
from ulmek.study.schema import StudyDocument
from ulmek.study.translate import _cached_mesh, translate


def main() -> None:
    """Print the table."""
    study = demo_study("wall-bracket")
    with threadpool_limits(limits=THREADS):
        meshing, assembly, factorization = _parts(study)
    whole, outcome = _timed(lambda: solve_study(study))
    iterations = sum(s.iterations for s in outcome.steps)
    rows = [
        ("unknowns", f"{outcome.unknowns}"),
        ("interface unknowns", f"{outcome.joint_unknowns}"),
        ("increments, iterations", f"{sum(s.increments for s in outcome.steps)}, {iterations}"),
        ("meshing", f"{meshing:.2f} s"),
        ("assembly", f"{assembly:.2f} s"),
        ("one factorization", f"{factorization:.2f} s"),
        (
            "condensation (factor with kept rows, dense algebra)",
            f"{outcome.timing['factor'] + outcome.timing['condense']:.2f} s",
        ),
        ("joint iterations and review numbers", f"{outcome.timing['contact']:.2f} s"),
        ("whole solve", f"{whole:.2f} s"),
        ("factorizations in the whole solve", f"{outcome.timing['factorizations']}"),
        ("ratio: meshing to one factorization", f"{meshing / factorization:.2f}"),
        ("ratio: assembly to one factorization", f"{assembly / factorization:.2f}"),
        ("ratio: whole solve to one factorization", f"{whole / factorization:.1f}"),
        ("peak memory", f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"),
    ]
    for name, value in rows:
        sys.stdout.write(f"{name:54} {value}\n")


def _parts(study: StudyDocument) -> tuple[float, float, float]:
    """Seconds of meshing, assembly and one plain factorization."""
    translate(study)  # loads the compiled kernels
    _cached_mesh.cache_clear()
    meshing, model = _timed(lambda: translate(study))
    structure = Structure(model, lay_out(model))
    assembly, _ = _timed(structure.stiffness)
    system = condense(model)
    tied = system.stiffness + system.gather.T @ sp.diags(system.spring) @ system.gather
    free = system.constraints.matrix[:, system.constraints.free]
    block = sp.csr_matrix(free.T @ tied @ free)
    factor_with_kept(block, 0)  # first call: threads start
    factorization, _ = _timed(lambda: factor_with_kept(block, 0))
    return meshing, assembly, factorization


def _timed(action):  # type: ignore[no-untyped-def]
    began = time.perf_counter()
    result = action()
    return time.perf_counter() - began, result


if __name__ == "__main__":
    main()
