"""Making films and picture sequences of a plan."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Literal

import av
import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Rate
from sorvan.core.plan.plan import Plan
from sorvan.core.timing.rates import per_second
from sorvan.picture.images import png_of
from sorvan.picture.paint import Painter, Pixels, Sheet

Format = Literal["mp4", "png"]
Progress = Callable[[int], None]
"""Called with the number of frames done so far."""


@dataclass(frozen=True)
class Settings:
    """What to make: frames `start` up to `stop`, and the size in pixels."""

    format: Format
    start: int
    stop: int
    width: int
    height: int
    rate: Rate
    clear: bool = False
    """For picture sequences: leave the paper out, so that the pictures are transparent."""


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
    return (wanted + wanted % 2, height + height % 2) if format == "mp4" else (wanted, height)


def frames_in(length: int, first: int | None, last: int | None) -> tuple[int, int]:
    """`start` and `stop` of a range of frames given as shown to users: from 1, both ends included."""
    start, stop = (first or 1) - 1, last or length
    if not 0 <= start < stop <= length:
        raise Refusal(
            f"Frames {start + 1} to {stop} are not all there.",
            remedy=f"Choose frames between 1 and {length}, the first before the last.",
        )
    return start, stop


def draw_frames(plan: Plan, painter: Painter, settings: Settings) -> Iterator[Pixels]:
    """The pictures of the range, one after the other, RGBA."""
    sheet = Sheet(settings.width, settings.height)
    for frame in range(settings.start, settings.stop):
        yield sheet.draw(painter, plan, frame, settings.clear)


def make(plan: Plan, painter: Painter, settings: Settings, target: Path, progress: Progress) -> None:
    """Make the film or the sequence (a ZIP of PNG files) at `target`."""
    pictures = draw_frames(plan, painter, settings)
    if settings.format == "mp4":
        encode_mp4(pictures, settings, target, progress)
    else:
        write_sequence(pictures, settings, target, progress)


def encode_mp4(pictures: Iterator[Pixels], settings: Settings, target: Path, progress: Progress) -> None:
    """H.264 in MP4, BT.709 colour, with the index in front so that it plays while loading."""
    rate: Fraction = per_second(settings.rate)
    with av.open(str(target), "w", format="mp4", options={"movflags": "+faststart"}) as film:
        stream = film.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = settings.width, settings.height, "yuv420p"
        stream.options = {"crf": "16", "preset": "veryfast", "tune": "animation"}
        context = stream.codec_context
        context.time_base = 1 / rate
        context.color_primaries = context.color_trc = context.colorspace = 1  # BT.709
        context.color_range = 1  # limited, as players expect
        for index, pixels in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba")
            video = frame.reformat(format="yuv420p", dst_colorspace=1, dst_color_range=1)
            video.pts, video.time_base = index, 1 / rate
            film.mux(stream.encode(video))
            progress(index + 1)
        film.mux(stream.encode(None))


def write_sequence(pictures: Iterator[Pixels], settings: Settings, target: Path, progress: Progress) -> None:
    """Numbered PNG files in a ZIP; numbers are the frames as users see them, from 1."""
    digits = max(4, len(str(settings.stop)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for index, pixels in enumerate(pictures):
            archive.writestr(f"frame-{settings.start + index + 1:0{digits}d}.png", png_of(pixels))
            progress(index + 1)
