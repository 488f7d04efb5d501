"""Making films and picture sequences of what is to be drawn."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import IO

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Rate
from sorvan.core.plan.show import Show
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.warp import Samples
from sorvan.picture.animated import animate
from sorvan.picture.encoding import FILMS, encode, join
from sorvan.picture.formats import FORMATS, Format
from sorvan.picture.images import opened, pixels_of, png_of
from sorvan.picture.paint import Painter, Pixels, Surface

FrameProgress = Callable[[int], None]
"""Called with the number of frames done so far."""


class Undrawn(Exception):
    """A frame could not be drawn; it says which, and why."""


@dataclass(frozen=True)
class FilmSettings:
    """What to make: frames `start` up to `stop`, and the size in pixels. Each frame is the mean of `samples`
    pictures, which the show has one after the other."""

    format: Format
    start: int
    stop: int
    width: int
    height: int
    rate: Rate
    clear: bool = False
    """Leave the paper out, so that the pictures are transparent."""
    samples: int = 1


def size_for(plan_width: int, plan_height: int, width: int | None, format: Format) -> tuple[int, int]:
    """The picture size for a wanted width, keeping the stage's shape.

    A film's sides are even, as 4:2:0 video needs (ITU-T H.264, §6.2).
    """
    wanted = width or plan_width
    if not 16 <= wanted <= 8192:
        raise Refusal(f"A picture {wanted} pixels wide can't be made.", remedy="Choose a width from 16 to 8192 pixels.")
    height = max(2, round(wanted * plan_height / plan_width))
    if height > 8192:
        raise Refusal(
            f"The picture would be {height} pixels high.", remedy="Choose a smaller width, so that it is at most 8192."
        )
    return (wanted + wanted % 2, height + height % 2) if FORMATS[format].form == "film" else (wanted, height)


def frames_in(length: int, first: int | None, last: int | None) -> tuple[int, int]:
    """`start` and `stop` of a range of frames given as shown to users: from 1, both ends included."""
    start, stop = (first or 1) - 1, last or length
    if not 0 <= start < stop <= length:
        raise Refusal(
            f"Frames {start + 1} to {stop} are not all there.",
            remedy=f"Choose frames between 1 and {length}, the first before the last.",
        )
    return start, stop


def draw_frames(show: Show, painter: Painter, settings: FilmSettings) -> Iterator[Pixels]:
    """The pictures of the range, one after the other, RGBA."""
    surface = Surface(settings.width, settings.height)
    for frame in range(settings.start, settings.stop):
        try:
            yield _picture(show, painter, settings, surface, frame)
        except Refusal as refusal:
            raise Refusal(f"Frame {frame + 1}: {refusal.what}", where=refusal.where, remedy=refusal.remedy) from refusal
        except Exception as error:
            raise Undrawn(f"frame {frame + 1} can't be drawn ({error or type(error).__name__})") from error


def _picture(show: Show, painter: Painter, settings: FilmSettings, surface: Surface, frame: int) -> Pixels:
    n = settings.samples
    if n == 1:
        return surface.draw(painter, show, frame, settings.clear)
    total = np.zeros((settings.height, settings.width, 4), dtype=np.uint32)
    for sample in range(frame * n, (frame + 1) * n):
        total += surface.draw(painter, show, sample, settings.clear, straight=False)
    if settings.clear:
        # Colours were added up as much as they cover: taken apart again, they are straight.
        cover = np.maximum(total[:, :, 3:], 1)
        total[:, :, :3] = np.minimum((total[:, :, :3] * 255 + cover // 2) // cover, 255) * n
    return ((total + n // 2) // n).astype(np.uint8)


def make(
    show: Show,
    painter: Painter,
    settings: FilmSettings,
    target: Path,
    progress: FrameProgress,
    sound: Samples | None = None,
) -> None:
    """Make the film, with what is heard in it, the animation, or the sequence (a ZIP of PNG files) at `target`."""
    pictures, size = draw_frames(show, painter, settings), (settings.width, settings.height)
    if FORMATS[settings.format].form == "film":
        rate = per_second(settings.rate)
        encode(pictures, FILMS[settings.format], size, rate, str(target), progress, sound=sound)
    elif FORMATS[settings.format].form == "loop":
        animate(_telling(pictures, progress), settings.format, per_second(settings.rate), target)
    else:
        _sequence(pictures, settings, settings.stop, target, progress)


def _telling(pictures: Iterator[Pixels], progress: FrameProgress) -> Iterator[Pixels]:
    for n, picture in enumerate(pictures):
        yield picture
        progress(n + 1)


def part_of(
    show: Show,
    painter: Painter,
    settings: FilmSettings,
    start: int,
    stop: int,
    progress: FrameProgress = lambda _: None,
) -> bytes:
    """Frames `start` up to `stop` of a film or sequence, finished; `joined` puts such parts together."""
    own = replace(settings, start=start, stop=stop)
    pictures, file = draw_frames(show, painter, own), io.BytesIO()
    if FORMATS[settings.format].form == "film":
        size, rate = (settings.width, settings.height), per_second(settings.rate)
        encode(pictures, FILMS[settings.format], size, rate, file, progress, threads=1)
    else:
        _sequence(pictures, own, settings.stop, file, progress)
    return file.getvalue()


def joined(
    parts: Iterable[bytes], format: Format, rate: Fraction | None, target: Path, sound: Samples | None = None
) -> None:
    """The film, the animation or the sequence of these parts, in their order, with what is heard. No film's picture
    is encoded again; an animation is made of pictures that have lost nothing."""
    if FORMATS[format].form == "film":
        join(parts, FILMS[format], rate, target, sound)
    elif FORMATS[format].form == "loop":
        pictures = (pixels_of(opened(png, name), name) for name, png in _pngs(parts))
        animate(pictures, format, rate or Fraction(24), target)
    else:
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as whole:
            for name, png in _pngs(parts):
                whole.writestr(_entry(name), png)


def _pngs(parts: Iterable[bytes]) -> Iterator[tuple[str, bytes]]:
    for part in parts:
        with zipfile.ZipFile(io.BytesIO(part)) as archive:
            for name in archive.namelist():
                yield name, archive.read(name)


def _entry(name: str) -> zipfile.ZipInfo:
    """A file of an archive that says nothing of when it was made: the same pictures make the same bytes."""
    return zipfile.ZipInfo(name, date_time=(1980, 1, 1, 0, 0, 0))


def _sequence(
    pictures: Iterator[Pixels], settings: FilmSettings, highest: int, target: Path | IO[bytes], progress: FrameProgress
) -> None:
    """Numbered PNG files in a ZIP; numbers are the frames as users see them, from 1, as wide as the highest."""
    digits = max(4, len(str(highest)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for index, pixels in enumerate(pictures):
            archive.writestr(_entry(f"frame-{settings.start + index + 1:0{digits}d}.png"), png_of(pixels))
            progress(index + 1)
