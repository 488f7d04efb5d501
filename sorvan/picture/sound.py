"""Sound beside the picture: kept sounds read, and the track of a film."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Iterator
from fractions import Fraction

import av
import numpy as np
import soundfile

from sorvan.core.model.documents import Documents
from sorvan.core.model.voice import SOUND_RATE
from sorvan.core.voice.mixing import Cue, mixed
from sorvan.core.voice.warp import Samples

BITS = 192_000
"""Bits a second of a film's sound."""


def samples_of(data: bytes) -> Samples:
    """The samples of a sound as it is kept: frames × channels."""
    found: Samples = soundfile.read(io.BytesIO(data), dtype="float32", always_2d=True)[0]
    return found


def flac(samples: Samples, rate: int = SOUND_RATE) -> bytes:
    """Samples as FLAC of 16 bits."""
    file = io.BytesIO()
    soundfile.write(file, np.clip(samples, -1, 1), rate, format="FLAC", subtype="PCM_16")
    return file.getvalue()


def heard_in(
    documents: Documents,
    cues: Iterable[Cue],
    asset: Callable[[str], bytes],
    start: int,
    stop: int,
    rate: Fraction,
) -> Samples | None:
    """What is heard of these lines from picture `start` up to `stop`, so many of them a second; None if nothing is."""

    def of_line(voice: str) -> Samples:
        recording = documents.voice(voice).sound
        return samples_of(asset(recording.asset)) if recording else np.zeros((0, 1), dtype=np.float32)

    lines = [c for c in cues if c.placed.voice in documents.by_id]
    return mixed(lines, of_line, start, stop, rate)


def add_track(film: av.container.OutputContainer, coding: str) -> av.AudioStream:
    """A sound track for a film, AAC or Opus. The encoder begins with a run-in of its own; the packets' times say so, and
    players leave it out, so that the first sample is heard with the first picture."""
    stream = film.add_stream(coding, rate=SOUND_RATE, layout="stereo")
    stream.bit_rate = BITS
    return stream


def packets(stream: av.AudioStream, samples: Samples) -> Iterator[av.Packet]:
    """The encoded track, packet by packet."""
    size = stream.codec_context.frame_size or 1024
    for at in range(0, len(samples), size):
        block = np.ascontiguousarray(samples[at : at + size].T, dtype=np.float32)
        frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = SOUND_RATE, at, Fraction(1, SOUND_RATE)
        yield from stream.encode(frame)
    yield from stream.encode(None)


def wav(samples: Samples, target: str) -> None:
    """Samples as WAV of 24 bits."""
    soundfile.write(target, np.clip(samples, -1, 1), SOUND_RATE, format="WAV", subtype="PCM_24")
