"""A pinned joint from nothing, on the page: three recipes, mated, pairs found, held, pulled, run, read."""

from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import add_part, direct, mate, pick, set_entry, start_empty


def test_a_pinned_joint_from_nothing(page: Page) -> None:
    start_empty(page)
    page.get_by_role("button", name="Add the first part").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Find a recipe").fill("ears")
    dialog.get_by_role("button", name="Fork", exact=True).click()
    # Impossible dimensions are explained beside the picture, and nothing can be added.
    hole = dialog.get_by_label("Hole diameter", exact=True)
    hole.fill("60 mm")
    hole.press("Enter")
    expect(dialog.get_by_role("alert")).to_contain_text("leaves too little of 50 mm")
    expect(dialog.get_by_role("button", name="Add fork")).to_be_disabled()
    hole.fill("20 mm")
    hole.press("Enter")
    dialog.get_by_role("button", name="Add fork").click()
    expect(page.locator('[data-part="fork"]')).to_be_visible()
    add_part(page, "Lug")
    add_part(page, "Pin, plain or shouldered", Diameter="20 mm", Length_of_the_shank="60 mm")

    mate(page, ("lug", "hole"), ("fork", "lower.hole"))
    mate(page, ("lug", "bottom"), ("fork", "lower.inside"))
    mate(page, ("pin", "shank"), ("fork", "lower.hole"))
    mate(page, ("pin", "shoulder"), ("fork", "bottom"))
    # The lug points out of the fork: half a turn, and it leans against neither ear.
    page.locator('[data-part="lug"]').click()
    set_entry(page, "by", "180 deg")
    for part in ("fork", "lug", "pin"):
        page.locator(f'[data-part="{part}"]').click()
        set_entry(page, "Element size", "7 mm")
        set_entry(page, "Elements a turn", "16")

    page.get_by_role("button", name="Find pairs").click()
    found = page.get_by_role("region", name="Faces that touch or come close")
    rows = found.locator("[data-found]")
    expect(rows).to_have_count(6)
    rows.filter(has_text="upper.inside").get_by_role("button", name="Leave out").click()
    found.get_by_role("button", name="Make all 5 pairs").click()
    expect(found).to_contain_text("Everything that touches is in a pair")
    found.get_by_role("button", name="Close").click()

    pick(page, "fork", "root")
    page.get_by_role("button", name="Hold it").click()
    expect(page.get_by_role("heading", name="Hold Fork")).to_be_visible()
    pick(page, "lug", "root")
    page.get_by_role("button", name="Force on it").click()
    expect(page.get_by_label("Load", exact=True)).to_be_visible()
    # It begins out of the face.
    direct(page, "1", "0", "0")
    set_entry(page, "Load", "4 kN")
    # The pin may turn in its holes: hold its end.
    pick(page, "pin", "top")
    page.get_by_role("button", name="Hold it").click()
    # A second step, thought better of; a support taken out and put back.
    page.get_by_role("button", name="Add a step").click()
    page.get_by_role("button", name="2 Step 2").click()
    page.get_by_role("button", name="Take the step out").click()
    expect(page.get_by_role("button", name="2 Step 2")).to_have_count(0)
    held = page.get_by_label("Sequence board").get_by_role("button", name="Hold Fork", exact=True)
    held.click()
    page.get_by_role("button", name="Take it out").click()
    expect(held).to_have_count(0)
    page.locator("body").press("Control+z")
    expect(held).to_be_visible()
    preflight = findings(page)
    expect(preflight).to_contain_text("Nothing is loose")
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=120_000)
    page.get_by_role("link", name="Review").last.click()
    row = page.get_by_test_id("ledger").locator('[data-row="lug-pin"]')
    expect(row).to_contain_text("MPa")
    row.get_by_role("button").first.click()
    expect(page.get_by_text("Force across")).to_be_visible()
