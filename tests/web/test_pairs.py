"""The table of all pairs on the page: two sets of contact properties for nine parts and twelve pairs."""

import itertools
from typing import Any

from playwright.sync_api import Page, expect

from tests.web.doing import choose, set_entry
from ulmek.verify.case import base_document, block_part

SIDE, HIGH = 20, 10


def _wall_of_blocks() -> dict[str, Any]:
    """Nine blocks, three beside each other in three courses, with the twelve pairs between them."""
    study = base_document("blocks", "Nine blocks")
    study["parts"] = []
    for column, course in itertools.product(range(3), range(3)):
        block = block_part(f"b{column}{course}", (SIDE, SIDE, HIGH), 10, at=course * HIGH)
        block["placements"] = [{"at": [f"{column * SIDE} mm", "0 mm", f"{course * HIGH} mm"]}]
        study["parts"].append(block)
    study["pairs"] = [
        {"id": f"bed-{c}{k}", "name": f"Bed {c}{k}", "a": [f"b{c}{k + 1}/bottom"], "b": [f"b{c}{k}/top"]}
        for c, k in itertools.product(range(3), range(2))
    ] + [
        {"id": f"joint-{c}{k}", "name": f"Upright {c}{k}", "a": [f"b{c}{k}/right"], "b": [f"b{c + 1}{k}/left"]}
        for c, k in itertools.product(range(2), range(3))
    ]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": [f"b{c}0/bottom" for c in range(3)]}]
    study["steps"] = [{"id": "load", "name": "Load"}]
    return study


def test_nine_parts_and_twelve_pairs_with_two_sets_of_contact_properties(page: Page) -> None:
    made = page.request.post(page.url + "api/studies", data={"document": _wall_of_blocks()}).json()["id"]
    page.goto(f"{page.url}studies/{made}/bench")
    page.get_by_role("button", name="All pairs").click()
    table = page.get_by_role("table", name="Pairs")
    expect(table.locator("[data-pair-row]")).to_have_count(12)
    # Two properties, each begun from a pair.
    for pair, name, mu in (("Bed 00", "Mortar", "0.6"), ("Upright 00", "Dry", "0.2")):
        table.get_by_text(pair, exact=True).click()
        page.get_by_role("button", name="share it with other pairs").click()
        expect(page.get_by_role("heading", name="Of 1 pair")).to_be_visible()
        set_entry(page, "Name", name)
        set_entry(page, "Friction coefficient µ", mu)
    together = page.get_by_role("group", name="Set together")
    for sought, name in (("bed", "Mortar"), ("upright", "Dry")):
        page.get_by_label("Find among the pairs").fill(sought)
        expect(table.locator("[data-pair-row]")).to_have_count(6)
        page.get_by_label("Mark all that are shown").check()
        together.get_by_label("Property").select_option(name)
        expect(table.get_by_role("cell", name=name, exact=True)).to_have_count(6)
        page.get_by_label("Mark all that are shown").uncheck()
    page.get_by_label("Find among the pairs").fill("")
    # A change of one is a change of all that have it.
    table.get_by_text("Bed 21", exact=True).click()
    page.get_by_role("button", name="open it").click()
    expect(page.get_by_role("heading", name="Of 6 pairs")).to_be_visible()
    set_entry(page, "Friction coefficient µ", "0.5")
    expect(table.get_by_role("cell", name="µ 0.5", exact=True)).to_have_count(6)
    expect(table.get_by_role("cell", name="µ 0.2", exact=True)).to_have_count(6)
    # A pair of its own again, and all as it was with one step back.
    table.get_by_text("Bed 21", exact=True).click()
    choose(page, "Contact property", "its own")
    set_entry(page, "Friction coefficient µ", "0.1")
    expect(table.get_by_role("cell", name="µ 0.1", exact=True)).to_have_count(1)
    page.get_by_role("button", name="Undo").click()
    expect(table.get_by_role("cell", name="µ 0.5", exact=True)).to_have_count(6)
