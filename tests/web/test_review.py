"""Review to the bottom: cuts with the field on them, paths, pinned readings, highest places, limits, curves, runs."""

import csv
import json
import re
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.web.doing import choose, click_stage, drawn_stage, set_entry


def _review(page: Page, document: dict[str, Any], runs: int = 1) -> list[int]:
    """The review of a study that has been solved so many times; gives the numbers of the runs, the newest first."""
    address = page.url
    made = page.request.post(address + "api/studies", data={"document": document}).json()["id"]
    page.goto(f"{address}studies/{made}/run")
    status, before = page.get_by_test_id("run-status"), ""
    for _ in range(runs):
        page.get_by_role("button", name="Check and run").click()
        expect(status).not_to_have_text(before)
        expect(status).to_have_attribute("data-status", "solved")
        before = status.inner_text()
    page.goto(f"{address}studies/{made}/review")
    drawn_stage(page)
    return [r["id"] for r in page.request.get(f"{address}api/studies/{made}/runs").json()]


def _beside(page: Page, label: str) -> Locator:
    """What stands beside a label among the numbers."""
    return page.get_by_label("the numbers").locator("div", has=page.get_by_text(label, exact=True)).last


def _show_base(page: Page) -> None:
    page.locator('[data-row="base"]').get_by_role("button").first.click()
    expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", re.compile("^part/base/von_mises/"))
    drawn_stage(page)


def test_a_part_is_looked_into_by_cut_path_and_reading(page: Page, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    _review(page, two_blocks)
    _show_base(page)
    # What is highest of what is seen is marked; the highest places may lie inside. A press goes there.
    places = page.get_by_role("list", name="Highest places").get_by_role("button")
    highest = float(places.first.locator("b").inner_text().removesuffix(" MPa"))
    marked = page.locator('[data-label="highest"]')
    seen = float(marked.inner_text().strip().removeprefix("highest ").split(" ")[0])
    assert seen == float(page.get_by_label("Upper limit (MPa)").input_value())
    assert 0.9 * highest < seen <= highest
    places.first.click()
    page.get_by_role("button", name="extremes").click()
    expect(marked).to_have_count(0)

    # 32 kN press and 2 kN push through a cut of the base.
    page.locator("label", has_text="section").get_by_role("checkbox").check()
    page.get_by_role("group", name="Section").get_by_role("radio", name="z").click()
    page.get_by_label("Place of the section").fill("0.33")
    expect(_beside(page, "Force x, y, z (kN)")).to_contain_text("-2.00, 0, -32.0")
    page.get_by_role("button", name="other side").click()
    expect(_beside(page, "Force x, y, z (kN)")).to_contain_text("2.00, 0, 32.0")

    # A path, begun on the stage and typed to where it is wanted: nothing is said of the air.
    page.get_by_role("button", name="path", exact=True).click()
    click_stage(page, 0.5, 0.6)
    page.get_by_role("button", name="go straight into the part").click()
    for label, end in (("from (mm)", "0, 0, -5"), ("to (mm)", "0, 0, 20")):
        page.get_by_label(label).fill(end)
        page.get_by_label(label).press("Enter")
    expect(page.get_by_role("img", name="Von Mises stress along the path")).to_be_visible()
    expect(page.get_by_test_id("on-path")).to_contain_text(re.compile(r"MPa at .* mm · Base · element 1\d mm"))
    with page.expect_download() as saved:
        page.get_by_label("Path").get_by_role("button", name="Save as CSV").click()
    saved.value.save_as(tmp_path / "path.csv")
    head, *rows = csv.reader((tmp_path / "path.csv").read_text().splitlines())
    assert head == ["distance (mm)", "Von Mises stress (MPa)"]
    assert float(rows[-1][0]) == pytest.approx(25)
    assert {value for distance, value in rows if float(distance) < 4.9} == {"NaN"}
    assert min(float(value) for distance, value in rows if float(distance) > 5.1) > 0
    page.get_by_label("to (mm)").fill("one, two")
    page.get_by_label("to (mm)").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Give three numbers")
    page.get_by_role("button", name="Take away", exact=True).click()

    # A reading that was pinned says what it says at every increment.
    page.locator("label", has_text="section").get_by_role("checkbox").uncheck()
    page.get_by_role("button", name="pin", exact=True).click()
    click_stage(page, 0.5, 0.6)
    reading = page.locator('[data-label="pin-1"]')
    expect(reading).to_have_count(1)
    before = reading.inner_text()
    page.get_by_role("slider", name="Play head").press("Home")
    expect(reading).not_to_have_text(before)
    page.get_by_role("button", name="clear readings").click()
    expect(reading).to_have_count(0)

    # To hand on: a picture as wide as a screen, and the tables of the run.
    with page.expect_download() as saved:
        page.get_by_role("button", name="Picture", exact=True).click()
        set_entry(page, "Title", "Two blocks", is_edit=False)
        page.get_by_role("button", name="Save as PNG").click()
    saved.value.save_as(tmp_path / "picture.png")
    head_of_png = (tmp_path / "picture.png").read_bytes()[:20]
    assert head_of_png[:8] == b"\x89PNG\r\n\x1a\n"
    assert int.from_bytes(head_of_png[16:20], "big") == 1920
    with page.expect_download() as saved:
        page.get_by_role("link", name="Tables (XLSX)").click()
    saved.value.save_as(tmp_path / "tables.xlsx")
    assert openpyxl.load_workbook(tmp_path / "tables.xlsx").sheetnames == ["History", "joint"]


def test_limits_of_the_colours_are_typed_kept_and_given_back(page: Page, two_blocks: dict[str, Any]) -> None:
    _review(page, two_blocks)
    _show_base(page)
    upper = page.get_by_label("Upper limit (MPa)")
    of_the_data = upper.input_value()
    upper.fill("12")
    upper.press("Enter")
    expect(page.get_by_role("button", name="limits kept")).to_be_visible()
    page.get_by_role("slider", name="Play head").press("Home")
    expect(page.get_by_test_id("shown")).to_have_attribute("data-shown", "part/base/von_mises/0")
    expect(upper).to_have_value("12.0")
    for wrong, told in (("much", "is no number"), ("-3", "below the upper one")):
        upper.fill(wrong)
        upper.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text(told)
    page.get_by_role("slider", name="Play head").press("End")
    page.get_by_role("button", name="limits of the data").click()
    expect(upper).to_have_value(of_the_data)
    # What is nothing but rounding is not coloured: nothing yields here.
    choose(page, "Field", "Plastic strain")
    expect(page.get_by_test_id("legend")).to_contain_text("larger than rounding")


def test_curves_are_chosen_saved_and_laid_over_an_earlier_run(
    page: Page, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    loads = json.loads(json.dumps(two_blocks["loads"]))
    loads[1] |= {"kind": "displacement", "values": {"push": "40 µm"}}
    _, earlier = _review(page, {**two_blocks, "loads": loads}, runs=2)
    # The answer to a displacement is the force along it; the board says so too.
    board = page.get_by_label("Sequence board")
    expect(board.locator('[data-lane="load/push"]')).to_have_count(1)
    told = board.get_by_text(re.compile(r"^40\.0 µm, [\d.]+ kN$")).inner_text()
    page.get_by_role("button", name="Curves").click()
    curves = page.get_by_role("region", name="Curves")
    shown = curves.locator('[data-curve="motion/push/force-x"]')
    expect(shown).to_contain_text(told.split(", ")[1].removesuffix(" kN"))
    expect(curves.get_by_role("img")).to_have_accessible_name("Push: force x against Push")
    choose(page, "add", "Slider – base: sliding (mm)")
    choose(page, "beside", f"run {earlier}, r1")
    with page.expect_download() as saved:
        curves.get_by_role("button", name="Save as CSV").click()
    saved.value.save_as(tmp_path / "curves.csv")
    head, *rows = csv.reader((tmp_path / "curves.csv").read_text().splitlines())
    assert head == ["Push (mm)", "Push: force x (kN)", "Slider – base: sliding (mm)"]
    travel, force, _ = (list(map(float, column)) for column in zip(*rows, strict=True))
    assert max(travel) == pytest.approx(0.04)
    # Never more than friction gives: 0.15 of 32 kN.
    assert 0.5 < max(map(abs, force)) <= 0.15 * 32 * 1.0001
    curves.get_by_role("button", name="Take Push: force x away").click()
    expect(curves.locator("[data-curve]")).to_have_count(1)
    # An earlier run is chosen, and told to be one.
    choose(page, "Run", f"run {earlier}, r1")
    expect(page.get_by_test_id("older-run")).to_contain_text(f"These are the results of run {earlier}.")
    # It gets a name, and goes.
    page.get_by_label("Called").fill("Dry")
    page.get_by_label("Called").press("Enter")
    expect(page.get_by_role("combobox", name="Run", exact=True)).to_have_text(re.compile("^Dry"))
    page.get_by_role("button", name="Remove this run").click()
    page.get_by_role("button", name="Remove them").click()
    expect(page.get_by_test_id("older-run")).to_have_count(0)
    assert page.request.get(f"{page.url.split('/studies/')[0]}/api/runs/{earlier}").status == 404
