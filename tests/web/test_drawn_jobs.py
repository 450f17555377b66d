"""Parts that no recipe makes, drawn and bent on the page, built into studies that are run and read."""

import re
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Locator, Page, expect

from tests.web.conftest import findings
from tests.web.doing import (
    add_part,
    choose,
    click_stage,
    deselect,
    hold_it,
    hold_some,
    make_all_pairs,
    pick,
    pressure,
    run_to_the_end,
    select_part,
    set_entry,
    start_empty,
)
from ulmek.verify.case import base_document, block_part, load, step


def _click_at(page: Page, x: float, y: float) -> None:
    """Click the sheet at a place in mm."""
    sheet = page.get_by_label("Drawing sheet")
    middle_x, middle_y, scale = map(float, (sheet.get_attribute("data-view") or "").split())
    box = sheet.bounding_box()
    assert box is not None
    at = box["x"] + box["width"] / 2 + (x - middle_x) * scale, box["y"] + box["height"] / 2 - (y - middle_y) * scale
    page.mouse.click(*at)


def _draw(page: Page) -> Locator:
    page.get_by_role("button", name="Add a part").first.click()
    page.get_by_role("button", name="Draw one…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Drawing sheet")).to_be_visible()
    return dialog


def _set_in(dialog: Locator, label: str, value: str) -> None:
    field = dialog.get_by_label(label, exact=True)
    field.fill(value)
    field.press("Enter")


def _name_edge(dialog: Locator, edge: str, name: str, **more: str) -> None:
    dialog.get_by_label(f"Edge {edge}", exact=True).first.dispatch_event("pointerdown")
    _set_in(dialog, "Name of its face", name)
    for label, value in more.items():
        _set_in(dialog, label.replace("_", " "), value)


def test_a_seal_carrier_is_drawn_and_its_seal_pressed_into_it(page: Page) -> None:
    """A groove in plane strain, drawn by pointer with its dimensions named after, and a strip drawn to fit it."""
    start_empty(page, "plane strain")
    dialog = _draw(page)
    for x, y in ((-20, 0), (20, 0), (20, 20), (10, 20), (10, 8), (-10, 8), (-10, 20)):
        _click_at(page, x, y)
    expect(dialog.get_by_role("status")).to_contain_text("Open: 7 corners")
    _click_at(page, -20, 20)
    # Back to the first corner: the outline is closed.
    _click_at(page, -20, 0)
    expect(dialog.get_by_role("list", name="Outlines")).to_contain_text("8 edges")
    dialog.get_by_role("button", name="New dimension").click()
    _set_in(dialog, "Name of dimension 1", "deep")
    _set_in(dialog, "Value of deep", "12 mm")
    _name_edge(dialog, "edge.1", "foot")
    _name_edge(dialog, "edge.4", "wall.right", End_y="20 mm - deep")
    _name_edge(dialog, "edge.5", "floor", End_y="20 mm - deep")
    # A corner moved through the floor is told at its place, and mended.
    _name_edge(dialog, "edge.3", "lip", End_y="-5 mm")
    expect(dialog.get_by_role("alert")).to_contain_text("meet at")
    expect(dialog.get_by_role("button", name="Set it in the study")).to_be_disabled()
    _set_in(dialog, "End y", "20 mm")
    _set_in(dialog, "Name of the part", "Carrier")
    dialog.get_by_role("button", name="Set it in the study").click()
    expect(dialog).to_have_count(0)
    set_entry(page, "deep", "10 mm")
    hold = _hold(page, "carrier", "foot")
    expect(hold).to_be_visible()

    dialog = _draw(page)
    # Typed: corners by place, and the last by length and angle; its head an arc.
    for values in ({"x": "-10", "y": "10"}, {"x": "10", "y": "10"}, {"length": "14", "at °": "90"}):
        for label, value in values.items():
            dialog.get_by_label(label, exact=True).fill(value)
        dialog.get_by_role("button", name="Set the corner").click()
    dialog.get_by_label("Next edge").select_option("arc, turning left")
    dialog.get_by_label("radius", exact=True).fill("12")
    dialog.get_by_label("x", exact=True).fill("-10")
    dialog.get_by_role("button", name="Set the corner").click()
    dialog.get_by_label("Next edge").select_option("straight")
    dialog.get_by_role("button", name="Close the outline").click()
    expect(dialog.get_by_role("list", name="Outlines")).to_contain_text("4 edges")
    _name_edge(dialog, "edge.1", "seat")
    _name_edge(dialog, "edge.3", "head")
    _set_in(dialog, "Name of the part", "Strip")
    dialog.get_by_role("button", name="Set it in the study").click()
    expect(dialog).to_have_count(0)
    choose(page, "Face", "head")
    page.get_by_role("button", name="Pressure on it").click()
    expect(page.get_by_role("heading", name=re.compile("^Pressure"), level=2)).to_be_visible()
    make_all_pairs(page, 3)
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    # What presses on the head goes to the floor, but for what the walls hold by friction.
    floor = next(p["id"] for p in _document(page)["pairs"] if any("/floor" in f for f in (*p["a"], *p["b"])))
    assert 0.5 < pressure(page, floor) < 20


def _hold(page: Page, part: str, face: str) -> Locator:
    pick(page, part, face)
    hold_it(page)
    return page.get_by_role("heading", name=re.compile("^Hold"), level=2)


def _bend(page: Page, name: str, towards: str) -> None:
    page.get_by_role("button", name="Add a part").first.click()
    page.get_by_role("button", name="Bend a bar…").click()
    dialog = page.get_by_role("dialog")
    entries = {"Length 1": "3*d", "Radius 2": "1.5*d", "Length 3": "30 mm", "Towards 2": towards}
    for label, value in {"Name of the part": name, **entries}.items():
        _set_in(dialog, label, value)
    dialog.get_by_role("button", name="Set it in the study").click()
    expect(dialog).to_have_count(0)
    set_entry(page, "Element size", "4 mm")


def test_two_crossed_bent_bars_cut_in_three_planes(page: Page) -> None:
    start_empty(page)
    _bend(page, "Low", "0 deg")
    set_entry(page, "to x", "-15 mm")
    _bend(page, "High", "90 deg")
    set_entry(page, "by", "180 deg")
    choose(page, "Turned about", "x")
    set_entry(page, "to y", "15 mm")
    set_entry(page, "to z", "80 mm")
    for axis in ("x", "y"):
        _cut_all(page, axis, "0 mm", "what lies ahead, with symmetry")
    _cut_all(page, "z", "15 mm", "what lies ahead, cut left free")
    expect(page.locator("[data-part]")).to_have_count(2)
    make_all_pairs(page, 1)
    page.locator("[data-pair]").click()
    # Before anything is run its gap is seen as a picture with numbers: the bows bend away from each other.
    page.get_by_role("checkbox", name="gap").check()
    told = page.get_by_role("status").filter(has_text=" to gap ")
    expect(told).to_have_text(re.compile("^(touching|overlap .*) to gap"))
    expect(page.get_by_test_id("legend")).to_be_visible()
    choose(page, "Count it", "closed up")
    page.get_by_role("radio", name="as counted").click()
    expect(page.get_by_role("status").filter(has_text="touching everywhere")).to_be_visible()
    page.get_by_role("checkbox", name="gap").uncheck()
    _hold(page, "low", "cut.3")
    hold_some(page, "z")
    pick(page, "high", "start")
    page.get_by_role("button", name="Force on it").click()
    expect(page.get_by_role("heading", name=re.compile("^Force"), level=2)).to_be_visible()
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    assert pressure(page, "low-high", "high-low") > 50


def _cut_all(page: Page, axis: str, at: str, leaves: str) -> None:
    deselect(page)
    choose(page, "Across", axis)
    set_entry(page, f"at {axis}", at, is_edit=False)
    choose(page, "Leaves", leaves)
    revision = page.get_by_test_id("revision").inner_text()
    page.get_by_role("button", name="Cut all parts").click()
    expect(page.get_by_test_id("revision")).not_to_have_text(revision)


def _ring(r: float, inner: float, outer: float, young: float, poisson: float) -> tuple[float, float]:
    """Radial displacement at ``r`` of a ring (mm) for 1 MPa inside, and for 1 MPa outside (Lamé, plane stress)."""
    wall = outer**2 - inner**2
    bulk, shear = (1 - poisson) / young * r / wall, (1 + poisson) / young * (inner * outer) ** 2 / wall / r
    return bulk * inner**2 + shear, -bulk * outer**2 - shear


def test_a_shrunk_coupling_in_a_quarter_with_three_materials(page: Page) -> None:
    """A ring of cast iron shrunk by 40 µm on a bronze sleeve on a steel shaft: thick rings on one another."""
    start_empty(page)
    add_part(page, "Pin, plain or shouldered", Diameter="40 mm", Length_of_the_shank="10 mm", Head_length="0 mm")
    add_part(page, "Washer or sleeve", Inner_diameter="40 mm", Outer_diameter="70 mm", Thickness="10 mm")
    set_entry(page, "to x", "0 mm")
    add_part(page, "Washer or sleeve", Inner_diameter="70 mm", Outer_diameter="100 mm", Thickness="10 mm")
    set_entry(page, "to x", "0 mm")
    deselect(page)
    for grade in ("Bronze", "Ductile cast iron"):
        choose(page, "Add a material", grade)
    for part, grade in (("washer", "Bronze"), ("washer-2", "Ductile cast iron")):
        select_part(page, part)
        choose(page, "Material", grade)
        set_entry(page, "Element size", "3 mm")
    for axis in ("x", "y"):
        _cut_all(page, axis, "0 mm", "what lies ahead, with symmetry")
    for part in ("pin", "washer", "washer-2"):
        pick(page, part, "bottom")
        hold_it(page)
        hold_some(page, "z")
    make_all_pairs(page, 2)
    for names in (("pin-washer", "washer-pin"), ("washer-washer-2", "washer-2-washer")):
        page.locator(", ".join(f'[data-pair="{name}"]' for name in names)).click()
        page.get_by_role("radio", name="freely").click()
        expect(page.get_by_label("Friction coefficient µ")).to_have_count(0)
    choose(page, "Count it", "set to a value")
    set_entry(page, "Overlap across the faces", "40 um")
    expect(findings(page)).to_contain_text("Nothing is loose")
    run_to_the_end(page)
    young = {m["name"]: (float(m["young"].split()[0]) * 1e3, m["poisson"]) for m in _document(page)["materials"]}
    steel, bronze, iron = (young[n] for n in ("Steel S355", "Bronze", "Ductile cast iron"))
    # The sleeve lies on the shaft at 20 mm; at 35 mm the ring stands 20 µm of radius inside it.
    inner, outer = _ring(20, 20, 35, *bronze), _ring(35, 20, 35, *bronze)
    rows = [[inner[0] + (1 - steel[1]) / steel[0] * 20, inner[1]], [-outer[0], _ring(35, 35, 50, *iron)[0] - outer[1]]]
    within, about = np.linalg.solve(rows, [0.0, 0.04])
    # What presses across the faces of a quarter, 10 mm long, at the end of the board.
    forces = [
        float(f) for f in re.findall(r"N ([\d.]+) kN", page.get_by_role("region", name="Sequence board").inner_text())
    ]
    assert forces == pytest.approx([p * np.pi / 2 * r * 10 / 1e3 for p, r in ((within, 20), (about, 35))], rel=0.01)


def _document(page: Page) -> dict[str, Any]:
    """The study that the page shows, as the server has it."""
    address, _, rest = page.url.partition("/studies/")
    return dict(page.request.get(f"{address}/api/studies/{rest.split('/')[0]}").json()["document"])


def test_a_pair_is_made_by_hand_of_a_region_and_a_covered_face(page: Page) -> None:
    """A pad on a block bears on a region that was cut out of its top, found under the pad by peeling."""
    study = base_document("pad", "Pad")
    study["parts"] = [block_part("block", (60, 60, 20), 4), block_part("pad", (20, 20, 10), 4, at=20)]
    study["supports"] = [{"id": "floor", "name": "Floor", "faces": ["block/bottom"]}]
    study["loads"] = [load("press", "pressure", {"load": "2 MPa"}, "pad/top")]
    study["steps"] = [step("load")]
    made = page.request.post(page.url + "api/studies", data={"document": study}).json()["id"]
    page.goto(f"{page.url}studies/{made}/bench")
    expect(page.locator("[data-part]")).to_have_count(2)
    # The block shows round the pad: its top is picked there, and a region begins there.
    click_stage(page, 0.33, 0.55)
    expect(page.get_by_role("heading", name="Block", level=2)).to_be_visible()
    expect(page.get_by_role("heading", name="Picked face · top")).to_be_visible()
    page.get_by_role("button", name="Region around this point").click()
    expect(page.get_by_label("region 1, name")).to_be_visible()
    for label, value in {"x": "0 mm", "y": "0 mm", "z": "20 mm", "of the face": "top", "distance": "14 mm"}.items():
        if page.get_by_label(f"region 1, {label}").input_value() != value:
            set_entry(page, f"region 1, {label}", value)
    set_entry(page, "region 1, name", "seat")
    # By hand: the pad's foot, then under it the region, both covered by the pad.
    pick(page, "pad", "bottom")
    page.get_by_role("button", name="Pair it…").click()
    bar = page.get_by_role("group", name="Pair by hand")
    expect(bar).to_contain_text("pad/bottom")
    click_stage(page, 0.5, 0.5, "right")
    under = page.get_by_role("list", name="Faces under the pointer")
    under.get_by_role("button", name=re.compile("^Block.*seat")).click()
    expect(bar).to_contain_text("block/seat")
    bar.get_by_role("button", name="Make the pair").click()
    expect(page.get_by_role("heading", name="Pad – Block", level=2)).to_be_visible()
    assert _document(page)["pairs"][0]["b"] == ["block/seat"]
    choose(page, "Count it", "closed up")
    run_to_the_end(page)
    # 800 N on some 20 × 20 mm.
    assert pressure(page, "pad-block") > 2
