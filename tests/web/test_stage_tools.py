"""On the stage: teeth brought into mesh, distances measured, a section, and a covered face picked."""

from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import add_part, choose, click_stage, pick, set_entry, start_empty


def test_gears_are_placed_measured_and_looked_into(page: Page) -> None:
    start_empty(page)
    add_part(page, "Spur gear or toothed sector", Teeth_of_the_whole_gear="17")
    add_part(page, "Spur gear or toothed sector", Teeth_of_the_whole_gear="23")
    pick(page, "gear-2", "bore")
    page.get_by_role("button", name="Mate it…").click()
    waiting = page.get_by_role("status")
    waiting.get_by_role("radio", name="touching").click()
    pick(page, "gear", "bore")
    bring = page.get_by_role("button", name="Bring gear-2/bore to this face")
    bring.click()
    # Two holes cannot touch each other: said, and nothing moves.
    expect(waiting.get_by_role("alert")).to_contain_text("two holes cannot touch")
    waiting.get_by_role("radio", name="teeth in mesh").click()
    bring.click()
    expect(waiting).to_have_count(0)

    page.get_by_role("button", name="measure").click()
    panel = page.get_by_label("Measure", exact=True)
    _pick_under(page, "top", 0)
    expect(panel).to_contain_text("Volume of")
    panel.get_by_label("Force", exact=True).fill("3 kN")
    panel.get_by_label("Force", exact=True).press("Enter")
    # 3 kN on both flat sides of a ring: what is measured is reckoned too.
    expect(panel.get_by_role("group", name="By hand")).to_contain_text("Mean pressure F/A")
    _pick_under(page, "bottom", 0)
    # The default width of 20 mm lies between them.
    expect(panel).to_contain_text("20.000 mm")
    page.get_by_role("button", name="Stop measuring").click()

    # With the section on, what is cut away is not picked any more.
    _pick_under(page, "top", 0)
    expect(page.get_by_role("heading", name="Picked face · top")).to_be_visible()
    page.locator("label", has_text="section").get_by_role("checkbox").check()
    control = page.get_by_role("group", name="Section")
    control.get_by_role("radio", name="z").click()
    click_stage(page, 0.5, 0.5, "right")
    under = page.get_by_label("Faces under the pointer")
    expect(under.get_by_role("button", name="bottom").first).to_be_visible()
    expect(under.get_by_role("button", name="top")).to_have_count(0)
    click_stage(page, 0.8, 0.8)

    # A gear in two: the other one keeps its name.
    page.locator('[data-part="gear"]').click()
    choose(page, "Across", "z")
    where = page.get_by_label("at z", exact=True)
    where.fill("30 mm")
    where.press("Enter")
    page.get_by_role("button", name="Cut the part").click()
    expect(page.get_by_text("does not cut")).to_be_visible()
    where.fill("10 mm")
    where.press("Enter")
    page.get_by_role("button", name="Cut the part").click()
    expect(page.locator('[data-pair="gear-tie"]')).to_be_visible()
    for part in ("gear-1", "gear-2", "gear-3"):
        expect(page.locator(f'[data-part="{part}"]')).to_be_visible()


def _pick_under(page: Page, face: str, index: int) -> None:
    """Pick a face under the middle of the stage, covered or not."""
    click_stage(page, 0.5, 0.5, "right")
    page.get_by_label("Faces under the pointer").get_by_role("button", name=face).nth(index).click()


def test_a_block_is_pushed_on_a_datum_wall_by_a_handle(page: Page) -> None:
    start_empty(page)
    add_part(page, "Block", **{"Length (x)": "20 mm", "Depth (y)": "20 mm", "Height (z)": "10 mm"})
    pick(page, "block", "bottom")
    page.get_by_role("button", name="Wall against it").click()
    expect(page.get_by_role("heading", name="Wall at Block")).to_be_visible()
    expect(page.get_by_label("z", exact=True)).to_have_value("1")
    pick(page, "block", "top")
    page.get_by_role("button", name="Handle on it").click()
    expect(page.get_by_label("at z", exact=True)).to_have_value("10 mm")
    page.get_by_role("button", name="Move it").click()
    expect(page.get_by_role("heading", name="Motion")).to_be_visible()
    set_entry(page, "z", "-1")
    # The motion holds the handle along z; a support holds the rest of it.
    page.locator("body").press("Control+k")
    page.get_by_role("textbox", name="Find or do").fill("handle of block")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Hold it").click()
    page.get_by_role("radio", name="some").click()
    for part in ("z", "turn x", "turn y", "turn z"):
        box = page.get_by_role("checkbox", name=part, exact=True)
        wanted = part != "z"
        if box.is_checked() != wanted:
            box.click()
            expect(box).to_be_checked(checked=wanted)
    # Another material, and a table that cannot be read, said where it stands.
    page.get_by_test_id("stage").click(position={"x": 20, "y": 430})
    page.get_by_role("combobox", name="Add a material").click()
    page.get_by_role("option", name="Bronze").click()
    page.locator('[data-part="block"]').click()
    page.get_by_role("combobox", name="Material").click()
    page.get_by_role("option", name="Bronze").click()
    page.get_by_role("button", name="Add a copy").click()
    expect(findings(page)).to_contain_text("twice in one place")
    page.get_by_role("button", name="Take this copy out").click()
    expect(findings(page)).to_contain_text("Nothing is loose")
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=120_000)
    page.get_by_role("link", name="Review").last.click()
    # 0.1 mm on 10 mm of bronze: at least E·ε = 1050 MPa, more where the rigid ends hold the sides.
    row = page.get_by_test_id("ledger").locator('[data-row="at-wall"]')
    expect(row).to_contain_text("MPa")
