"""Every view and dialogue stands before an accessibility audit (axe-core): contrast, labels, landmarks, headings."""

from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from tests.web.doing import drawn_stage

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"


def _audit(page: Page, inside: str = "html") -> list[str]:
    """What the audit finds within an element: the rule and the first place of each."""
    page.add_script_tag(path=AXE)
    found: list[dict[str, Any]] = page.evaluate("inside => axe.run(inside).then(done => done.violations)", inside)
    return [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found]


def test_the_audit_finds_nothing_on_any_view_or_dialogue(page: Page) -> None:
    expect(page.get_by_role("button", name="Start empty")).to_be_visible()
    assert _audit(page) == []
    page.get_by_role("button", name="Start from the demo Pinion and sector").click()
    drawn_stage(page)
    expect(page.get_by_label("in order").first).to_be_visible()
    # The bench with each kind of thing selected.
    for selector in ("[data-part]", "[data-pair]", '[data-sign^="load/"]', '[data-sign^="support/"]'):
        page.locator(selector).first.click()
        assert _audit(page) == [], selector
    page.get_by_role("button", name="1 Drive").click()
    assert _audit(page) == []
    for opened in ("Add a part", "From file"):
        page.get_by_role("button", name=opened, exact=True).click()
        expect(page.get_by_role("dialog")).to_be_visible()
        assert _audit(page, "[role=dialog]") == [], opened
        page.keyboard.press("Escape")
    page.locator('[data-sign^="load/"]').first.click()
    page.get_by_role("button", name="Draw Drive").click()
    assert _audit(page, "[role=dialog]") == []
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Find pairs").click()
    expect(page.get_by_role("region", name="Faces that touch or come close")).to_be_visible()
    assert _audit(page) == []
    page.get_by_role("button", name="Close").click()
    page.locator("body").press("Control+k")
    assert _audit(page, "[role=dialog]") == []
    page.get_by_role("textbox", name="Find or do").fill("units that values")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Units that values are read in")).to_be_visible()
    assert _audit(page, "[role=dialog]") == []
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=120_000)
    assert _audit(page) == []
    page.get_by_role("link", name="Review").last.click()
    expect(page.get_by_test_id("ledger")).to_be_visible()
    assert _audit(page) == []
    page.locator("[data-row] button").first.click()
    expect(page.get_by_test_id("legend")).to_be_visible()
    assert _audit(page) == []
