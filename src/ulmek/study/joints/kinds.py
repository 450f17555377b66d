"""The table of kinds of joints: how each is made."""

from collections.abc import Callable
from typing import Any

from ulmek.study.items.joint import ASKS
from ulmek.study.joints.bolted import make_bolted
from ulmek.study.joints.geared import make_geared
from ulmek.study.joints.made import Maker
from ulmek.study.joints.pinned import make_pinned
from ulmek.study.joints.pressed import make_pressed
from ulmek.study.joints.simple import make_guided, make_hinged, make_on_wall, make_seated

MAKERS: dict[str, Callable[[Maker, Any], None]] = {
    "bolted": make_bolted,
    "pinned": make_pinned,
    "pressed": make_pressed,
    "geared": make_geared,
    "seated": make_seated,
    "guided": make_guided,
    "hinged": make_hinged,
    "on-wall": make_on_wall,
}
assert set(MAKERS) == set(ASKS)
