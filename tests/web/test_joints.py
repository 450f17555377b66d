"""Joints made as wholes, from an empty study to a verdict, in as many clicks and entries as are counted here."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.web.counting import Counted
from tests.web.doing import run_to_the_end, start_empty
from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES


def _parts(work: Counted, *recipes: tuple[str, dict[str, str]]) -> None:
    """Add parts one after another, from the first."""
    work.press("Add the first part")
    dialog = work.page.get_by_role("dialog")
    for number, (recipe, dimensions) in enumerate(recipes):
        if dialog.get_by_role("button", name=recipe, exact=True).get_attribute("aria-pressed") != "true":
            work.press(recipe, within=dialog)
        for label, value in dimensions.items():
            if dialog.get_by_label(label, exact=True).input_value() != value:
                work.enter(label, value, within=dialog)
        is_last = number == len(recipes) - 1
        work.press(f"Add {recipe.lower()}" if is_last else "And another", within=dialog)
        if not is_last:
            expect(dialog.get_by_text("added.")).to_be_visible()
    expect(dialog).to_have_count(0)


def _verdict(work: Counted) -> None:
    """Run, and see a verdict in the ledger, under the joint's name."""
    work.actions += 1
    run_to_the_end(work.page)
    ledger = work.page.get_by_test_id("ledger")
    expect(ledger.get_by_text("joint", exact=False).first).to_be_visible()
    expect(ledger.locator("[data-grade=good], [data-grade=watch], [data-grade=bad]").first).to_be_visible()


def test_a_lap_joint_with_three_bolts_in_eighteen_actions(page: Page) -> None:
    start_empty(page)
    work = Counted(page)
    plate = {"Holes across": "3", "Holes up": "1"}
    _parts(work, ("Plate", plate), ("Plate", plate))
    work.press("Make a joint")
    expect(page.get_by_text("Makes Bolts M16 ×3, 5 pairs, 1 step.")).to_be_visible()
    work.made()
    for part in ("plate", "plate-2"):
        work.click(page.locator(f'[data-part="{part}"]'))
        work.enter("Element size", "25 mm")
        work.enter("Elements a turn", "8")
    work.pick("Plate · edge.left", (0.24, 0.6))
    work.press("Hold it")
    work.pick("Plate 2 · edge.top", (0.5, 0.15))
    work.press("Force on it")
    _verdict(work)
    assert work.actions <= 18, work.actions


def test_a_pinned_fork_and_lug_in_fourteen_actions(page: Page) -> None:
    start_empty(page)
    work = Counted(page)
    _parts(work, ("Fork", {}), ("Lug", {}))
    work.press("Make a joint")
    expect(page.get_by_text("Makes Pin, 3 pairs, 1 soft spring.")).to_be_visible()
    work.made()
    work.pick("Fork · root", (0.12, 0.6))
    work.press("Hold it")
    work.key("3")
    work.pick("Lug · root", (0.5, 0.5))
    work.press("Force on it")
    _verdict(work)
    assert work.actions <= 14, work.actions


def test_a_press_fit_by_class_in_ten_actions(page: Page) -> None:
    start_empty(page)
    work = Counted(page)
    _parts(work, ("Washer or sleeve", {"Thickness": "20 mm"}))
    work.press("Make a joint")
    work.enter("By name", "washer/bore")
    work.enter("Fit", "H7/r6")
    work.made()
    _verdict(work)
    assert work.actions <= 10, work.actions


def test_a_gear_pair_in_twelve_actions(page: Page) -> None:
    start_empty(page)
    work = Counted(page)
    gear = {"Width (z)": "5 mm"}
    _parts(work, ("Spur gear or toothed sector", gear), ("Spur gear or toothed sector", gear))
    work.press("Make a joint")
    work.made()
    _verdict(work)
    assert work.actions <= 12, work.actions


def test_a_step_bracket_on_a_datum_wall_by_torque_in_twenty_two_actions(page: Page, tmp_path: Path) -> None:
    dimensions = {"flange_width": 160, "arm_length": 90, "hole_diameter": 17.5}
    kernel.write_step([("Bracket", kernel.shape_of(RECIPES["bracket"].solid(dimensions)))], tmp_path / "bracket.step")
    start_empty(page)
    work = Counted(page)
    work.press("From a STEP file")
    dialog = page.get_by_role("dialog")
    work.actions += 1
    dialog.get_by_label("STEP file", exact=True).set_input_files(tmp_path / "bracket.step")
    work.press("Add the part", within=dialog)
    expect(dialog).to_have_count(0)
    work.click(page.locator('[data-part="bracket"]'))
    work.enter("Element size", "20 mm")
    work.enter("Elements a turn", "8")
    work.press("Make a joint")
    work.choose("Tightened by", "torque")
    work.enter("Tightening moment", "80 N*m")
    making = page.get_by_role("region", name="Make a joint")
    expect(making).to_contain_text("3 pairs, 1 datum wall, 1 support, 1 step")
    expect(making).to_contain_text("25.0 kN")
    work.made()
    work.pick("Bracket · plane.6", (0.64, 0.65))
    work.press("Force on it")
    _verdict(work)
    assert work.actions <= 22, work.actions
