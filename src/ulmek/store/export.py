"""Results in open formats: VTU per increment, CSV of the contact nodes and of the summaries."""

import base64
import csv
from pathlib import Path
from typing import Any
from xml.sax.saxutils import quoteattr

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.core.review.fields import PAIR_FIELDS
from ulmek.store.results import ResultReader, open_result


def export_result(result: Path, to: str, folder: Path) -> list[Path]:
    """Write a run's results and return the files made; ``result`` is a result file or its folder.

    Raises
    ------
    InputError : no such result, or a format that is not known.
    """
    path = result / "result.h5" if result.is_dir() else result
    writers = {"vtu": _write_vtu, "csv": _write_csv}
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
        fields = "".join(_data_array(name, reader.point_field(name, k)) for name in reader.stored())
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
    nodes = reader.points()
    last = reader.count() - 1
    for pair in reader.pairs():
        node, _ = reader.pair_patch(pair)
        columns = [reader.pair_field(pair, field, last) for field in PAIR_FIELDS]
        made.append(folder / f"pair-{pair}.csv")
        with made[-1].open("w", newline="") as f:
            out = csv.writer(f)
            out.writerow(["x (mm)", "y (mm)", "z (mm)", *(f"{n} ({f.unit})" for n, f in PAIR_FIELDS.items())])
            out.writerows(zip(*nodes[node].T, *columns, strict=True))
    return made


def _write_history(reader: ResultReader, folder: Path) -> Path:
    path = folder / "history.csv"
    summaries = reader.summaries()
    with path.open("w", newline="") as f:
        out = csv.writer(f)
        bolts, pairs = list(summaries[0].bolts), list(summaries[0].pairs)
        out.writerow(
            ["step", "share of step", *(f"{b} force (N)" for b in bolts), *(f"{p} normal force (N)" for p in pairs)]
        )
        for s in summaries:
            forces = [s.bolts[b].force for b in bolts] + [s.pairs[p].normal_force for p in pairs]
            out.writerow([s.step + 1, s.time, *forces])
    return path
