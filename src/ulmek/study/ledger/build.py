"""The ledger of a run at an increment, row by row."""

from ulmek.core.review.summary import Summary
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.ledger.cells import Ledger, Remark, Row
from ulmek.study.ledger.meetings import met
from ulmek.study.ledger.pairs import pair_row
from ulmek.study.ledger.parts import bolt_row, part_row
from ulmek.study.ledger.ways import passed_by


def build_ledger(study: StudyDocument, summaries: list[Summary], increment: int) -> Ledger:
    """The ledger at ``increment`` (position in ``summaries``), trends over all of them."""
    study = awake(study)
    shown = summaries[: increment + 1]
    remarks: list[Remark] = []
    rows = [
        *(pair_row(study, pair, shown, remarks) for pair in study.pairs),
        *(part_row(study, part, shown, remarks) for part in study.parts),
        *(bolt_row(study, bolt, shown, remarks) for bolt in study.bolts),
    ]
    remarks += [*met(study, shown), *passed_by(study, summaries[increment])]
    closing = summaries[increment].balance.closing_error
    return Ledger(increment=increment, rows=_by_joints(study, rows), remarks=remarks, closing_error=closing)


def _by_joints(study: StudyDocument, rows: list[Row]) -> list[Row]:
    """The rows with the pieces of each joint together, in the order of the joints, what belongs to none last."""
    sections = {"pair": "pairs", "part": "parts", "bolts": "bolts"}
    order: dict[tuple[str, str], int] = {
        (kind, i): n
        for n, joint in enumerate(study.joints)
        for kind, section in sections.items()
        for i in joint.pieces.of(section)
    }
    for row in rows:
        at = order.get((row.kind, row.id.split("#")[0]))
        row.joint = None if at is None else study.joints[at].name
    return sorted(rows, key=lambda row: order.get((row.kind, row.id.split("#")[0]), len(study.joints)))
