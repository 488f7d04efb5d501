"""Films as reference: the pictures of a film at a production's frames."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction

import av
import numpy as np
from av.error import FFmpegError

from sorvan.core.errors import Refusal
from sorvan.core.model.base import asset_id
from sorvan.core.model.production import Rate
from sorvan.core.timing.rates import per_second
from sorvan.interchange import limits
from sorvan.interchange.containers import opened
from sorvan.picture.images import jpeg_of

WIDEST = 960
"""Pixels across of the pictures that are kept: they lie under the work and are never rendered."""
MOST = 2000
"""Pictures of a film that are kept."""


@dataclass(frozen=True)
class FilmPictures:
    """A film's pictures, one a frame of the production: asset ids in order, and the assets."""

    pictures: tuple[str, ...]
    assets: dict[str, tuple[str, bytes]]
    width: int
    height: int
    notes: tuple[str, ...] = ()


def read_film(data: bytes, name: str, rate: Rate, progress: Callable[[float], None] = lambda _: None) -> FilmPictures:
    """The pictures of a film as it shows them at each frame of a production's rate.

    Raises `Refusal` if it can't be read, or has no picture.
    """
    if len(data) > 4 * limits.BYTES:
        raise Refusal(
            "The film is too large.", where=name, remedy="Cut it shorter, or make it smaller.", kind="too-large"
        )
    try:
        with opened(data, _unreadable(name)) as file:
            return _pictures(file, name, per_second(rate), progress)
    except FFmpegError as error:
        raise _unreadable(name) from error


def _unreadable(name: str) -> Refusal:
    return Refusal(
        "The film can't be read.", where=name, remedy="Save it again as MP4 with H.264, or as pictures.", kind="damaged"
    )


def _pictures(
    file: av.container.InputContainer, name: str, rate: Fraction, progress: Callable[[float], None]
) -> FilmPictures:
    if not file.streams.video:
        raise Refusal("There is no picture in that film.", where=name, remedy="Choose another.", kind="wrong-type")
    stream = file.streams.video[0]
    width, height = stream.codec_context.width, stream.codec_context.height
    if width * height > limits.PIXELS or min(width, height) < 1:
        raise Refusal("The film's pictures are too large.", where=name, remedy="Make it smaller.", kind="too-large")
    small = min(1.0, WIDEST / width)
    size = (max(2, round(width * small)), max(2, round(height * small)))
    whole = float(stream.duration * stream.time_base) if stream.duration and stream.time_base else 0.0
    row: list[str] = []
    kept: dict[str, tuple[str, bytes]] = {}
    shown: str | None = None
    start: Fraction | None = None
    notes: tuple[str, ...] = ()
    for frame in file.decode(stream):
        time = Fraction(frame.pts or 0) * Fraction(frame.time_base or 1)
        start = time if start is None else start
        # What was shown until now fills the frames that begin before this picture does.
        while shown is not None and len(row) / rate < time - start and len(row) < MOST:
            row.append(shown)
        if len(row) >= MOST:
            notes = (f"Only the first {MOST:,} frames of the film are laid under the work.",)
            break
        pixels = frame.reformat(width=size[0], height=size[1], format="rgba").to_ndarray()
        encoded = jpeg_of(np.ascontiguousarray(pixels))
        shown = asset_id(encoded)
        kept[shown] = ("image/jpeg", encoded)
        if whole:
            progress(min(1.0, float(time - start) / whole))
    if shown is None:
        raise _unreadable(name)
    if len(row) < MOST:
        row.append(shown)
    used = set(row)
    return FilmPictures(tuple(row), {id: a for id, a in kept.items() if id in used}, size[0], size[1], notes)
