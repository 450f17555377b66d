"""Studies are settled from the bench: a coarse roller beside what Hertz says of it, a sharp corner that is named."""

import re

from playwright.sync_api import Page, expect

from tests.api.test_settling import _coarse
from ulmek.verify.coarse import bracket
from ulmek.verify.hertz_line import Line


def test_a_coarse_roller_is_settled_kept_and_stands_beside_hertz(page: Page, address: str) -> None:
    study = page.request.post(address + "api/studies", data={"document": _coarse()}).json()["id"]
    page.goto(f"{address}studies/{study}/bench")
    page.get_by_role("button", name="Settle…").click()
    page.get_by_label("Within (%)").fill("5")
    page.get_by_role("button", name="Settle", exact=True).click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    table = page.get_by_test_id("settled")
    expect(table).to_contain_text("Every measure is settled, or singular.")
    row = table.get_by_role("row", name=re.compile("peak pressure"))
    expect(row).to_have_attribute("data-state", "settled")
    values = [float(cell.replace("–", "nan")) for cell in row.get_by_role("cell").all_inner_texts()[1:-2]]
    assert values[0] < 0.8 * Line().peak
    assert abs(values[-1] / Line().peak - 1) < 0.05

    page.get_by_role("link", name="Review").last.click()
    ledger = page.get_by_test_id("ledger")
    # What is small beside a cell is told in its tooltip.
    expect(ledger.locator('svg[aria-label^="Roller – base, peak pressure, on"] circle')).to_have_count(len(values))
    expect(ledger.get_by_role("button", name=re.compile("^Roller – base, Pressure"))).to_have_attribute(
        "title", re.compile("on . meshes: .* goes to")
    )
    expect(ledger).to_contain_text(f"By hand: peak pressure {Line().peak:.0f} MPa")
    check = page.get_by_test_id("hand-check")
    expect(check).to_contain_text("Half width of what presses")
    expect(page.get_by_text("No metal has yielded: met")).to_be_attached()

    page.get_by_role("link", name="Run", exact=True).click()
    page.get_by_role("button", name="Keep these sizes").click()
    expect(page.get_by_test_id("revision")).to_have_text("r2")
    page.get_by_role("button", name=re.compile("^Undo: Sizes found")).click()
    expect(page.get_by_test_id("revision")).to_have_text("r3")


def test_a_sharp_corner_is_named_and_shown(page: Page, address: str) -> None:
    document = bracket(0.0).model_dump(mode="json")
    study = page.request.post(address + "api/studies", data={"document": document}).json()["id"]
    page.goto(f"{address}studies/{study}/bench")
    page.get_by_role("button", name="Settle…").click()
    page.get_by_role("button", name="Settle", exact=True).click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    row = page.get_by_test_id("settled").get_by_role("row", name=re.compile("use of strength"))
    expect(row).to_have_attribute("data-state", "singular")
    expect(row).to_contain_text("a sharp inner corner (give it a radius)")

    page.get_by_role("link", name="Review").last.click()
    page.get_by_role("button", name="singular", exact=True).click()
    labels = page.get_by_test_id("stage").get_by_text("a sharp inner corner (give it a radius)")
    expect(labels.first).to_be_visible()
    places = page.get_by_role("list", name="Highest places").get_by_role("button")
    expect(places.first).to_contain_text("singular: a sharp inner corner (give it a radius)")
