"""What is done on the bench again and again, in few words."""

import re
from typing import Literal

from playwright.sync_api import Locator, Page, expect


def start_empty(page: Page, space: str = "solid") -> None:
    """A new study of a kind, from the shelf."""
    if space != "solid":
        choose(page, "Kind of study", space)
    page.get_by_role("button", name="Start empty").click()


def add_part(page: Page, recipe: str, **dimensions: str) -> None:
    """Add a part by recipe; dimensions by their labels, blanks as underscores."""
    page.get_by_role("button", name="Add a part").first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name=recipe, exact=True).click()
    for label, value in dimensions.items():
        field = dialog.get_by_label(label.replace("_", " "), exact=True)
        field.fill(value)
        field.press("Enter")
    dialog.get_by_role("button", name="Add ").click()
    expect(dialog).to_have_count(0)


def choose(page: Page, label: str, option: str) -> None:
    """Take an option of a list."""
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def select_part(page: Page, part: str) -> None:
    """Select a part on the map."""
    page.locator(f'[data-part="{part}"]').click()


def drawn_stage(page: Page) -> Locator:
    """The stage, once it shows the parts as they are now: only then is there anything to click at."""
    stage = page.locator('[data-testid="stage"][data-ready="yes"]')
    stage.wait_for()
    return stage


def click_stage(page: Page, x: float, y: float, button: Literal["left", "right"] = "left") -> None:
    """Click at a place of the drawn stage, in shares of its width and height."""
    area = drawn_stage(page).bounding_box()
    assert area is not None
    page.mouse.click(area["x"] + x * area["width"], area["y"] + y * area["height"], button=button)


def deselect(page: Page) -> None:
    """Click where the stage is empty: the study itself is inspected."""
    page.get_by_test_id("stage").click(position={"x": 20, "y": 120})


def pick(page: Page, part: str, face: str) -> None:
    """Pick a face by the list of the part's inspector."""
    select_part(page, part)
    choose(page, "Face", face)


def mate(page: Page, own: tuple[str, str], other: tuple[str, str], manner: str | None = None) -> None:
    """Bring a face of one part to a face of another."""
    pick(page, *own)
    page.get_by_role("button", name="Mate it…").click()
    if manner is not None:
        page.get_by_role("status").get_by_role("radio", name=manner).click()
    pick(page, *other)
    page.get_by_role("button", name=f"Bring {own[0]}/{own[1]} to this face").click()
    expect(page.get_by_role("status")).to_have_count(0)


def set_entry(page: Page, label: str, value: str, *, is_edit: bool = True) -> None:
    """Type an entry and see the edit made, where it makes one."""
    revision = page.get_by_test_id("revision").inner_text()
    field = page.get_by_label(label, exact=True)
    field.fill(value)
    field.press("Enter")
    if not is_edit:
        return
    expect(page.get_by_test_id("revision")).not_to_have_text(revision)


def hold_it(page: Page) -> None:
    """Hold the picked face, and see that what holds it is selected: what comes next must not come before."""
    page.get_by_role("button", name="Hold it").click()
    expect(page.get_by_role("heading", name=re.compile("^Hold"), level=2)).to_be_visible()


def handle_on_it(page: Page) -> None:
    """Put a handle on the picked face, and see that it is selected."""
    page.get_by_role("button", name="Handle on it").click()
    expect(page.get_by_role("heading", name=re.compile("^Handle of"), level=2)).to_be_visible()


def hold_some(page: Page, *directions: str) -> None:
    """Of the support that is selected, hold these directions only."""
    expect(page.get_by_role("heading", name=re.compile("^Hold"), level=2)).to_be_visible()
    page.get_by_role("radio", name="some").click()
    group = page.get_by_role("group", name="Directions held")
    expect(group).to_be_visible()
    for box in group.get_by_role("checkbox").all():
        name = box.evaluate("box => box.parentElement.innerText").strip()
        if box.is_checked() != (name in directions):
            box.click()
            expect(box).to_be_checked(checked=name in directions)


def direct(page: Page, x: str, y: str, z: str) -> None:
    """Give what is selected a direction, the largest component first: none may be zero altogether on the way."""
    for axis, value in sorted({"x": x, "y": y, "z": z}.items(), key=lambda item: item[1] == "0"):
        if page.get_by_label(axis, exact=True).input_value() != value:
            set_entry(page, axis, value)


def make_all_pairs(page: Page, count: int, *, within: str | None = None) -> None:
    """Find what touches, or comes close, and make pairs of it."""
    page.get_by_role("button", name="Find pairs").click()
    found = page.get_by_role("region", name="Faces that touch or come close")
    if within is not None:
        set_entry(page, "Search within", within, is_edit=False)
    expect(found.locator("[data-found]")).to_have_count(count)
    found.get_by_role("button", name="Make it a pair" if count == 1 else f"Make all {count} pairs").click()
    found.get_by_role("button", name="Close").click()


def run_to_the_end(page: Page) -> None:
    """Check and run, and go to the review."""
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=600_000)
    page.get_by_role("link", name="Review").last.click()
    expect(page.get_by_test_id("ledger")).to_be_visible()


def pressure(page: Page, *rows: str) -> float:
    """The peak pressure of a pair in the ledger, by one of the ids that it may have, MPa."""
    names = ", ".join(f'[data-row="{row}"] button b' for row in rows)
    return float(page.get_by_test_id("ledger").locator(names).first.inner_text())
