"""What is rendered to, in one table: all that is said of a format but how it is written."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Format = Literal["mp4", "webm", "gif", "apng", "webp", "png", "wav"]
Form = Literal["film", "loop", "pictures", "sound"]
"""What it is looked at as: a film that plays, a picture that moves by itself, pictures one by one, or it is heard."""


@dataclass(frozen=True)
class FileFormat:
    """What is so of a format: the `ending` and media type of its file, what it is called in short and in full, its form,
    whether it can be `clear` where nothing is drawn, and whether something is `heard` in it."""

    ending: str
    media: str
    called: str
    full: str
    form: Form
    clear: bool = False
    heard: bool = False


FORMATS: dict[Format, FileFormat] = {
    "mp4": FileFormat(".mp4", "video/mp4", "MP4 film", "MP4 film (H.264, AAC)", "film", heard=True),
    "webm": FileFormat(".webm", "video/webm", "WebM film", "WebM film (VP9, Opus)", "film", heard=True),
    "gif": FileFormat(".gif", "image/gif", "GIF", "GIF", "loop"),
    "apng": FileFormat(".apng", "image/apng", "APNG", "APNG", "loop", clear=True),
    "webp": FileFormat(".webp", "image/webp", "WebP", "Animated WebP", "loop", clear=True),
    "png": FileFormat(".zip", "application/zip", "PNG sequence", "PNG sequence (ZIP)", "pictures", clear=True),
    "wav": FileFormat(".wav", "audio/wav", "WAV sound", "Sound alone (WAV)", "sound", heard=True),
}
assert FORMATS.keys() == set(get_args(Format))
BY_ENDING: dict[str, Format] = {made.ending: format for format, made in FORMATS.items()}
