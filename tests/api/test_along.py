"""What a run is asked along a line: beams, edges of parts, imprints of pairs; of states that are known."""

from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient

from tests.api.test_bad_neighbours import _solved
from ulmek.verify.case import base_document, block_part
from ulmek.verify.coarse import bracket
from ulmek.verify.hertz_line import Line, line_document
from ulmek.verify.press_fit import INNER, JOINT, MU, OUTER, fit_document

LENGTH, FORCE, PULL = 200.0, 120.0, 900.0


def cantilever() -> dict[str, Any]:
    """A bar led as a beam, held at its lower end, bent and pulled at its upper one."""
    study = base_document("bar", "Bar")
    bar = block_part("bar", (10.0, 16.0, LENGTH), 10)
    study["parts"] = [{**bar, "mesh": {**bar["mesh"], "elements": "beam"}}]
    study["supports"] = [{"id": "root", "name": "Root", "faces": ["bar/bottom"]}]
    study["loads"] = [
        {"id": name, "name": name, "kind": "force", "faces": ["bar/top"], "direction": way,
         "values": {"load": f"{value} N"}}
        for name, way, value in (("tip", [1, 0, 0], FORCE), ("pull", [0, 0, 1], PULL))
    ]  # fmt: skip
    study["steps"] = [{"id": "load", "name": "Load", "increments": {"start": 1, "largest": 1}}]
    return study


def test_forces_along_a_cantilever_led_as_a_beam(client: TestClient) -> None:
    _, run = _solved(client, cantilever())
    found = client.get(f"/api/runs/{run}/increments/0/beams/bar").json()
    way = np.array(found["way"])
    assert (way[0], way[-1]) == pytest.approx((0, LENGTH))
    assert found["axial"] == pytest.approx(np.full(len(way), PULL))
    shear, bending = np.array(found["shear"]), np.array(found["bending"])
    assert np.hypot(*shear) == pytest.approx(np.full(len(way), FORCE))
    assert np.hypot(*bending) == pytest.approx(FORCE * (LENGTH - way), abs=1e-6 * FORCE * LENGTH)
    assert np.abs(found["torsion"]).max() < 1e-6 * FORCE * LENGTH
    history = client.get(f"/api/runs/{run}/history").json()[0]["parts"]["bar"]["section_forces"]
    assert history["bending"] == pytest.approx(FORCE * LENGTH)


def test_edges_and_imprints_of_a_pressed_block(client: TestClient, two_blocks: dict[str, Any]) -> None:
    _, run = _solved(client, two_blocks)
    last = len(client.get(f"/api/runs/{run}/history").json()) - 1
    at = f"/api/runs/{run}/increments/{last}"
    # Beside the upper front edge of the base, 60 mm long: where its top and its near face meet.
    edge = client.post(f"{at}/path", json={"points": [[4, -29, 19]], "part": "base", "field": "displacement_z"}).json()
    assert len(edge["edge"]) == 2
    assert edge["distance"][-1] == pytest.approx(60)
    points = np.array(edge["at"])
    assert np.ptp(points, axis=0) == pytest.approx([60, 0, 0], abs=1e-9)
    beside = {"points": [[-30, *points[0, 1:]], [30, *points[0, 1:]]], "field": "displacement_z", "part": "base"}
    line = client.post(f"{at}/path", json={**beside, "samples": 13}).json()
    same = np.interp(line["distance"], points[:, 0] + 30 if points[0, 0] < 0 else 30 - points[:, 0], edge["value"])
    assert line["value"] == pytest.approx(same, abs=1e-9)

    # The mean over each place of the imprint, summed over all, is the force across the pair.
    force = client.get(f"/api/runs/{run}/history").json()[last]["pairs"]["joint"]["normal_force"]
    for way in ("along", "across"):
        found = client.get(f"{at}/profile/joint/pressure", params={"way": way}).json()
        assert found["ways"] == ["around", "outward", "along", "across"]
        assert (np.array(found["highest"]) >= np.array(found["mean"]) - 1e-9).all()
        width = np.gradient(found["at"])
        width[[0, -1]] /= 2
        side = np.ptp(found["at"])
        assert (np.array(found["mean"]) * width).sum() * side == pytest.approx(force, rel=1e-3)
    around = client.get(f"{at}/profile/joint/net_sliding").json()
    assert (around["way"], around["unit"]) == ("around", "°")
    slid = np.frombuffer(client.get(f"{at}/pairs/joint/slid").content, "<f4").reshape(-1, 3)
    assert max(around["highest"]) == pytest.approx(1.0 * np.linalg.norm(slid, axis=1).max(), rel=1e-5)


def test_singular_places_are_drawn_where_they_are(client: TestClient, two_blocks: dict[str, Any]) -> None:
    _, run = _solved(client, two_blocks)
    at = f"/api/runs/{run}/increments/0"
    places = {p["text"]: np.array(p["lines"]) for p in client.get(f"{at}/singular", params={"scale": 0}).json()}
    edge = next(lines for text, lines in places.items() if text.startswith("the edge of contact of"))
    # The outline of the block that stands on the base, at the height of its top, on both of them.
    assert np.allclose(edge[..., 2], 20)
    assert (np.ptp(edge.reshape(-1, 3), axis=0)[:2] >= 40 - 1e-6).all()
    floor = next(lines for text, lines in places.items() if text.startswith("the end of what"))
    assert np.allclose(floor[..., 2], 0)
    slider = client.get(f"{at}/singular", params={"part": "slider", "scale": 0}).json()
    assert all(len(p["lines"]) < len(edge) for p in slider)
    spots = client.get(f"/api/runs/{run}/increments/7/hot-spots/von_mises", params={"part": "base"}).json()
    assert spots[0]["singular"].startswith("the edge of contact of")

    # The corners of a section are points.
    _, run = _solved(client, bracket(0.0).model_dump(mode="json"))
    lines = {p["text"]: p["lines"] for p in client.get(f"/api/runs/{run}/increments/0/singular?scale=0").json()}
    assert lines["a sharp inner corner (give it a radius)"] == [[pytest.approx([10, 10, 0])]]


REFUSED = [
    ("beams/base", "no section forces are kept of it."),
    ("beams/lid", "there is no body 'lid'."),
    ("profile/lid/pressure", "there is no pair 'lid'."),
    ("profile/joint/colour", "there is no pair field 'colour'."),
]


def test_what_has_no_line_is_told(client: TestClient, two_blocks: dict[str, Any]) -> None:
    _, run = _solved(client, two_blocks)
    for what, message in REFUSED:
        answer = client.get(f"/api/runs/{run}/increments/0/{what}")
        assert answer.status_code in (404, 422)
        assert answer.json()["message"] == message


def test_a_path_through_a_fit_has_its_closed_form_beside_it(client: TestClient) -> None:
    document = fit_document("value", {"may_slide": "friction", "mu": MU})
    document["loads"], document["steps"] = [], document["steps"][:1]
    _, run = _solved(client, document)
    last = len(client.get(f"/api/runs/{run}/history").json()) - 1
    way = np.array([np.cos(np.pi / 4), np.sin(np.pi / 4), 0.0])
    ends = [(way * r + [0, 0, 3.0]).tolist() for r in (INNER + 0.01, OUTER - 0.01)]
    for field, part in (("stress_hoop", None), ("von_mises", "hub")):
        order = {"points": ends, "field": field, "part": part, "samples": 61}
        found = client.post(f"/api/runs/{run}/increments/{last}/path", json=order).json()
        told = found["by_hand"]
        assert (told["holds"], told["name"]) == (True, "Shaft – hub: press fit of rings (Lamé 1852)")
        by_hand = np.array(told["values"], float)
        computed = np.array(found["value"], float)
        known = ~np.isnan(by_hand)
        assert known.sum() == (np.array(found["part"]) != None).sum()  # noqa: E711
        # Beside the joint one element spans what jumps there; friction holds the rings along their axis a little.
        away = known & (np.abs(np.array(found["distance"]) - (JOINT - INNER)) > 1.5)
        assert computed[away] == pytest.approx(by_hand[away], rel=0.04)
    # Hoop stress of a ring with p inside falls as 1 + c²/r².
    hoop = client.post(
        f"/api/runs/{run}/increments/{last}/path", json={"points": ends, "field": "stress_hoop", "part": "hub"}
    ).json()["by_hand"]["values"]
    inside = [v for v in hoop if v is not None]
    assert inside[0] / inside[-1] == pytest.approx((1 + (OUTER / JOINT) ** 2) / 2, rel=0.02)
    plain = {"points": ends, "field": "displacement"}
    assert client.post(f"/api/runs/{run}/increments/{last}/path", json=plain).json()["by_hand"] is None


def test_below_a_contact_stands_what_hertz_says_of_the_depth(client: TestClient) -> None:
    line = Line(share=0.2)
    _, run = _solved(client, line_document(line, space="plane-strain"))
    last = len(client.get(f"/api/runs/{run}/history").json()) - 1
    order = {"points": [[1e-6, -0.01, 0], [1e-6, -3 * line.half_width, 0]], "field": "von_mises", "samples": 81}
    found = client.post(f"/api/runs/{run}/increments/{last}/path", json=order).json()
    by_hand, computed = np.array(found["by_hand"]["values"], float), np.array(found["value"], float)
    assert found["by_hand"]["name"].startswith("Roller – base: contact along a line, below its middle")
    assert not np.isnan(by_hand).any()
    assert by_hand.max() == pytest.approx(0.558 * line.peak, rel=2e-3)
    deep = np.array(found["distance"]) > 0.3 * line.half_width
    assert computed[deep] == pytest.approx(by_hand[deep], rel=0.05)
    # Aside of its middle the formula does not speak.
    aside = {**order, "points": [[line.half_width, -0.1, 0], [line.half_width, -2, 0]]}
    assert client.post(f"/api/runs/{run}/increments/{last}/path", json=aside).json()["by_hand"] is None
