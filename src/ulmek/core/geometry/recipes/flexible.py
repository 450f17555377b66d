"""Parts that spring and catch: leaf and torsion flexures, pawls and ratchet teeth."""

import numpy as np

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Partition, Point, Region, circle, rounded
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values

Corners = list[tuple[str, Point, float]]


def _build_leaf(v: Values) -> LayeredSolid:
    e, t, x, r = v["end_height"] / 2, v["thickness"] / 2, v["length"] / 2, v["root_radius"]
    if t >= e:
        raise GeometryError("the leaf is as thick as its ends.", where="thickness", hint="Thin the leaf.")
    far = x + v["end_length"]
    corners: Corners = [
        ("lower.left", (-far, -e), 0), ("root.left", (-x, -e), 0), ("leaf.lower", (-x, -t), r),
        ("root.right", (x, -t), r), ("lower.right", (x, -e), 0), ("end.right", (far, -e), 0),
        ("upper.right", (far, e), 0), ("root.right", (x, e), 0), ("leaf.upper", (x, t), r),
        ("root.left", (-x, t), r), ("upper.left", (-x, e), 0), ("end.left", (-far, e), 0),
    ]  # fmt: skip
    layer = Layer("leaf", 0.0, v["width"], frozenset({"leaf"}))
    return LayeredSolid(Partition.of([Region("leaf", rounded(corners))]), (layer,), by_kind)


LEAF = Recipe(
    "leaf-flexure",
    "Leaf flexure",
    "A thin leaf along x between two thick ends, the profile in the xy plane.",
    (
        Dimension("length", "Length of the leaf", 60.0, 0.5, 5000.0),
        Dimension("thickness", "Thickness of the leaf", 2.0, 0.02, 200.0),
        Dimension("root_radius", "Root radius", 2.0, 0.0, 100.0, drops="root fillets"),
        Dimension("end_length", "Length of the ends", 20.0, 0.2, 2000.0),
        Dimension("end_height", "Height of the ends", 20.0, 0.2, 2000.0),
        Dimension("width", "Width (z)", 20.0, 0.1, 2000.0),
    ),
    _build_leaf,
)


def _build_torsion(v: Values) -> LayeredSolid:
    """A cross of four thin arms about z between two round ends: soft in torsion, stiff across."""
    r, t = v["arm_reach"], v["arm_thickness"] / 2
    if t * 1.5 >= r:
        raise GeometryError("the arms are as thick as long.", where="arm_thickness", hint="Thin the arms.")
    ends = v["end_diameter"] / 2
    if ends <= np.hypot(r, t) * 1.01:
        raise GeometryError(
            f"ends of {2 * ends:g} mm do not hold arms that reach {r:g} mm.",
            where="end_diameter",
            hint="Enlarge the ends.",
        )
    corners: Corners = []
    for k, name in enumerate(("right", "far", "left", "near")):
        c, s = (1, 0, -1, 0)[k], (0, 1, 0, -1)[k]

        def turned(x: float, y: float, c: int = c, s: int = s) -> Point:
            return c * x - s * y, s * x + c * y

        fillet = v["root_radius"]
        corners += [
            (f"arm.{name}", turned(t, -t), fillet),
            (f"tip.{name}", turned(r, -t), 0),
            (f"arm.{name}", turned(r, t), 0),
        ]
    cross = rounded(corners)
    regions = [Region("cross", cross), Region("round", circle("rim", (0.0, 0.0), ends), (cross,))]
    both, arms = frozenset({"cross", "round"}), frozenset({"cross"})
    e, length = v["end_length"], v["length"]
    layers = (
        Layer("foot", 0.0, e, both),
        Layer("spring", e, e + length, arms),
        Layer("head", e + length, 2 * e + length, both),
    )

    def face_name(layer: str, kind: str, item: str) -> str:
        if kind == "side":
            return f"{layer}.rim" if item == "rim" else item
        outside = {("foot", "bottom"): "bottom", ("head", "top"): "top"}
        return outside.get((layer, kind), f"{layer}.inside")

    return LayeredSolid(Partition.of(regions), layers, face_name)


TORSION = Recipe(
    "torsion-flexure",
    "Torsion flexure",
    "A cross of thin arms about the z axis between two round ends, its bottom in z = 0: it turns easily.",
    (
        Dimension("length", "Length of the cross", 40.0, 0.5, 2000.0),
        Dimension("arm_reach", "Reach of the arms", 12.0, 0.2, 500.0),
        Dimension("arm_thickness", "Thickness of the arms", 2.0, 0.05, 200.0),
        Dimension("root_radius", "Root radius", 1.0, 0.0, 50.0, drops="root fillets"),
        Dimension("end_diameter", "Diameter of the ends", 30.0, 0.5, 1500.0),
        Dimension("end_length", "Length of the ends", 10.0, 0.1, 1000.0),
    ),
    _build_torsion,
)


def _build_pawl(v: Values) -> LayeredSolid:
    """Hub about the origin with an arm along +x that thins to a nose."""
    hub, hole, reach, nose = v["hub_diameter"] / 2, v["hole_diameter"] / 2, v["reach"], v["nose_height"]
    if hole >= 0.9 * hub:
        raise GeometryError("the hole leaves nothing of the hub.", where="hole_diameter", hint="Reduce the hole.")
    if nose >= 2 * hub or reach <= 1.5 * hub:
        raise GeometryError("the arm does not stand out from the hub.", where="reach", hint="Lengthen the arm.")
    drop = v["nose_length"]
    if drop >= reach - hub:
        raise GeometryError("the nose is as long as the arm.", where="nose_length", hint="Shorten the nose.")
    corners: Corners = [
        ("lower", (-hub, -hub), hub * 0.98), ("catch", (reach, -hub), v["nose_radius"]),
        ("nose", (reach, -hub + nose), 0), ("back", (reach - drop, hub), 0), ("end", (-hub, hub), hub * 0.98),
    ]  # fmt: skip
    region = Region("pawl", rounded(corners), (circle("hole", (0.0, 0.0), hole),))
    return LayeredSolid(Partition.of([region]), (Layer("pawl", 0.0, v["width"], frozenset({"pawl"})),), by_kind)


PAWL = Recipe(
    "pawl",
    "Pawl",
    "A pawl that turns about the z axis, its nose towards +x, its bottom in z = 0; face `catch` meets the tooth.",
    (
        Dimension("hole_diameter", "Hole", 12.0, 0.2, 500.0),
        Dimension("hub_diameter", "Height of the arm", 24.0, 0.3, 1000.0),
        Dimension("reach", "Reach", 70.0, 0.5, 3000.0),
        Dimension("nose_height", "Height of the nose face", 10.0, 0.1, 800.0),
        Dimension("nose_length", "Length of the nose", 15.0, 0.1, 2000.0),
        Dimension("nose_radius", "Radius of the tip", 1.0, 0.0, 100.0, drops="rounded tip"),
        Dimension("width", "Width (z)", 15.0, 0.1, 1000.0),
    ),
    _build_pawl,
)


def _build_ratchet(v: Values) -> LayeredSolid:
    """Saw teeth on a block: steep faces look to −x."""
    pitch, depth, n, lean = v["pitch"], v["depth"], int(v["teeth"]), v["lean"]
    shift = depth * np.tan(np.deg2rad(lean))
    land = v["land"]
    if shift + land >= 0.9 * pitch:
        raise GeometryError("the teeth leave no room between them.", where="pitch", hint="Enlarge the pitch.")
    length, r = n * pitch, v["root_radius"]
    y = v["body_height"]
    corners: Corners = [("foot", (0.0, 0.0), 0), ("end.right", (length, 0.0), 0)]
    for k in range(n - 1, -1, -1):
        x = k * pitch
        # From the right: up the flat back, over the land, down the steep face.
        tooth, behind = f"tooth.{k + 1}", 0 if k == n - 1 else r
        corners += [
            (f"{tooth}.back", (x + pitch, y), behind), (f"{tooth}.land", (x + shift + land, y + depth), 0),
            (f"{tooth}.catch", (x + shift, y + depth), 0),
        ]  # fmt: skip
    corners.append(("end.left", (0.0, y), 0))
    region = Region("rack", rounded(corners))
    return LayeredSolid(Partition.of([region]), (Layer("rack", 0.0, v["width"], frozenset({"rack"})),), by_kind)


RATCHET = Recipe(
    "ratchet",
    "Ratchet teeth",
    "Saw teeth on a bar along x, its foot in y = 0; the steep faces look to −x.",
    (
        Dimension("teeth", "Teeth", 3, 1, 60, "count"),
        Dimension("pitch", "Pitch", 24.0, 0.3, 1000.0),
        Dimension("depth", "Depth of the teeth", 10.0, 0.1, 500.0),
        Dimension("lean", "Lean of the steep faces", 10.0, 0.0, 45.0, "angle"),
        Dimension("land", "Land on top", 2.0, 0.02, 200.0),
        Dimension("root_radius", "Root radius", 1.0, 0.0, 100.0, drops="root fillets"),
        Dimension("body_height", "Height below the teeth", 20.0, 0.2, 1000.0),
        Dimension("width", "Width (z)", 20.0, 0.1, 1000.0),
    ),
    _build_ratchet,
)
