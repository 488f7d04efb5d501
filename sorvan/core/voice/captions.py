"""What is said, to be read: the words of lines as captions, a phrase at a time."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from sorvan.core.model.voice import Voice, ends
from sorvan.core.voice.mixing import Cue

BREATH = 0.35
"""Seconds of pause that end a phrase."""
LONGEST = 6.0
"""Seconds that a phrase is shown at most before the next begins."""
Caption = tuple[float, float, str]
"""From when to when (seconds of the motion), and what is read."""


def cues(heard: Iterable[Cue], lines: Mapping[str, Voice]) -> list[Caption]:
    """The captions of lines that are heard, in their order. A line without a chart is one caption with its text."""
    found: list[Caption] = []
    for cue in heard:
        line = lines.get(cue.placed.voice)
        if line is None or cue.placed.mute:
            continue
        told = [(cue.at + a, cue.at + b, text) for a, b, text in _phrases(line)]
        told = told or ([(cue.at, cue.at + line.seconds, line.text)] if line.text.strip() else [])
        found += [(max(a, cue.begins), min(b, cue.ends), text) for a, b, text in told]
    return sorted((max(a, 0.0), b, text) for a, b, text in found if b > max(a, 0.0))


def _phrases(line: Voice) -> list[Caption]:
    found: list[Caption] = []
    for _, word, end in ends(line.chart.words, line.seconds):
        if not word.text:
            continue
        if found and word.start - found[-1][1] < BREATH and end - found[-1][0] < LONGEST:
            found[-1] = (found[-1][0], end, f"{found[-1][2]} {word.text}")
        else:
            found.append((word.start, end, word.text))
    return found


def web_vtt(found: list[Caption], begins: float = 0.0) -> str:
    """Captions as WebVTT (W3C), for a film that begins so many seconds into the motion."""

    def time(seconds: float) -> str:
        whole = max(round(1000 * seconds), 0)
        return f"{whole // 3_600_000:02}:{whole // 60_000 % 60:02}:{whole // 1000 % 60:02}.{whole % 1000:03}"

    rows = [(a - begins, b - begins, text) for a, b, text in found if b > begins]
    told = [f"{time(a)} --> {time(b)}\n{_plain(text)}\n" for a, b, text in rows]
    return "\n".join(["WEBVTT\n", *told])


def _plain(text: str) -> str:
    """A text without what means something in WebVTT."""
    bare = text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    return " ".join(bare.split())
