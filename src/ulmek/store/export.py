"""Results in open formats: fields as VTU per increment or VTKHDF, tables of the contact nodes and of the summaries."""

import base64
import csv
import json
import re
from pathlib import Path
from typing import Any
from xml.sax.saxutils import quoteattr

import h5py
import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.review.fields import PAIR_FIELDS, PAIR_STORED, STORED
from ulmek.store.results import ResultReader, open_result

# Columns of the history: title with unit → what of a pair or part it is.
OF_PAIRS = {
    "normal force (N)": "normal_force",
    "friction force (N)": "friction_force",
    "peak pressure (MPa)": "peak_pressure",
    "widest gap (mm)": "max_gap",
    "penetration (mm)": "max_penetration",
    "sliding (mm)": "max_sliding",
    "share open": "share_open",
    "share sticking": "share_sticking",
    "share sliding": "share_sliding",
    "heat of friction (N·mm)": "dissipated",
}
OF_PARTS = {
    "highest von Mises (MPa)": "max_von_mises",
    "displacement (mm)": "max_displacement",
    "plastic strain": "max_plastic_strain",
}


def export_result(result: Path, to: str, folder: Path) -> list[Path]:
    """Write a run's results and return the files made; ``result`` is a result file or its folder.

    Raises
    ------
    InputError : no such result, or a format that is not known.
    """
    path = result / "result.h5" if result.is_dir() else result
    writers = {"vtu": _write_vtu, "vtkhdf": _write_vtkhdf, "csv": _write_csv, "xlsx": _write_xlsx}
    if to not in writers:
        raise InputError(f"there is no format '{to}'.", where="--to", hint=f"Known: {', '.join(writers)}, step.")
    with open_result(path) as reader:
        folder.mkdir(parents=True, exist_ok=True)
        return writers[to](reader, folder)


def _write_vtu(reader: ResultReader, folder: Path) -> list[Path]:
    """One file per increment, inline base64 arrays with a 64-bit length header."""
    nodes, (numbers, offsets, types) = reader.points(), reader.cells()
    made = []
    for k in range(reader.count()):
        named = {name: reader.point_field(name, k) for name in reader.stored()} | contact_at_nodes(reader, k)
        fields = "".join(_data_array(name, values) for name, values in named.items())
        elements = (
            _data_array("connectivity", numbers) + _data_array("offsets", offsets[1:]) + _data_array("types", types)
        )
        text = (
            '<VTKFile type="UnstructuredGrid" version="1.0" byte_order="LittleEndian" header_type="UInt64">'
            f'<UnstructuredGrid><Piece NumberOfPoints="{len(nodes)}" NumberOfCells="{len(types)}">'
            f"<PointData>{fields}</PointData><Points>{_data_array('points', nodes)}</Points>"
            f"<Cells>{elements}</Cells></Piece></UnstructuredGrid></VTKFile>"
        )
        made.append(folder / f"increment-{k + 1:04d}.vtu")
        made[-1].write_text(text)
    return made


def _data_array(name: str, values: NDArray[Any]) -> str:
    kinds = {"f": ("Float64", "<f8"), "i": ("Int64", "<i8"), "u": ("UInt8", "u1")}
    label, dtype = kinds[values.dtype.kind]
    data = np.ascontiguousarray(values, dtype).tobytes()
    text = base64.b64encode(len(data).to_bytes(8, "little") + data).decode()
    width = values.shape[1] if values.ndim == 2 else 1
    head = f'<DataArray type="{label}" Name={quoteattr(name)} NumberOfComponents="{width}" format="binary">'
    return f"{head}{text}</DataArray>"


def _write_csv(reader: ResultReader, folder: Path) -> list[Path]:
    made = [_write_history(reader, folder)]
    for pair in reader.pairs():
        made.append(folder / f"pair-{pair}.csv")
        with made[-1].open("w", newline="") as f:
            csv.writer(f).writerows(contact_table(reader, pair))
    return made


def _write_history(reader: ResultReader, folder: Path) -> Path:
    path = folder / "history.csv"
    with path.open("w", newline="") as f:
        csv.writer(f).writerows(history_table(reader))
    return path


def history_table(reader: ResultReader) -> list[list[Any]]:
    """Every increment in a row, under a row of titles with units."""
    summaries = reader.summaries()
    first = summaries[0]
    titles = ["step", "share of step"]
    titles += [f"{load} (as given)" for load in first.values]
    titles += [f"{b} force (N)" for b in first.bolts]
    titles += [f"{p} {title}" for p in first.pairs for title in OF_PAIRS]
    titles += [f"{p} {title}" for p in first.parts for title in OF_PARTS]
    titles += [
        f"{c.kind} {c.name} {what} {axis}"
        for c in first.carriers
        for what, axes in (("force", "xyz"), ("moment about the origin", "xyz"))
        for axis in (f"{a} ({'N' if what == 'force' else 'N·mm'})" for a in axes)
    ]
    rows: list[list[Any]] = [titles]
    for s in summaries:
        row: list[Any] = [s.step + 1, s.time, *s.values.values(), *(b.force for b in s.bolts.values())]
        row += [getattr(p, name) for p in s.pairs.values() for name in OF_PAIRS.values()]
        row += [getattr(p, name) for p in s.parts.values() for name in OF_PARTS.values()]
        row += [value for c in s.carriers for value in (*c.force, *c.moment)]
        rows.append(row)
    return rows


def contact_table(reader: ResultReader, pair: str) -> list[list[Any]]:
    """Every contact node of a pair at the last increment in a row, under a row of titles with units."""
    node, _ = reader.pair_patch(pair)
    columns = [reader.pair_field(pair, field, reader.count() - 1) for field in PAIR_STORED]
    titles = ["x (mm)", "y (mm)", "z (mm)", *(f"{n} ({PAIR_FIELDS[n].unit})" for n in PAIR_STORED)]
    values = np.column_stack([reader.points()[node], *columns])
    return [titles, *values.tolist()]


def write_workbook(reader: ResultReader, path: Path) -> None:
    """One workbook: the history, and a sheet of contact nodes for every pair."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    used: set[str] = set()
    for title, rows in {
        "History": history_table(reader),
        **{p: contact_table(reader, p) for p in reader.pairs()},
    }.items():
        sheet = book.create_sheet(_sheet_name(title, used))
        for row in rows:
            sheet.append(row)
    book.save(path)


def _sheet_name(wanted: str, used: set[str]) -> str:
    """A name that a sheet may have (31 characters, letters, digits and dashes), and none has yet."""
    name = re.sub(r"[^\w-]", "-", wanted)[:31]
    while name.lower() in used:
        name = f"{name[:27]}-{len(used)}"
    used.add(name.lower())
    return name


def _write_xlsx(reader: ResultReader, folder: Path) -> list[Path]:
    write_workbook(reader, folder / "results.xlsx")
    return [folder / "results.xlsx"]


def contact_at_nodes(reader: ResultReader, increment: int) -> dict[str, NDArray[np.float64]]:
    """What is kept of pairs, at all nodes (n,): of a node in several pairs that of the one that presses most, nothing
    where there is no contact node."""
    count = len(reader.points())
    out = {f"contact_{name}": np.zeros(count) for name in PAIR_STORED}
    pressed = np.full(count, -1.0)
    for pair in reader.pairs():
        node, _ = reader.pair_patch(pair)
        pressure = reader.pair_field(pair, "pressure", increment)
        more = pressure > pressed[node]
        pressed[node[more]] = pressure[more]
        for name in PAIR_STORED:
            out[f"contact_{name}"][node[more]] = reader.pair_field(pair, name, increment)[more]
    return out


def write_vtkhdf(reader: ResultReader, path: Path) -> None:
    """The file as it is laid out already, without what only Ulmek reads; every field says its unit."""
    source = reader.file["VTKHDF"]
    with h5py.File(path, "w", libver="latest") as out:
        reader.file.copy(source, out, name="VTKHDF")
        out["VTKHDF/Steps"].attrs["NSteps"] = reader.count()
        out["VTKHDF"].attrs["bodies"] = json.dumps(reader.bodies()[0])
        data, shifts = out["VTKHDF/PointData"], out["VTKHDF/Steps/PointDataOffsets"]
        for name in reader.stored():
            data[name].attrs["unit"] = STORED[name].unit
        at_nodes = [contact_at_nodes(reader, k) for k in range(reader.count())]
        for name in PAIR_STORED if reader.pairs() else ():
            data[f"contact_{name}"] = np.concatenate([found[f"contact_{name}"] for found in at_nodes]).astype("f4")
            data[f"contact_{name}"].attrs["unit"] = PAIR_FIELDS[name].unit
            shifts[f"contact_{name}"] = np.arange(reader.count()) * len(reader.points())


def _write_vtkhdf(reader: ResultReader, folder: Path) -> list[Path]:
    write_vtkhdf(reader, folder / "results.vtkhdf")
    return [folder / "results.vtkhdf"]
