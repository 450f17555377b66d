"""The one module that speaks to the solid-modelling kernel: exact shapes, STEP files, sections, measures.

The kernel takes a second or two to load, so it is loaded with the first call.
"""

import tempfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from importlib import import_module
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import GeometryError
from ulmek.core.geometry.bent import BentSolid, Frame, Run
from ulmek.core.geometry.outline import Loop, Region
from ulmek.core.geometry.recipes.recipe import Solid
from ulmek.core.geometry.revolved import RevolvedSolid

Array = NDArray[np.float64]
Shape = Any
SurfaceKind = Literal["plane", "cylinder", "cone", "sphere", "torus", "turned", "free"]
# Volume and area integrals stop at this relative error. For volumes it holds with Gauss-Kronrod points alone: the
# kernel's other rules were up to 0.03 % off on free-form faces.
VOLUME_ERROR = 1e-9
Unit = Literal["millimetre", "centimetre", "metre", "inch", "foot"]
# Units of length of files in mm.
UNITS: dict[Unit, float] = {"millimetre": 1.0, "centimetre": 10.0, "metre": 1000.0, "inch": 25.4, "foot": 304.8}
# Pieces of a fused shape are one where they are this close (mm).
FUZZY = 1e-6


# How the kernel's writer names what has no name: it says nothing of the part.
WRITERS_OWN = "Open CASCADE STEP translator"


# What a process that is to read files loads beforehand.
MODULES = ("STEPCAFControl", "XCAFDoc", "BRepExtrema", "ShapeFix")


@lru_cache(maxsize=64)
def _kernel(module: str) -> Any:
    _be_quiet()
    return import_module(f"OCP.{module}")


@lru_cache(maxsize=1)
def _be_quiet() -> None:
    """The kernel reports to the terminal, which belongs to our own messages."""
    message = import_module("OCP.Message")
    messenger = message.Message.DefaultMessenger_s()
    for printer in list(messenger.Printers()):
        messenger.RemovePrinter(printer)


@dataclass(frozen=True)
class Surface:
    """One face of a shape: its kind, and as far as it has them a point on it or its axis, the direction of its
    outward normal (plane) or of its axis, its radius (mm), area (mm²) and centroid."""

    kind: SurfaceKind
    point: Array
    direction: Array
    radius: float
    area: float
    centre: Array


@dataclass(frozen=True)
class SectionEdge:
    """An edge of a plane section: the index of the face it lies on, ends, and for an arc its centre and a point
    between (mm, in space). kind "free" is neither line nor arc."""

    face: int
    kind: Literal["line", "arc", "free"]
    start: Array
    end: Array
    middle: Array
    centre: Array


@dataclass(frozen=True)
class ReadSolid:
    """A solid of a file, in place, with the name that the file gives it and the unit that the file is written in."""

    name: str
    shape: Shape
    volume: float
    box: Array


def shape_of(solid: Solid) -> Shape:
    """The exact shape of a solid."""
    if isinstance(solid, RevolvedSolid):
        turn = 2 * np.pi / solid.share
        pieces = [_revolved(r, turn) for r in solid.partition.regions]
        return _fused(pieces)
    if isinstance(solid, BentSolid):
        return _fused([_bent(r, run, frame) for run, frame in solid.placed_runs() for r in solid.partition.regions])
    outlines = {r.name: r for r in solid.partition.regions}
    pieces = [
        _prism(outlines[name], layer.bottom, layer.top) for layer in solid.layers for name in sorted(layer.regions)
    ]
    return _fused(pieces)


def _point(p: Sequence[float], z: float = 0.0) -> Any:
    return _kernel("gp").gp_Pnt(float(p[0]), float(p[1]), z)


def _wire(loop: Loop, to_space: Any) -> Any:
    build = _kernel("BRepBuilderAPI")
    wire = build.BRepBuilderAPI_MakeWire()
    for segment in loop:
        a, b = to_space(segment.start), to_space(segment.end)
        if segment.centre is None:
            edge = build.BRepBuilderAPI_MakeEdge(a, b).Edge()
        else:
            middle = segment.points(np.array([0.5]))[0]
            arc = _kernel("GC").GC_MakeArcOfCircle(a, to_space(middle), b).Value()
            edge = build.BRepBuilderAPI_MakeEdge(arc).Edge()
        wire.Add(edge)
    return wire.Wire()


def _face(region: Region, to_space: Any, normal: tuple[float, float, float]) -> Any:
    gp = _kernel("gp")
    plane = gp.gp_Pln(to_space((0.0, 0.0)), gp.gp_Dir(*normal))
    face = _kernel("BRepBuilderAPI").BRepBuilderAPI_MakeFace(plane, _wire(region.outer, to_space), True)
    for hole in region.holes:
        face.Add(_wire(hole, to_space))
    fix = _kernel("ShapeFix").ShapeFix_Face(face.Face())
    fix.FixOrientation()
    fix.Perform()
    return fix.Face()


def _prism(region: Region, bottom: float, top: float) -> Shape:
    gp = _kernel("gp")
    face = _face(region, lambda p: _point(p, bottom), (0.0, 0.0, 1.0))
    return _kernel("BRepPrimAPI").BRepPrimAPI_MakePrism(face, gp.gp_Vec(0.0, 0.0, top - bottom)).Shape()


def _revolved(region: Region, turn: float) -> Shape:
    gp = _kernel("gp")
    face = _face(region, lambda p: gp.gp_Pnt(float(p[0]), 0.0, float(p[1])), (0.0, -1.0, 0.0))
    axis = gp.gp_Ax1(gp.gp_Pnt(0.0, 0.0, 0.0), gp.gp_Dir(0.0, 0.0, 1.0))
    make = _kernel("BRepPrimAPI").BRepPrimAPI_MakeRevol
    whole = turn > 2 * np.pi - 1e-9
    return make(face, axis).Shape() if whole else make(face, axis, turn).Shape()


def _bent(region: Region, run: Run, frame: Frame) -> Shape:
    """A region of a section along one run: pulled straight, or turned about the axis of the bend."""
    gp = _kernel("gp")

    def to_space(p: Sequence[float]) -> Any:
        return gp.gp_Pnt(*(float(v) for v in frame.place(np.array([p], float))[0]))

    x, y, along = frame.axes
    face = _face(region, to_space, (float(along[0]), float(along[1]), float(along[2])))
    if not run.is_bend:
        pull = gp.gp_Vec(*(float(v) for v in run.length * along))
        return _kernel("BRepPrimAPI").BRepPrimAPI_MakePrism(face, pull).Shape()
    toward = np.cos(run.about) * x + np.sin(run.about) * y
    centre, axis = frame.origin + run.radius * toward, np.cross(along, toward)
    about = gp.gp_Ax1(gp.gp_Pnt(*(float(v) for v in centre)), gp.gp_Dir(*(float(v) for v in axis)))
    make = _kernel("BRepPrimAPI").BRepPrimAPI_MakeRevol
    return make(face, about).Shape() if run.angle > 2 * np.pi - 1e-9 else make(face, about, run.angle).Shape()


def _shapes(items: Sequence[Shape]) -> Any:
    shapes = _kernel("collections").List_TopoDS_Shape()
    for item in items:
        shapes.Append(item)
    return shapes


def _fused(pieces: Sequence[Shape]) -> Shape:
    """Pieces joined to one shape whose faces are as large as they can be."""
    shape = pieces[0]
    if len(pieces) > 1:
        fuse = _kernel("BRepAlgoAPI").BRepAlgoAPI_Fuse()
        fuse.SetArguments(_shapes(pieces[:1]))
        fuse.SetTools(_shapes(pieces[1:]))
        fuse.SetFuzzyValue(FUZZY)
        fuse.Build()
        shape = fuse.Shape()
    unify = _kernel("ShapeUpgrade").ShapeUpgrade_UnifySameDomain(shape, True, True, False)
    unify.Build()
    # A torus loses its seams, and with them its closed surface.
    return shape if faults(unify.Shape()) else unify.Shape()


def moved(shape: Shape, rotation: Array, shift: Array) -> Shape:
    """The shape turned by ``rotation`` (3, 3), then moved by ``shift`` (3,) mm."""
    trsf = _kernel("gp").gp_Trsf()
    rows = np.column_stack([rotation, shift])
    trsf.SetValues(*(float(v) for v in rows.ravel()))
    return _kernel("BRepBuilderAPI").BRepBuilderAPI_Transform(shape, trsf, True).Shape()


def scaled(shape: Shape, factor: float) -> Shape:
    """The shape made larger about the origin."""
    trsf = _kernel("gp").gp_Trsf()
    trsf.SetScale(_kernel("gp").gp_Pnt(0.0, 0.0, 0.0), factor)
    return _kernel("BRepBuilderAPI").BRepBuilderAPI_Transform(shape, trsf, True).Shape()


def volume(shape: Shape) -> float:
    """Volume (mm³), outward faces counted positive."""
    found = _kernel("GProp").GProp_GProps()
    _kernel("BRepGProp").BRepGProp.VolumePropertiesGK_s(shape, found, VOLUME_ERROR)
    return float(found.Mass())


def distance(a: Shape, b: Shape) -> tuple[float, Array]:
    """Least distance (mm) of two shapes, 0 where they touch or overlap, and where it is: a point (2, 3) on each."""
    found = _kernel("BRepExtrema").BRepExtrema_DistShapeShape(a, b)
    return float(found.Value()), np.array([_array(found.PointOnShape1(1)), _array(found.PointOnShape2(1))])


def is_near(shape: Shape, point: Array, within: float) -> bool:
    """Whether a point (3,) lies within a distance (mm) of a shape."""
    vertex = _kernel("BRepBuilderAPI").BRepBuilderAPI_MakeVertex(_kernel("gp").gp_Pnt(*map(float, point))).Vertex()
    return distance(vertex, shape)[0] < within


def common_volume(a: Shape, b: Shape) -> float:
    """Volume (mm³) that two solids share."""
    return volume(_kernel("BRepAlgoAPI").BRepAlgoAPI_Common(a, b).Shape())


def split(shape: Shape, normal: Array, at: float) -> tuple[list[Shape], list[Shape]]:
    """The solids of a shape behind and ahead of the plane across a unit ``normal`` (3,), ``at`` (mm) along it."""
    low, high = box(shape)
    size = 2 * float(np.linalg.norm(high - low))
    middle = (low + high) / 2
    foot = middle + (at - float(normal @ middle)) * normal
    sides = []
    for towards in (-normal, normal):
        across = np.cross(towards, np.eye(3)[np.abs(towards).argmin()])
        across /= np.linalg.norm(across)
        corner = foot - size / 2 * (across + np.cross(towards, across))
        gp = _kernel("gp")
        frame = gp.gp_Ax2(
            gp.gp_Pnt(*map(float, corner)), gp.gp_Dir(*map(float, towards)), gp.gp_Dir(*map(float, across))
        )
        half = _kernel("BRepPrimAPI").BRepPrimAPI_MakeBox(frame, size, size, size).Shape()
        sides.append(_explored(_kernel("BRepAlgoAPI").BRepAlgoAPI_Common(shape, half).Shape(), "SOLID"))
    return sides[0], sides[1]


def without_faces(shape: Shape, faces: Sequence[Shape]) -> Shape:
    """The shape without the features that some of its ``faces_of`` bound: its other faces go on until they meet.

    Raises
    ------
    GeometryError : the other faces do not close over them.
    """
    algorithm = _kernel("BRepAlgoAPI").BRepAlgoAPI_Defeaturing()
    algorithm.SetShape(shape)
    for face in faces:
        algorithm.AddFaceToRemove(face)
    algorithm.Build()
    left = [s for s in _explored(algorithm.Shape(), "SOLID")] if algorithm.IsDone() else []
    if len(left) != 1 or faults(left[0]) or len(faces_of(left[0])) >= len(faces_of(shape)):
        raise GeometryError(
            "what is left does not close over these faces.", where="faces",
            hint="Pick all faces of a hole, a pocket, a rounding or a boss, and no others.",
        )  # fmt: skip
    return left[0]


def box(shape: Shape) -> Array:
    """Least and largest coordinates (2, 3) mm of a box about the shape."""
    bound = _kernel("Bnd").Bnd_Box()
    _kernel("BRepBndLib").BRepBndLib.AddOptimal_s(shape, bound, False, False)
    low, high = bound.CornerMin(), bound.CornerMax()
    return np.array([[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]])


def write_step(parts: Sequence[tuple[str, Shape]], path: Path) -> None:
    """Write named shapes as an assembly (ISO 10303-21, millimetres).

    Raises
    ------
    GeometryError : the kernel cannot write one of them.
    """
    document = _kernel("TDocStd").TDocStd_Document(_text("XmlXCAF"))
    tool = _kernel("XCAFDoc").XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    for name, shape in parts:
        label = tool.AddShape(shape, False)
        _kernel("TDataStd").TDataStd_Name.Set_s(label, _text(name))
    writer = _kernel("STEPCAFControl").STEPCAFControl_Writer()
    if not writer.Transfer(document) or writer.Write(str(path)) != _done():
        raise GeometryError("the parts could not be written as STEP.", hint="Write fewer parts at a time.")


def _text(text: str) -> Any:
    return _kernel("TCollection").TCollection_ExtendedString(text, True)


def _done() -> Any:
    return _kernel("IFSelect").IFSelect_ReturnStatus.IFSelect_RetDone


def read_step(content: bytes, meant: Unit | None = None) -> tuple[list[ReadSolid], str]:
    """Solids of a STEP file in their places, in mm, and the unit of length that the file says it is written in; its
    numbers are taken for another where one is ``meant``.

    Raises
    ------
    GeometryError : the file is not STEP, is cut off, or has no solid; says which and what to do.
    """
    if not content.lstrip().startswith(b"ISO-10303-21"):
        raise GeometryError(
            "the file is not a STEP file: it does not begin with ISO-10303-21.",
            hint="Export the part as STEP (AP203, AP214 or AP242).",
        )
    if b"END-ISO-10303-21" not in content[-200000:]:
        raise GeometryError("the file is cut off: its end is missing.", hint="Export or copy it again.")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        path.write_bytes(content)
        document = _kernel("TDocStd").TDocStd_Document(_text("XmlXCAF"))
        reader = _kernel("STEPCAFControl").STEPCAFControl_Reader()
        reader.SetNameMode(True)
        if reader.ReadFile(str(path)) != _done() or not reader.Transfer(document):
            raise GeometryError("the file cannot be read as STEP.", hint="Export it again, as AP214 for instance.")
        unit = _unit(reader.Reader())
    solids = list(_solids(document))
    if meant is not None:
        factor = UNITS[meant] / UNITS.get(unit.lower(), 1.0)  # type: ignore[call-overload]
        solids = [ReadSolid(s.name, scaled(s.shape, factor), s.volume * factor**3, s.box * factor) for s in solids]
    if not solids:
        raise GeometryError(
            "the file has no solid: surfaces or an open shell cannot be meshed.",
            hint="Close the surfaces to a solid before you export.",
        )
    return solids, unit


def _unit(reader: Any) -> str:
    names = [_kernel("collections").Sequence_TCollection_AsciiString() for _ in range(3)]
    reader.FileUnits(*names)
    return str(names[0].Value(1).ToCString()) if names[0].Length() else "millimetre"


def _solids(document: Any) -> Iterator[ReadSolid]:
    """Every solid under every free shape of a document, names from the nearest label that has one."""
    tool = _kernel("XCAFDoc").XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels = _kernel("collections").Sequence_TDF_Label()
    tool.GetFreeShapes(labels)
    place = _kernel("TopLoc").TopLoc_Location()
    for i in range(1, labels.Length() + 1):
        yield from _below(labels.Value(i), place, "")


def _below(label: Any, place: Any, name: str) -> Iterator[ReadSolid]:
    tool = _kernel("XCAFDoc").XCAFDoc_ShapeTool
    own = _name_of(label) or name
    if tool.IsReference_s(label):
        target = _kernel("TDF").TDF_Label()
        tool.GetReferredShape_s(label, target)
        yield from _below(target, place.Multiplied(tool.GetLocation_s(label)), own)
        return
    if tool.IsAssembly_s(label):
        children = _kernel("collections").Sequence_TDF_Label()
        tool.GetComponents_s(label, children, False)
        for i in range(1, children.Length() + 1):
            yield from _below(children.Value(i), place, own)
        return
    shape = tool.GetShape_s(label).Moved(place)
    for solid in _explored(shape, "SOLID"):
        yield ReadSolid(own, solid, volume(solid), box(solid))


def _name_of(label: Any) -> str:
    data = _kernel("TDataStd").TDataStd_Name
    found = data()
    name = str(found.Get().ToExtString()) if label.FindAttribute(data.GetID_s(), found) else ""
    return "" if name.startswith(WRITERS_OWN) else name


def _explored(shape: Shape, kind: str) -> list[Shape]:
    """Parts of a shape of one kind (SOLID, FACE, EDGE), each once, in the shape's order."""
    wanted = getattr(_kernel("TopAbs").TopAbs_ShapeEnum, f"TopAbs_{kind}")
    shapes = _kernel("collections").IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher()
    _kernel("TopExp").TopExp.MapShapes_s(shape, wanted, shapes)
    cast = getattr(_kernel("TopoDS").TopoDS, kind.capitalize())
    return [cast(shapes.FindKey(i)) for i in range(1, shapes.Extent() + 1)]


def faults(shape: Shape) -> list[str]:
    """What is wrong with a solid, in words; empty when it can be meshed."""
    found = []
    if not _kernel("BRepCheck").BRepCheck_Analyzer(shape).IsValid():
        found.append("its faces or edges do not fit together")
    for shell in _explored(shape, "SHELL"):
        if not _kernel("BRep").BRep_Tool.IsClosed_s(shell):
            found.append("its surface is open")
    if volume(shape) <= 0:
        found.append("it encloses no volume, or is inside out")
    return found


def faces_of(shape: Shape) -> list[Shape]:
    """The faces of a shape in its own order."""
    return _explored(shape, "FACE")


def shortest_edge(shape: Shape) -> tuple[float, Array]:
    """Length (mm) of the shortest edge that has any, and a point (3,) on it; infinite where there is none."""
    found = np.inf, np.zeros(3)
    points = _kernel("GCPnts").GCPnts_AbscissaPoint
    for edge in _explored(shape, "EDGE"):
        if _kernel("BRep").BRep_Tool.Degenerated_s(edge):
            continue
        curve = _kernel("BRepAdaptor").BRepAdaptor_Curve(edge)
        length = float(points.Length_s(curve))
        if length < found[0]:
            found = length, _array(curve.Value(curve.FirstParameter()))
    return found


def surface_of(face: Shape) -> Surface:
    """Kind and measures of a face."""
    adaptor = _kernel("BRepAdaptor").BRepAdaptor_Surface(face, True)
    props = _kernel("GProp").GProp_GProps()
    _kernel("BRepGProp").BRepGProp.SurfaceProperties_s(face, props, VOLUME_ERROR)
    centre = _array(props.CentreOfMass())
    kinds = _kernel("GeomAbs").GeomAbs_SurfaceType
    sort, zero = adaptor.GetType(), np.zeros(3)
    kind: SurfaceKind = "free"
    point, direction, radius = zero, zero, 0.0
    if sort == kinds.GeomAbs_Plane:
        plane = adaptor.Plane()
        # The plane's axis is the normal of its parameters where they are right-handed.
        kind, point, direction = "plane", _array(plane.Location()), _array(plane.Axis().Direction())
        is_reversed = face.Orientation() == _kernel("TopAbs").TopAbs_Orientation.TopAbs_REVERSED
        if is_reversed == plane.Position().Direct():
            direction = -direction
    elif sort == kinds.GeomAbs_Cylinder:
        kind, item = "cylinder", adaptor.Cylinder()
        point, direction, radius = _array(item.Location()), _array(item.Axis().Direction()), item.Radius()
    elif sort == kinds.GeomAbs_Cone:
        kind, item = "cone", adaptor.Cone()
        point, direction, radius = _array(item.Apex()), _array(item.Axis().Direction()), item.SemiAngle()
    elif sort == kinds.GeomAbs_Sphere:
        kind, item = "sphere", adaptor.Sphere()
        point, radius = _array(item.Location()), item.Radius()
    elif sort == kinds.GeomAbs_Torus:
        kind, item = "torus", adaptor.Torus()
        point, direction, radius = _array(item.Location()), _array(item.Axis().Direction()), item.MajorRadius()
    elif sort == kinds.GeomAbs_SurfaceOfRevolution:
        kind, item = "turned", adaptor.AxeOfRevolution()
        point, direction = _array(item.Location()), _array(item.Direction())
    return Surface(kind, point, direction, float(radius), float(props.Mass()), centre)


def _array(item: Any) -> Array:
    return np.array([item.X(), item.Y(), item.Z()])


def is_on_face(face: Shape, point: Array) -> bool:
    """Whether a point (3,) of the face's surface lies within its edges."""
    at = _kernel("gp").gp_Pnt(*map(float, point))
    state = _kernel("BRepClass").BRepClass_FaceClassifier(face, at, FUZZY).State()
    return bool(state == _kernel("TopAbs").TopAbs_State.TopAbs_IN)


def section(shape: Shape, point: Array, normal: Array) -> list[SectionEdge]:
    """Edges in which a plane through ``point`` (3,) with ``normal`` (3,) cuts the faces of a shape."""
    gp = _kernel("gp")
    plane = gp.gp_Pln(gp.gp_Pnt(*map(float, point)), gp.gp_Dir(*map(float, normal)))
    cut = _kernel("BRepAlgoAPI").BRepAlgoAPI_Section(shape, plane, False)
    cut.ComputePCurveOn1(False)
    cut.Approximation(False)
    cut.Build()
    faces = faces_of(shape)
    return [_section_edge(edge, cut, faces) for edge in _explored(cut.Shape(), "EDGE")]


def _section_edge(edge: Shape, cut: Any, faces: list[Shape]) -> SectionEdge:
    curve = _kernel("BRepAdaptor").BRepAdaptor_Curve(edge)
    a, b = curve.FirstParameter(), curve.LastParameter()
    kinds = _kernel("GeomAbs").GeomAbs_CurveType
    sort = curve.GetType()
    kind: Literal["line", "arc", "free"] = "free"
    centre = np.zeros(3)
    if sort == kinds.GeomAbs_Line:
        kind = "line"
    elif sort == kinds.GeomAbs_Circle:
        kind, centre = "arc", _array(curve.Circle().Location())
    owner = _kernel("TopoDS").TopoDS_Shape()
    has_owner = cut.HasAncestorFaceOn1(edge, owner)
    face = next((i for i, f in enumerate(faces) if has_owner and f.IsSame(owner)), -1)
    start, end, middle = (_array(curve.Value(t)) for t in (a, b, (a + b) / 2))
    if kind == "free" and face >= 0:
        found = _centre_of_profile(faces[face], middle)
        if found is not None:
            kind, centre = "arc", found
    return SectionEdge(face, kind, start, end, middle, centre)


def _centre_of_profile(face: Shape, at: Array) -> Array | None:
    """Centre (3,) of the arc that a face of revolution has through ``at`` in the plane of its axis, if it is one."""
    adaptor = _kernel("BRepAdaptor").BRepAdaptor_Surface(face, True)
    if adaptor.GetType() != _kernel("GeomAbs").GeomAbs_SurfaceType.GeomAbs_SurfaceOfRevolution:
        return None
    profile = adaptor.BasisCurve()
    if profile.GetType() != _kernel("GeomAbs").GeomAbs_CurveType.GeomAbs_Circle:
        return None
    axis = adaptor.AxeOfRevolution()
    point, direction = _array(axis.Location()), _array(axis.Direction())

    def outward(p: Array) -> Array:
        return np.asarray((p - point) - direction * ((p - point) @ direction))

    centre = _array(profile.Circle().Location())
    away, here = float(np.linalg.norm(outward(centre))), outward(at)
    middle = point + direction * ((centre - point) @ direction)
    # On this side of the axis or beyond it: the circle goes through the point.
    choices = [middle + side * away * here / np.linalg.norm(here) for side in (1.0, -1.0)]
    return min(choices, key=lambda c: abs(float(np.linalg.norm(c - at)) - profile.Circle().Radius()))


class Patch:
    """A face as a surface over parameters (u, v), and the edges about it."""

    def __init__(self, face: Shape, edges: Any) -> None:
        self._surface = _kernel("BRepAdaptor").BRepAdaptor_Surface(face, True)
        self.face = face
        self.is_reversed = face.Orientation() == _kernel("TopAbs").TopAbs_Orientation.TopAbs_REVERSED
        explorer = _kernel("TopExp").TopExp_Explorer(face, _kernel("TopAbs").TopAbs_ShapeEnum.TopAbs_EDGE)
        self._borders: list[tuple[int, Any]] = []
        while explorer.More():
            edge = _kernel("TopoDS").TopoDS.Edge(explorer.Current())
            # A seam comes twice, and each time with the side of it that its orientation has.
            flat = _kernel("BRepAdaptor").BRepAdaptor_Curve2d(edge, face)
            self._borders.append((edges.FindIndex(edge) - 1, flat))
            explorer.Next()

    @property
    def edges(self) -> list[int]:
        """Indices of the edges about the face."""
        return [i for i, _ in self._borders]

    def borders(self, parameters: Sequence[Array]) -> list[tuple[int, Array]]:
        """Edges of the face by their index, and (u, v) at the ``parameters`` of each."""
        return [(i, np.array([_pair_of(flat.Value(float(t))) for t in parameters[i]])) for i, flat in self._borders]

    def points(self, uv: Array) -> Array:
        """Points (n, 3) mm of the surface at ``uv`` (n, 2)."""
        by_hand = self._closed_form
        if by_hand is not None:
            return by_hand(uv)
        found = [self._surface.Value(u, v) for u, v in uv.tolist()]
        return np.array([(p.X(), p.Y(), p.Z()) for p in found]).reshape(-1, 3)

    @cached_property
    def _closed_form(self) -> Callable[[Array], Array] | None:
        """Points (n, 3) at parameters (n, 2) of a plane, cylinder, cone, ball or torus, as the kernel has them; None of
        other surfaces. A call of the kernel for each point takes most of the time of a mesh."""
        s, kinds = self._surface, _kernel("GeomAbs").GeomAbs_SurfaceType
        # What is turned by u stands off the axis by R + slope · v + r · cos v, and along it by rise · v + r · sin v.
        match s.GetType():
            case kinds.GeomAbs_Plane:
                origin, x, y, _ = _frame_of(s.Plane())
                return lambda uv: origin + uv[:, :1] * x + uv[:, 1:] * y
            case kinds.GeomAbs_Cylinder:
                shape = s.Cylinder()
                radius, slope, rise, small = shape.Radius(), 0.0, 1.0, 0.0
            case kinds.GeomAbs_Cone:
                shape = s.Cone()
                radius, small = shape.RefRadius(), 0.0
                slope, rise = np.sin(shape.SemiAngle()), np.cos(shape.SemiAngle())
            case kinds.GeomAbs_Sphere:
                shape = s.Sphere()
                radius, slope, rise, small = 0.0, 0.0, 0.0, shape.Radius()
            case kinds.GeomAbs_Torus:
                shape = s.Torus()
                radius, slope, rise, small = shape.MajorRadius(), 0.0, 0.0, shape.MinorRadius()
            case _:
                return None
        origin, x, y, z = _frame_of(shape)

        def points(uv: Array) -> Array:
            u, v = uv[:, :1], uv[:, 1:]
            away, along = radius + slope * v + small * np.cos(v), rise * v + small * np.sin(v)
            return np.asarray(origin + away * (np.cos(u) * x + np.sin(u) * y) + along * z)

        return points

    def least_radius(self) -> float:
        """Least radius of curvature (mm) over a grid of the face's parameters, infinite for a plane."""
        s = self._surface
        props = _kernel("BRepLProp").BRepLProp_SLProps(s, 2, 1e-9)
        bend = 0.0
        shares = np.linspace(0.1, 0.9, 5)
        for u in s.FirstUParameter() + shares * (s.LastUParameter() - s.FirstUParameter()):
            for v in s.FirstVParameter() + shares * (s.LastVParameter() - s.FirstVParameter()):
                props.SetParameters(float(u), float(v))
                if props.IsCurvatureDefined():
                    bend = max(bend, abs(props.MaxCurvature()), abs(props.MinCurvature()))
        return 1 / bend if bend > 1e-9 else np.inf

    def nearest(self, points: Array) -> Array:
        """The points (n, 3) of the surface nearest to ``points`` (n, 3), mm."""
        gp = _kernel("gp")
        surface = _kernel("BRep").BRep_Tool.Surface_s(self.face)
        analysis = _kernel("ShapeAnalysis").ShapeAnalysis_Surface(surface)
        out = np.empty_like(points)
        for i, p in enumerate(points):
            uv = analysis.ValueOfUV(gp.gp_Pnt(*map(float, p)), 1e-7)
            out[i] = _array(analysis.Value(uv))
        return out

    def scale(self, uv: Array) -> Array:
        """Mean lengths (2,) mm of a step in u and in v near ``uv`` (n, 2)."""
        gp = _kernel("gp")
        steps = []
        for u, v in uv:
            at, du, dv = gp.gp_Pnt(), gp.gp_Vec(), gp.gp_Vec()
            self._surface.D1(float(u), float(v), at, du, dv)
            steps.append((du.Magnitude(), dv.Magnitude()))
        return np.asarray(np.maximum(np.mean(steps, axis=0), 1e-12))


def _frame_of(shape: Any) -> tuple[Array, Array, Array, Array]:
    """Origin and axes (3,) of a surface of the kernel, which may be left-handed."""
    at = shape.Position()
    return _array(at.Location()), _array(at.XDirection()), _array(at.YDirection()), _array(at.Direction())


def _pair_of(item: Any) -> tuple[float, float]:
    return float(item.X()), float(item.Y())


@dataclass(frozen=True)
class Edge:
    """An edge: length and least radius of curvature (mm); both are zero for the point that a pole is."""

    shape: Shape
    length: float
    radius: float

    def sampled(self, shares: Array) -> tuple[Array, Array]:
        """Parameters (n,) and points (n, 3) at ``shares`` (n,) of the length, which begin with 0 and end with 1."""
        if self.length == 0:
            first, last = _kernel("BRep").BRep_Tool.Range_s(self.shape)
            at = _kernel("BRep").BRep_Tool.Pnt_s(_kernel("TopExp").TopExp.FirstVertex_s(self.shape))
            return first + shares * (last - first), np.tile(_array(at), (len(shares), 1))
        curve = _kernel("BRepAdaptor").BRepAdaptor_Curve(self.shape)
        first, last = curve.FirstParameter(), curve.LastParameter()
        at_length = _kernel("GCPnts").GCPnts_AbscissaPoint
        inner = [at_length(curve, float(s * self.length), first).Parameter() for s in shares[1:-1]]
        parameters = np.array([first, *inner, last])
        return parameters, np.array([_array(curve.Value(float(t))) for t in parameters])


def patches_of(shape: Shape) -> tuple[list[Patch], list[Edge]]:
    """The faces of a shape as patches, in its own order, and its edges."""
    wanted = _kernel("TopAbs").TopAbs_ShapeEnum.TopAbs_EDGE
    known = _kernel("collections").IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher()
    _kernel("TopExp").TopExp.MapShapes_s(shape, wanted, known)
    cast = _kernel("TopoDS").TopoDS.Edge
    edges = [_edge(cast(known.FindKey(i))) for i in range(1, known.Extent() + 1)]
    return [Patch(face, known) for face in faces_of(shape)], edges


def _edge(shape: Shape) -> Edge:
    if _kernel("BRep").BRep_Tool.Degenerated_s(shape):
        return Edge(shape, 0.0, 0.0)
    curve = _kernel("BRepAdaptor").BRepAdaptor_Curve(shape)
    length = float(_kernel("GCPnts").GCPnts_AbscissaPoint.Length_s(curve))
    t = np.linspace(curve.FirstParameter(), curve.LastParameter(), 41)
    line = np.array([_array(curve.Value(float(x))) for x in t])
    steps = np.diff(line, axis=0)
    lengths = np.maximum(np.linalg.norm(steps, axis=1), 1e-300)
    along = steps / lengths[:, None]
    turn = np.arccos(np.clip(np.einsum("ij,ij->i", along[:-1], along[1:]), -1, 1))
    bend = float(np.max(turn / ((lengths[:-1] + lengths[1:]) / 2)))
    return Edge(shape, length, 1 / bend if bend > 1e-9 else np.inf)
