"""Verification: closed forms that the engine must reproduce, as ordinary studies."""

from ulmek.verify.belt import belt
from ulmek.verify.bend import bend
from ulmek.verify.bent_bar import bent_bar
from ulmek.verify.bolt_joint import bolt_joint, half_whole, sleeves
from ulmek.verify.case import Case, CaseResult, Check, run_case
from ulmek.verify.coulomb import coulomb
from ulmek.verify.crossing_beams import crossing_beams
from ulmek.verify.flange import flange
from ulmek.verify.folding import folding
from ulmek.verify.gears import gear_pair, gears_in_mesh, gears_turned, rack
from ulmek.verify.hertz_crossed import hertz_crossed
from ulmek.verify.hertz_line import hertz_line
from ulmek.verify.hertz_point import hertz_point
from ulmek.verify.incline import incline
from ulmek.verify.lock import lock
from ulmek.verify.partial_slip import partial_slip, slip_reversed
from ulmek.verify.patch import patch
from ulmek.verify.press_fit import press_fit
from ulmek.verify.punch import punch
from ulmek.verify.ring_down import ring_down
from ulmek.verify.rings import rings
from ulmek.verify.roll_up import roll_up
from ulmek.verify.rubber import rubber
from ulmek.verify.spin import spin
from ulmek.verify.tie_patch import tie_patch
from ulmek.verify.tube_plastic import tube_plastic
from ulmek.verify.turn import turn
from ulmek.verify.two_step import two_step
from ulmek.verify.uniaxial import uniaxial
from ulmek.verify.units import units
from ulmek.verify.widen import widen
from ulmek.verify.yield_onset import yield_onset

CASES: dict[str, Case] = {
    "patch": patch,
    "tie-patch": tie_patch,
    "bend": bend,
    "bent-bar": bent_bar,
    "lock": lock,
    "hertz-line": hertz_line,
    "hertz-point": hertz_point,
    "hertz-crossed": hertz_crossed,
    "punch": punch,
    "press-fit": press_fit,
    "rings": rings,
    "incline": incline,
    "coulomb": coulomb,
    "partial-slip": partial_slip,
    "slip-reversed": slip_reversed,
    "belt": belt,
    "bolt-joint": bolt_joint,
    "half-whole": half_whole,
    "sleeves": sleeves,
    "flange": flange,
    "two-step": two_step,
    "uniaxial": uniaxial,
    "tube-plastic": tube_plastic,
    "yield-onset": yield_onset,
    "turn": turn,
    "roll-up": roll_up,
    "rubber": rubber,
    "folding": folding,
    "spin": spin,
    "widen": widen,
    "rack": rack,
    "gear-pair": gear_pair,
    "gears-in-mesh": gears_in_mesh,
    "gears-turned": gears_turned,
    "crossing-beams": crossing_beams,
    "ring-down": ring_down,
    "units": units,
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
            limit, inside = ("reported", "–") if c.limit is None else (f"{c.limit:.4%}", "yes" if c.inside else "NO")
            unit = "" if c.unit == "–" else f" {c.unit}"
            lines.append(
                f"| {r.case} | {c.quantity} | {c.reference:.6g}{unit} | {c.computed:.6g}{unit} "
                f"| {c.error:.2%} | {limit} | {inside} |"
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
