"""Result files: HDF5 laid out as VTKHDF (unstructured grid over time), pair data in a group of its own.

Written increment by increment in single-writer/multiple-reader mode, so that a file can be read
while it grows, and stays readable when its writer dies.

The group ``ulmek`` carries a ``format``: 1 (files of 0.6.0 and before, which do not say so) kept each summary in a
row of 65,000 bytes; 2 keeps them packed one after another, of any length. Both are read.
"""

import json
import os
import struct
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any

os.environ.setdefault("HDF5_USE_FILE_LOCKING", "FALSE")

import h5py
import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter

from ulmek.core.errors import InputError
from ulmek.core.mesh.volume import ELEMENTS
from ulmek.core.model import Model
from ulmek.core.review.beams import SectionForces
from ulmek.core.review.fields import PAIR_STORED, PAIR_VECTORS, STORED
from ulmek.core.review.pair_fields import PairFields
from ulmek.core.review.singular import SingularPlace
from ulmek.core.review.summary import Summary
from ulmek.core.solve.history import Increment
from ulmek.core.solve.state import State
from ulmek.store.scene import section_faces

Array = NDArray[np.float64]

# Nodes of the elements of plane sections by their VTK type.
PLANE_NODES = {e.vtk: e.nodes for e in ELEMENTS.values() if e.is_plane}
FORMAT = 2
_SUMMARY: TypeAdapter[Summary] = TypeAdapter(Summary)


class ResultError(InputError):
    """A result that is not there, or cannot be read."""

    code = "result"


class ResultWriter:
    """Creates a result file for one run and appends increments to it."""

    def __init__(self, path: Path, model: Model, state: State, singular: list[SingularPlace]) -> None:
        self.path = path
        self.count = 0
        self._file = h5py.File(path, "w", libver="latest")
        self._create(model, state)
        self._create_singular(singular)
        self._file.swmr_mode = True

    def _create(self, model: Model, state: State) -> None:
        f = self._file
        nodes, offsets = model.nodes(), model.offsets()
        cells = [b.mesh.cells + o for b, o in zip(model.bodies, offsets[:-1], strict=True)]
        corners = np.concatenate([np.full(len(c), c.shape[1]) for c in cells])
        root = f.create_group("VTKHDF")
        root.attrs["Version"] = (2, 2)
        root.attrs.create("Type", b"UnstructuredGrid", dtype="S16")
        root["NumberOfPoints"] = np.array([len(nodes)])
        root["NumberOfCells"] = np.array([len(corners)])
        root["NumberOfConnectivityIds"] = np.array([corners.sum()])
        root["Points"] = nodes
        root["Connectivity"] = np.concatenate([c.ravel() for c in cells])
        root["Offsets"] = np.concatenate([[0], np.cumsum(corners)])
        types = [np.full(len(b.mesh.cells), ELEMENTS[b.mesh.kind].vtk) for b in model.bodies]
        root["Types"] = np.concatenate(types).astype(np.uint8)
        body_of = np.repeat(np.arange(len(model.bodies)), [len(b.mesh.cells) for b in model.bodies])
        root.create_group("CellData")["body"] = body_of
        data = root.create_group("PointData")
        steps = root.create_group("Steps")
        steps.attrs["NSteps"] = 0
        for name in ("Values", "PartOffsets", "NumberOfParts", "PointOffsets"):
            steps.create_dataset(name, (0,), maxshape=(None,), dtype="f8" if name == "Values" else "i8", chunks=(64,))
        for name in ("CellOffsets", "ConnectivityIdOffsets"):
            steps.create_dataset(name, (0, 1), maxshape=(None, 1), dtype="i8", chunks=(64, 1))
        shifts = steps.create_group("PointDataOffsets")
        for name, stored in STORED.items():
            width = stored.width
            shape = (0, width) if width > 1 else (0,)
            most = (None, width) if width > 1 else (None,)
            chunk = (len(nodes), width) if width > 1 else (len(nodes),)
            data.create_dataset(name, shape, maxshape=most, dtype="f4", chunks=chunk)
            shifts.create_dataset(name, (0,), maxshape=(None,), dtype="i8", chunks=(64,))
        self._create_own(model, state)

    def _create_own(self, model: Model, state: State) -> None:
        own = self._file.create_group("ulmek")
        own.attrs["format"] = FORMAT
        own["bodies"] = np.frombuffer(json.dumps([b.name for b in model.bodies]).encode(), np.uint8)
        offsets = model.offsets()
        own["node_offsets"] = offsets
        faces = own.create_group("faces")
        for i, body in enumerate(model.bodies):
            group = faces.create_group(str(i))
            for name, quads in body.mesh.faces.items():
                group[name] = quads
        # Packed texts one after another, and where each ends: what has no end yet is not read.
        own.create_dataset("summaries", (0,), maxshape=(None,), dtype="u1", chunks=(1 << 14,))
        own.create_dataset("summary_ends", (0,), maxshape=(None,), dtype="i8", chunks=(64,))
        own.create_dataset("finished", (1,), dtype="i1")
        pairs = own.create_group("pairs")
        first = 0
        for interface in state.interfaces:
            group = pairs.create_group(interface.pair.name)
            group["node"] = interface.node
            group["quads"] = model.quads(interface.pair.side_a)
            group["area"] = interface.area
            n = len(interface.node)
            group["start_gap"] = state.gap[first : first + n]
            first += n
            for name in PAIR_STORED:
                group.create_dataset(name, (0, n), maxshape=(None, n), dtype="f4", chunks=(1, n))
            for name in PAIR_VECTORS:
                group.create_dataset(name, (0, n, 3), maxshape=(None, n, 3), dtype="f4", chunks=(1, n, 3))
        beams = own.create_group("beams")
        for beam in model.beams:
            k = len(beam.stations) - 1
            beams.create_group(beam.body).create_dataset("at", (0, k, 2), maxshape=(None, k, 2), dtype="f4")
            beams[beam.body].create_dataset("forces", (0, k, 2, 6), maxshape=(None, k, 2, 6), dtype="f4")

    def _create_singular(self, places: list[SingularPlace]) -> None:
        group = self._file["ulmek"].create_group("singular")
        for number, place in enumerate(places):
            at = group.create_group(str(number))
            at.attrs["kind"], at.attrs["name"] = place.kind, place.name
            at["nodes"], at["around"] = place.nodes, place.around

    def append(
        self,
        increment: Increment,
        nodal: dict[str, Array],
        fields: dict[str, PairFields],
        beams: dict[str, SectionForces],
        summary: Summary,
    ) -> None:
        """Add one converged increment with its ``nodal`` fields (see `STORED`), those of pairs, and the forces in
        beams by their bodies; then readers see it."""
        root, own = self._file["VTKHDF"], self._file["ulmek"]
        n = int(root["NumberOfPoints"][0])
        for name, values in nodal.items():
            target = root["PointData"][name]
            target.resize((self.count + 1) * n, axis=0)
            target[self.count * n :] = values
            _push(root["Steps/PointDataOffsets"][name], self.count * n)
        steps = root["Steps"]
        _push(steps["Values"], increment.step + increment.time)
        for name, value in (("PartOffsets", 0), ("NumberOfParts", 1), ("PointOffsets", 0)):
            _push(steps[name], value)
        for name in ("CellOffsets", "ConnectivityIdOffsets"):
            _push(steps[name], 0)
        for name, pair in fields.items():
            group = own["pairs"][name]
            for field in PAIR_STORED:
                _push(group[field], getattr(pair, field))
            for field in PAIR_VECTORS:
                _push(group[field], getattr(pair, field))
        for name, found in beams.items():
            _push(own["beams"][name]["at"], found.at)
            _push(own["beams"][name]["forces"], found.forces)
        self._push_summary(summary)
        self.count += 1
        self._file.flush()

    def _push_summary(self, summary: Summary) -> None:
        own = self._file["ulmek"]
        packed = np.frombuffer(zlib.compress(json.dumps(asdict(summary)).encode()), np.uint8)
        before = own["summaries"].shape[0]
        own["summaries"].resize(before + len(packed), axis=0)
        own["summaries"][before:] = packed
        self._file.flush()
        _push(own["summary_ends"], before + len(packed))

    def take_over(self, earlier: Path, count: int) -> None:
        """Begin with the first ``count`` increments of another file of the same model."""
        with ResultReader(earlier) as old:
            source = old.file
            root, own = self._file["VTKHDF"], self._file["ulmek"]
            n = int(root["NumberOfPoints"][0])
            for name in STORED:
                _copy(source["VTKHDF/PointData"].get(name), root["PointData"][name], count * n)
                shifts = source["VTKHDF/Steps/PointDataOffsets"]["displacement"]
                _copy(shifts, root["Steps/PointDataOffsets"][name], count)
            for name, dataset in root["Steps"].items():
                if isinstance(dataset, h5py.Dataset):
                    _copy(source["VTKHDF/Steps"][name], dataset, count)
            for pair, group in own["pairs"].items():
                for name in (*PAIR_STORED, *PAIR_VECTORS):
                    _copy(source["ulmek/pairs"][pair].get(name), group[name], count)
            for beam, group in own["beams"].items():
                for name in ("at", "forces"):
                    _copy(source.get(f"ulmek/beams/{beam}/{name}"), group[name], count)
            for summary in old.summaries()[:count]:
                self._push_summary(summary)
        self.count = count
        self._file.flush()

    def close(self, *, finished: bool) -> None:
        """Close the file; the number of steps is set for open viewers."""
        self._file["ulmek/finished"][0] = int(finished)
        self._file.close()
        with h5py.File(self.path, "r+") as f:
            f["VTKHDF/Steps"].attrs["NSteps"] = self.count


def _copy(source: h5py.Dataset | None, target: h5py.Dataset, rows: int) -> None:
    """Take rows over; what an earlier version did not store is not a number."""
    target.resize(rows, axis=0)
    target[:] = np.nan if source is None else source[:rows]


def _push(dataset: h5py.Dataset, value: Any) -> None:
    dataset.resize(dataset.shape[0] + 1, axis=0)
    dataset[-1] = value


@contextmanager
def open_result(path: Path) -> Iterator["ResultReader"]:
    """A result file to read from; whatever it cannot give, here or later, is told as `ResultError`."""
    try:
        with ResultReader(path) as reader:
            yield reader
    except (OSError, KeyError, ValueError, RuntimeError, zlib.error) as error:
        if not path.exists():
            raise ResultError(
                "there is no result yet.", where="result.h5", hint="Wait for the first increment, or run the study."
            ) from None
        raise ResultError(
            f"the result cannot be read: {str(error)[:120]}.", where="result.h5",
            hint="If the run has ended, its file is damaged: run the study again.",
        ) from None  # fmt: skip


class ResultReader:
    """Reads a result file, also while it grows. Format errors come as HDF5 has them: see `open_result`."""

    def __init__(self, path: Path) -> None:
        self._file = h5py.File(path, "r", libver="latest", swmr=_is_growing(path))
        self.format = int(self._file["ulmek"].attrs.get("format", 1))
        if self.format > FORMAT:
            self._file.close()
            raise ValueError(f"its format {self.format} is of a later version of Ulmek")

    def __enter__(self) -> "ResultReader":
        return self

    def __exit__(self, *_: object) -> None:
        self._file.close()

    @property
    def file(self) -> h5py.File:
        """The open file."""
        return self._file

    def count(self) -> int:
        """Increments stored in full."""
        return int(self._file["ulmek"]["summaries" if self.format == 1 else "summary_ends"].shape[0])

    def summaries(self) -> list[Summary]:
        """Summaries of all increments, oldest first."""
        own = self._file["ulmek"]
        if self.format == 1:
            return [_SUMMARY.validate_python(_as_format_2(json.loads(s))) for s in own["summaries"][:]]
        ends = own["summary_ends"][:]
        packed = own["summaries"][: ends[-1] if len(ends) else 0].tobytes()
        starts = [0, *ends[:-1]]
        return [_SUMMARY.validate_json(zlib.decompress(packed[a:b])) for a, b in zip(starts, ends, strict=True)]

    def bodies(self) -> tuple[list[str], NDArray[np.int64]]:
        """Names of bodies and the first node of each."""
        own = self._file["ulmek"]
        names = own.attrs["bodies"] if self.format == 1 else own["bodies"][:].tobytes()
        return json.loads(names), own["node_offsets"][:]

    def points(self) -> Array:
        """All nodes (n, 3) at the start, mm."""
        return np.asarray(self._file["VTKHDF/Points"][:])

    def cells(self) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.uint8]]:
        """All elements as VTK has them: node numbers one after another, offsets (m + 1,), types (m,)."""
        root = self._file["VTKHDF"]
        return root["Connectivity"][:], root["Offsets"][:], root["Types"][:]

    def pairs(self) -> list[str]:
        """Names of the pairs."""
        return list(self._file["ulmek/pairs"])

    def faces(self, body: int) -> dict[str, NDArray[np.int64]]:
        """Named faces of a body as quads in its own node numbers."""
        return {name: quads[:] for name, quads in self._file["ulmek/faces"][str(body)].items()}

    def drawn_faces(self, body: int) -> dict[str, NDArray[np.int64]]:
        """What is drawn of a body: its faces, or all quads of a plane section."""
        numbers, starts, types = self.cells()
        if types[0] not in PLANE_NODES:
            return self.faces(body)
        _, offsets = self.bodies()
        first = numbers[starts[:-1]]
        here = np.flatnonzero((first >= offsets[body]) & (first < offsets[body + 1]))
        width = PLANE_NODES[int(types[here[0]])]
        return section_faces(numbers[starts[here][:, None] + np.arange(width)] - offsets[body])

    def stored(self) -> list[str]:
        """Nodal fields that the file holds: earlier versions stored fewer."""
        return [name for name in STORED if name in self._file["VTKHDF/PointData"]]

    def point_field(self, name: str, increment: int) -> Array:
        """A nodal field (n,) or (n, k) at one increment."""
        root = self._file["VTKHDF"]
        n = int(root["NumberOfPoints"][0])
        return np.asarray(root["PointData"][name][increment * n : (increment + 1) * n], float)

    def pair_patch(self, pair: str) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Contact nodes (n,) and side A quads (k, 4) of a pair, in global node numbers."""
        group = self._file["ulmek/pairs"][pair]
        return group["node"][:], group["quads"][:]

    def pair_area(self, pair: str) -> Array:
        """The area (n,) mm² of each contact node of a pair."""
        return np.asarray(self._file["ulmek/pairs"][pair]["area"][:], float)

    def pair_once(self, pair: str, name: str) -> Array:
        """A field over the contact nodes of a pair that is the same at all increments.

        Raises
        ------
        InputError : the file is of an earlier version, which did not keep it.
        """
        group = self._file["ulmek/pairs"][pair]
        if name not in group:
            raise not_kept()
        return np.asarray(group[name][:], float)

    def pair_vector(self, pair: str, name: str, increment: int) -> Array:
        """A vector (n, 3) over the contact nodes of a pair, see `PAIR_VECTORS`.

        Raises
        ------
        InputError : the file is of an earlier version, which did not keep it.
        """
        group = self._file["ulmek/pairs"][pair]
        if name not in group or np.isnan(found := group[name][increment]).any():
            raise not_kept()
        return np.asarray(found, float)

    def singular(self) -> list[SingularPlace]:
        """Places where stress grows with every finer mesh; none are known of runs of earlier versions."""
        group = self._file["ulmek"].get("singular", {})
        found = [group[str(i)] for i in range(len(group))]
        return [SingularPlace(g.attrs["kind"], g.attrs["name"], g["nodes"][:], g["around"][:]) for g in found]

    def beams(self) -> list[str]:
        """Bodies that are beams and whose section forces are kept."""
        return list(self._file["ulmek"].get("beams", {}))

    def along_beam(self, body: str, increment: int) -> SectionForces:
        """Section forces of a beam at one increment."""
        group = self._file["ulmek/beams"][body]
        return SectionForces(*(np.asarray(group[name][increment], float) for name in ("at", "forces")))

    def pair_field(self, pair: str, name: str, increment: int) -> Array:
        """A field over the contact nodes of a pair at one increment."""
        return np.asarray(self._file["ulmek/pairs"][pair][name][increment], float)


def not_kept() -> InputError:
    """What is said of what earlier versions did not keep."""
    return InputError(
        "this run was made by an earlier version, which did not keep that.", where="run", hint="Run the study again."
    )


# Superblock of HDF5, version 3 (HDF5 File Format Specification, II.A): signature, version, sizes of offsets and
# lengths, consistency flags, base address, address of the extension, end of the file.
_SUPERBLOCK = struct.Struct("<8sBBBBQQQ")
_WRITTEN_WHILE_READ = 0x04


def _is_growing(path: Path) -> bool:
    """Whether a file is, or was when its writer died, open to be written while it is read.

    Only then is it read in that mode: there HDF5 tries damaged places again for hours, holding its lock.

    Raises
    ------
    OSError : the file is not HDF5, or shorter than it says.
    """
    with path.open("rb") as file:
        head = file.read(_SUPERBLOCK.size)
    if len(head) < _SUPERBLOCK.size or not head.startswith(b"\x89HDF\r\n\x1a\n"):
        raise OSError("it is no HDF5 file")
    _, version, _, _, flags, _, _, end = _SUPERBLOCK.unpack(head)
    if version < 3:
        return False
    if path.stat().st_size < end:
        raise OSError("it is cut off")
    return bool(flags & _WRITTEN_WHILE_READ)


def _as_format_2(summary: dict[str, Any]) -> dict[str, Any]:
    """A summary as 0.6.0 stored it: carriers were supports and what else the ground held, by name, kinds unsaid."""
    summary = dict(summary)
    held = summary.pop("supports")
    summary["carriers"] = [{"kind": "support", "name": name, **at} for name, at in held.items()]
    summary.setdefault("largest", {"displacement": 0.0, "von_mises": 0.0})
    return summary
