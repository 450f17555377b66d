"""Review of a section as the solid that it is of, beside another field, and what is handed on of it."""

import csv
import io
import json
import re
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.api.test_handing_on import press_fit
from tests.web.doing import choose, click_stage, drawn_stage
from tests.web.test_review import _beside, _review, _show_base
from ulmek.demo import demo_study
from ulmek.verify.case import base_document, block_part


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
    assert titles == [
        "way along the outline (mm)",
        "pressure (MPa)",
        "friction (MPa)",
        "µp (MPa)",
        "−µp (MPa)",
        "gap (mm)",
    ]
    assert all(abs(float(r[2])) <= float(r[3]) * 1.001 + 1e-6 for r in rows)
    stage = page.get_by_test_id("stage")
    expect(stage).to_have_attribute("data-strokes", "0")
    page.get_by_role("button", name="arrows", exact=True).click()
    expect(stage).to_have_attribute("data-strokes", re.compile("[1-9]"))

    # The ring, about the axis of the study, as a section and as a solid: the same highest stress.
    page.locator('[data-row="ring"]').get_by_role("button").first.click()
    expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", re.compile("^part/ring/von_mises/"))
    drawn_stage(page)
    label = page.locator('[data-label="highest"]')
    before = label.inner_text().strip()
    choose(page, "Field", "Hoop stress")
    # The label follows a moment after the field.
    expect(label).not_to_contain_text(before)
    flat = _highest(page)
    assert 50 < flat < 120
    # About the axis across the section it is another stress; about x it would be the same one, out of the plane.
    choose(page, "Axis", "axis along z")
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


def test_cuts_labels_and_edges_by_hand_and_no_tick_that_cannot_be(page: Page, two_blocks: dict[str, Any]) -> None:
    _review(page, two_blocks)
    ledger = page.get_by_test_id("ledger")
    # The block stands on the base with sharp edges: its peak is told with its band, and what is singular by its name.
    expect(ledger.locator('[data-row="joint"] button').first).to_contain_text("≥")
    over = page.get_by_role("region", name="Over the imprint")
    expect(over.get_by_test_id("evenness")).to_contain_text("The mean lies between")
    choose(page, "Over the imprint", "across")
    expect(page.get_by_label(re.compile("^Contact pressure of .* across$"))).to_be_visible()
    _show_base(page)
    places = page.get_by_role("list", name="Highest places").get_by_role("button")
    expect(places.first).to_contain_text("singular: the edge of contact of")

    # The section is dragged by its grip; through an axis it is turned.
    page.get_by_text("section", exact=True).click()
    told = page.get_by_role("group", name="Section")
    before = told.inner_text()
    grip = page.get_by_test_id("grip").bounding_box()
    assert grip is not None
    x, y = grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 8, steps=4)
    page.mouse.up()
    expect(told).not_to_have_text(before)
    told.get_by_role("radio", name="an axis").click()
    expect(page.get_by_test_id("grip")).to_have_count(0)
    turn = told.get_by_role("slider", name="Turn of the section")
    turn.press("ArrowRight")
    expect(told).to_contain_text("1°")
    page.get_by_text("section", exact=True).click()

    # A label is dragged to where it is read best.
    label = page.locator('[data-label="highest"] span').last
    stands = label.bounding_box()
    assert stands is not None
    page.mouse.move(stands["x"] + 5, stands["y"] + 5)
    page.mouse.down()
    page.mouse.move(stands["x"] + 65, stands["y"] - 35, steps=4)
    page.mouse.up()
    moved = label.bounding_box()
    assert moved is not None
    assert (moved["x"] - stands["x"], moved["y"] - stands["y"]) == pytest.approx((60, -40), abs=8)

    # Colours by powers of ten; along an edge by one press.
    page.get_by_role("button", name="powers of ten").click()
    expect(page.get_by_label("Lower limit (MPa)")).not_to_have_value("0")
    page.get_by_role("button", name="path", exact=True).click()
    page.get_by_label("the numbers").get_by_text("Click where it begins").wait_for()
    click_stage(page, 0.5, 0.6)
    page.get_by_role("button", name="along the nearest edge").click()
    expect(page.get_by_test_id("edge")).to_contain_text("Along the edge of")
    expect(page.get_by_test_id("on-path")).to_contain_text("MPa at")


def _curve(page: Page, path: Path) -> np.ndarray:
    """What the curves under the stage are saved as: columns of numbers."""
    page.get_by_role("button", name="Curves", exact=True).click()
    with page.expect_download() as download:
        page.get_by_label("Curves", exact=True).get_by_role("button", name="Save as CSV").click()
    download.value.save_as(path)
    return np.genfromtxt(path, delimiter=",", skip_header=1)


def test_the_torque_of_a_turned_bar_is_plotted_over_its_angle(page: Page, tmp_path: Path) -> None:
    study = base_document("twist", "Twisted bar")
    study["parts"] = [block_part("bar", (8, 8, 60), 2)]
    study["supports"] = [{"id": "foot", "name": "Foot", "faces": ["bar/bottom"]}]
    study["handles"] = [{"id": "head", "name": "Head", "at": ["0 mm", "0 mm", "60 mm"], "faces": ["bar/top"]}]
    study["loads"] = [{"id": "turn", "name": "Turn", "kind": "rotation", "handle": "head", "direction": [0, 0, 1],
                       "values": {"turn": "3 deg"}}]  # fmt: skip
    study["steps"] = [{"id": "turn", "name": "Turn"}]
    _review(page, study)
    angle, torque = _curve(page, tmp_path / "twist.csv").T[:2]
    assert angle[-1] == pytest.approx(3)
    assert np.ptp(torque / angle) < 1e-6 * torque[-1]
    # Saint-Venant: 0.1406 a⁴ G/L of a square bar; its ends, which cannot warp, make it a little stiffer.
    free = 0.1406 * 8**4 * 210e3 / 2.6 / 60 * np.deg2rad(3) / 1e3
    assert free < torque[-1] < 1.1 * free


def test_a_friction_loop_is_plotted_and_closes(page: Page, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    two_blocks["loads"][1] = {
        "id": "drag", "name": "Drag", "kind": "displacement", "faces": ["slider/right"], "direction": [1, 0, 0],
        "values": {"press": "0 mm", "there": "0.05 mm", "back": "-0.05 mm", "again": "0.05 mm"},
    }  # fmt: skip
    two_blocks["steps"] = [{"id": i, "name": i.capitalize()} for i in ("press", "there", "back", "again")]
    _review(page, two_blocks)
    way, force = _curve(page, tmp_path / "loop.csv").T[:2]
    # What is dragged to and fro takes µN either way, and comes round to where it was.
    there, again = np.flatnonzero(np.isclose(way, 0.05))[[0, -1]]
    back = int(np.argmin(way))
    newtons = 1e3 if abs(force).max() < 100 else 1.0
    assert force[there] * newtons == pytest.approx(0.15 * 32e3, rel=0.01)
    assert force[back] * newtons == pytest.approx(-0.15 * 32e3, rel=0.01)
    assert force[again] == pytest.approx(force[there], rel=1e-6)
    # Its lane on the board goes to either side, and the play head stands at the end of the loop.
    page.get_by_role("button", name="Board", exact=True).click()
    expect(page.get_by_role("button", name="Drag, Back: 0.05 mm → -0.05 mm")).to_be_visible()
    expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", re.compile(f"/{len(way) - 1}$"))


def test_a_half_roller_is_seen_whole_and_what_stays_after_release(page: Page) -> None:
    study = json.loads(demo_study("guide-roller").model_dump_json())
    _review(page, study)
    page.locator('[data-row="rail"]').get_by_role("button").first.click()
    choose(page, "Field", "Change of shape (rigid motion out)")
    drawn_stage(page)
    # Of lengths: until the field is there, the legend is that of the stress before.
    stage, legend = page.get_by_test_id("stage"), page.get_by_label("Upper limit (mm)")
    expect(legend).to_be_visible()
    # Relieved to a twentieth of its load, the rail keeps more than that of its shape: it has yielded.
    left = float(legend.input_value())
    page.get_by_role("slider", name="Play head").press("Home")
    expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", re.compile("/0$"))
    heads = len(page.request.get(f"{page.url.split('/studies')[0]}/api/runs/{_last_run(page)}/history").json())
    highest = 0.0
    for at in range(1, heads):
        page.get_by_role("slider", name="Play head").press("ArrowRight")
        expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", re.compile(f"/{at}$"))
        drawn_stage(page)
        highest = max(highest, float(legend.input_value()))
    assert 0.1 * highest < left < highest
    choose(page, "Field", "Plastic strain")
    expect(page.locator('[data-label="highest"]')).to_contain_text("%")

    # Half of it was modelled: in the mirror it is twice as wide on the screen.
    page.get_by_role("button", name="extremes").click()
    page.get_by_role("button", name="mirror x").click()
    expect(page.get_by_role("button", name="mirror x")).to_have_attribute("aria-pressed", "true")
    drawn_stage(page)
    left_half, right_half = _halves(stage.screenshot())
    assert np.abs(left_half - right_half[:, ::-1]).mean() < 4


def _last_run(page: Page) -> int:
    study = page.url.split("/studies/")[1].split("/")[0]
    return int(page.request.get(f"{page.url.split('/studies')[0]}/api/studies/{study}/runs").json()[0]["id"])


def _halves(still: bytes) -> tuple[np.ndarray, np.ndarray]:
    """Both halves of the middle of a picture, where nothing is written over it."""
    image = np.asarray(Image.open(io.BytesIO(still)).convert("RGB")).astype(float)
    height, width = image.shape[:2]
    band = image[int(0.3 * height) : int(0.6 * height)]
    reach = int(0.3 * width)
    return band[:, width // 2 - reach : width // 2], band[:, width // 2 + width % 2 : width // 2 + width % 2 + reach]


def test_a_film_that_is_being_made_is_stopped(page: Page) -> None:
    _review(page, press_fit())
    page.get_by_role("button", name="Animation").click()
    page.get_by_label("Frames a second").fill("60")
    page.get_by_role("button", name="Make the animation").click()
    page.get_by_role("button", name="Stop it").click()
    expect(page.get_by_role("alert")).to_contain_text(re.compile("work on the film of run .* was stopped"))
    # It can be asked for again, or left.
    expect(page.get_by_role("button", name="Make the animation")).to_be_enabled()
    page.get_by_role("button", name="Leave it").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
