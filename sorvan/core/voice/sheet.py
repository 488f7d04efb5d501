"""The exposure sheet: a line for every frame, as animators read it on paper."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import MouthChart
from sorvan.core.model.voice import Voice, ends
from sorvan.core.voice.mouths import by_value


@dataclass(frozen=True)
class ExposureLine:
    """One frame of the sheet. A word, sound, mouth or pose stands on the frame where it begins; a `|` says that
    what began above goes on."""

    frame: int
    word: str = ""
    phones: str = ""
    mouth: str = ""
    pose: str = ""
    note: str = ""


ON = "|"


def exposure_sheet(
    motion: Motion, lines: Mapping[str, Voice], chart: MouthChart | None, rate: Fraction
) -> tuple[ExposureLine, ...]:
    """The sheet of a motion: frame, words and sounds as they are heard, mouths as they are keyed, poses, notes."""
    words, phones = [""] * motion.length, [""] * motion.length
    for placed in motion.sounds.values():
        voice = lines.get(placed.voice)
        if voice is None:
            continue
        told = [(placed.at + w.start, placed.at + end, w.text) for _, w, end in ends(voice.chart.words, voice.seconds)]
        _laid(words, told, float(rate))
        heard = [
            (placed.at + p.start, placed.at + end, p.label) for _, p, end in ends(voice.chart.phones, voice.seconds)
        ]
        _laid(phones, heard, float(rate))
    mouths = _mouths(motion, chart)
    return tuple(
        ExposureLine(
            f,
            words[f],
            phones[f],
            mouths[f],
            motion.poses[f].label or ("breakdown" if motion.poses[f].breakdown else "pose")
            if f in motion.poses
            else "",
            motion.poses[f].note if f in motion.poses else "",
        )
        for f in range(motion.length)
    )


def _laid(column: list[str], entries: list[tuple[float, float, str]], rate: float) -> None:
    """Put each label on the frame in which it begins, and the sign for going on below it. Of several that begin
    in one frame all are told."""
    for start, end, label in entries:
        if not label:
            continue
        first, last = int(start * rate), max(int(end * rate - 1e-6), int(start * rate))
        for f in range(max(first, 0), min(last, len(column) - 1) + 1):
            if f == first:
                column[f] = f"{column[f]} {label}".strip() if column[f] not in ("", ON) else label
            elif not column[f]:
                column[f] = ON


def _mouths(motion: Motion, chart: MouthChart | None) -> list[str]:
    column = [""] * motion.length
    channel = motion.channels.get(chart.channel) if chart is not None else None
    if chart is None or channel is None:
        return column
    of = by_value(chart)
    frames = [f for f in channel.keys if f < motion.length]
    before = ""
    for f, end in zip(frames, [*frames[1:], motion.length], strict=True):
        mouth = of.get(channel.keys[f].value[0])
        name = mouth.name if mouth is not None else "as at rest"
        column[f] = name if name != before else ON
        column[f + 1 : end] = [ON] * (end - f - 1)
        before = name
    return column
