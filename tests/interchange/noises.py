"""Sounds made for tests, in the files people bring."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

Samples = NDArray[np.float32]


def hum(seconds: float = 1.0, rate: int = 48_000, channels: int = 1, loud: float = 0.3) -> Samples:
    """A hum whose pitch glides, so that no two places of it are alike: samples × channels."""
    t = np.arange(round(seconds * rate)) / rate
    wave = loud * np.sin(2 * np.pi * (180 * t + 90 * t**2)) * (0.6 + 0.4 * np.sin(2 * np.pi * 3 * t))
    return np.repeat(wave[:, None], channels, axis=1).astype(np.float32)


def sound(samples: Samples, rate: int = 48_000, format: str = "WAV", subtype: str | None = "PCM_16") -> bytes:
    """A sound file."""
    file = io.BytesIO()
    soundfile.write(file, samples, rate, format=format, subtype=subtype)
    return file.getvalue()


def film(samples: Samples | None, rate: int = 48_000, pictures: int = 24, ending: str = "mp4") -> bytes:
    """A film of grey pictures, with this sound or none."""
    file = io.BytesIO()
    with av.open(file, "w", format=ending) as container:
        video = container.add_stream("libx264", rate=24)
        video.width, video.height, video.pix_fmt = 64, 48, "yuv420p"
        audio = container.add_stream("aac", rate=rate, layout="mono") if samples is not None else None
        for n in range(pictures):
            frame = av.VideoFrame.from_ndarray(np.full((48, 64, 3), 9 * n, dtype=np.uint8), format="rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 24)
            container.mux(video.encode(frame))
        container.mux(video.encode(None))
        if audio is not None and samples is not None:
            for at in range(0, len(samples), 1024):
                block = av.AudioFrame.from_ndarray(
                    np.ascontiguousarray(samples[at : at + 1024].T), format="fltp", layout="mono"
                )
                block.sample_rate, block.pts, block.time_base = rate, at, Fraction(1, rate)
                container.mux(audio.encode(block))
            container.mux(audio.encode(None))
    return file.getvalue()


def lag(heard: NDArray[np.floating], wanted: NDArray[np.floating]) -> int:
    """By how many samples `heard` is later than `wanted`, by cross-correlation."""
    size = 1 << (len(heard) + len(wanted)).bit_length()
    product = np.fft.rfft(heard, size) * np.conj(np.fft.rfft(wanted, size))
    at = int(np.argmax(np.fft.irfft(product)))
    return at - size if at > size // 2 else at
