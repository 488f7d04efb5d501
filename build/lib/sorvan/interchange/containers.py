"""Sounds and films opened as what their bytes say that they are, and as nothing else.

The decoder knows formats that point at other files or at the network (playlists, session descriptions): it is never left
to find out by itself what it has before it.
"""

from __future__ import annotations

import io
from contextlib import AbstractContextManager

import av

from sorvan.core.errors import Refusal

_MAGIC: tuple[tuple[int, bytes, str], ...] = (
    (4, b"ftyp", "mov"),
    (4, b"moov", "mov"),
    (4, b"mdat", "mov"),
    (4, b"wide", "mov"),
    (0, b"\x1aE\xdf\xa3", "matroska"),
    (0, b"OggS", "ogg"),
    (0, b"fLaC", "flac"),
    (8, b"WAVE", "wav"),
    (8, b"AVI ", "avi"),
    (8, b"AIFF", "aiff"),
    (8, b"AIFC", "aiff"),
    (0, b"caff", "caf"),
    (0, b".snd", "au"),
    (0, b"wvpk", "wv"),
    (0, b"#!AMR", "amr"),
    (0, b"GIF8", "gif"),
    (0, b"FLV\x01", "flv"),
    (0, b"\x30\x26\xb2\x75\x8e\x66\xcf\x11", "asf"),
    (0, b"\x00\x00\x01\xba", "mpeg"),
    (0, b"\x0b\x77", "ac3"),
)
"""Where the bytes lie by which a format is known, those bytes, and the decoder's name for it."""
ABSOLUTE = ("mov", "matroska", "ogg")
"""Formats whose times count from the beginning of the file; others begin with whatever comes first."""
_PACKET = 188
"""Bytes of a packet of a transport stream (ISO/IEC 13818-1), each of which begins with 0x47."""


def format_of(data: bytes) -> str | None:
    """The decoder's name for what these bytes are; None for what is not read here."""
    for at, magic, name in _MAGIC:
        if data[at : at + len(magic)] == magic:
            return name
    if len(data) > 2 * _PACKET and data[0] == data[_PACKET] == data[2 * _PACKET] == 0x47:
        return "mpegts"
    at = _behind_tags(data)
    if len(data) > at + 2 and data[at] == 0xFF and data[at + 1] & 0xE0 == 0xE0:
        # The layer's two bits are nought in the frames of AAC alone (ISO/IEC 13818-7, ADTS).
        return "aac" if data[at + 1] & 0x06 == 0 else "mp3"
    return "mp3" if at else None


def _behind_tags(data: bytes) -> int:
    """Where what comes after ID3 tags begins (id3.org, ID3v2.4.0, §3.1)."""
    at = 0
    while data[at : at + 3] == b"ID3" and len(data) >= at + 10:
        size = 0
        for byte in data[at + 6 : at + 10]:
            size = size << 7 | byte & 0x7F
        at += 10 + size + (10 if data[at + 5] & 0x10 else 0)
    return at


def opened(data: bytes, unreadable: Refusal) -> AbstractContextManager[av.container.InputContainer]:
    """The container in these bytes. Raises `unreadable` for a format that is not read here, and what the decoder raises
    (`av.FFmpegError`)."""
    name = format_of(data)
    if name is None:
        raise unreadable
    return av.open(io.BytesIO(data), mode="r", format=name)


def beginning(file: av.container.InputContainer) -> float:
    """Seconds at which a container's own clock begins: an MP3's stands at its encoder's run-in, which the decoder has
    dropped already."""
    absolute = any(name in ABSOLUTE for name in file.format.name.split(","))
    return 0.0 if absolute or file.start_time is None else file.start_time / av.time_base
