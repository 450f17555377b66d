"""What two studies differ in is told item by item."""

import copy
from typing import Any

from ulmek.study.changes import changes
from ulmek.study.items import read_study


def test_values_items_and_the_study_itself_are_told(two_blocks: dict[str, Any]) -> None:
    later = copy.deepcopy(two_blocks)
    later["title"] = "Two blocks, oiled"
    later["parts"][1]["mesh"]["size"] = "5 mm"
    later["pairs"][0]["law"] = {"mu": 0.08}
    later["loads"][1]["values"]["push"] = "3 kN"
    later["loads"][1]["direction"] = [0, -1, 0]
    later["supports"].append({"id": "side", "name": "Side", "faces": ["base/left"]})
    del later["loads"][0]["values"]["press"]
    later["loads"][0]["values"]["push"] = "20 MPa"
    before, after = read_study(two_blocks), read_study(later)
    slider, joint = two_blocks["parts"][1]["name"], two_blocks["pairs"][0]["name"]
    assert changes(before, after) == [
        f"{slider}, mesh size {two_blocks['parts'][1]['mesh']['size']} → 5 mm.",
        f"{joint}, law mu 0.15 → 0.08.",
        "New support: Side.",
        "Press, values press 20 MPa → none.",
        "Press, values push none → 20 MPa.",
        "Push, direction -1.0, 0.0, 0.0 → 0.0, -1.0, 0.0.",
        "Push, values push 2 kN → 3 kN.",
        "Study, title Two blocks → Two blocks, oiled.",
    ]
    assert changes(after, before)[2] == "No support any more: Side."
    assert changes(before, before) == []


def test_a_study_that_is_another_one_says_no_more_than_that_much(two_blocks: dict[str, Any]) -> None:
    many = copy.deepcopy(two_blocks)
    many["supports"] += [{"id": f"s{i}", "name": f"Side {i}", "faces": ["base/left"]} for i in range(60)]
    told = changes(read_study(two_blocks), read_study(many))
    assert len(told) == 40
    assert told[-1] == "And 21 more."
