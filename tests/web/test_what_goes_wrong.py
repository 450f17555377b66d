"""What goes wrong, on the page: bad files, loose parts, refused entries, stopped runs, a study that is gone."""

import copy
import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.web.conftest import findings
from tests.web.doing import drawn_stage


@pytest.fixture
def study_file(two_blocks: dict[str, Any], tmp_path: Path) -> Path:
    path = tmp_path / "two-blocks.ulmek.json"
    path.write_text(json.dumps(two_blocks))
    return path


def _open(page: Page, file: Path) -> None:
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_test_id("revision")).to_have_text("r1")
    drawn_stage(page)


def test_files_that_are_no_studies_are_explained(page: Page, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    cases = {"truncated.json": '{"format": "ulmek-st', "other.json": '{"format": "shopping"}'}
    broken = copy.deepcopy(two_blocks)
    broken["parts"][0]["recipe"]["dimensions"]["height"] = "-2 mm"
    cases["negative.json"] = json.dumps(broken)
    for name, text in cases.items():
        (tmp_path / name).write_text(text)
        page.locator("input[type=file]").set_input_files(tmp_path / name)
        alert = page.get_by_role("alert")
        expect(alert).to_contain_text("(z) is -2 mm" if name.startswith("neg") else "not an Ulmek study")
    expect(page.locator("[data-study]")).to_have_count(0)


def test_a_loose_part_stops_the_run_and_is_shown_where_it_is(page: Page, study_file: Path) -> None:
    _open(page, study_file)
    run = page.get_by_role("button", name="Check and run")
    expect(findings(page)).to_contain_text("Nothing is loose.")
    expect(run).to_be_enabled()

    # Without friction the slider floats on the base: preflight says how, the map marks it, the run waits.
    page.locator('[data-pair="joint"]').click()
    page.get_by_role("radio", name="freely").click()
    finding = findings(page).get_by_role("button", name="Slider is loose")
    expect(finding).to_contain_text("it can move along x, along y and turning about z")
    expect(run).to_be_disabled()
    expect(page.locator('[data-part="slider"]')).to_contain_text("loose")
    finding.click()
    expect(page.get_by_role("heading", name="Slider")).to_be_visible()

    # Undo from the keyboard puts it right.
    page.locator("body").press("Control+z")
    expect(findings(page)).to_contain_text("Nothing is loose.")
    expect(run).to_be_enabled()


def test_refused_entries_stay_to_be_mended_and_change_nothing(page: Page, study_file: Path) -> None:
    _open(page, study_file)
    page.get_by_role("button", name="Press, Press: 0 → 20 MPa").click()
    cell = page.get_by_label("Press in Press")
    for text, said in (("20", "has no unit"), ("20 mm", "is not a stress"), ("soon", "not a number with a unit")):
        cell.fill(text)
        cell.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text(said)
    expect(page.get_by_test_id("revision")).to_have_text("r1")
    cell.fill("off")
    cell.press("Enter")
    expect(page.get_by_role("button", name="Press, Press: 0 → 0")).to_be_visible()
    expect(page.get_by_test_id("revision")).to_have_text("r2")


def test_everything_is_reached_from_the_keyboard(page: Page, study_file: Path) -> None:
    _open(page, study_file)
    page.locator("body").press("Control+k")
    page.get_by_label("Find or do").last.fill("slider")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Slider – base")).to_be_visible()
    page.locator("body").press("Control+k")
    page.get_by_label("Find or do").last.fill("review")
    page.keyboard.press("Enter")
    expect(page.get_by_text("There is nothing to review yet")).to_be_visible()


def test_a_run_that_slides_away_and_one_that_is_stopped_and_resumed(
    page: Page, address: str, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    away = copy.deepcopy(two_blocks)
    away["loads"][1]["values"]["push"] = "9 kN"
    (tmp_path / "away.json").write_text(json.dumps(away))
    _open(page, tmp_path / "away.json")
    page.get_by_role("button", name="Check and run").click()
    status = page.get_by_test_id("run-status")
    expect(status).to_have_attribute("data-status", "not-converged", timeout=90_000)
    log = page.get_by_label("Run log")
    expect(log).to_contain_text("the increment is halved")
    expect(log).to_contain_text("slides away: nothing was found that holds it beyond this load")
    # What moves is shown moving.
    log.get_by_role("link", name="Show how Slider moves").click()
    expect(page.get_by_role("status").filter(has_text="Slider can move like this")).to_be_visible()
    page.get_by_role("button", name="Stop showing it").click()
    expect(page.get_by_text("Slider can move like this")).to_have_count(0)
    # What converged before is there to be reviewed.
    page.get_by_role("link", name="Review").last.click()
    expect(page.get_by_test_id("ledger").locator('[data-row="joint"]')).to_contain_text("MPa")

    slow = copy.deepcopy(two_blocks)
    for step in slow["steps"]:
        step["increments"] = {"start": 0.002, "least": 0.001, "largest": 0.002, "most": 1000}
    (tmp_path / "slow.json").write_text(json.dumps(slow))
    page.get_by_role("link", name="Ulmek, back to the shelf").click()
    _open(page, tmp_path / "slow.json")
    page.get_by_role("button", name="Check and run").click()
    expect(log).to_contain_text("of step 1 reached")
    page.get_by_role("button", name="Stop").click()
    expect(status).to_have_attribute("data-status", "stopped")
    expect(log).to_contain_text("Stopped on request.")

    # With larger increments it goes on from where it was stopped, and ends.
    study = re.search(r"studies/(\d+)", page.url)
    assert study
    patch = [{"op": "replace", "path": f"/steps/{i}/increments", "value": {}} for i in range(len(slow["steps"]))]
    edit = {"base_revision": 1, "label": "larger increments", "patch": patch}
    assert page.request.patch(f"{address}api/studies/{study[1]}", data=edit).ok
    page.get_by_role("button", name="Resume from increment").click()
    expect(status).to_contain_text("going on from run")
    expect(log).to_contain_text("Goes on after increment")
    expect(status).to_have_attribute("data-status", "solved", timeout=90_000)
    expect(page.get_by_role("button", name="Resume from increment")).to_have_count(0)


def test_a_study_that_is_gone_leads_back_to_the_shelf(page: Page, address: str) -> None:
    page.goto(f"{address}studies/4711/bench")
    expect(page.get_by_text("there is no study 4711")).to_be_visible()
    page.get_by_role("link", name="Back to the shelf").click()
    expect(page.get_by_role("heading", name="Studies", exact=True)).to_be_visible()
