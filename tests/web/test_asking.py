"""Ask again in the browser: inputs found and varied, samples solved, the worst opened and kept as a variant."""

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.web.doing import choose, set_entry
from ulmek.runs.solve import solve_study
from ulmek.study.items import read_study


def _vary(page: Page, words: str, entry: str) -> None:
    page.get_by_role("searchbox", name="Vary another entry").fill(words)
    page.get_by_role("list", name="Entries found").get_by_role("button", name=re.compile(entry)).click()
    expect(page.get_by_role("searchbox", name="Vary another entry")).to_have_value("")


def test_inputs_are_varied_and_the_worst_sample_is_opened_and_kept(
    page: Page, address: str, two_blocks: dict[str, Any]
) -> None:
    study = page.request.post(address + "api/studies", data={"document": two_blocks}).json()["id"]
    page.goto(f"{address}studies/{study}/bench")
    page.get_by_role("link", name="Ask again").click()
    _vary(page, "push values", "Load Push: push")
    push = page.get_by_role("region", name="Load Push: push")
    expect(push).to_contain_text("1.80 to 2.20 kN · now 2.00 kN")
    set_entry(page, "Load Push: push, highest", "150 %")
    expect(push).to_contain_text("1.80 to 3.00 kN")
    _vary(page, "law mu", "Pair Slider – base: friction coefficient µ")
    choose(page, "Pair Slider – base: friction coefficient µ, how it scatters", "mostly in the middle")
    set_entry(page, "Pair Slider – base: friction coefficient µ, lowest", "0.3")
    expect(page.get_by_role("alert")).to_contain_text("one end is a share and the other is not")
    expect(page.get_by_role("button", name="Ask", exact=True)).to_be_disabled()
    set_entry(page, "Pair Slider – base: friction coefficient µ, highest", "0.2")
    expect(page.get_by_role("alert")).to_contain_text("the lowest value is not below the highest")
    set_entry(page, "Pair Slider – base: friction coefficient µ, lowest", "0.12")
    expect(page.get_by_role("alert")).to_have_count(0)
    set_entry(page, "Samples", "12")
    page.get_by_role("button", name="Ask", exact=True).click()
    expect(page.get_by_test_id("how-far")).to_have_attribute("data-status", "done")
    expect(page.get_by_test_id("how-far")).to_contain_text("12 of 12 samples")

    page.get_by_role("list", name="How sure").get_by_role("button", name=re.compile("Slider – base sliding")).click()
    expect(page.get_by_role("heading", level=2)).to_contain_text(
        re.compile(r"Slider – base, sliding: holds in \d+ of 12")
    )
    expect(page.get_by_role("list", name="What matters").get_by_role("listitem")).to_have_count(2)
    samples = page.get_by_role("region", name="All samples")
    expect(samples.locator("tbody tr")).to_have_count(12)
    map_of = page.get_by_role("region", name="Map of the samples")
    expect(map_of.get_by_role("button", name=re.compile("^Sample "))).to_have_count(12)
    # The first row slides furthest; pressed, it is the sample that is told at the right.
    row = samples.locator("tbody tr").first
    number = row.locator("td").first.inner_text()
    row.click()
    right = page.get_by_label("What matters", exact=True).first
    expect(right).to_contain_text(f"Sample {number}")
    page.get_by_role("button", name="Keep as variant").click()
    variant = page.get_by_role("list", name="Variants").get_by_role("listitem").first
    expect(variant).to_contain_text(f"Sample {number} of Scatter")
    expect(variant).to_contain_text("Slider – base, law mu 0.15 →")
    page.get_by_role("button", name="Run it").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    expect(page.get_by_test_id("run-status")).to_contain_text(f"Sample {number} of Scatter")


def test_a_slider_is_answered_beside_the_run_and_goes_back(
    page: Page, address: str, two_blocks: dict[str, Any]
) -> None:
    study = page.request.post(address + "api/studies", data={"document": two_blocks}).json()["id"]
    page.goto(f"{address}studies/{study}/bench")
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    page.get_by_role("link", name="Review").last.click()
    page.get_by_role("button", name="What if…").click()
    asked = page.get_by_test_id("what-if")
    slider = page.get_by_role("slider", name="Load Push: push, slider")
    slider.focus()
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    expect(asked).to_have_attribute("data-status", "answered")
    expect(page.get_by_label("Load Push: push", exact=True)).to_have_value("2.5 kN")
    cell = page.get_by_test_id("ledger").get_by_role("button", name=re.compile("^Slider – base, Sliding"))
    expect(cell.get_by_test_id("was")).to_contain_text("was ")
    # The same as a run of the study with that load.
    answer = asked.get_attribute("data-answer")
    pushed = [{**load, "values": {"push": "2.5 kN"}} if load["id"] == "push" else load for load in two_blocks["loads"]]
    fresh = solve_study(read_study({**two_blocks, "loads": pushed})).summaries[-1].pairs["joint"]
    rows = page.request.get(f"{address}api/runs/{answer}/ledger").json()["rows"]
    found = next(r for r in rows if r["id"] == "joint")
    assert found["sliding"]["value"] == pytest.approx(fresh.max_sliding * 1e3, rel=1e-8)
    # What cannot be is told; what was asked before stands.
    field = page.get_by_label("Load Push: push", exact=True)
    field.fill("9 mm")
    field.press("Enter")
    expect(page.get_by_text("'9 mm' is not a force.")).to_be_visible()
    expect(field).to_have_value("2.5 kN")
    page.get_by_role("button", name="Back to the run").click()
    expect(cell.get_by_test_id("was")).to_have_count(0)
    expect(field).to_have_value("2 kN")
