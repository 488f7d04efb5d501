"""Making films and picture sequences of a plan."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import IO, Literal

import av
import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Rate
from sorvan.core.plan.plan import Plan
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.mixing import Samples
from sorvan.picture.images import png_of
from sorvan.picture.paint import Painter, Pixels, Surface
from sorvan.picture.sound import add_track, packets

Format = Literal["mp4", "png"]
FrameProgress = Callable[[int], None]
"""Called with the number of frames done so far."""

DELAY = 2
"""Frames by which decoding may run ahead of showing: as far as the encoder looks for what lies between."""


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
    surface = Surface(settings.width, settings.height)
    for frame in range(settings.start, settings.stop):
        yield surface.draw(painter, plan, frame, settings.clear)


def make(
    plan: Plan,
    painter: Painter,
    settings: Settings,
    target: Path,
    progress: FrameProgress,
    sound: Samples | None = None,
) -> None:
    """Make the film, with what is heard in it, or the sequence (a ZIP of PNG files) at `target`."""
    pictures = draw_frames(plan, painter, settings)
    if settings.format == "mp4":
        _encode(pictures, settings, str(target), progress, sound=sound)
    else:
        _sequence(pictures, settings, settings.stop, target, progress)


def part_of(
    plan: Plan, painter: Painter, settings: Settings, start: int, stop: int, progress: FrameProgress = lambda _: None
) -> bytes:
    """Frames `start` up to `stop` of a film or sequence, finished; `joined` puts such parts together."""
    own = replace(settings, start=start, stop=stop)
    pictures, file = draw_frames(plan, painter, own), io.BytesIO()
    if settings.format == "mp4":
        _encode(pictures, own, file, progress, threads=1)
    else:
        _sequence(pictures, own, settings.stop, file, progress)
    return file.getvalue()


def joined(parts: Iterable[bytes], format: Format, target: Path, sound: Samples | None = None) -> None:
    """The film or the sequence of these parts, in their order, with what is heard. No picture is encoded again."""
    if format == "mp4":
        _join_films(parts, target, sound)
        return
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as whole:
        for part in parts:
            with zipfile.ZipFile(io.BytesIO(part)) as archive:
                for name in archive.namelist():
                    whole.writestr(name, archive.read(name))


def _join_films(parts: Iterable[bytes], target: Path, sound: Samples | None) -> None:
    stream, step, count = None, 0, 0
    track: Iterator[av.Packet] = iter(())
    with av.open(str(target), "w", format="mp4", options={"movflags": "+faststart"}) as film:
        for part in parts:
            with av.open(io.BytesIO(part)) as source:
                video, first = source.streams.video[0], count
                if stream is None:
                    stream = film.add_stream_from_template(video)
                    stream.time_base = video.time_base
                    if sound is not None:
                        # A track has to be there before the first picture is written.
                        track = packets(add_track(film), sound)
                for packet in source.demux(video):
                    if packet.dts is None:
                        continue
                    step = step or packet.duration
                    packet.pts += first * step
                    # A short part is decoded with less delay than a long one: in the whole all have the longest.
                    packet.dts = (count - DELAY) * step
                    packet.stream = stream
                    film.mux(packet)
                    count += 1
        for packet in track:
            film.mux(packet)


def _encode(
    pictures: Iterator[Pixels],
    settings: Settings,
    target: str | IO[bytes],
    progress: FrameProgress,
    threads: int = 0,
    sound: Samples | None = None,
) -> None:
    """H.264 in MP4, BT.709 colour; in a file of its own with the index in front, so that it plays while loading."""
    rate: Fraction = per_second(settings.rate)
    options = {"movflags": "+faststart"} if isinstance(target, str) else {}
    with av.open(target, "w", format="mp4", options=options) as film:
        stream = film.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = settings.width, settings.height, "yuv420p"
        stream.options = {"crf": "16", "preset": "veryfast", "tune": "animation"}
        context = stream.codec_context
        context.thread_count = threads
        context.time_base = 1 / rate
        context.color_primaries = context.color_trc = context.colorspace = 1  # BT.709
        context.color_range = 1  # limited, as players expect
        track = add_track(film) if sound is not None else None
        for index, pixels in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba")
            video = frame.reformat(format="yuv420p", dst_colorspace=1, dst_color_range=1)
            video.pts, video.time_base = index, 1 / rate
            film.mux(stream.encode(video))
            progress(index + 1)
        film.mux(stream.encode(None))
        if track is not None and sound is not None:
            film.mux(packets(track, sound))


def _sequence(
    pictures: Iterator[Pixels], settings: Settings, highest: int, target: Path | IO[bytes], progress: FrameProgress
) -> None:
    """Numbered PNG files in a ZIP; numbers are the frames as users see them, from 1, as wide as the highest."""
    digits = max(4, len(str(highest)))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for index, pixels in enumerate(pictures):
            archive.writestr(f"frame-{settings.start + index + 1:0{digits}d}.png", png_of(pixels))
            progress(index + 1)
