"""More whole jobs on the page: discs and shoes, pins in lugs, pawls, hinged bars, bolts, ties and threads."""

import re

from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import (
    add_part,
    choose,
    deselect,
    direct,
    handle_on_it,
    hold_it,
    hold_some,
    make_all_pairs,
    pick,
    pressure,
    run_to_the_end,
    set_entry,
    start_empty,
)


def _place(page: Page, element_size: str, **at: str) -> None:
    """Place and mesh of the part that is selected."""
    for axis, value in at.items():
        if page.get_by_label(f"to {axis}", exact=True).input_value() != value:
            set_entry(page, f"to {axis}", value)
    set_entry(page, "Element size", element_size)


def _coarser(page: Page) -> None:
    """Round faces of the part that is selected in few elements."""
    set_entry(page, "Elements a turn", "10")


def _held(page: Page) -> None:
    expect(findings(page)).to_contain_text("Nothing is loose")


def test_a_disc_between_two_shoes_its_bore_free_to_turn_with_spin(page: Page) -> None:
    start_empty(page, "plane strain")
    add_part(page, "Washer or sleeve", Inner_diameter="12 mm", Outer_diameter="40 mm")
    _place(page, "2.5 mm")
    for x in ("-25 mm", "25 mm"):
        add_part(page, "Block", **{"Length (x)": "10 mm", "Depth (y)": "30 mm"})
        _place(page, "2.5 mm", x=x)
    pick(page, "washer", "bore")
    handle_on_it(page)
    page.get_by_role("button", name="Hold it").click()
    hold_some(page, "x", "y")
    pick(page, "block", "left")
    hold_it(page)
    pick(page, "block-2", "near")
    hold_it(page)
    hold_some(page, "y")
    pick(page, "block-2", "right")
    page.get_by_role("button", name="Force on it").click()
    direct(page, "-1", "0", "0")
    set_entry(page, "Load", "2 kN")
    deselect(page)
    page.get_by_role("button", name="Spin", exact=True).click()
    make_all_pairs(page, 2)
    _held(page)
    run_to_the_end(page)
    assert pressure(page, "block-2-washer", "washer-block-2") > 50


def test_bar_lug_and_pin_with_one_part_left_out_a_soft_spring_and_slow_dynamics(page: Page) -> None:
    start_empty(page)
    add_part(page, "Lug", **{"Hole diameter": "20 mm", "Thickness (z)": "10 mm"})
    _place(page, "9 mm")
    _coarser(page)
    pick(page, "lug", "root")
    hold_it(page)
    add_part(page, "Pin, plain or shouldered", **{"Length of the shank": "20 mm", "Head length": "0 mm"})
    _place(page, "9 mm", x="0 mm", z="-5 mm")
    _coarser(page)
    add_part(page, "Block")
    set_entry(page, "Name", "Bar")
    page.get_by_role("switch", name="In the analysis").click()
    pick(page, "pin", "bottom")
    handle_on_it(page)
    page.get_by_role("button", name="Spring to the ground").click()
    for axis in ("x", "y", "z"):
        set_entry(page, f"along {axis}", "20 N/mm")
        set_entry(page, f"about {axis}", "1 N*m/rad")
    pick(page, "pin", "top")
    page.get_by_role("button", name="Force on it").click()
    direct(page, "1", "0", "0")
    set_entry(page, "Load", "3 kN")
    page.get_by_role("button", name="1 Load").click()
    page.get_by_role("switch", name="Inertia").click()
    set_entry(page, "Takes", "0.2 s")
    set_entry(page, "Damping, 1/s", "200")
    for entry in ("Largest increment", "First increment"):
        set_entry(page, entry, "0.5")
    make_all_pairs(page, 1)
    _held(page)
    expect(page.locator('[data-part="block"]')).to_contain_text("left out")
    run_to_the_end(page)
    assert pressure(page, "pin-lug", "lug-pin") > 20


def test_two_bars_hinged_and_a_second_load_case(page: Page, address: str) -> None:
    start_empty(page)
    for x in ("0 mm", "100 mm"):
        add_part(page, "Strap")
        _place(page, "12 mm", x=x)
        _coarser(page)
    for strap, hole in (("strap", "hole.1"), ("strap-2", "hole.2"), ("strap-2", "hole.1")):
        pick(page, strap, hole)
        handle_on_it(page)
    page.get_by_role("button", name="Hold it").click()
    hold_some(page, "x", "y", "z", "turn x", "turn y")
    deselect(page)
    page.get_by_role("button", name="Handle of Strap Handle", exact=True).click()
    choose(page, "Link it to", "Handle of Strap 2")
    expect(page.locator("[data-link]")).to_have_text("hinge")
    pick(page, "strap", "hole.2")
    handle_on_it(page)
    page.get_by_role("button", name="Hold it").click()
    expect(page.get_by_role("heading", name=re.compile("^Hold"), level=2)).to_be_visible()
    pick(page, "strap-2", "upper")
    page.get_by_role("button", name="Force on it").click()
    direct(page, "0", "-1", "0")
    set_entry(page, "Load", "400 N")
    _held(page)
    title = page.url
    page.goto(address)
    page.get_by_role("button", name=re.compile("More")).first.click()
    page.get_by_role("menuitem", name="Duplicate").click()
    copied = page.locator("[data-study]", has_text=", copy")
    copied.get_by_role("link", name="Bench").click()
    assert page.url != title
    page.get_by_role("button", name="Force on Strap 2, Load: 0 → 400 N").click()
    set_entry(page, "Force on Strap 2 in Load", "800 N")
    run_to_the_end(page)
    expect(page.get_by_text("800 N").first).to_be_visible()


def test_a_line_bolt_into_a_body_that_was_split(page: Page) -> None:
    start_empty(page)
    add_part(page, "Block", **{"Length (x)": "40 mm", "Depth (y)": "40 mm", "Height (z)": "40 mm"})
    set_entry(page, "Element size", "8 mm")
    choose(page, "Across", "z")
    set_entry(page, "at z", "20 mm", is_edit=False)
    choose(page, "Leaves", "both sides, touching")
    page.get_by_role("button", name="Cut the part").click()
    expect(page.locator("[data-part]")).to_have_count(2)
    expect(page.locator("[data-pair]")).to_have_count(1)
    pick(page, "block-1", "bottom")
    hold_it(page)
    for part, face in (("block-1", "bottom"), ("block-2", "top")):
        pick(page, part, face)
        handle_on_it(page)
    page.get_by_role("radio", name="on average").click()
    page.get_by_role("button", name="Bolt into the ground").click()
    choose(page, "Foot", "Handle of Block 1")
    set_entry(page, "Load", "16 kN")
    _held(page)
    run_to_the_end(page)
    # 16 kN over 1600 mm²: 10 MPa where it is pressed evenly.
    assert 9 < pressure(page, "block-joint") < 30


def test_unlike_meshes_tied_their_overlap_removed_and_counted(page: Page) -> None:
    start_empty(page)
    for z, size in (("0 mm", "9 mm"), ("19.98 mm", "5 mm")):
        add_part(page, "Block", **{"Length (x)": "40 mm", "Depth (y)": "40 mm", "Height (z)": "20 mm"})
        _place(page, size, x="0 mm", z=z)
    make_all_pairs(page, 1)
    page.locator("[data-pair]").click()
    page.get_by_role("switch", name="May open").click()
    choose(page, "Count it", "overlap removed")
    pick(page, "block", "bottom")
    hold_it(page)
    pick(page, "block-2", "top")
    page.get_by_role("button", name="Pressure on it").click()
    set_entry(page, "Load", "-20 MPa")
    expect(findings(page)).to_contain_text("overlap of 0.02 mm is taken away at the start, at 81 of 81 nodes")
    _held(page)
    run_to_the_end(page)


def test_a_snap_pawl_cut_in_half_driven_by_a_drawn_course_yields(page: Page) -> None:
    start_empty(page)
    add_part(page, "Pawl")
    _place(page, "9 mm", x="0 mm")
    _coarser(page)
    add_part(page, "Ratchet teeth", Teeth="1", **{"Width (z)": "15 mm", "Lean of the steep faces": "0 deg"})
    _place(page, "9 mm", x="70 mm", y="-32 mm")
    _coarser(page)
    # Both are cut at mid-width at once, and held there as the halves that they are.
    deselect(page)
    choose(page, "Across", "z")
    set_entry(page, "at z", "7.5 mm", is_edit=False)
    page.get_by_role("button", name="Cut all parts").click()
    expect(page.get_by_label("Sequence board").get_by_text("Symmetry, z = 7.5 mm")).to_be_visible()
    deselect(page)
    set_entry(page, "Yields by table", "0: 355 MPa, 0.05: 460 MPa")
    pick(page, "pawl", "hole")
    hold_it(page)
    pick(page, "ratchet", "foot")
    hold_it(page)
    hold_some(page, "y")
    pick(page, "ratchet", "foot")
    page.get_by_role("button", name="Move it").click()
    direct(page, "-1", "0", "0")
    # The course is drawn: a double click adds a point, which is then put where it is wanted.
    page.get_by_role("button", name="Draw Load").click()
    dialog = page.get_by_role("dialog")
    plot = dialog.get_by_label("Course of Motion on Ratchet")
    area = plot.bounding_box()
    assert area is not None
    plot.dblclick(position={"x": area["width"] / 2, "y": area["height"] / 3})
    dialog.get_by_label("Share of point 2").fill("0.5")
    dialog.get_by_label("Value of point 2").fill("0.4")
    dialog.get_by_label("Value of point 3").fill("0.3")
    dialog.get_by_role("button", name="Use the course").click()
    expect(dialog).to_have_count(0)
    make_all_pairs(page, 1)
    page.locator("[data-pair]").click()
    page.get_by_role("radio", name="freely").click()
    _held(page)
    run_to_the_end(page)
    expect(page.get_by_text(re.compile("Pawl yields from step 1")).first).to_be_visible()


def test_an_axisymmetric_thread_built_from_nothing(page: Page) -> None:
    """Ridges of a thread between those of its nut: what pulls on the one comes back at the other."""
    start_empty(page, "axisymmetric")
    for turn, teeth in (("-90 deg", "3"), ("90 deg", "4")):
        add_part(page, "Rack", Teeth=teeth, Module="2 mm", **{"Thinning of the teeth for backlash": "0 mm"})
        set_entry(page, "by", turn)
        _place(page, "1 mm", x="24 mm")
    make_all_pairs(page, 6, within="0.001 mm")
    pick(page, "gear-rack-2", "foot")
    hold_it(page)
    pick(page, "gear-rack", "end.left")
    page.get_by_role("button", name="Force on it").click()
    direct(page, "0", "1", "0")
    set_entry(page, "Load", "20 kN")
    _held(page)
    run_to_the_end(page)
