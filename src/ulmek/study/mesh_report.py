"""How many elements a study has, how well they are shaped, and where the worst are."""

import numpy as np
from pydantic import BaseModel

from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.items import StudyDocument
from ulmek.study.translate import translate_parts

# Bins of the histogram of the scaled Jacobian from 0 to 1; how many of the worst elements are pointed at, and how far
# from each other these are (share of the part's size): neighbours would tell the same.
BINS, WORST, APART = 10, 3, 0.15


class WorstElement(BaseModel):
    """Where a badly shaped element is (mm, in the assembly), and its scaled Jacobian."""

    at: tuple[float, float, float]
    quality: float


class PartMesh(BaseModel):
    """The mesh of one part, all copies counted; least and mean scaled Jacobian (1: a cube), and how many elements
    of one copy lie in each tenth of it."""

    part: str
    name: str
    elements: int
    nodes: int
    least: float
    mean: float
    histogram: list[int]
    worst: list[WorstElement]


class MeshReport(BaseModel):
    """All parts, and the elements that the study has and may have."""

    parts: list[PartMesh]
    elements: int
    nodes: int
    budget: int


def mesh_report(study: StudyDocument) -> MeshReport:
    """Numbers and quality of the mesh of every part.

    Raises
    ------
    UlmekError : a part that cannot be meshed, with its place.
    """
    bodies = translate_parts(study) if study.parts else ()
    parts = []
    for part in study.parts:
        own = [b.mesh for b in bodies if b.name.split("#")[0] == part.id]
        parts.append(_part(part.id, part.name, own))
    return MeshReport(
        parts=parts, elements=sum(p.elements for p in parts), nodes=sum(p.nodes for p in parts),
        budget=study.element_budget,
    )  # fmt: skip


def _part(part: str, name: str, copies: list[VolumeMesh]) -> PartMesh:
    mesh = copies[0]
    quality = mesh.scaled_jacobians()
    counts, _ = np.histogram(np.clip(quality, 0, 1), bins=BINS, range=(0, 1))
    middles = mesh.nodes[mesh.cells].mean(axis=1)
    worst: list[int] = []
    for i in np.argsort(quality):
        if all(np.linalg.norm(middles[i] - middles[k]) > APART * np.ptp(mesh.nodes, axis=0).max() for k in worst):
            worst.append(int(i))
        if len(worst) == WORST:
            break
    marks = [
        WorstElement(at=(float(x), float(y), float(z)), quality=float(quality[i]))
        for i in worst
        for x, y, z in [middles[i]]
    ]
    return PartMesh(
        part=part, name=name, elements=sum(len(m.cells) for m in copies), nodes=sum(len(m.nodes) for m in copies),
        least=float(quality.min()), mean=float(quality.mean()), histogram=counts.tolist(), worst=marks,
    )  # fmt: skip
