"""What Hertz knows of two faces before a run, by their shapes: lines, points, crossed cylinders, and what is none."""

from typing import Any

import numpy as np
import pytest

from ulmek.core.handcalc.hertz import contact_modulus, ellipse_contact, line_contact, point_contact
from ulmek.core.mesh.fitted import face_shape
from ulmek.core.model import Face
from ulmek.study.items import read_study
from ulmek.study.resolved import hertz_of
from ulmek.study.translate import translate
from ulmek.verify.case import base_document, hold, load, part, step

MODULUS = contact_modulus(210e3, 0.3, 210e3, 0.3)
FORCE = 500.0


def _of(first: dict[str, Any], second: dict[str, Any], a: str, b: str) -> Any:
    study = base_document("two", "Two")
    study["parts"] = [first, second]
    study["pairs"] = []
    study["supports"] = [hold("floor", ["x", "y", "z"], f"{second['id']}/{b}")]
    study["loads"] = [load("press", "force", {"press": f"{FORCE} N"}, f"{first['id']}/{a}", direction=[0, 0, -1])]
    study["steps"] = [step("press")]
    model = translate(read_study(study))
    return hertz_of(model, (Face(first["id"], a),), (Face(second["id"], b),), FORCE)


def _pin(name: str, diameter: float, *, turn: str = "") -> dict[str, Any]:
    return part(name, "disc", {"diameter": diameter, "thickness": 40}, {"size": "4 mm", "per_turn": 32}, turn=turn)


def _block(name: str) -> dict[str, Any]:
    return part(name, "block", {"length": 60, "depth": 60, "height": 10}, {"size": "10 mm"})


def _ball(name: str, diameter: float) -> dict[str, Any]:
    return part(name, "ball", {"diameter": diameter}, {"size": "3 mm", "per_turn": 32})


def _face(made: dict[str, Any], kind: str) -> str:
    """The face of a part that is of a kind."""
    study = base_document("one", "One")
    study["parts"] = [made]
    study["pairs"] = []
    study["steps"] = [step("press")]
    (body,) = translate(read_study(study)).bodies
    return next(name for name in sorted(body.mesh.faces) if face_shape(body.mesh, name).kind == kind)


def test_a_ball_on_a_flat_and_on_a_ball_presses_in_a_point() -> None:
    ball, other, flat = _ball("ball", 20), _ball("other", 30), _block("pad")
    on_flat = _of(ball, flat, _face(ball, "ball"), "top")
    assert on_flat.half_width == pytest.approx(point_contact(FORCE, 10.0, MODULUS).half_width, rel=1e-3)
    on_ball = _of(ball, other, _face(ball, "ball"), _face(other, "ball"))
    assert on_ball.half_width == pytest.approx(point_contact(FORCE, 6.0, MODULUS).half_width, rel=1e-3)


def test_parallel_pins_press_in_a_line_crossed_ones_on_an_ellipse() -> None:
    one, two, across = _pin("one", 20), _pin("two", 12), _pin("across", 12, turn="x 90")
    side = _face(one, "round")
    line = _of(one, two, side, _face(two, "round"))
    radius = 1 / (1 / 10 + 1 / 6)
    assert line.half_width == pytest.approx(line_contact(FORCE / 40, radius, MODULUS).half_width, rel=1e-3)
    assert np.isinf(line.short)
    crossed = _of(one, across, side, _face(across, "round"))
    ideal = ellipse_contact(FORCE, 10.0, 6.0, MODULUS)
    assert (crossed.half_width, crossed.short) == pytest.approx((ideal.half_width, ideal.short), rel=1e-3)
    # At 45° the relative curvatures are those of the sum of both tensors.
    askew = _of(one, _pin("askew", 12, turn="x 45"), side, "rim")
    tensor = np.diag([1 / 10, 0.0]) + np.array([[1, 1], [1, 1]]) / 2 / 6
    ideal = ellipse_contact(FORCE, *(1 / np.linalg.eigvalsh(tensor)), MODULUS)
    assert (askew.half_width, askew.short) == pytest.approx((ideal.half_width, ideal.short), rel=1e-3)


def test_a_ball_in_a_hollow_cylinder_presses_on_an_ellipse() -> None:
    hub = part("hub", "washer", {"inner_diameter": 30, "outer_diameter": 60, "thickness": 40}, {"size": "5 mm"})
    ball = part("ball", "ball", {"diameter": 20}, {"size": "2 mm"})
    found = _of(ball, hub, _face(ball, "ball"), "bore")
    ideal = ellipse_contact(FORCE, 30.0, 10.0, MODULUS)
    assert (found.half_width, found.short) == pytest.approx((ideal.half_width, ideal.short), rel=1e-3)


def test_flat_faces_and_pins_in_their_holes_are_no_such_contact() -> None:
    assert _of(_block("one"), _block("two"), "bottom", "top") is None
    # A pin of the size of its hole lies in it all over.
    hub = part("hub", "washer", {"inner_diameter": 20, "outer_diameter": 50, "thickness": 40}, {"size": "5 mm"})
    pin = _pin("pin", 20)
    assert _of(pin, hub, _face(pin, "round"), "bore") is None
    # A pin standing on a flat face with its end presses with an edge.
    assert _of(pin, _block("pad"), _face(pin, "flat"), "top") is None
