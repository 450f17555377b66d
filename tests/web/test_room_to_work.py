"""Room to work on the bench: panels that fold and are found again, lines of an inspector, faces picked into a list."""

import json

from playwright.sync_api import Page, expect

from tests.web.doing import click_stage, drawn_stage


def _open_bracket(page: Page) -> int:
    """The demo's study; gives its number."""
    made = page.request.post(page.url + "api/studies", data={"demo": "wall-bracket"}).json()
    page.goto(f"{page.url}studies/{made['id']}/bench")
    drawn_stage(page)
    return int(made["id"])


def _document(page: Page, study: int) -> dict[str, object]:
    address = page.url.split("/studies/")[0]
    return dict(page.request.get(f"{address}/api/studies/{study}").json()["document"])


def test_panels_fold_are_dragged_and_are_found_again(page: Page) -> None:
    _open_bracket(page)
    stage = page.get_by_test_id("stage")
    narrow = stage.bounding_box()
    assert narrow is not None
    page.get_by_role("button", name="Fold the joint map").click()
    page.get_by_role("button", name="Fold the sequence").click()
    expect(page.get_by_role("button", name="Unfold the sequence")).to_be_visible()
    wide = stage.bounding_box()
    assert wide is not None
    assert wide["width"] > narrow["width"] + 200
    assert wide["height"] > narrow["height"] + 150
    # The steps stay in the one line that is left.
    expect(page.get_by_label("Sequence board").get_by_text("Preload").first).to_be_in_viewport()
    page.reload()
    expect(page.get_by_role("button", name="Unfold the joint map")).to_be_visible()
    page.get_by_role("button", name="Unfold the joint map").click()
    page.get_by_role("button", name="Unfold the sequence").click()
    # With the keys: the line between stage and inspector.
    line = page.get_by_role("separator", name="Width of the inspector")
    before = page.get_by_label("the inspector", exact=True).bounding_box()
    line.focus()
    for _ in range(3):
        line.press("ArrowLeft")
    after = page.get_by_label("the inspector", exact=True).bounding_box()
    assert before is not None
    assert after is not None
    assert after["width"] > before["width"] + 10


def test_the_inspector_of_a_part_shows_fifteen_lines_at_1280_by_800(page: Page) -> None:
    _open_bracket(page)
    expect(page.get_by_label("in order").first).to_be_visible()
    page.locator('[data-part="bracket"]').click()
    inspector = page.get_by_label("the inspector", exact=True)
    expect(inspector.get_by_label("Flange width")).to_be_visible()
    area = inspector.locator(".overflow-auto").first.bounding_box()
    assert area is not None
    lines: set[int] = set()
    words = inspector.locator("label, h2, h3, p, [role=combobox]")
    for box in (words.nth(i).bounding_box() for i in range(words.count())):
        if box is not None and box["y"] >= area["y"] and box["y"] + box["height"] <= area["y"] + area["height"]:
            lines.add(round((box["y"] + box["height"] / 2) / 12))
    assert len(lines) >= 15, sorted(lines)
    # Nothing beside the lines either: no main view scrolls sideways.
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


def test_faces_are_picked_into_a_support_one_after_another(page: Page) -> None:
    study = _open_bracket(page)
    page.get_by_label("Sequence board").get_by_role("button", name="Wall plate, edges", exact=True).click()
    before = _document(page, study)["supports"]
    assert isinstance(before, list)
    page.get_by_role("button", name="Pick faces").click()
    expect(page.get_by_text("Click faces on the stage")).to_be_visible()
    # The right button lists what is under it, so that the test need not know where a face is drawn.
    click_stage(page, 0.3, 0.5, "right")
    page.get_by_label("Faces under the pointer").get_by_role("button").first.click()
    expect(page.get_by_test_id("revision")).to_have_text("r2")
    taken = _document(page, study)["supports"]
    assert isinstance(taken, list)
    added = set(taken[0]["faces"]) - set(before[0]["faces"])
    assert len(added) == 1, json.dumps(taken[0])
    # Picked again it goes; the support stays selected all the while.
    click_stage(page, 0.3, 0.5, "right")
    page.get_by_label("Faces under the pointer").get_by_role("button").first.click()
    expect(page.get_by_test_id("revision")).to_have_text("r3")
    assert _document(page, study)["supports"] == before
    expect(page.get_by_role("heading", name="Wall plate, edges")).to_be_visible()
    page.get_by_role("button", name="Done picking").click()
    expect(page.get_by_text("Click faces on the stage")).to_have_count(0)
