"""Verification: closed forms that the engine must reproduce, as ordinary studies."""

from ulmek.verify.bend import bend
from ulmek.verify.bolt_joint import bolt_joint
from ulmek.verify.case import Case, CaseResult, Check, run_case
from ulmek.verify.coulomb import coulomb
from ulmek.verify.patch import patch
from ulmek.verify.press_fit import press_fit

CASES: dict[str, Case] = {
    "patch": patch,
    "bend": bend,
    "press-fit": press_fit,
    "coulomb": coulomb,
    "bolt-joint": bolt_joint,
}


def run_cases(names: list[str]) -> list[CaseResult]:
    """Run the named cases in order."""
    return [run_case(name, CASES[name]) for name in names]


def table(results: list[CaseResult]) -> str:
    """Markdown table of all checks, and what each case reports besides."""
    lines = [
        "| case | quantity | reference | computed | error | limit | inside |",
        "|---|---|---|---|---|---|---|",
    ]
    for r in results:
        for c in r.checks:
            unit = "" if c.unit == "–" else f" {c.unit}"
            lines.append(
                f"| {r.case} | {c.quantity} | {c.reference:.6g}{unit} | {c.computed:.6g}{unit} "
                f"| {c.error:.2%} | {c.limit:.4%} | {'yes' if c.inside else 'NO'} |"
            )
    lines += [
        "",
        "| case | balance closes to | largest penetration, exact | increments | iterations | cutbacks | time |",
    ]
    lines += ["|---|---|---|---|---|---|---|"]
    for r in results:
        lines.append(
            f"| {r.case} | {r.closing_error:.1e} | {r.penetration:.1e} mm | {r.increments} | {r.iterations} "
            f"| {r.cutbacks} | {r.seconds:.1f} s |"
        )
    return "\n".join(lines)


__all__ = ["CASES", "CaseResult", "Check", "run_cases", "table"]
