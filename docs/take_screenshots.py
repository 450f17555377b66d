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


def _ring(**corners: tuple[str, str]) -> list[dict[str, object]]:
    return [{"name": name.replace("_", "."), "to": to} for name, to in corners.items()]


# The carrier of a gate seal, drawn in dimensions that can be changed.
CARRIER = {
    "kind": "drawn",
    "dimensions": {"wide": "44 mm", "high": "24 mm", "groove": "wide/2", "mouth": "groove - 8 mm", "lip": "6 mm"},
    "drawn": {
        "outlines": [
            {"name": "body", "edges": _ring(
                foot=("wide/2", "0 mm"), side_right=("wide/2", "high"), face_right=("mouth/2", "high"),
                mouth_right=("mouth/2", "high - lip"), lip_right=("groove/2", "high - lip"),
                groove_right=("groove/2", "high/3"), groove_floor=("-groove/2", "high/3"),
                groove_left=("-groove/2", "high - lip"), lip_left=("-mouth/2", "high - lip"),
                mouth_left=("-mouth/2", "high"), face_left=("-wide/2", "high"), side_left=("-wide/2", "0 mm"),
            )},
            {"name": "drain", "takes_out": True, "circle": {"centre": ["0 mm", "high/6"], "diameter": "4 mm"}},
        ],
        "layers": [{"name": "bar", "height": "80 mm", "outlines": ["body", "drain"]}],
    },
}  # fmt: skip


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
        page.get_by_role("button", name="Report", exact=True).click()
        take("review-report")
        page.get_by_role("button", name="Leave it").click()
        page.locator('[data-row="bracket"] button').first.click()
        page.locator("label", has_text="section").get_by_role("checkbox").check()
        page.get_by_role("group", name="Section").get_by_role("radio", name="y").click()
        page.get_by_label("Place of the section").fill("0.73")
        settle(page)
        page.get_by_role("button", name="path", exact=True).click()
        stage = page.get_by_test_id("stage").bounding_box()
        assert stage is not None
        for x, y in ((0.45, 0.6), (0.6, 0.55)):
            page.mouse.click(stage["x"] + x * stage["width"], stage["y"] + y * stage["height"])
            page.wait_for_timeout(300)
        for end, at in (("from (mm)", "-60, 41.9, 6"), ("to (mm)", "60, 41.9, 6")):
            page.get_by_label(end).fill(at)
            page.get_by_label(end).press("Enter")
        page.get_by_test_id("on-path").wait_for()
        take("review-inside")
        page.get_by_role("link", name="Ask again").click()
        page.get_by_role("button", name="Ask", exact=True).click()
        page.locator('[data-testid="how-far"][data-status="done"]').wait_for(timeout=1_200_000)
        take("ask")
        page.goto(address)
        page.locator("[data-study]", has_text="Lifting eye").get_by_role("link", name="Bench").click()
        page.get_by_label("in order").first.wait_for()
        page.locator('[data-pair="in-lug"]').click()
        page.get_by_role("checkbox", name="gap").check()
        page.get_by_role("status").filter(has_text=" to gap ").wait_for()
        page.locator("label", has_text="section").get_by_role("checkbox").check()
        page.get_by_role("group", name="Section").get_by_role("radio", name="z").click()
        page.get_by_label("Place of the section").fill("0.25")
        take("bench-gap")
        page.locator("label", has_text="section").get_by_role("checkbox").uncheck()
        page.get_by_role("checkbox", name="gap").uncheck()
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
        page.locator("[data-study]", has_text="Guide roller").get_by_role("link", name="Bench").click()
        page.get_by_role("button", name="Settle…").click()
        page.get_by_role("button", name="Settle", exact=True).click()
        page.get_by_text("Every measure is settled, or singular.").first.wait_for(timeout=120_000)
        take("run-settled")
        page.goto(address)
        page.locator("[data-study]", has_text="Pinion and sector").get_by_role("link", name="Review").click()
        page.locator('[data-row="pinion"] button').first.click()
        page.get_by_role("button", name="Curves").click()
        take("review-gears")
        page.goto(address)
        page.locator("[data-study]", has_text="Sill seal").get_by_role("link", name="Review").click()
        page.get_by_test_id("along-outline").wait_for()
        page.get_by_role("button", name="arrows", exact=True).click()
        page.get_by_role("button", name="beside", exact=True).click()
        page.get_by_label("Field beside").click()
        page.get_by_role("option", name="Friction over what it can hold").click()
        settle(page)
        take("review-seal")
        page.goto(address)
        page.get_by_role("button", name="Start empty").click()
        page.get_by_role("button", name="Add the first part").click()
        page.get_by_role("dialog").get_by_role("button", name="Pin, plain or shouldered").click()
        for label, value in (("Head length", "0 mm"), ("Diameter", "40 mm")):
            page.get_by_label(label, exact=True).fill(value)
            page.get_by_label(label, exact=True).press("Enter")
        page.get_by_role("button", name="And another").click()
        page.get_by_text("Pin added.").wait_for()
        page.get_by_role("dialog").get_by_role("button", name="Washer or sleeve").click()
        for label, value in (("Inner diameter", "40 mm"), ("Outer diameter", "70 mm"), ("Thickness", "30 mm")):
            page.get_by_label(label).fill(value)
            page.get_by_label(label).press("Enter")
        page.get_by_role("button", name="Add washer or sleeve").click()
        join(page, "pin", "washer")
        take("bench-joint-pressed")
        page.goto(address)
        page.get_by_role("button", name="Start empty").click()
        page.get_by_role("button", name="Add the first part").wait_for()
        new = {"kind": "drawn", "name": "Seal carrier", "on": "xy", "recipe": CARRIER}
        route = page.url.replace("/studies/", "/api/studies/").replace("/bench", "/parts?base_revision=1")
        page.request.post(route, data=new)
        page.reload()
        page.locator('[data-part="seal-carrier"]').click()
        page.get_by_role("button", name="Change the drawing…").click()
        page.get_by_label("Edge groove.floor").dispatch_event("pointerdown")
        take("bench-drawing")
        browser.close()


if __name__ == "__main__":
    main(
        sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8321/",
        Path(sys.argv[2]) if len(sys.argv) > 2 else Path(__file__).parent / "screenshots",
    )
