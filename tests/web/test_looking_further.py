"""Review of a section as the solid that it is of, beside another field, and what is handed on of it."""

import csv
import re
from pathlib import Path
from typing import Any

import av
from playwright.sync_api import Page, expect

from tests.api.test_handing_on import press_fit
from tests.web.doing import choose, click_stage, drawn_stage
from tests.web.test_review import _beside, _review, _show_base


def _highest(page: Page) -> float:
    return float(page.locator('[data-label="highest"]').inner_text().strip().removeprefix("highest ").split(" ")[0])


# Where the axes point on the screen is the same on all stages, and another than it was.
TURNED_TOGETHER = """(before) => {
  const now = [...document.querySelectorAll("svg[aria-label^='Axes of the study'] g")].map((g) => g.innerHTML);
  return now.length === 6 && now[0] !== before && now.slice(0, 3).join() === now.slice(3).join();
}"""


def test_a_press_fit_is_followed_along_its_seat_and_seen_as_a_solid(page: Page, tmp_path: Path) -> None:
    _review(page, press_fit())
    # The pair first: curves along the outline in place of an imprint.
    expect(page.get_by_test_id("along-outline")).to_contain_text("Presses over 30.0 mm")
    with page.expect_download() as download:
        page.get_by_role("region", name="Along the outline").get_by_role("button", name="Save as CSV").click()
    download.value.save_as(tmp_path / "outline.csv")
    titles, *rows = csv.reader((tmp_path / "outline.csv").read_text().splitlines())
    assert titles == ["way (mm)", "pressure (MPa)", "friction (MPa)", "µp (MPa)", "−µp (MPa)", "gap (mm)"]
    assert all(abs(float(r[2])) <= float(r[3]) * 1.001 + 1e-6 for r in rows)
    stage = page.get_by_test_id("stage")
    expect(stage).to_have_attribute("data-strokes", "0")
    page.get_by_role("button", name="friction", exact=True).click()
    expect(stage).to_have_attribute("data-strokes", re.compile("[1-9]"))

    # The ring, about the axis of the study, as a section and as a solid: the same highest stress.
    page.locator('[data-row="ring"]').get_by_role("button").first.click()
    choose(page, "Field", "Hoop stress")
    drawn_stage(page)
    flat = _highest(page)
    assert 50 < flat < 120
    choose(page, "Axis", "axis along x")
    expect(page.locator('[data-label="highest"]')).not_to_contain_text(f"highest {flat:.1f}")
    choose(page, "Axis", "its own axis")
    expect(page.locator('[data-label="highest"]')).to_contain_text(f"highest {flat:.1f}")
    page.get_by_role("button", name="solid", exact=True).click()
    drawn_stage(page)
    assert _highest(page) == flat

    # Another field beside it is looked at from the same side.
    page.get_by_role("button", name="beside", exact=True).click()
    beside = page.get_by_role("group", name="Beside", exact=True)
    expect(beside.get_by_test_id("beside")).to_have_text("increment 2, Press")
    choose(page, "Field beside", "Radial displacement")
    expect(beside.get_by_test_id("legend")).to_contain_text("mm")
    before = page.locator("svg[aria-label^='Axes of the study'] g").first.inner_html()
    box = page.get_by_test_id("stage").first.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 25, steps=4)
    page.mouse.up()
    page.wait_for_function(TURNED_TOGETHER, arg=before)
    page.get_by_role("button", name="beside", exact=True).click()
    expect(beside).to_have_count(0)

    # An animation of what is shown, and the report.
    page.get_by_role("button", name="Animation").click()
    page.get_by_role("switch", name="Smoothly between the increments").click()
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="Make the animation").click()
    download.value.save_as(tmp_path / "film.webm")
    with av.open(str(tmp_path / "film.webm")) as film:
        assert len(list(film.decode(video=0))) == 2
    page.get_by_role("button", name="Report").click()
    page.get_by_role("radio", name="page (HTML)").click()
    page.get_by_label("A note on its first page").fill("Pressed at room temperature.")
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="Make the report").click()
    download.value.save_as(tmp_path / "report.html")
    told = re.sub(r"<[^>]+>|\s+", " ", (tmp_path / "report.html").read_text())
    assert all(words in told for words in ("Pressed at room temperature.", "Hoop stress at the end", "overlap 0.02 mm"))


def test_surfaces_of_a_value_the_flow_of_force_and_forces_on_a_face(page: Page, two_blocks: dict[str, Any]) -> None:
    _review(page, two_blocks)
    page.get_by_role("button", name="Flow", exact=True).click()
    flow = page.get_by_role("navigation", name="Joint map")
    expect(flow.locator('[data-pair="joint"]')).to_have_text("32.1 kN")
    _show_base(page)
    page.get_by_role("button", name="surface", exact=True).click()
    control = page.get_by_role("group", name="Surface of equal value")
    control.get_by_label("Value of the surface (MPa)").fill("12")
    control.get_by_label("Value of the surface (MPa)").press("Enter")
    # The parts are seen through; under the pointer the surface says its value.
    drawn_stage(page)
    page.get_by_role("button", name="surface", exact=True).click()
    expect(control).to_have_count(0)
    # The front of the base carries nothing but what its edges share with other faces; its place is told.
    drawn_stage(page)
    click_stage(page, 0.5, 0.62)
    expect(page.get_by_label("the numbers").get_by_text(re.compile("^On Block, base|^On "))).to_be_visible()
    expect(_beside(page, "About the middle of the face")).to_contain_text("mm")
