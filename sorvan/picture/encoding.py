"""Film encoded in parts, and the parts joined without encoding again."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import IO

import av
import numpy as np

from sorvan.core.voice.warp import Samples
from sorvan.picture.paint import Pixels
from sorvan.picture.sound import add_track, packets


@dataclass(frozen=True)
class Coding:
    """How a film is made: the container, the picture's coding and its options, and the sound's coding.

    Decoding may run `delay` frames ahead of showing: as far as the encoder looks for what lies between.
    """

    container: str
    video: str
    options: dict[str, str]
    audio: str
    delay: int = 0
    whole: dict[str, str] = field(default_factory=dict)


FILMS = {
    # H.264 (ITU-T H.264) with AAC in MP4, the index in front, so that it plays while it loads.
    "mp4": Coding(
        "mp4",
        "libx264",
        # Without macroblock trees: on sizes that are no multiples of 16 they take in pixels beyond the edge, and the
        # same pictures would not always make the same bytes.
        {"crf": "16", "preset": "veryfast", "tune": "animation", "x264-params": "mbtree=0"},
        "aac",
        delay=2,
        whole={"movflags": "+faststart"},
    ),
    # VP9 with Opus in WebM, every frame shown, so that parts can be joined.
    "webm": Coding(
        "webm",
        "libvpx-vp9",
        {"crf": "20", "b": "0", "auto-alt-ref": "0", "lag-in-frames": "0", "deadline": "good", "cpu-used": "4"},
        "libopus",
    ),
}


def encode(
    pictures: Iterator[Pixels],
    coding: Coding,
    size: tuple[int, int],
    rate: Fraction,
    target: str | IO[bytes],
    progress: Callable[[int], None],
    threads: int = 0,
    sound: Samples | None = None,
) -> None:
    """A film of these pictures (RGBA) in BT.709 colour, with what is heard in it."""
    options = coding.whole if isinstance(target, str) else {}
    with av.open(target, "w", format=coding.container, options=options) as film:
        stream = film.add_stream(coding.video, rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.options = dict(coding.options)
        context = stream.codec_context
        context.thread_count = threads
        context.time_base = 1 / rate
        context.color_primaries = context.color_trc = context.colorspace = 1  # BT.709
        context.color_range = 1  # limited, as players expect
        track = add_track(film, coding.audio) if sound is not None else None
        for index, pixels in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba")
            video = frame.reformat(format="yuv420p", dst_colorspace=1, dst_color_range=1)
            video.pts, video.time_base = index, 1 / rate
            film.mux(stream.encode(video))
            progress(index + 1)
        film.mux(stream.encode(None))
        if track is not None and sound is not None:
            film.mux(packets(track, sound))


def join(parts: Iterable[bytes], coding: Coding, rate: Fraction | None, target: Path, sound: Samples | None) -> None:
    """The film of these parts, in their order, with what is heard. No picture is encoded again. Without a rate it is
    the parts' own."""
    stream, count = None, 0
    track: Iterator[av.Packet] = iter(())
    with av.open(str(target), "w", format=coding.container, options=coding.whole) as film:
        for part in parts:
            with av.open(io.BytesIO(part), format=coding.container) as source:
                video, first = source.streams.video[0], count
                # What a part counts time in may be coarser than its frames: frames are counted here.
                rate = rate or Fraction(video.average_rate)
                per_frame = 1 / rate
                if stream is None:
                    stream = film.add_stream_from_template(video)
                    stream.time_base = video.time_base if coding.delay else per_frame
                    if sound is not None:
                        # A track has to be there before the first picture is written.
                        track = packets(add_track(film, coding.audio), sound)
                for packet in source.demux(video):
                    if packet.dts is None:
                        continue
                    shown = first + round(packet.pts * packet.time_base * rate)
                    step = 1 if not coding.delay else packet.duration
                    packet.time_base = stream.time_base
                    packet.pts = shown * step
                    # A short part is decoded with less delay than a long one: in the whole all have the longest.
                    packet.dts = (count - coding.delay) * step
                    packet.duration = step
                    packet.stream = stream
                    film.mux(packet)
                    count += 1
        for packet in track:
            film.mux(packet)
