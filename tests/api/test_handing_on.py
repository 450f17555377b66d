"""What the server hands on of a run, and fields that it works out: of a press fit in an axisymmetric section."""

import re
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_bad_neighbours import _solved
from tests.api.test_looking import _block
from ulmek.core.handcalc.rings import press_fit_pressure
from ulmek.demo.hoist import BRONZE, STEEL, part, steps

INNER, SEAT, OUTER, HEIGHT, OVERLAP = 10.0, 30.0, 45.0, 30.0, 0.02


def press_fit() -> dict[str, Any]:
    """A bronze ring on a hollow shaft of steel, as high as it; the middle of the shaft's height is held."""

    def block(inner: float, outer: float) -> tuple[dict[str, str], tuple[str, str, str]]:
        size = {"length": f"{outer - inner} mm", "depth": f"{HEIGHT} mm", "height": "1 mm"}
        return size, (f"{(inner + outer) / 2} mm", "0 mm", "0 mm")

    shaft, ring = block(INNER, SEAT), block(SEAT, OUTER)
    return {
        "format": "ulmek-study", "version": 2, "name": "press-fit", "title": "Press fit", "space": "axisymmetric",
        "machine": "Sluice gate hoist", "notes": "Does the ring hold?", "materials": [STEEL, BRONZE],
        "parts": [part("shaft", "Shaft", "steel", "block", shaft[0], {"size": "2.5 mm"}, shaft[1]),
                  part("ring", "Ring", "bronze", "block", ring[0], {"size": "2 mm"}, ring[1])],
        "pairs": [{"id": "seat", "name": "Seat", "a": ["ring/left"], "b": ["shaft/right"], "law": {"mu": 0.1},
                   "fit": "value", "interference": f"{OVERLAP} mm"}],
        "supports": [{"id": "end", "name": "End", "kind": "components", "components": ["y"], "faces": ["shaft/near"]}],
        "loads": [], "steps": steps(("press", "Press"), size=0.5),
    }  # fmt: skip


def test_fields_of_a_press_fit_are_those_of_thick_rings(client: TestClient) -> None:
    _, run = _solved(client, press_fit())
    at = f"/api/runs/{run}/increments/1"
    along = client.get(f"{at}/along/seat").json()
    middle = int(np.argmin(np.abs(np.array(along["at"])[:, 1])))
    steel, bronze = (210e3, 0.3), (105e3, 0.34)
    ideal = press_fit_pressure(OVERLAP, INNER, SEAT, OUTER, shaft=steel, hub=bronze)
    # Friction along the seat, which the closed form does not know, presses a little more.
    assert ideal < along["pressure"][middle] < 1.06 * ideal
    assert along["way"][-1] == pytest.approx(HEIGHT)
    assert along["held"] == pytest.approx(0.1 * np.array(along["pressure"]))
    assert (np.abs(along["friction"]) <= np.array(along["held"]) * (1 + 1e-6) + 1e-6).all()
    # Hoop stress at the bore of the ring about the axis of the study, not that of the block it is made of (Lamé).
    hoop = along["pressure"][middle] * (OUTER**2 + SEAT**2) / (OUTER**2 - SEAT**2)
    line = {"points": [[SEAT, 0, 0], [OUTER, 0, 0]], "field": "stress_hoop", "part": "ring", "samples": 40}
    assert client.post(f"{at}/path", json=line).json()["value"][0] == pytest.approx(hoop, rel=0.05)
    moved = {**line, "field": "displacement_radial", "about": [0, 0, 0, 0, 5, 0]}
    outer = client.post(f"{at}/path", json=moved).json()["value"][-1]
    assert outer == pytest.approx(2 * ideal * SEAT**2 * OUTER / 105e3 / (OUTER**2 - SEAT**2), rel=0.06)
    # The pressure of the pair stands on both parts.
    spots = client.get(f"{at}/hot-spots/contact_pressure").json()
    highest = {s["body"]: s["value"] for s in reversed(spots)}
    assert highest["ring"] == pytest.approx(max(along["pressure"]), rel=1e-5)
    assert highest["shaft"] == pytest.approx(highest["ring"], rel=0.15)
    crosses = client.get(f"{at}/crosses", params={"part": "ring"}).json()
    assert len(crosses["at"]) == len(crosses["values"]) > 20
    assert np.linalg.norm(crosses["directions"], axis=2) == pytest.approx(1)
    assert client.get(f"{at}/along/lid").json()["message"] == "there is no pair 'lid'."
    refused = client.post(f"{at}/path", json={**line, "about": [0, 0, 0, 0, 0, 0]})
    assert (refused.status_code, refused.json()["message"]) == (422, "the axis cannot be read.")


def test_friction_is_told_by_use_and_work_and_gaps_at_the_start(client: TestClient, two_blocks: dict[str, Any]) -> None:
    _, run = _solved(client, two_blocks)
    last = len(client.get(f"/api/runs/{run}/history").json()) - 1
    at = f"/api/runs/{run}/increments/{last}/pairs/joint"

    def field(name: str) -> np.ndarray:
        return np.frombuffer(client.get(f"{at}/{name}").content, "<f4").astype(float)

    pressure, stress, use = field("pressure"), field("frictional_stress"), field("friction_use")
    assert use == pytest.approx(stress / (0.15 * pressure), rel=1e-4)
    assert use.max() <= 1 + 1e-5
    arrows = field("friction").reshape(-1, 3)
    assert np.linalg.norm(arrows, axis=1) == pytest.approx(stress, rel=1e-4, abs=1e-6)
    assert field("start_gap") == pytest.approx(0, abs=1e-9)
    # What slid under friction has done work there, no more than the highest friction times the way.
    work, way = field("work"), field("sliding")
    assert (work <= 0.15 * pressure.max() * way * (1 + 1e-4) + 1e-9).all()
    assert (work[way > 1e-6] > 0).all()
    highest = client.get(f"/api/runs/{run}/increments/{last}/hot-spots/von_mises").json()[0]["value"]
    order = {"level": 0.7 * highest}
    surface = _block(client.post(f"/api/runs/{run}/increments/{last}/surface", json=order).content)
    assert surface["values"] == pytest.approx(0.7 * highest)
    assert len(surface["triangles"]) > 3
    assert (
        len(_block(client.post(f"/api/runs/{run}/increments/{last}/surface", json={"level": 9e9}).content)["values"])
        == 0
    )


def test_reports_and_films_are_made_by_the_server(client: TestClient) -> None:
    _, run = _solved(client, press_fit())
    client.patch(f"/api/runs/{run}", json={"name": "As ordered", "note": "Ring of the spare hub."})
    page = client.post(f"/api/runs/{run}/report", json={"to": "html", "chapters": ["verdicts", "imprints"]}).text
    told = re.sub(r"<[^>]+>|\s+", " ", page)
    assert all(words in told for words in ("As ordered", "Ring of the spare hub.", "along its path"))
    assert "Balance" not in told
    assert client.post(f"/api/runs/{run}/report", json={"chapters": ["balance"]}).content.startswith(b"%PDF-")
    film = {"to": "gif", "size": [96, 64], "field": "stress_hoop", "is_solid": True, "towards": [1, 1, 1]}
    made = client.post(f"/api/runs/{run}/film", json=film)
    assert made.content.startswith(b"GIF89a")
    assert made.headers["content-disposition"].endswith(f'"run-{run}.gif"')
    for route, order, told in (
        ("report", {"chapters": ["weather"]}, "there is no chapter 'weather'."),
        ("film", {"field": "colour"}, "there is no part field 'colour'."),
        ("film", {"between": 60, "size": [9, 9]}, "Input should be greater than or equal to 64"),
    ):
        refused = client.post(f"/api/runs/{run}/{route}", json=order)
        assert (refused.status_code, told in refused.json()["message"]) == (422, True), refused.json()
