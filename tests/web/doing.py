"""What is done on the bench again and again, in few words."""

import re

from playwright.sync_api import Page, expect


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


def pick(page: Page, part: str, face: str) -> None:
    """Pick a face by the list of the part's inspector."""
    page.locator(f'[data-part="{part}"]').click()
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


def set_entry(page: Page, label: str, value: str) -> None:
    """Type an entry and see the edit made."""
    revision = page.get_by_test_id("revision").inner_text()
    field = page.get_by_label(label, exact=True)
    field.fill(value)
    field.press("Enter")
    expect(page.get_by_test_id("revision")).not_to_have_text(revision)


def hold_it(page: Page) -> None:
    """Hold the picked face, and see that what holds it is selected: what comes next must not come before."""
    page.get_by_role("button", name="Hold it").click()
    expect(page.get_by_role("heading", name=re.compile("^Hold"), level=2)).to_be_visible()


def direct(page: Page, x: str, y: str, z: str) -> None:
    """Give what is selected a direction, the largest component first: none may be zero altogether on the way."""
    for axis, value in sorted({"x": x, "y": y, "z": z}.items(), key=lambda item: item[1] == "0"):
        if page.get_by_label(axis, exact=True).input_value() != value:
            set_entry(page, axis, value)


def make_all_pairs(page: Page, count: int) -> None:
    """Find what touches and make pairs of it."""
    page.get_by_role("button", name="Find pairs").click()
    found = page.get_by_role("region", name="Faces that touch or come close")
    expect(found.locator("[data-found]")).to_have_count(count, timeout=60_000)
    found.get_by_role("button", name="Make it a pair" if count == 1 else f"Make all {count} pairs").click()
    found.get_by_role("button", name="Close").click()


def run_to_the_end(page: Page) -> None:
    """Check and run, and go to the review."""
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved", timeout=240_000)
    page.get_by_role("link", name="Review").last.click()
    expect(page.get_by_test_id("ledger")).to_be_visible()
