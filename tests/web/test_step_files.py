"""An assembly from a STEP file on the page: looked at, added, paired, and one solid replaced by an edited one."""

from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect

from ulmek.core.geometry import kernel
from ulmek.core.geometry.recipes import RECIPES


def _write(path: Path, *parts: tuple[str, Any]) -> Path:
    kernel.write_step(parts, path)
    return path


def _shape(recipe: str, **dimensions: float) -> Any:
    return kernel.shape_of(RECIPES[recipe].solid(dimensions))


def test_parts_come_from_a_file_and_one_is_replaced(page: Page, tmp_path: Path) -> None:
    disc = ("Foot disc", _shape("disc", diameter=40, thickness=10))
    plate = ("Floor plate", kernel.moved(_shape("block", length=60, depth=60, height=10), *_down(10)))
    page.get_by_role("button", name="Start empty").click()
    page.get_by_role("button", name="From a STEP file").click()
    dialog = page.get_by_role("dialog")
    chooser = dialog.get_by_label("STEP file", exact=True)
    broken = tmp_path / "broken.step"
    broken.write_bytes(b"not a drawing")
    chooser.set_input_files(broken)
    expect(dialog.get_by_role("alert")).to_contain_text("not a STEP file")
    chooser.set_input_files(_write(tmp_path / "foot.step", disc, plate))
    dialog.get_by_role("button", name="Floor plate").click()
    expect(dialog.get_by_text("60.0 mm")).to_have_count(2)
    dialog.get_by_role("button", name="Add 2 parts").click()
    expect(dialog).to_have_count(0)

    page.get_by_role("button", name="Find pairs").click()
    page.get_by_role("button", name="Make it a pair").click()
    page.keyboard.press("Escape")
    pair = page.locator('[data-pair="foot-disc-floor-plate"]')
    expect(pair).to_be_visible()

    page.locator('[data-part="floor-plate"]').click()
    page.get_by_role("button", name="Replace the file").click()
    wider = kernel.moved(_shape("block", length=80, depth=60, height=12), *_down(12))
    chooser.set_input_files(_write(tmp_path / "wider.step", ("Floor plate", wider)))
    dialog.get_by_role("button", name="Replace the solid").click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("wider.step, solid 1")).to_be_visible()
    expect(pair).to_be_visible()
    # The mesh panel counts and refines, and stays within what is allowed only as long as it is told.
    counted = page.locator("button[aria-expanded]", has_text="elements")
    before = counted.inner_text()
    counted.click()
    panel = page.get_by_label("Mesh", exact=True)
    panel.get_by_role("button", name="Finer").click()
    expect(counted).not_to_have_text(before)
    expect(panel.get_by_role("img")).to_have_count(2)
    allowed = panel.get_by_label("Elements allowed")
    allowed.fill("500")
    allowed.press("Enter")
    expect(page.get_by_text("more than the 500 that it may have")).to_be_visible()
    panel.get_by_role("button", name="Close the mesh panel").click()
    # Half of the disc, its cut held: proposed where the cut is.
    page.locator('[data-part="foot-disc"]').click()
    page.get_by_role("combobox", name="Modelled").click()
    page.get_by_role("option", name="its half, y ≥ 0").click()
    page.get_by_role("button", name="Hold the cut as symmetry").click()
    expect(page.get_by_role("button", name="Hold the cut as symmetry")).to_have_count(0)


def _down(height: float) -> tuple[Any, Any]:
    return np.eye(3), np.array([0.0, 0.0, -height])
