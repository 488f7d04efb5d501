"""Sounds in: every kind of file people bring, as it is kept; and what is refused."""

from __future__ import annotations

import ast
import io
import struct
from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.errors import Refusal
from sorvan.core.model.production import Rate
from sorvan.core.model.voice import SOUND_RATE
from sorvan.interchange.films import read_film
from sorvan.interchange.sounds import ZOOMS, mono_of, peaks_of, read_sound
from sorvan.picture.sound import samples_of
from tests.conftest import ROOT
from tests.interchange.noises import film, hum, lag, sound


def kept(data: bytes, name: str) -> np.ndarray:
    read = read_sound(data, name)
    return samples_of(read.assets[read.recording.asset][1])


@pytest.mark.parametrize(
    ("name", "data", "off"),
    [
        ("a.wav", sound(hum()), 0),
        ("b.flac", sound(hum(), format="FLAC"), 0),
        ("c.ogg", sound(hum(), format="OGG", subtype=None), 1),
        ("d.mp3", sound(hum(), format="MP3", subtype=None), 1),
        ("e.wav", sound(hum(rate=44_100), 44_100), 0),
        ("f.wav", sound(hum(rate=11_025, channels=2), 11_025), 1),
        ("g.wav", sound(hum(), subtype="PCM_U8"), 0),
        ("h.wav", sound(hum(), subtype="FLOAT"), 0),
        ("i.wav", sound(hum(channels=4)), 0),
        ("j.mp4", film(hum()), 1),
        ("k.mkv", film(hum(), ending="matroska"), 1),
    ],
)
def test_a_sound_is_kept_as_it_was_and_when_it_was(name: str, data: bytes, off: int) -> None:
    read = read_sound(data, name)
    samples = samples_of(read.assets[read.recording.asset][1])
    assert read.recording.channels == samples.shape[1] <= 2
    assert read.recording.seconds == pytest.approx(len(samples) / SOUND_RATE, abs=1e-5)
    assert read.recording.seconds == pytest.approx(1.0, abs=0.08)
    wanted = hum()[:, 0]
    shift = lag(samples[:, 0], wanted)
    assert abs(shift) <= off
    begin = samples[max(shift, 0) :, 0][: len(wanted) - 2000]
    likeness = np.corrcoef(begin, wanted[max(-shift, 0) :][: len(begin)])[0, 1]
    assert likeness > 0.98
    assert len(mono_of(read.assets[read.recording.asset][1])) == pytest.approx(len(samples) / 3, abs=2)


@pytest.mark.parametrize("rate", [22_050, 44_100, 48_000])
def test_an_mp3_is_heard_when_it_was_said(rate: int) -> None:
    """By an independent encoder, which says how long its run-in is."""
    samples = np.zeros((3 * rate, 1), dtype=np.float32)
    samples[int(1.5 * rate) : int(1.6 * rate), 0] = 0.8 * np.sin(np.arange(int(0.1 * rate)) * 0.13)
    file = io.BytesIO()
    with av.open(file, "w", format="mp3") as made:
        stream = made.add_stream("libmp3lame", rate=rate, layout="mono")
        frame = av.AudioFrame.from_ndarray((samples.T * 32767).astype("<i2"), format="s16p", layout="mono")
        frame.sample_rate, frame.pts = rate, 0
        cut = av.AudioResampler(format="s16p", layout="mono", rate=rate, frame_size=stream.frame_size)
        for block in (*cut.resample(frame), *cut.resample(None)):
            made.mux(stream.encode(block))
        made.mux(stream.encode(None))
    heard = kept(file.getvalue(), "call.mp3")[:, 0]
    assert int(np.argmax(np.abs(heard) > 0.2)) / SOUND_RATE == pytest.approx(1.5, abs=0.002)
    assert len(heard) / SOUND_RATE == pytest.approx(3.0, abs=0.001)


@pytest.mark.parametrize("ending", [".mp3", ".mp4", ".wav", ".mkv"])
def test_what_points_elsewhere_is_no_sound_and_no_film(tmp_path: Path, ending: str) -> None:
    other = tmp_path / "other.wav"
    other.write_bytes(sound(hum()))
    session = "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\n"
    for text in (
        f"ffconcat version 1.0\nfile {other}\n",
        "ffconcat version 1.0\nfile other.wav\n",
        f"#EXTM3U\n#EXTINF:1,\n{other}\n",
        session,
    ):
        with pytest.raises(Refusal, match="be read"):
            read_sound(text.encode(), f"call{ending}")
        with pytest.raises(Refusal, match="be read"):
            read_film(text.encode(), f"call{ending}", Rate())


def test_no_container_is_opened_without_saying_as_what() -> None:
    for file in (ROOT / "sorvan").rglob("*.py"):
        for call in ast.walk(ast.parse(file.read_text())):
            if isinstance(call, ast.Call) and ast.unparse(call.func) == "av.open":
                assert "format" in {k.arg for k in call.keywords}, f"{file}:{call.lineno}"


def test_what_was_done_to_a_sound_is_said() -> None:
    said = " ".join(read_sound(sound(hum(rate=11_025, channels=4), 11_025), "a.wav").recording.said)
    assert "Resampled from 11,025 to 48,000" in said and "4 channels were mixed" in said
    loud = np.clip(hum(loud=3.0), -1, 1)
    assert any("clipped" in s for s in read_sound(sound(loud), "a.wav").recording.said)
    assert any("silent" in s for s in read_sound(sound(np.zeros((9600, 1), dtype=np.float32)), "a.wav").recording.said)
    assert not read_sound(sound(hum()), "a.wav").recording.said


def header(frames: int, rate: int = 8000) -> bytes:
    """A WAV file that says that it is long."""
    size = frames
    return (
        b"RIFF" + struct.pack("<I", 36 + size) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 1, rate, rate, 1, 8)
        + b"data" + struct.pack("<I", size) + b"\x80" * 4000
    )  # fmt: skip


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("empty.wav", b"", "read as a sound"),
        ("text.wav", b"the last ferry leaves at nine" * 40, "read as a sound"),
        ("none.wav", sound(np.zeros((0, 1), dtype=np.float32)), "no sound in it"),
        ("short.wav", sound(hum(0.01)), "over before anything"),
        ("silent film.mp4", film(None), "no sound in this film"),
        ("cut.mp4", film(hum())[:300], "read as a sound"),
        ("picture.mp3", b"\x89PNG\r\n\x1a\n" + b"\0" * 200, "read as a sound"),
    ],
)
def test_what_has_no_sound_is_refused_with_its_name(name: str, data: bytes, said: str) -> None:
    with pytest.raises(Refusal, match=said) as refused:
        read_sound(data, name)
    assert refused.value.where == name and refused.value.remedy


def test_ninety_minutes_are_too_long_and_are_never_unpacked() -> None:
    quiet = np.zeros((90 * 60 * 4000, 1), dtype=np.float32)
    with pytest.raises(Refusal, match="lasts 90 minutes; at most 15 minutes fit"):
        read_sound(sound(quiet, 4000, "FLAC"), "meeting.flac")


@given(st.integers(1, 70_000), st.integers(0, 5))
def test_peaks_are_the_lowest_and_highest_sample_of_each_stretch(count: int, seed: int) -> None:
    samples = np.random.default_rng(seed).uniform(-1, 1, (count, 1)).astype(np.float32)
    data = peaks_of(samples)
    assert struct.unpack_from("<I", data)[0] == count
    at = 4
    for zoom in ZOOMS:
        stretches = -(-count // zoom)
        pairs = np.frombuffer(data, "i1", 2 * stretches, at).reshape(-1, 2).astype(int)
        at += 2 * stretches
        for n in (0, stretches // 2, stretches - 1):
            row = samples[n * zoom : (n + 1) * zoom, 0] * 127
            assert row.min() - 1 < pairs[n, 0] <= row.min() and row.max() <= pairs[n, 1] < row.max() + 1
    assert at == len(data)


@given(st.binary(max_size=400), st.sampled_from(["x.wav", "x.mp3", "x.mp4", "x.flac"]), st.integers(0, 200))
def test_damaged_sounds_are_refused_and_nothing_else(noise: bytes, name: str, at: int) -> None:
    data = bytearray(sound(hum(0.1)))
    data[at : at + len(noise)] = noise
    try:
        read_sound(bytes(data), name)
    except Refusal as refused:
        assert refused.where == name
