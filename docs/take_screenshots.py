"""Take the pictures in docs/screenshots from a running server with the demo data.

Usage: .venv/bin/python docs/take_screenshots.py [ADDRESS] [FOLDER]
"""

import re
import shutil
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FLAGS = [
    "--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


def settle(page: Page) -> None:
    """Wait until the stage is drawn and the network is quiet."""
    page.wait_for_load_state("networkidle")
    stage = page.locator('[data-testid="stage"][data-ready="yes"]')
    if page.locator('[data-testid="stage"]').count():
        stage.first.wait_for()
    page.wait_for_timeout(700)


def join(page: Page, one: str, other: str) -> None:
    """Begin a joint of two parts, and see what it would be made of."""
    page.locator(f'[data-part="{one}"]').click()
    page.locator(f'[data-part="{other}"]').click(modifiers=["Shift"])
    page.get_by_role("button", name="Make a joint").click()
    page.get_by_text(re.compile("^(Makes|Takes in) ")).wait_for()
    page.wait_for_timeout(1500)


def main(address: str, folder: Path) -> None:
    """Walk through the main views of the first study and photograph each."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.on(
            "console", lambda m: sys.stderr.write(f"console: {m.text}\n") if m.type in ("error", "warning") else None
        )
        page.on("pageerror", lambda e: sys.stderr.write(f"page error: {e}\n"))

        def take(name: str) -> None:
            settle(page)
            page.screenshot(path=folder / f"{name}.png")

        page.goto(address)
        page.locator("[data-study] img").first.wait_for()
        take("shelf")
        page.locator("[data-study]", has_text="Wall bracket").get_by_role("link", name="Bench").click()
        page.locator('[data-pair="flange"]').click()
        page.get_by_label("in order").first.wait_for()
        take("bench")
        page.get_by_role("button", name="All pairs").click()
        page.get_by_label("Mark Bolt heads – bracket").click()
        page.get_by_label("Mark Nuts – wall plate").click()
        take("bench-pairs")
        page.get_by_role("button", name="Back to the sequence").click()
        join(page, "wall-plate", "bracket")
        take("bench-joint-bolted")
        page.get_by_role("button", name="Not now").click()
        page.locator('[data-part="bracket"]').click()
        take("bench-part")
        page.locator('[data-sign^="load/"]', has_text="Hoist pull").click()
        page.get_by_role("button", name="Draw Hoist pull").click()
        plot = page.get_by_role("group", name="Course of Hoist pull").bounding_box()
        assert plot is not None
        page.mouse.dblclick(plot["x"] + 0.5 * plot["width"], plot["y"] + 0.3 * plot["height"])
        take("bench-course")
        page.get_by_role("button", name="Cancel").click()
        page.locator('[data-part="bracket"]').click()
        page.locator("button[aria-expanded]", has_text="elements").click()
        page.get_by_label("Mesh", exact=True).get_by_role("img").first.wait_for()
        page.locator("label", has_text="mesh").get_by_role("checkbox").check()
        take("bench-mesh")
        page.get_by_role("button", name="Close the mesh panel").click()
        page.locator("label", has_text="mesh").get_by_role("checkbox").uncheck()
        page.get_by_role("link", name="Run", exact=True).click()
        page.get_by_text("Solved in").wait_for()
        take("run")
        page.get_by_role("link", name="Review").first.click()
        page.locator('[data-testid="ledger"]').wait_for()
        take("review")
        page.locator('[data-row="flange"]').get_by_role("button", name="open,").click()
        take("review-status")
        page.locator('[data-row="bracket"] button').first.click()
        page.locator("label", has_text="section").get_by_role("checkbox").check()
        page.get_by_role("group", name="Section").get_by_role("radio", name="y").click()
        page.get_by_label("Place of the section").fill("0.73")
        page.locator('[data-row="bolts"] button').first.click()
        page.locator("label", has_text="section").get_by_role("checkbox").uncheck()
        page.goto(address)
        page.locator("[data-study]", has_text="Lifting eye").get_by_role("link", name="Bench").click()
        page.get_by_label("in order").first.wait_for()
        page.locator('[data-pair="in-strap"]').click()
        take("bench-lifting-eye")
        join(page, "lug", "strap")
        take("bench-joint-pinned")
        page.get_by_role("button", name="Not now").click()
        page.get_by_role("button", name="measure").click()
        area = page.get_by_test_id("stage").bounding_box()
        assert area is not None
        for x, y in ((430, 280), (150, 320)):
            page.mouse.click(area["x"] + x, area["y"] + y)
            page.get_by_text("Area").or_(page.get_by_text("Gap of the parts")).first.wait_for()
        page.get_by_text("Gap of the parts").wait_for()
        page.locator("label", has_text="section").get_by_role("checkbox").check()
        page.get_by_role("group", name="Section").get_by_role("radio", name="z").click()
        page.get_by_label("Place of the section").fill("0.85")
        take("bench-measure")
        page.locator("label", has_text="section").get_by_role("checkbox").uncheck()
        page.get_by_role("button", name="Stop measuring").click()
        # The eye's own assembly, written as STEP and read again.
        written = page.request.get(page.url.replace("/studies/", "/api/studies/").replace("/bench", "/assembly.step"))
        page.get_by_role("button", name="From file").click()
        chooser = page.get_by_label("STEP file", exact=True)
        chooser.set_input_files({"name": "lifting-eye.step", "mimeType": "model/step", "buffer": written.body()})
        page.get_by_role("button", name="Add 3 parts").wait_for()
        page.wait_for_timeout(1500)
        take("bench-step-file")
        page.get_by_role("button", name="Cancel").click()
        page.get_by_role("button", name="Add a part").click()
        page.get_by_role("dialog").get_by_role("button", name="Spur gear or toothed sector").click()
        take("bench-add-part")
        page.goto(address)
        page.locator("[data-study]", has_text="Crossed stops").get_by_role("link", name="Review").click()
        page.locator('[data-row="lower"] button').first.click()
        take("review-beams")
        page.goto(address)
        page.locator("[data-study]", has_text="Pinion and sector").get_by_role("link", name="Review").click()
        page.locator('[data-row="pinion"] button').first.click()
        take("review-gears")
        page.goto(address)
        page.locator("[data-study]", has_text="Guide roller").get_by_role("link", name="Review").click()
        page.locator('[data-row="rail"] button').first.click()
        settle(page)
        page.get_by_role("combobox").first.click()
        page.get_by_role("option", name="Plastic strain").click()
        take("review-section")
        page.goto(address)
        page.get_by_role("button", name="Start empty").click()
        page.get_by_role("button", name="Add the first part").click()
        page.get_by_role("dialog").get_by_role("button", name="Spur gear or toothed sector").click()
        page.get_by_role("button", name="And another").click()
        page.get_by_text("Gear added.").wait_for()
        page.get_by_role("button", name="Add spur gear or toothed sector").click()
        join(page, "gear", "gear-2")
        take("bench-joint-geared")
        browser.close()


if __name__ == "__main__":
    main(
        sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8321/",
        Path(sys.argv[2]) if len(sys.argv) > 2 else Path(__file__).parent / "screenshots",
    )
