"""Curves, imprints, and pictures with their legend: what a report and the command line hand on.

Matplotlib is loaded by what draws: it takes seconds that a server's start need not wait for.
"""

import io
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ulmek.draw.ramp import ABOVE, BELOW, Scale
from ulmek.draw.raster import Surface, View, draw
from ulmek.draw.stage import Stage
from ulmek.store.flat import Flat

if TYPE_CHECKING:
    from matplotlib.colors import Colormap

Array = NDArray[np.float64]
INK, QUIET, PAPER = "#2a2d33", "#6d6a62", "#fbf9f3"
LINES = ("#266874", "#b25b28", "#6a7f2b", "#7a4a7d", "#1c2242", "#a38a2d")
DPI = 100
FEW_MARKS = 5
# What makes two drawings of the same the same bytes.
STYLE: Any = {
    "svg.hashsalt": "ulmek", "font.size": 9, "axes.edgecolor": QUIET, "axes.labelcolor": INK, "xtick.color": QUIET,
    "ytick.color": QUIET, "text.color": INK, "axes.spines.top": False, "axes.spines.right": False,
    "figure.facecolor": PAPER, "axes.facecolor": PAPER, "savefig.facecolor": PAPER, "font.family": "DejaVu Sans",
}  # fmt: skip


@dataclass(frozen=True)
class Curve:
    """A line of a plot: its name, x and y (n,); dashed where it is a closed form or another run."""

    name: str
    x: Array
    y: Array
    is_dashed: bool = False


def prepare() -> None:
    """Compile what draws, and find the fonts: done once on a machine, so that no first picture waits for it."""
    corner = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0]])
    triangle, edge = np.array([[0, 1, 2]]), np.array([[0, 1]])
    surface = Surface(corner, triangle, np.tile([0.0, 0, 1], (3, 1)), np.full((3, 3), 0.5), edge)
    image = draw([surface], View(), (64, 64), within=np.zeros((0, 3)))
    framed(Stage(image, None, None, None), "")


def curves(title: str, x_label: str, y_label: str, lines: list[Curve], *, marks: dict[str, float] | None = None) -> str:
    """A plot as SVG. marks: upright lines by name, such as the ends of steps."""
    import matplotlib as mpl
    from matplotlib.figure import Figure

    with mpl.rc_context(STYLE):
        figure = Figure(figsize=(6.4, 2.7), layout="constrained")
        axes = figure.subplots()
        for i, line in enumerate(lines):
            style = "--" if line.is_dashed else "-"
            dots = "o" if len(line.x) <= 30 and not line.is_dashed else ""
            axes.plot(line.x, line.y, style, color=LINES[i % len(LINES)], label=line.name, marker=dots, markersize=2.6)
        # Names of few marks stand above the plot, where no line goes through them.
        few = len(marks or {}) <= FEW_MARKS
        for name, at in (marks or {}).items():
            axes.axvline(at, color=QUIET, linewidth=0.6, linestyle=":")
            axes.annotate(
                name, (at, 1), xycoords=("data", "axes fraction"), fontsize=7, color=QUIET, ha="right",
                va="bottom" if few else "top", rotation=0 if few else 90, xytext=(0, 2) if few else (-2, -2),
                textcoords="offset points",
            )  # fmt: skip
        axes.set(xlabel=x_label, ylabel=y_label)
        axes.set_title(title, pad=14 if marks and few else None)
        axes.grid(visible=True, color="#e4e0d4", linewidth=0.6)
        axes.legend(loc="upper left", bbox_to_anchor=(1.0, 1.0), frameon=False, fontsize=8)
        return _svg(figure)


def imprint(title: str, unit: str, flat: Flat, values: Array, scale: Scale) -> bytes:
    """A field over a patch laid flat, as PNG; values (n,) at its points, in the unit that it is spoken in."""
    import matplotlib as mpl
    from matplotlib.figure import Figure

    with mpl.rc_context(STYLE):
        wide, high = np.maximum(np.ptp(flat.points, axis=0), 1e-9)
        figure = Figure(figsize=(3.2, float(np.clip(2.6 * high / wide, 1.0, 3.4)) + 0.6), dpi=200, layout="constrained")
        axes = figure.subplots()
        shown = axes.tripcolor(  # type: ignore[call-overload]
            flat.points[:, 0], flat.points[:, 1], flat.triangles, values, shading="gouraud", cmap=_colours(scale),
            vmin=scale.low, vmax=scale.high if scale.high > scale.low else scale.low + 1.0,
        )  # fmt: skip
        axes.set_aspect("equal")
        axes.set(xlabel="mm", ylabel="mm")
        axes.set_title(title, fontsize=8)
        axes.tick_params(labelsize=7)
        bar = figure.colorbar(shown, ax=axes, shrink=0.85, pad=0.02)
        bar.set_label(unit, fontsize=8)
        bar.ax.tick_params(labelsize=7)
        return _png(figure)


def framed(stage: Stage, title: str, *, below: str = "") -> bytes:
    """A picture of the stage with its title, legend and a line below, as PNG of the size of the stage."""
    out = io.BytesIO()
    _framed(stage, title, below).print_png(out, metadata={"Software": None})
    return out.getvalue()


def framed_image(stage: Stage, title: str, *, below: str = "") -> NDArray[np.uint8]:
    """The same as an image (height, width, 3)."""
    canvas = _framed(stage, title, below)
    canvas.draw()
    return np.array(canvas.buffer_rgba())[:, :, :3].copy()


def _framed(stage: Stage, title: str, below: str) -> Any:
    import matplotlib as mpl
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.figure import Figure

    height, width = stage.image.shape[:2]
    with mpl.rc_context(STYLE):
        figure = Figure(figsize=(width / DPI, height / DPI), dpi=DPI)
        canvas = FigureCanvasAgg(figure)
        figure.figimage(stage.image, 0, 0, origin="upper", zorder=-1)
        figure.text(0.02, 0.975, title, fontsize=12, va="top", weight="bold")
        if below:
            figure.text(0.02, 0.02, below, fontsize=9, color=QUIET)
        if stage.field is not None and stage.scale is not None:
            name = f"{stage.field.label} ({stage.field.spoken})" if stage.field.spoken else stage.field.label
            scale = stage.scale
            high = scale.high if scale.high > scale.low else scale.low + 1.0
            axes = figure.add_axes((0.74, 0.06, 0.24, 0.022))
            norm = mpl.colors.LogNorm if scale.is_log else mpl.colors.Normalize
            source = mpl.cm.ScalarMappable(norm(scale.low, high), _colours(scale))
            bar = figure.colorbar(
                source, cax=axes, orientation="horizontal", extend="both" if scale.goes_beyond else "neither"
            )
            ticks = [scale.value(s) for s in np.linspace(0, 1, 5)] if scale.high > scale.low else [scale.low, high]
            bar.set_ticks(ticks, labels=[f"{v:.3g}" for v in ticks])
            bar.ax.minorticks_off()
            bar.ax.tick_params(labelsize=8)
            axes.set_title(name, fontsize=9, loc="left")
        return canvas


def _colours(scale: Scale) -> "Colormap":
    from matplotlib.colors import LinearSegmentedColormap

    colours = LinearSegmentedColormap.from_list("field", list(scale.stops))
    return colours.with_extremes(over=ABOVE, under=BELOW) if scale.goes_beyond else colours


def _svg(figure: Any) -> str:
    out = io.StringIO()
    figure.savefig(out, format="svg", metadata={"Date": None, "Creator": None})
    return out.getvalue()


def _png(figure: Any) -> bytes:
    out = io.BytesIO()
    figure.savefig(out, format="png", metadata={"Software": None})
    return out.getvalue()
