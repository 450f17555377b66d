"""Work on the page, counted in clicks and entries as somebody would do it."""

from playwright.sync_api import Locator, Page, expect

from tests.web.doing import drawn_stage

# Where the stage is looked at for a face: a step (px), and how far out from where it is thought to be.
STEP, REACH = 14, 16
# While the page is busy, what is said is still of the place before: a place counts when it is said there for long.
LOOK = """async ([name, points]) => {
  const stage = document.querySelector('[data-testid=stage]');
  const says = () => [...stage.querySelectorAll('*')].some((e) => !e.children.length && e.textContent === name);
  const rest = async ([clientX, clientY], time) => {
    document.elementFromPoint(clientX, clientY)
      ?.dispatchEvent(new PointerEvent('pointermove', { clientX, clientY, bubbles: true }));
    await new Promise((go) => setTimeout(go, time));
    return says();
  };
  for (const [i, point] of points.entries()) {
    if (!(await rest(point, 105))) continue;
    for (const sure of [point, points[i - 1] ?? point]) if (await rest(sure, 500)) return sure;
  }
  return null;
}"""


class Counted:
    """A page whose clicks and entries are counted."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def click(self, what: Locator) -> None:
        """One click."""
        self.actions += 1
        what.click()

    def press(self, name: str, *, within: Locator | None = None) -> None:
        """One click on a button."""
        self.click((within or self.page).get_by_role("button", name=name, exact=True))

    def enter(self, label: str, value: str, *, within: Locator | None = None) -> None:
        """One entry."""
        self.actions += 1
        field = (within or self.page).get_by_label(label, exact=True)
        field.fill(value)
        field.press("Enter")

    def key(self, name: str) -> None:
        """One key on the stage."""
        self.actions += 1
        self.page.keyboard.press(name)

    def choose(self, label: str, option: str) -> None:
        """Two clicks: on a list, and on one of what it offers."""
        self.actions += 2
        self.page.get_by_role("combobox", name=label, exact=True).click()
        self.page.get_by_role("option", name=option, exact=True).click()

    def pick(self, name: str, near: tuple[float, float]) -> None:
        """One click on a face of the stage, by what the stage says where the pointer rests; looked for from ``near``,
        in shares of its width and height, on."""
        self.actions += 1
        area = drawn_stage(self.page).bounding_box()
        assert area is not None
        x, y = area["x"] + near[0] * area["width"], area["y"] + near[1] * area["height"]
        offsets = sorted(
            ((i * STEP, j * STEP) for i in range(-REACH, REACH + 1) for j in range(-REACH, REACH + 1)),
            key=lambda o: o[0] ** 2 + o[1] ** 2,
        )
        points = [[x + i, y + j] for i, j in offsets]
        found = self.page.evaluate(LOOK, [name, points])
        assert found is not None, f"{name} is nowhere near {near} on the stage"
        self.page.mouse.click(*found)
        expect(self.page.get_by_role("heading", name=f"Picked face · {name.split(' · ')[1]}")).to_be_visible()

    def made(self) -> None:
        """One click that makes the joint, and what it answers seen."""
        self.press("Make the joint")
        expect(self.page.get_by_role("button", name="Unmake it, keep its pieces")).to_be_visible()
