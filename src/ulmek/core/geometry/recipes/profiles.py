"""Long parts of one profile: section bars, rails, angles with gusset, seal strips and their carriers."""

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.layered import Layer, LayeredSolid, by_kind
from ulmek.core.geometry.outline import Loop, Partition, Point, Region, Segment, rounded
from ulmek.core.geometry.recipes.recipe import Dimension, Recipe, Values


def _bar(loop: Loop, length: float, holes: tuple[Loop, ...] = ()) -> LayeredSolid:
    region = Region("bar", loop, holes)
    return LayeredSolid(Partition.of([region]), (Layer("bar", 0.0, length, frozenset({"bar"})),), by_kind)


def _check_walls(v: Values, *, across: float, up: float) -> None:
    for name, space in (("web", across), ("flange", up)):
        if v[name] >= space:
            raise GeometryError(
                f"a {name} of {v[name]:g} mm is thicker than the {space:g} mm there are.", where=name, hint="Thin it."
            )


def _build_i(v: Values) -> LayeredSolid:
    _check_walls(v, across=v["width"], up=v["height"] / 2)
    x, y, w, f, r = v["width"] / 2, v["height"] / 2, v["web"] / 2, v["height"] / 2 - v["flange"], v["root_radius"]
    corners: list[tuple[str, Point, float]] = [
        ("bottom.side", (-x, -y), 0), ("edge.right", (x, -y), 0), ("inside", (x, -f), 0), ("web.right", (w, -f), r),
        ("inside", (w, f), r), ("edge.right", (x, f), 0), ("top.side", (x, y), 0), ("edge.left", (-x, y), 0),
        ("inside", (-x, f), 0), ("web.left", (-w, f), r), ("inside", (-w, -f), r), ("edge.left", (-x, -f), 0),
    ]  # fmt: skip
    return _bar(rounded(corners), v["length"])


_WALLS = (
    Dimension("width", "Width (x)", 80.0, 1.0, 2000.0),
    Dimension("height", "Height (y)", 120.0, 1.0, 3000.0),
    Dimension("web", "Web", 6.0, 0.1, 200.0),
    Dimension("flange", "Flange", 9.0, 0.1, 200.0),
    Dimension("root_radius", "Root radius", 6.0, 0.0, 100.0, drops="root fillets"),
    Dimension("length", "Length (z)", 600.0, 1.0, 20000.0),
)

I_BAR = Recipe(
    "i-bar", "I section bar", "A bar of I section about the z axis, its bottom end in z = 0.", _WALLS, _build_i
)


def _build_channel(v: Values) -> LayeredSolid:
    _check_walls(v, across=v["width"], up=v["height"] / 2)
    x, y, f, r = v["width"], v["height"] / 2, v["height"] / 2 - v["flange"], v["root_radius"]
    corners: list[tuple[str, Point, float]] = [
        ("bottom.side", (0.0, -y), 0), ("edge", (x, -y), 0), ("inside", (x, -f), 0), ("web", (v["web"], -f), r),
        ("inside", (v["web"], f), r), ("edge", (x, f), 0), ("top.side", (x, y), 0), ("back", (0.0, y), 0),
    ]  # fmt: skip
    return _bar(rounded(corners), v["length"])


CHANNEL = Recipe(
    "channel", "Channel bar", "A bar of channel section along z, the back of its web in x = 0.", _WALLS, _build_channel
)


def _build_tube(v: Values) -> LayeredSolid:
    x, y, t, r = v["width"] / 2, v["height"] / 2, v["wall"], v["corner_radius"]
    if t >= min(x, y):
        raise GeometryError(f"a wall of {t:g} mm closes the tube.", where="wall", hint="Thin the wall.")
    inner = max(r - t, 0.0)
    outside = rounded([("near", (-x, -y), r), ("right", (x, -y), r), ("far", (x, y), r), ("left", (-x, y), r)])
    a, b = x - t, y - t
    inside = rounded(
        [("inside", (-a, -b), inner), ("inside", (a, -b), inner), ("inside", (a, b), inner), ("inside", (-a, b), inner)]
    )
    return _bar(outside, v["length"], (inside,))


TUBE = Recipe(
    "box-tube",
    "Box tube",
    "A rectangular tube about the z axis, its bottom in z = 0.",
    (
        Dimension("width", "Width (x)", 60.0, 1.0, 2000.0),
        Dimension("height", "Height (y)", 80.0, 1.0, 2000.0),
        Dimension("wall", "Wall", 5.0, 0.1, 200.0),
        Dimension("corner_radius", "Outer corner radius", 8.0, 0.0, 200.0, drops="rounded corners"),
        Dimension("length", "Length (z)", 500.0, 1.0, 20000.0),
    ),
    _build_tube,
)


def _build_rail(v: Values) -> LayeredSolid:
    head, foot, web = v["head_width"] / 2, v["foot_width"] / 2, v["web"] / 2
    top, under, floor = v["height"], v["height"] - v["head_height"], v["foot_height"]
    if web >= min(head, foot) or floor >= under:
        raise GeometryError(
            "head, web and foot leave no room for each other.", where="web", hint="Thin the web, or raise the rail."
        )
    r = v["root_radius"]
    corners: list[tuple[str, Point, float]] = [
        ("foot", (-foot, 0.0), 0), ("side.right", (foot, 0.0), 0), ("side.right", (foot, floor), 0),
        ("web.right", (web, floor), r), ("under", (web, under), r), ("side.right", (head, under), 0),
        ("running", (head, top), v["head_radius"]), ("side.left", (-head, top), v["head_radius"]),
        ("under", (-head, under), 0), ("web.left", (-web, under), r), ("side.left", (-web, floor), r),
        ("side.left", (-foot, floor), 0),
    ]  # fmt: skip
    return _bar(rounded(corners), v["length"])


RAIL = Recipe(
    "rail",
    "Rail",
    "A rail along z on its foot in y = 0; the running face looks to +y.",
    (
        Dimension("height", "Height (y)", 75.0, 2.0, 1000.0),
        Dimension("head_width", "Head width", 45.0, 1.0, 1000.0),
        Dimension("head_height", "Head height", 24.0, 0.5, 500.0),
        Dimension("head_radius", "Head corner radius", 4.0, 0.0, 200.0, drops="rounded head"),
        Dimension("web", "Web", 14.0, 0.3, 500.0),
        Dimension("foot_width", "Foot width", 75.0, 1.0, 2000.0),
        Dimension("foot_height", "Foot height", 12.0, 0.3, 500.0),
        Dimension("root_radius", "Root radius", 5.0, 0.0, 200.0, drops="root fillets"),
        Dimension("length", "Length (z)", 200.0, 0.5, 20000.0),
    ),
    _build_rail,
)


def _build_angle(v: Values) -> LayeredSolid:
    a, b, t, r = v["leg_x"], v["leg_y"], v["thickness"], v["root_radius"]
    if t >= min(a, b):
        raise GeometryError(f"legs of {t:g} mm are as thick as long.", where="thickness", hint="Thin the legs.")
    corners: list[tuple[str, Point, float]] = [
        ("foot", (0.0, 0.0), 0), ("tip.x", (a, 0.0), 0), ("inside.x", (a, t), 0), ("inside.y", (t, t), r),
        ("tip.y", (t, b), 0), ("back", (0.0, b), 0),
    ]  # fmt: skip
    legs = Region("legs", rounded(corners))
    width, g = v["width"], v["gusset"]
    if g <= 0:
        return LayeredSolid(Partition.of([legs]), (Layer("legs", 0.0, width, frozenset({"legs"})),), by_kind)
    reach = v["gusset_reach"]
    if g >= width or reach >= min(a, b) - t or reach <= 1.02 * r:
        raise GeometryError(
            f"a gusset of {g:g} mm reaching {reach:g} mm does not fit between the legs.", where="gusset",
            hint="Thin it, and let it reach further than the root radius and less far than the legs.",
        )  # fmt: skip
    # The legs' outline is cut where the gusset ends, so that both share its segments.
    at_x, at_y = (t + reach, t), (t, t + reach)
    outline: list[Segment] = []
    for s in rounded(corners):
        cut = {"inside.x": at_x, "inside.y": at_y}.get(s.name) if s.centre is None else None
        outline += [s] if cut is None else [Segment(s.name, s.start, cut), Segment(s.name, cut, s.end)]
    shared = [s for s in outline if s.name.startswith("inside")][1:-1]
    edge = Segment("gusset.edge", at_x, at_y)
    gusset = Region("gusset", (edge, *(s.reversed() for s in reversed(shared))))
    both, alone = frozenset({"legs", "gusset"}), frozenset({"legs"})
    low = (width - g) / 2
    layers = (
        Layer("lower", 0.0, low, alone),
        Layer("middle", low, low + g, both),
        Layer("upper", low + g, width, alone),
    )

    def face_name(layer: str, kind: str, item: str) -> str:
        if kind == "side":
            return item
        return f"gusset.{kind}" if item == "gusset" else kind

    return LayeredSolid(Partition.of([Region("legs", tuple(outline)), gusset]), layers, face_name)


ANGLE = Recipe(
    "angle",
    "Angle with gusset",
    "Two legs along x and y with a filleted root, profile in the xy plane, and a gusset amid its width.",
    (
        Dimension("leg_x", "Leg along x", 90.0, 1.0, 3000.0),
        Dimension("leg_y", "Leg along y", 110.0, 1.0, 3000.0),
        Dimension("thickness", "Thickness of the legs", 12.0, 0.2, 500.0),
        Dimension("root_radius", "Root radius", 8.0, 0.0, 300.0, drops="root fillets"),
        Dimension("width", "Width (z)", 80.0, 0.5, 3000.0),
        Dimension("gusset", "Gusset thickness (0: none)", 10.0, 0.0, 500.0, drops="gusset"),
        Dimension("gusset_reach", "Gusset reach", 50.0, 0.5, 3000.0),
    ),
    _build_angle,
)


def _build_strip(v: Values) -> LayeredSolid:
    x, h, lip = v["width"] / 2, v["height"], v["lip_height"]
    foot = v["foot_width"] / 2
    if foot < x or lip >= h:
        raise GeometryError(
            "the foot of the strip must be at least as wide as its body, and the lip lower than the whole.",
            where="foot_width", hint="Widen the foot, or lower the lip.",
        )  # fmt: skip
    base = v["foot_height"]
    if base >= h - lip:
        raise GeometryError("foot and lip leave no body between them.", where="foot_height", hint="Lower the foot.")
    r = min(x, lip) * 0.9
    corners: list[tuple[str, Point, float]] = [("foot", (-foot, 0.0), 0), ("side.right", (foot, 0.0), 0)]
    if foot > x * (1 + 1e-9):
        corners += [("shoulder.right", (foot, base), 0), ("side.right", (x, base), 0)]
    corners += [("lip", (x, h), r), ("side.left", (-x, h), r)]
    if foot > x * (1 + 1e-9):
        corners += [("shoulder.left", (-x, base), 0), ("side.left", (-foot, base), 0)]
    return _bar(rounded(corners), v["length"])


SEAL_STRIP = Recipe(
    "seal-strip",
    "Seal strip",
    "A strip along z with its foot in y = 0 and a round lip towards +y.",
    (
        Dimension("width", "Body width", 12.0, 0.2, 500.0),
        Dimension("height", "Height (y)", 24.0, 0.4, 1000.0),
        Dimension("lip_height", "Height of the lip", 6.0, 0.1, 300.0),
        Dimension("foot_width", "Foot width", 20.0, 0.2, 800.0),
        Dimension("foot_height", "Foot height", 6.0, 0.1, 300.0),
        Dimension("length", "Length (z)", 100.0, 0.2, 20000.0),
    ),
    _build_strip,
)


def _build_carrier(v: Values) -> LayeredSolid:
    x, y = v["width"] / 2, v["height"]
    mouth, groove, lip, floor = v["mouth"] / 2, v["groove_width"] / 2, v["lip"], v["floor"]
    top_of_groove = y - lip
    if groove >= x or mouth > groove or floor >= top_of_groove:
        raise GeometryError(
            "the groove leaves no walls, floor or lips.", where="groove_width",
            hint="Make mouth ≤ groove < width, and floor and lip together lower than the height.",
        )  # fmt: skip
    corners: list[tuple[str, Point, float]] = [
        ("foot", (-x, 0.0), 0), ("side.right", (x, 0.0), 0), ("face.right", (x, y), 0), ("mouth.right", (mouth, y), 0)
    ]  # fmt: skip
    if groove > mouth * (1 + 1e-9):
        corners += [("lip.right", (mouth, top_of_groove), 0), ("groove.right", (groove, top_of_groove), 0)]
    corners += [("groove.floor", (groove, floor), 0), ("groove.left", (-groove, floor), 0)]
    if groove > mouth * (1 + 1e-9):
        corners += [("lip.left", (-groove, top_of_groove), 0), ("mouth.left", (-mouth, top_of_groove), 0)]
    corners += [("face.left", (-mouth, y), 0), ("side.left", (-x, y), 0)]
    return _bar(rounded(corners), v["length"])


SEAL_CARRIER = Recipe(
    "seal-carrier",
    "Carrier of a seal",
    "A bar along z on its foot in y = 0 with an undercut groove open towards +y.",
    (
        Dimension("width", "Width (x)", 40.0, 1.0, 2000.0),
        Dimension("height", "Height (y)", 22.0, 1.0, 2000.0),
        Dimension("groove_width", "Groove width", 20.4, 0.3, 1500.0),
        Dimension("mouth", "Mouth width", 12.4, 0.2, 1500.0),
        Dimension("lip", "Lip thickness", 6.0, 0.1, 500.0),
        Dimension("floor", "Floor thickness", 9.7, 0.1, 1000.0),
        Dimension("length", "Length (z)", 100.0, 0.2, 20000.0),
    ),
    _build_carrier,
)
