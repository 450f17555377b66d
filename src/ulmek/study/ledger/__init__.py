"""The ledger: what came back, pair by pair and part by part, each with its band, its verdict and advice."""

from ulmek.study.ledger.build import build_ledger
from ulmek.study.ledger.cells import COLUMNS, Cell, Ledger, Remark, Row

__all__ = ["COLUMNS", "Cell", "Ledger", "Remark", "Row", "build_ledger"]
