"""What the command line hands on of a run, opened by programs that know nothing of Ulmek."""

import re
from datetime import UTC, datetime
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from tests.demo.commands import ulmek
from ulmek.draw.ramp import ABOVE, BELOW, BOLT_COLOUR, PART_COLOURS, RAMP, SIGNED_RAMP, rgb
from ulmek.report.make import Wanted, write_report


@pytest.fixture(scope="module")
def run(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The folder of a run of the pressed sleeve."""
    folder = tmp_path_factory.mktemp("sleeve")
    assert ulmek("demo", "write", "drum-sleeve", folder / "study.json").exit_code == 0
    assert ulmek("solve", folder / "study.json", "--out", folder / "run").exit_code == 0
    return folder / "run"


def test_a_picture_is_drawn_with_its_legend(run: Path, tmp_path: Path) -> None:
    for name, more in (("flat", []), ("solid", ["--solid"]), ("limited", ["--limits", "0..20"])):
        done = ulmek("picture", run, "--out", tmp_path / f"{name}.png", "--size", "600x400", *more)
        assert done.exit_code == 0, done.stderr
    flat, solid, limited = (np.asarray(Image.open(tmp_path / f"{n}.png")) for n in ("flat", "solid", "limited"))
    assert flat.shape[:2] == (400, 600)
    # The bore is seen through; what lies beyond limits has a colour of its own.
    middle = flat[195:205, 295:305, :3]
    assert np.ptp(middle, axis=(0, 1)).max() == 0
    beyond = np.abs(limited[..., :3] / 255.0 - rgb(ABOVE)).max(axis=2) < 0.25
    assert beyond.sum() > 20 * (np.abs(flat[..., :3] / 255.0 - rgb(ABOVE)).max(axis=2) < 0.25).sum()
    assert not np.array_equal(flat, solid)
    for wrong, told in ((["--limits", "3"], "Write it like 0..250"), (["--field", "colour"], "Known: motion")):
        done = ulmek("picture", run, "--out", tmp_path / "no.png", *wrong)
        assert (done.exit_code, told in done.stderr) == (2, True)


def test_animations_play_frame_by_frame(run: Path, tmp_path: Path) -> None:
    for kind in ("webm", "gif"):
        done = ulmek("animate", run, "--out", tmp_path / f"film.{kind}", "--size", "320x240", "--between", "1")
        assert done.exit_code == 0, done.stderr
        assert done.stdout.endswith("15 frames\n")
    with av.open(str(tmp_path / "film.webm")) as film:
        played = [frame.to_ndarray(format="rgb24").astype(float) for frame in film.decode(video=0)]
    gif = Image.open(tmp_path / "film.gif")
    turned = []
    for k in range(gif.n_frames):
        gif.seek(k)
        turned.append(np.asarray(gif.convert("RGB")).astype(float))
    gif.close()
    for frames in (played, turned):
        assert len(frames) == 15
        assert {f.shape for f in frames} == {(240, 320, 3)}
        # The sleeve is pressed in, then turned: what is seen goes on from frame to frame.
        assert np.abs(frames[0] - frames[6]).mean() > 2
    assert np.abs(played[7] - turned[7]).mean() < 6
    assert ulmek("animate", run, "--out", tmp_path / "film.avi").exit_code == 2


def test_a_report_says_everything_and_is_made_twice_alike(run: Path, tmp_path: Path) -> None:
    made = Wanted(made=datetime(2026, 11, 30, tzinfo=UTC), note="Pressed at 20 °C.", fields=("stress_hoop",))
    for name in ("one", "two"):
        for kind in ("pdf", "html"):
            write_report(run, kind, tmp_path / f"{name}.{kind}", made)
    for kind in ("pdf", "html"):
        assert (tmp_path / f"one.{kind}").read_bytes() == (tmp_path / f"two.{kind}").read_bytes()
    page = (tmp_path / "one.html").read_text()
    told = re.sub(r"<[^>]+>|\s+", " ", page)
    for words in (
        "Drum sleeve", "Pressed at 20 °C.", "Seat of the sleeve", "Bronze", "Coulomb friction, µ = 0.1", "600 N*m",
        "overlap 0.05 mm", "Hoop stress", "Elements disagree by", "close to", "SHA-256", "plane strain",
    ):  # fmt: skip
        assert words in told, words
    assert not re.search(r"""(src|href)=["'](?!data:)""", page)
    assert (tmp_path / "one.pdf").read_bytes().startswith(b"%PDF-")
    other = ulmek("report", run, "--to", "html", "--chapter", "balance", "--out", tmp_path / "short.html")
    assert other.exit_code == 0, other.stderr
    short = (tmp_path / "short.html").read_text()
    assert ("Balance" in short, "Imprints" in short) == (True, False)
    assert ulmek("report", tmp_path).exit_code == 2


def test_colours_are_those_of_the_page() -> None:
    ramp = (Path(__file__).parents[2] / "web" / "src" / "scene" / "ramp.ts").read_text()
    listed = {name: tuple(re.findall(r"#[0-9a-f]{6}", text)) for name, text in re.findall(r"(\w+) = ([^;]+);", ramp)}
    wanted = {
        "RAMP": RAMP, "SIGNED_RAMP": SIGNED_RAMP, "ABOVE": (ABOVE,), "BELOW": (BELOW,), "PART_COLOURS": PART_COLOURS,
        "BOLT_COLOUR": (BOLT_COLOUR,),
    }  # fmt: skip
    assert {name: listed[name] for name in wanted} == wanted
