"""Pictures that move by themselves: GIF, APNG and animated WebP, made of finished pictures."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from sorvan.picture.paint import Pixels

PIXELS = {"apng": "rgba", "webp": "bgra"}
ENDLESS = {"apng": {"plays": "0"}, "webp": {"loop": "0"}, "gif": {"loop": "0"}}
QUALITY = {"webp": {"quality": "88", "compression_level": "4"}}


def animate(pictures: Iterable[Pixels], kind: str, rate: Fraction, target: Path) -> None:
    """An endless animation of these pictures (RGBA). A GIF has 256 colours, chosen for all of it, and times in
    hundredths of a second."""
    with av.open(str(target), "w", format=kind, options=ENDLESS[kind]) as file:
        stream = None
        for frame in _reduced(pictures, rate) if kind == "gif" else _frames(pictures, rate, PIXELS[kind]):
            if stream is None:
                stream = file.add_stream({"gif": "gif", "apng": "apng", "webp": "libwebp_anim"}[kind], rate=rate)
                stream.width, stream.height, stream.pix_fmt = frame.width, frame.height, frame.format.name
                stream.codec_context.time_base = 1 / rate
                stream.options = QUALITY.get(kind, {})
            file.mux(stream.encode(frame))
        if stream is not None:
            file.mux(stream.encode(None))


def _frames(pictures: Iterable[Pixels], rate: Fraction, format: str) -> Iterator[av.VideoFrame]:
    for n, pixels in enumerate(pictures):
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels), format="rgba")
        frame = frame.reformat(format=format) if format != "rgba" else frame
        frame.pts, frame.time_base = n, 1 / rate
        yield frame


def _reduced(pictures: Iterable[Pixels], rate: Fraction) -> Iterator[av.VideoFrame]:
    """The pictures in the 256 colours that suit all of them, the rest by dots."""
    graph, source = None, None
    for frame in _frames(pictures, rate, "rgba"):
        if graph is None or source is None:
            graph = av.filter.Graph()
            source = graph.add_buffer(width=frame.width, height=frame.height, format="rgba", time_base=1 / rate)
            split, colours = graph.add("split"), graph.add("palettegen", "stats_mode=full")
            use, sink = graph.add("paletteuse", "dither=sierra2_4a:diff_mode=rectangle"), graph.add("buffersink")
            source.link_to(split)
            split.link_to(use, 0, 0)
            split.link_to(colours, 1, 0)
            colours.link_to(use, 0, 1)
            use.link_to(sink)
            graph.configure()
        source.push(frame)
    if graph is None or source is None:
        return
    source.push(None)
    while True:
        try:
            yield graph.pull()
        except (av.error.EOFError, av.error.BlockingIOError):
            return
