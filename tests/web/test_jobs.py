"""Whole jobs on the page, as they are asked for: each is built, checked and, where it says, run and read."""

import copy
import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import (
    add_part,
    choose,
    direct,
    drawn_stage,
    hold_it,
    make_all_pairs,
    mate,
    pick,
    pressure,
    run_to_the_end,
    set_entry,
    start_empty,
)


def test_a_plane_half_model_with_edges_picked_on_the_stage(page: Page) -> None:
    start_empty(page, "plane strain")
    page.get_by_role("button", name="Add the first part").click()
    dialog = page.get_by_role("dialog")
    # What has no section is not offered.
    expect(dialog.get_by_role("button", name="Block", exact=True)).to_be_visible()
    expect(dialog.get_by_role("button", name="Flanged hub")).to_have_count(0)
    page.keyboard.press("Escape")
    add_part(page, "Block", **{"Length (x)": "40 mm", "Depth (y)": "40 mm"})
    add_part(page, "Disc or roller", Diameter="20 mm")
    mate(page, ("disc", "rim"), ("block", "right"), "touching")
    for part in ("block", "disc"):
        page.locator(f'[data-part="{part}"]').click()
        choose(page, "Modelled", "its half, y ≥ 0")
        page.get_by_role("button", name="Hold the cut as symmetry").click()
        expect(page.locator('[data-sign^="support/"]')).to_have_count(1 if part == "block" else 2)
        page.locator(f'[data-part="{part}"]').click()
        set_entry(page, "Element size", "2.2 mm")
    # An edge is picked on the stage: along the middle of the view the left one comes first.
    area = drawn_stage(page).bounding_box()
    assert area is not None
    picked = page.get_by_role("heading", name=re.compile(r"Picked face · "))
    for x in range(10, int(area["width"] / 2), 6):
        page.mouse.click(area["x"] + x, area["y"] + area["height"] / 2)
        if picked.count():
            # Its name stands beside the pointer.
            page.mouse.move(area["x"] + x + 1, area["y"] + area["height"] / 2)
            expect(page.get_by_test_id("under-pointer")).to_have_text("Block · left")
            break
    expect(picked).to_have_text("Picked face · left")
    hold_it(page)
    pick(page, "disc", "rim")
    page.get_by_role("button", name="Force on it").click()
    direct(page, "-1", "0", "0")
    set_entry(page, "Load", "200 N")
    make_all_pairs(page, 1)
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    assert pressure(page, "block-disc") > 10


def test_an_axisymmetric_press_fit_reads_as_thick_rings_do(page: Page) -> None:
    """Radius 10 mm in a ring of 20 mm, 20 µm over: p = E δ / (2 b) · (1 − b²/c²) = 157.5 MPa (Lamé)."""
    start_empty(page, "axisymmetric")
    for x, part in (("5 mm", "block"), ("15 mm", "block-2")):
        add_part(page, "Block", **{"Length (x)": "10 mm", "Depth (y)": "12 mm"})
        set_entry(page, "to x", x)
        set_entry(page, "Element size", "1 mm")
        pick(page, part, "near")
        hold_it(page)
        page.get_by_role("radio", name="some").click()
        page.get_by_role("checkbox", name="x", exact=True).click()
        expect(page.get_by_role("checkbox", name="x", exact=True)).not_to_be_checked()
    make_all_pairs(page, 1)
    page.locator("[data-pair]").click()
    page.get_by_role("radio", name="freely").click()
    choose(page, "Count it", "set to a value")
    set_entry(page, "Overlap across the faces", "20 um")
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    pair = page.get_by_test_id("ledger").locator("[data-row*=block]").first.get_attribute("data-row")
    assert pair is not None
    assert pressure(page, pair) == pytest.approx(157.5, rel=0.02)


def _file(folder: Path, document: dict[str, Any]) -> Path:
    path = folder / "study.ulmek.json"
    path.write_text(json.dumps(document))
    return path


def test_a_block_with_a_gap_is_moved_to_touch_and_swapped_for_a_force(
    page: Page, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    apart = copy.deepcopy(two_blocks)
    apart["parts"][1]["placements"] = [{"at": ["0 mm", "0 mm", "20.3 mm"]}]
    apart["supports"] += [
        {"id": "guide", "name": "Guide", "kind": "components", "components": ["x", "y"], "faces": ["slider/near"]},
        {"id": "level", "name": "Level", "kind": "components", "components": ["y"], "faces": ["slider/far"]},
    ]
    apart["loads"] = [
        {"id": "weight", "name": "Weight", "kind": "force", "faces": ["slider/top"], "direction": [0, 0, -1],
         "values": {"press": "2 kN"}}
    ]  # fmt: skip
    page.locator("input[type=file]").set_input_files(_file(tmp_path, apart))
    preflight = findings(page)
    expect(preflight).to_contain_text("which starts apart, could stop it")
    expect(page.get_by_role("button", name="Check and run")).to_be_disabled()
    preflight.get_by_role("button", name="Move it to touch, then load it").click()
    expect(page.get_by_label("Sequence board").get_by_text("Move to touch").first).to_be_visible()
    expect(preflight).to_contain_text("Nothing is loose")
    # One step of undo takes all of it back, and it can be made again.
    page.get_by_role("button", name=re.compile("^Undo")).click()
    expect(preflight).to_contain_text("which starts apart, could stop it")
    page.get_by_role("button", name=re.compile("^Redo")).click()
    expect(preflight).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    page.get_by_test_id("ledger").locator('[data-row="joint"] button').first.click()
    expect(page.get_by_text("2.00 kN").first).to_be_visible()


def test_a_second_load_case_is_a_duplicate_with_another_load(
    page: Page, address: str, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    page.locator("input[type=file]").set_input_files(_file(tmp_path, {**two_blocks, "title": "Slider, pressed"}))
    expect(page.get_by_test_id("revision")).to_have_text("r1")
    page.goto(address)
    page.get_by_role("searchbox", name="Find a study").fill("pressed")
    page.get_by_role("button", name=re.compile("More.*for Slider, pressed")).click()
    page.get_by_role("menuitem", name="Duplicate").click()
    copied = page.locator("[data-study]", has_text="Slider, pressed, copy")
    copied.get_by_role("button", name=re.compile("More")).click()
    page.get_by_role("menuitem", name="Rename").click()
    copied.get_by_label("Title").fill("Slider, pushed hard")
    copied.get_by_label("Title").press("Enter")
    page.get_by_role("searchbox", name="Find a study").fill("pushed")
    page.locator("[data-study]", has_text="Slider, pushed hard").get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="Press, Press: 0 → 20 MPa").click()
    set_entry(page, "Press in Press", "35 MPa")
    page.goto(address)
    page.locator("[data-study]", has_text="Slider, pressed").get_by_role("link", name="Bench").click()
    expect(page.get_by_role("button", name="Press, Press: 0 → 20 MPa")).to_be_visible()


def test_a_flexure_turned_far_is_followed_in_large_motion_as_proposed(page: Page) -> None:
    start_empty(page)
    add_part(page, "Leaf flexure")
    set_entry(page, "Element size", "6 mm")
    set_entry(page, "Elements a turn", "16")
    pick(page, "leaf-flexure", "end.left")
    hold_it(page)
    pick(page, "leaf-flexure", "end.right")
    page.get_by_role("button", name="Handle on it").click()
    page.get_by_role("button", name="Turn it").click()
    direct(page, "0", "0", "1")
    set_entry(page, "Load", "135 deg")
    preflight = findings(page)
    expect(preflight).to_contain_text("turns by 135 °, but only small motion is followed")
    preflight.get_by_role("button", name="Follow large motion").click()
    expect(preflight.get_by_text("only small motion")).to_have_count(0)
    page.get_by_role("button", name="1 Load").click()
    expect(page.get_by_role("switch", name="Large motion")).to_be_checked()
    run_to_the_end(page)


TENSILE = "Strain [%]\tStress [MPa]\n0\t0\n0.2\t410\n2\t440\n8\t500\n"


def test_a_leaf_on_a_plane_down_and_back_with_its_table_from_a_sheet(page: Page) -> None:
    start_empty(page)
    add_part(page, "Block", **{"Length (x)": "60 mm", "Depth (y)": "10 mm", "Height (z)": "2 mm"})
    set_entry(page, "Element size", "5 mm")
    set_entry(page, "Name", "Leaf")
    pick(page, "block", "left")
    hold_it(page)
    pick(page, "block", "bottom")
    page.get_by_role("button", name="Wall against it").click()
    set_entry(page, "at z", "-1 mm")
    # Down at its free end in one step, back in the next.
    pick(page, "block", "right")
    page.get_by_role("button", name="Move it").click()
    direct(page, "0", "0", "-1")
    set_entry(page, "Load", "0.9 mm")
    page.get_by_role("button", name="Add a step").click()
    page.get_by_role("button", name="2 Step 2").click()
    set_entry(page, "Name", "Back")
    page.get_by_label("Sequence board").get_by_role("button", name=re.compile("Motion")).first.click()
    set_entry(page, "Back", "off")
    # The table of the material, pasted as the sheet has it.
    page.get_by_test_id("stage").click(position={"x": 20, "y": 120})
    page.get_by_role("button", name="Curve from a sheet").first.click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Rows of a sheet").fill(TENSILE)
    dialog.get_by_role("button", name="Read the rows").click()
    dialog.get_by_role("button", name="Use 3 rows").click()
    expect(page.get_by_label("Yields by table")).to_have_value(re.compile(r"^0: 41\d.* MPa, 0\.01766"))
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)


def test_a_part_is_left_out_and_what_hangs_on_it_sleeps(page: Page) -> None:
    page.get_by_role("button", name="Start from the demo Lifting eye").click()
    drawn_stage(page)
    strap = page.locator("[data-part]", has_text="Strap").first
    strap.click()
    page.get_by_role("switch", name="In the analysis").click()
    expect(strap).to_contain_text("left out")
    told = findings(page)
    expect(told).to_contain_text("Left out of the analysis:")
    expect(told).to_contain_text("sleep")
    expect(page.locator("[data-pair]", has_text="asleep").first).to_be_visible()
    page.locator("body").press("Control+z")
    expect(strap).not_to_contain_text("left out")
