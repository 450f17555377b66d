"""Preflight of a large study in a process of its own: meanwhile its edits are answered as quickly as ever."""

from ulmek.core.mesh.volume import VolumeMesh
from ulmek.study.aside import aside, at_home
from ulmek.study.items import Part, StudyDocument
from ulmek.study.meshes import part_mesh, take_meshes_from
from ulmek.study.preflight import Preflight, preflight

# Parts and pairs of a study up to which a check takes less than it costs to have it done elsewhere.
FEW = 16


def checked(study: StudyDocument) -> Preflight:
    """What `preflight` finds.

    Raises
    ------
    MeshError : checking broke down.
    """
    if len(study.parts) + len(study.pairs) <= FEW:
        return preflight(study)
    return aside("the check before the run", _checked, study, shop="checks")


def _checked(study: StudyDocument) -> Preflight:
    take_meshes_from(_mesh_from_home)
    return preflight(study)


def _mesh_from_home(part: Part, section: bool) -> VolumeMesh:
    """Meshed where it can be stopped and is kept for the stage too."""
    return at_home(_own_mesh, part, section)


def _own_mesh(part: Part, section: bool) -> VolumeMesh:
    return part_mesh(part, section=section)
