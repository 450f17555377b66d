"""What holds on every view: refusals are told, taking out is told and undone at once, the stage is updated in place."""

import json
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from tests.web.doing import drawn_stage
from tests.web.test_what_goes_wrong import _open

COUNTING = """
window.made = { buffers: 0, programs: 0 };
for (const [name, key] of [["createBuffer", "buffers"], ["createProgram", "programs"]]) {
  const own = WebGL2RenderingContext.prototype[name];
  WebGL2RenderingContext.prototype[name] = function (...args) { window.made[key]++; return own.apply(this, args); };
}
"""


# Notes whatever is shown from now on.
WATCHING = """(shown) => {
  window.seen = [];
  new MutationObserver(() => window.seen.push(shown.dataset.shown)).observe(shown, { attributeFilter: ["data-shown"] });
}"""


def _opened(page: Page, document: dict[str, Any], folder: Path) -> str:
    file = folder / "study.ulmek.json"
    file.write_text(json.dumps(document))
    _open(page, file)
    return page.url.rsplit("/", 1)[0]


def test_playing_builds_no_new_buffer_material_or_program(
    page: Page, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    page.add_init_script(COUNTING)
    page.reload()
    study = _opened(page, two_blocks, tmp_path)
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    page.goto(f"{study}/review")
    shown = page.get_by_test_id("shown")
    expect(shown).to_have_attribute("data-shown", "pair/joint/pressure/7")
    drawn_stage(page)
    head = page.get_by_role("slider", name="Play head")
    # Every increment is drawn once, so that all fields are there and all programs are compiled.
    head.press("Home")
    for at in range(1, 8):
        head.press("ArrowRight")
        expect(shown).to_have_attribute("data-shown", f"pair/joint/pressure/{at}")
    before = page.evaluate("window.made")
    assert before["buffers"] > 0
    shown.evaluate(WATCHING)
    page.get_by_role("button", name="Play").click()
    page.wait_for_function("window.seen.length >= 10")
    page.get_by_role("button", name="Pause").click()
    played = [int(s.rsplit("/", 1)[1]) for s in page.evaluate("window.seen")]
    assert played == [n % 8 for n in range(len(played))]
    page.get_by_label("Field").click()
    page.get_by_role("option", name="Gap", exact=True).click()
    expect(page.get_by_test_id("legend")).to_contain_text("µm")
    page.get_by_label("Motion").click()
    page.get_by_role("option", name="moved ×50").click()
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    assert page.evaluate("window.made") == before


def test_a_part_taken_out_takes_its_handle_with_it_says_so_and_comes_back(
    page: Page, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    held = {
        **two_blocks,
        "handles": [{"id": "grip", "name": "Grip", "faces": ["slider/top"]}],
        "springs": [{"id": "soft", "name": "Soft", "a": "grip", "stiffness": ["1 N/mm"] * 3}],
    }
    _opened(page, held, tmp_path)
    page.locator('[data-part="slider"]').click()
    page.get_by_role("button", name="Take the part out").click()
    notice = page.get_by_role("region", name="Notices")
    expect(notice).to_contain_text(
        "Slider is taken out. Also takes out pair Slider – base, handle Grip, spring Soft, load Press and load Push."
    )
    expect(page.locator('[data-part="slider"]')).to_have_count(0)
    notice.get_by_role("button", name="Undo").click()
    expect(page.locator('[data-part="slider"]')).to_have_count(1)
    expect(page.get_by_test_id("revision")).to_have_text("r3")


def test_a_refusal_from_a_button_is_told_and_a_stale_one_too(
    page: Page, two_blocks: dict[str, Any], tmp_path: Path
) -> None:
    study = _opened(page, two_blocks, tmp_path)
    number = int(study.rsplit("/", 1)[1])
    # Somebody else edits the study; this page has not heard of it.
    moved = page.request.patch(
        f"{study.split('/studies')[0]}/api/studies/{number}",
        data={"base_revision": 1, "patch": [{"op": "replace", "path": "/title", "value": "Moved on"}]},
    )
    assert moved.ok
    page.get_by_role("button", name="Add a step").click()
    told = page.get_by_role("region", name="Notices").get_by_role("alert")
    expect(told).to_contain_text("the study is at revision 2, the edit was made at 1.")
    # The page shows the study as it stands, so that the edit can be made again.
    expect(page.get_by_test_id("revision")).to_have_text("r2")
    page.get_by_role("button", name="Add a step").click()
    expect(page.get_by_test_id("revision")).to_have_text("r3")


def test_review_says_that_it_shows_an_earlier_run(page: Page, two_blocks: dict[str, Any], tmp_path: Path) -> None:
    study = _opened(page, two_blocks, tmp_path)
    page.get_by_role("button", name="Check and run").click()
    expect(page.get_by_test_id("run-status")).to_have_attribute("data-status", "solved")
    root, number = study.split("/studies/")
    api = f"{root}/api/studies/{number}"
    loose = {"base_revision": 1, "patch": [{"op": "replace", "path": "/supports", "value": []}]}
    assert page.request.patch(api, data=loose).ok
    assert page.request.post(f"{api}/runs").ok
    page.goto(f"{study}/review")
    expect(page.get_by_test_id("older-run")).to_contain_text("has none: Base is loose")
