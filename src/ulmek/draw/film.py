"""Animations of a run: every stored increment in its turn, or smoothly between them, as WebM (VP9) or GIF."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ulmek.core.errors import InputError
from ulmek.draw.plots import framed_image
from ulmek.draw.stage import Shown, picture, shown_over_all, skins_of
from ulmek.store.results import ResultReader
from ulmek.study.aside import report
from ulmek.study.awake import awake
from ulmek.study.items import StudyDocument
from ulmek.study.spoken import in_words

Kind = Literal["webm", "gif"]
# Frames that a film has at most: what is longer is not looked at.
MOST = 2000


@dataclass(frozen=True)
class Film:
    """How an animation runs: frames a second, and frames between two increments (0: none)."""

    rate: int = 6
    between: int = 0


def frames(
    study: StudyDocument, reader: ResultReader, shown: Shown, film: Film, size: tuple[int, int]
) -> Iterator[NDArray[np.uint8]]:
    """The images (height, width, 3) of an animation from the first to the last increment, all in one scale of colours
    and one view.

    Raises
    ------
    InputError : it has more frames than anybody looks at.
    """
    count = reader.count()
    if (count - 1) * (film.between + 1) + 1 > MOST:
        raise InputError(f"the film has more than {MOST} frames.", where="between", hint="Put fewer frames between.")
    whole = shown_over_all(study, reader, shown)
    skins = skins_of(reader, shown.parts)
    summaries, steps = reader.summaries(), awake(study).steps
    places = np.linspace(0, count - 1, (count - 1) * (film.between + 1) + 1)
    for number, place in enumerate(places):
        report(f"frame {number + 1} of {len(places)}", number / len(places))
        at = int(place)
        stage = picture(study, reader, replace(whole, increment=at, onward=float(place - at)), size, skins)
        s = summaries[min(at + (place > at), count - 1)]
        below = in_words(study, f"{steps[s.step].name}, {s.time:.0%} of the step")
        yield framed_image(stage, study.title or study.name, below=below)


def write_film(
    study: StudyDocument, reader: ResultReader, shown: Shown, film: Film, size: tuple[int, int], path: Path, to: Kind
) -> int:  # fmt: skip
    """Write an animation; returns how many frames it has.

    Raises
    ------
    InputError : a format that is not known, or a film that is too long.
    """
    import av
    from PIL import Image

    size = (size[0] // 2 * 2, size[1] // 2 * 2)
    images = frames(study, reader, shown, film, size)
    if to == "gif":
        first, *rest = [Image.fromarray(image) for image in images]
        first.save(path, "GIF", save_all=True, append_images=rest, duration=round(1000 / film.rate), loop=0)
        return 1 + len(rest)
    if to != "webm":
        raise InputError(f"an animation cannot be made as '{to}'.", where="--to", hint="Known: webm, gif.")
    count = 0
    with av.open(str(path), "w", format="webm") as out:
        stream = out.add_stream("vp9", rate=film.rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.options = {"crf": "20", "b": "0", "cpu-used": "4"}
        stream.time_base = Fraction(1, film.rate)
        for image in images:
            frame = av.VideoFrame.from_ndarray(image, format="rgb24")
            frame.pts, frame.time_base = count, Fraction(1, film.rate)
            out.mux(stream.encode(frame))
            count += 1
        out.mux(stream.encode(None))
    return count
