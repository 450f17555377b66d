"""Joints through the server: begun from what is picked, looked at, made in one edit, followed and undone."""

from typing import Any

from fastapi.testclient import TestClient

from tests.api.test_api import _create
from tests.study.joints.making import part, study_of

PLATE = {"width": "120 mm", "height": "60 mm", "thickness": "12 mm", "hole_columns": 2, "hole_rows": 1,
         "hole_spacing_x": "50 mm"}  # fmt: skip


def _plates(client: TestClient) -> int:
    study = study_of(part("low", "plate", PLATE), part("high", "plate", PLATE, at=(200, 0, 0)))
    return _create(client, study.model_dump(mode="json"))


def test_a_joint_is_begun_looked_at_made_followed_and_undone(client: TestClient) -> None:
    study = _plates(client)
    begun = client.post(f"/api/studies/{study}/joints/begin", json={"faces": ["low", "high"]}).json()
    assert (begun["ask"]["kind"], begun["ask"]["holes"]) == ("bolted", ["low/hole.1", "high/hole.1"])
    assert begun["makes"] == "Bolts M16 ×2, 5 pairs, 1 step"
    assert begun["takes"] == ""
    assert begun["bodies"] == ["bolted-bolts#1", "bolted-bolts#2"]
    assert client.get(f"/api/studies/{study}").json()["revision"] == 1

    ask = {**begun["ask"], "strength": "10.9"}
    seen = client.post(f"/api/studies/{study}/joints/preview", json={"ask": ask}).json()
    force = {f["name"]: f["value"] for f in seen["figures"]}["Tightened to (each of 2)"]
    assert force > {f["name"]: f["value"] for f in begun["figures"]}["Tightened to (each of 2)"]
    scene = client.post(f"/api/studies/{study}/joints/scene", json={"ask": ask})
    assert b"bolted-bolts#2" in scene.content

    made = client.post(f"/api/studies/{study}/joints", params={"base_revision": 1}, json={"ask": ask, "name": "Lap"})
    assert made.status_code == 201
    assert made.json()["undo"] == "Make Lap"
    assert [s["name"] for s in made.json()["document"]["steps"]] == ["Tighten", "Service"]
    look = client.get(f"/api/studies/{study}/joints/bolted").json()
    assert (look["name"], look["figures"]) == ("Lap", seen["figures"])

    edit: dict[str, Any] = {"base_revision": 2, "label": "Thicker", "patch": [
        {"op": "add", "path": "/parts/0/recipe/dimensions/thickness", "value": "20 mm"}]}  # fmt: skip
    thicker = client.patch(f"/api/studies/{study}", json=edit).json()["document"]
    assert thicker["parts"][2]["recipe"]["dimensions"]["grip"] == "32 mm"
    back = client.post(f"/api/studies/{study}/undo", params={"base_revision": 3}).json()["document"]
    assert back == made.json()["document"]
    # Unmade and made again, it takes in what it had made.
    gone = {"kind": "joint", "id": "bolted"}
    client.post(f"/api/studies/{study}/take-out", params={"base_revision": 4}, json=gone)
    again = client.post(f"/api/studies/{study}/joints/preview", json={"ask": ask}).json()
    assert (again["makes"], again["takes"], again["bodies"]) == ("", "Bolts M16 ×2, 5 pairs, 1 step", [])
    client.post(f"/api/studies/{study}/undo", params={"base_revision": 5})
    bare = client.post(f"/api/studies/{study}/undo", params={"base_revision": 6}).json()["document"]
    assert (len(bare["parts"]), bare["joints"], bare["pairs"]) == (2, [], [])


def test_what_cannot_be_joined_is_told_and_nothing_changes(client: TestClient) -> None:
    study = _plates(client)
    for faces, kind, says in (
        ([], None, "nothing is picked"),
        (["low/hole.9"], None, "there is no face 'low/hole.9'"),
        (["low/hole.1"], "welded", "there is no joint of the kind 'welded'"),
        (["low/hole.1"], "geared", "one gear is picked"),
        (["low/front", "high/front"], "bolted", "low/front is no round hole"),
    ):
        answer = client.post(f"/api/studies/{study}/joints/begin", json={"faces": faces, "kind": kind})
        assert answer.status_code in (404, 422), faces
        assert says in answer.json()["message"]
        assert answer.json()["hint"]
    ask = {"kind": "bolted", "holes": ["low/hole.1", "high/hole.1"], "diameter": "20 mm"}
    for path in ("preview", "scene", ""):
        url = f"/api/studies/{study}/joints/{path}".rstrip("/")
        answer = client.post(url, params={"base_revision": 1}, json={"ask": ask})
        assert (answer.status_code, answer.json()["where"]) == (422, "joints/bolted/diameter")
    assert client.get(f"/api/studies/{study}").json()["revision"] == 1
