"""Sounds in: WAV, FLAC, OGG and MP3 files and the sound of films, decoded, resampled and kept as FLAC.

Whatever comes in is kept at 48,000 samples a second with one or two channels of 16 bits, so that page and
film play exactly the same samples. Its peaks are worked out once, at several zooms.
"""

from __future__ import annotations

import io
import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import gcd

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from sorvan.core.errors import Refusal
from sorvan.core.model.base import asset_id
from sorvan.core.model.voice import LONGEST_SOUND, SOUND_RATE, Recording
from sorvan.core.voice.warp import RATE as ALIGNED_RATE
from sorvan.core.voice.warp import Samples
from sorvan.interchange import limits
from sorvan.interchange.containers import beginning, opened
from sorvan.interchange.kinds import is_film
from sorvan.picture.sound import flac, samples_of

SOUND_MEDIA = "audio/flac"
PEAKS_MEDIA = "application/x-sorvan-peaks"
ENDINGS = (".wav", ".wave", ".flac", ".ogg", ".oga", ".opus", ".mp3", ".m4a", ".aac", ".aif", ".aiff")
ZOOMS = (256, 1024, 4096, 16384)
"""Samples that one pair of peaks stands for."""
LEAST = 0.05
"""Seconds that a sound lasts at least."""
QUIET = 10 ** (-60 / 20)
"""A sound that never gets louder than this (-60 dB of full scale) counts as silence."""
CLIPPED = 0.998
SLOWEST, FASTEST = 2_000, 768_000
"""Samples a second that a sound can have."""


@dataclass(frozen=True)
class ReadSound:
    """A sound that was read, and its assets: id → (media type, bytes)."""

    recording: Recording
    assets: dict[str, tuple[str, bytes]]


def read_sound(data: bytes, name: str, progress: Callable[[float], None] = lambda _: None) -> ReadSound:
    """A sound file, or the sound of a film, as it is kept.

    Raises `Refusal` if it can't be read, has no sound, is empty, or is too long.
    """
    if len(data) > 4 * limits.BYTES:
        raise Refusal(
            "The file is too large.", where=name, remedy=f"At most {4 * limits.BYTES >> 20} MB fit.", kind="too-large"
        )
    samples, rate = _decoded(data, name, progress)
    if not SLOWEST <= rate <= FASTEST:
        raise _unreadable(name)
    _long_enough(len(samples) / rate, name)
    said: list[str] = []
    if samples.shape[1] > 2:
        said.append(f"Its {samples.shape[1]} channels were mixed into one.")
        samples = samples.mean(axis=1, keepdims=True)
    if rate != SOUND_RATE:
        said.append(f"Resampled from {rate:,} to {SOUND_RATE:,} samples a second.")
        samples = resampled(samples, rate, SOUND_RATE)
    progress(0.8)
    said += _judged(samples)
    kept = flac(samples)
    peaks = peaks_of(samples)
    recording = Recording(
        asset=asset_id(kept),
        peaks=asset_id(peaks),
        seconds=round(len(samples) / SOUND_RATE, 6),
        channels=samples.shape[1],
        file=name[-200:],
        said=tuple(said),
    )
    progress(1.0)
    return ReadSound(recording, {recording.asset: (SOUND_MEDIA, kept), recording.peaks: (PEAKS_MEDIA, peaks)})


def _long_enough(seconds: float, name: str) -> None:
    if seconds > LONGEST_SOUND:
        minutes = f"{seconds / 60:.0f} minutes"
        raise Refusal(
            f"The sound lasts {minutes}; at most {LONGEST_SOUND / 60:.0f} minutes fit.",
            where=name,
            remedy="Cut out the part that this motion needs, and bring that in.",
            kind="too-large",
        )
    if seconds < LEAST:
        raise Refusal(
            "There is no sound in it." if seconds == 0 else "The sound is over before anything can be heard.",
            where=name,
            remedy=f"Choose a sound that lasts at least {LEAST:g} s.",
            kind="empty",
        )


def _judged(samples: Samples) -> list[str]:
    top = float(np.abs(samples).max())
    if top < QUIET:
        return ["Nothing is to be heard in it: it is silent throughout."]
    loud = np.abs(samples) >= CLIPPED
    # A peak that is just reached is no fault; several samples flat at the top are.
    runs = loud[2:] & loud[1:-1] & loud[:-2]
    count = int(np.count_nonzero(runs.any(axis=1)))
    return [f"It is clipped: about {count:,} samples lie flat at full scale."] if count > 20 else []


def _decoded(data: bytes, name: str, progress: Callable[[float], None]) -> tuple[Samples, int]:
    if not is_film(name):
        found = _by_soundfile(data, name)
        if found is not None:
            return found
    return _by_av(data, name, progress)


def _by_soundfile(data: bytes, name: str) -> tuple[Samples, int] | None:
    """Samples of a file without loss or delay; None for kinds that the other decoder knows better."""
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as file:
            if file.format == "MP3":
                return None
            if file.frames / max(file.samplerate, 1) > LONGEST_SOUND:
                _long_enough(file.frames / file.samplerate, name)
            return file.read(dtype="float32", always_2d=True), int(file.samplerate)
    except soundfile.LibsndfileError:
        return None


def _by_av(data: bytes, name: str, progress: Callable[[float], None]) -> tuple[Samples, int]:
    try:
        with opened(data, _unreadable(name)) as file:
            if not file.streams.audio:
                raise Refusal(
                    "There is no sound in this film." if file.streams.video else "There is no sound in this file.",
                    where=name,
                    remedy="Choose a film with a sound track, or a sound file.",
                    kind="empty",
                )
            if file.duration is not None:
                _too_long(file.duration / 1e6, name)
            return _track(file, name, progress)
    except av.FFmpegError:
        raise _unreadable(name) from None


def _unreadable(name: str) -> Refusal:
    return Refusal(
        "This can't be read as a sound.",
        where=name,
        remedy="Choose a WAV, FLAC, OGG or MP3 file, or a film with sound.",
        kind="wrong-type",
    )


def _too_long(seconds: float, name: str) -> None:
    if seconds > LONGEST_SOUND:
        _long_enough(seconds, name)


def _track(file: av.container.InputContainer, name: str, progress: Callable[[float], None]) -> tuple[Samples, int]:
    """The first sound track, each block where its time stamp says, so that a late start stays late, counted from where
    the file itself begins."""
    stream = file.streams.audio[0]
    if stream.codec_context is None or not stream.codec_context.sample_rate or not stream.codec_context.channels:
        raise _unreadable(name)
    rate = int(stream.codec_context.sample_rate)
    mixer = av.AudioResampler(
        format="fltp", layout="mono" if stream.codec_context.channels == 1 else "stereo", rate=rate
    )
    blocks: list[Samples] = []
    at, begins = 0, beginning(file)
    for frame in file.decode(stream):
        start = 0.0 if frame.time is None else frame.time - begins
        for mixed in mixer.resample(frame):
            block = np.ascontiguousarray(mixed.to_ndarray().T, dtype=np.float32)
            hole = round(start * rate) - at
            if 0.01 * rate < hole < LONGEST_SOUND * rate:
                blocks.append(np.zeros((hole, block.shape[1]), dtype=np.float32))
                at += hole
            blocks.append(block)
            at += len(block)
        _too_long(at / rate, name)
        if file.duration:
            progress(min(at / rate / (file.duration / 1e6), 1.0) * 0.7)
    if not blocks:
        return np.zeros((0, 1), dtype=np.float32), rate
    return np.concatenate(blocks), rate


def resampled(samples: Samples, rate: int, wanted: int) -> Samples:
    """Samples at another rate, by a filter of linear phase that delays nothing."""
    # Loading it takes longer than all else together, and most sounds are not resampled.
    from scipy.signal import resample_poly

    common = gcd(rate, wanted)
    found: Samples = resample_poly(samples, wanted // common, rate // common, axis=0).astype(np.float32)
    return found


def mono_of(sound: bytes) -> NDArray[np.float32]:
    """A sound as it is kept, as aligners take it: one channel at 16,000 samples a second."""
    mono: NDArray[np.float32] = resampled(samples_of(sound).mean(axis=1, keepdims=True), SOUND_RATE, ALIGNED_RATE)[:, 0]
    return mono


def peaks_of(samples: Samples) -> bytes:
    """Lowest and highest sample of each stretch, mixed to one channel, at every zoom, the finest first.

    A little-endian uint32 says how many samples there are; then for each of `ZOOMS` come as many pairs of int8
    as it takes, -127 to 127 for -1 to 1.
    """
    mono = samples.mean(axis=1)
    found = [struct.pack("<I", len(mono))]
    low = high = mono
    size = 1
    for zoom in ZOOMS:
        low, high = _coarser(low, zoom // size, np.minimum), _coarser(high, zoom // size, np.maximum)
        size = zoom
        pairs = np.stack([np.floor(low * 127), np.ceil(high * 127)], axis=1)
        found.append(np.clip(pairs, -127, 127).astype("i1").tobytes())
    return b"".join(found)


def peaks_bytes(samples: int) -> int:
    """How long the peaks of so many samples are."""
    return 4 + 2 * sum(_coarse_counts(samples))


def _coarse_counts(samples: int) -> Iterator[int]:
    count, size = samples, 1
    for zoom in ZOOMS:
        count, size = -(-count // (zoom // size)), zoom
        yield count


def _coarser(values: NDArray[np.float32], by: int, pick: np.ufunc) -> NDArray[np.float32]:
    count = -(-len(values) // by)
    padded = np.concatenate([values, np.repeat(values[-1:], count * by - len(values))])
    return pick.reduce(padded.reshape(count, by), axis=1)  # type: ignore[no-any-return]
