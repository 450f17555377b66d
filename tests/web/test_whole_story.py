"""The whole story in real Chromium: open the demo, edit, run, watch, read the ledger, see a pair, undo."""

import re

from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import drawn_stage

RUN_SECONDS = 400


def _set(page: Page, label: str, value: str, revision: int) -> None:
    field = page.get_by_label(label, exact=True)
    field.fill(value)
    field.press("Enter")
    expect(page.get_by_test_id("revision")).to_have_text(f"r{revision}")


PICTURE = "document.querySelector('[data-testid=stage] canvas').toDataURL()"


def _picture(page: Page) -> str:
    return str(page.evaluate(PICTURE))


def _expect_another_picture(page: Page, before: str) -> None:
    page.wait_for_function(f"before => {PICTURE} !== before", arg=before)


def test_whole_story(page: Page) -> None:
    page.get_by_role("button", name="Start from the demo Wall bracket").click()
    expect(page.get_by_test_id("revision")).to_have_text("r1")
    drawn_stage(page)

    # Friction of the flange, from the joint map; selecting there shows the pair on the stage.
    before = _picture(page)
    page.locator('[data-pair="flange"]').click()
    expect(page.get_by_role("heading", name="Bracket – wall plate")).to_be_visible()
    _expect_another_picture(page, before)
    _set(page, "Friction coefficient µ", "0.2", 2)
    expect(page.locator('[data-pair="flange"]')).to_contain_text("µ 0.2")

    # A dimension, coarser meshes, and a wrong entry that is explained and can be mended.
    page.locator('[data-part="bracket"]').click()
    _set(page, "Flange thickness", "22 mm", 3)
    thickness = page.get_by_label("Flange thickness", exact=True)
    thickness.fill("22 parsnips")
    thickness.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not a known unit")
    thickness.press("Escape")
    expect(thickness).to_have_value("22 mm")
    _set(page, "Element size", "18 mm", 4)

    # The flange grew 4 mm into the heads: preflight says so until the bolts are longer.
    expect(findings(page)).to_contain_text("do not face each other")
    page.locator('[data-part="bolts"]').click()
    _set(page, "Grip length", "42 mm", 5)
    _set(page, "Element size", "9 mm", 6)
    expect(findings(page)).to_contain_text("Nothing is loose")

    # Preload on the board.
    page.get_by_role("button", name="Bolts ×4, Preload: 0 → 42 kN").click()
    _set(page, "Bolts ×4 in Preload", "40 kN", 7)
    expect(page.get_by_role("button", name="Bolts ×4, Preload: 0 → 40 kN")).to_be_visible()

    # Run, and watch it go.
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_label("Run log")).to_contain_text("Setting up")
    expect(page.get_by_label("Run log")).to_contain_text("of step 1 reached", timeout=RUN_SECONDS * 1000)
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=RUN_SECONDS * 1000)
    expect(page.get_by_role("progressbar")).to_have_attribute("aria-valuenow", "100")

    # The ledger, and one pair's pressure on the stage.
    page.get_by_role("link", name="Review").last.click()
    ledger = page.get_by_test_id("ledger")
    expect(ledger.locator("[data-row]")).to_have_count(9)
    expect(ledger.locator('[data-row="bolts:bolts"]')).to_contain_text("×Y")
    heads = ledger.locator('[data-row="heads"] button').first
    before = _picture(page)
    heads.click()
    shown = page.get_by_test_id("shown")
    expect(shown).to_have_attribute("data-shown", re.compile(r"^pair/heads/pressure/"))
    peak = float(heads.locator("b").inner_text())
    assert 100 < peak < 2000
    expect(page.get_by_test_id("legend")).to_contain_text(re.compile(r"MPa"))
    # The same pair laid flat, with a value under the pointer.
    imprint = page.get_by_test_id("imprint")
    expect(imprint).to_have_attribute("data-kind", "flat")
    canvas = imprint.locator("canvas")
    box = canvas.bounding_box()
    assert box is not None
    canvas.hover(position={"x": 4, "y": box["height"] / 2})
    _expect_another_picture(page, before)
    at_end = _picture(page)

    # The play head, back to the first increment: another picture, another readout.
    head = page.get_by_role("slider", name="Play head")
    head.focus()
    head.press("Home")
    expect(shown).to_have_attribute("data-shown", "pair/heads/pressure/0")
    expect(heads).not_to_contain_text(str(peak))
    _expect_another_picture(page, at_end)
    expect(page.locator('[data-lane="bolt/bolts"]')).to_contain_text("20.0 kN")

    # Undo takes the preload back.
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("revision")).to_have_text("r8")
    page.get_by_role("link", name="Bench").click()
    expect(page.get_by_role("button", name="Bolts ×4, Preload: 0 → 42 kN")).to_be_visible()
