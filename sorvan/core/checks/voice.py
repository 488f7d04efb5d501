"""Mistakes of a voice line and of the mouths that speak it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from fractions import Fraction

from sorvan.core.change.speaking import FitToLine
from sorvan.core.checks.finding import Finding
from sorvan.core.errors import Refusal
from sorvan.core.model.channels import AS_AT_REST
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Mouth, MouthChart, Puppet
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.voice import Placed, Voice, ends
from sorvan.core.planning.speaking import goes_on, needed_for
from sorvan.core.planning.speaking import mouths as written
from sorvan.core.rig.skeleton import ancestors
from sorvan.core.voice.mouths import by_value, taken_by
from sorvan.core.voice.phonemes import known, sound

UNSURE = 0.3
"""A word less sure than this is worth a look."""
LONG_PAUSE = 0.3
"""Seconds of silence in which a mouth should not hang open."""
CLOSING = 3
"""Frames in which a mouth closes, or opens."""
SHUT = 0.12
"""A mouth no more open than this is shut."""


def findings(puppet: Puppet, motion: Motion, lines: Mapping[str, Voice], rate: Fraction) -> list[Finding]:
    """Every likely mistake of the lines that are heard on a motion."""
    found: list[Finding] = []
    for placed in motion.sounds.values():
        line = lines.get(placed.voice)
        if line is not None:
            found += _of_line(motion, placed, line, rate)
            recipe = _recipe(motion, placed)
            if recipe is not None and puppet.mouths is not None:
                found += _of_mouths(puppet, motion, recipe, placed, line, rate, lines)
    return found


def _recipe(motion: Motion, placed: Placed) -> Mouths | None:
    return next((r for r in motion.recipes.values() if isinstance(r, Mouths) and r.sound == placed.id), None)


def _frame(motion: Motion, placed: Placed, rate: Fraction, seconds: float) -> int:
    return max(0, min(int((placed.at + seconds) * float(rate)), motion.length - 1))


def _of_line(motion: Motion, placed: Placed, line: Voice, rate: Fraction) -> Iterator[Finding]:
    if line.sound is not None and not line.chart.phones:
        yield Finding("no-chart", f"“{line.name}” has no phoneme chart yet.", frame=_frame(motion, placed, rate, 0))
    for _, word, end in ends(line.chart.words, line.seconds):
        at = _frame(motion, placed, rate, word.start)
        if word.guessed and word.text.lower() not in line.spoken:
            yield Finding("word-guessed", f"No dictionary has “{word.text}”: how it is said is a guess.", frame=at)
        elif word.text and word.sure < UNSURE and end - word.start > 0.08:
            yield Finding("word-unsure", f"“{word.text}” may not be where it is thought to be.", frame=at)
    strange = {p.label: p.start for _, p, _ in ends(line.chart.phones, line.seconds) if not known(p.label)}
    for label, start in strange.items():
        yield Finding(
            "sound-unknown", f"“{label}” is no known sound; it counts as narrow.",
            frame=_frame(motion, placed, rate, start),
        )  # fmt: skip
    over = goes_on(motion, placed, line, rate)
    if over:
        needed = needed_for(placed, line, rate)
        yield Finding(
            "line-cut", f"“{line.name}” goes on for {over} frames after the motion has ended.",
            frame=motion.length - 1,
            mend=FitToLine(motion=motion.id, sound=placed.id, own=f"for-{placed.id}"[:40] if motion.cycle else None),
            mending="Give it a motion of its own" if motion.cycle else f"Make the motion {needed} frames long",
        )  # fmt: skip


def _of_mouths(
    puppet: Puppet,
    motion: Motion,
    recipe: Mouths,
    placed: Placed,
    line: Voice,
    rate: Fraction,
    lines: Mapping[str, Voice],
) -> Iterator[Finding]:
    chart = puppet.mouths
    assert chart is not None
    if chart.piece is not None:
        yield from _off_the_head(puppet, chart.piece)
    runs = mouth_runs(motion, chart)
    yield from _too_short(runs, recipe, chart)
    yield from _closures(runs, chart, motion, recipe, placed, line, rate)
    yield from _open_in_silence(runs, motion, recipe, placed, line, rate)
    try:
        fresh = written(motion, puppet, recipe, rate, lines).keys.get(chart.channel, {})
    except Refusal:
        return
    channel = motion.channels.get(chart.channel)
    own = {f: k.value for f, k in channel.keys.items() if k.recipe == recipe.id and not k.hand} if channel else {}
    left = {int(s.rpartition("@")[2]) for s in recipe.left_out if s.startswith(f"{chart.channel}@")}
    taken = {f for f, k in channel.keys.items() if k.recipe is None or k.hand} if channel else set()
    if own != {f: k.value for f, k in fresh.items() if f not in left and f not in taken}:
        yield Finding(
            "mouths-old", "The line or its chart was changed since its mouths were made. Make them again.",
            frame=_frame(motion, placed, rate, 0),
        )  # fmt: skip


def mouth_runs(motion: Motion, chart: MouthChart) -> list[tuple[int, int, Mouth | None, bool]]:
    """Each stretch of one mouth as it is keyed: first frame, end, mouth, and whether the hand keyed it."""
    channel = motion.channels.get(chart.channel)
    if channel is None:
        return []
    of = by_value(chart)
    frames = [f for f in channel.keys if f < motion.length]
    found: list[tuple[int, int, Mouth | None, bool]] = []
    for f, end in zip(frames, [*frames[1:], motion.length], strict=True):
        key = channel.keys[f]
        mouth = of.get(key.value[0]) if key.value[0] != AS_AT_REST else None
        hand = key.recipe is None or key.hand
        if found and found[-1][2] == mouth and not hand:
            found[-1] = (found[-1][0], end, mouth, found[-1][3])
        else:
            found.append((f, end, mouth, hand))
    return found


Runs = list[tuple[int, int, Mouth | None, bool]]


def _off_the_head(puppet: Puppet, piece: str) -> Iterator[Finding]:
    joint = puppet.pieces[piece].joint
    line = [joint, *ancestors(puppet.joints, joint)]
    heads = [id for id, j in puppet.joints.items() if j.role == "head" or j.name.lower() == "head"]
    if heads and not set(heads) & set(line):
        yield Finding("mouth-off-head", f"“{puppet.pieces[piece].name}” does not ride on the head.", (joint,), (piece,))


def _too_short(runs: Runs, recipe: Mouths, chart: MouthChart) -> Iterator[Finding]:
    for f, end, mouth, hand in runs:
        if mouth is not None and end - f < recipe.hold and not hand:
            held = f"{end - f} frame" + ("" if end - f == 1 else "s")
            yield Finding("hold-short", f"“{mouth.name}” shows for {held} only.", frame=f, keys=((chart.channel, f),))


def _closures(
    runs: Runs, chart: MouthChart, motion: Motion, recipe: Mouths, placed: Placed, line: Voice, rate: Fraction
) -> Iterator[Finding]:
    for _, phone, end in ends(line.chart.phones, line.seconds):
        if not sound(phone.label).seen:
            continue
        wanted = taken_by(chart, phone.label)
        first = int((placed.at + phone.start) * float(rate) - recipe.lead // 1) - 1
        last = int((placed.at + end) * float(rate) - recipe.lead // 1) + 1
        if not wanted or last < 0 or first >= motion.length:
            continue
        if not any(m == wanted[0][0] and f <= last and stop > first for f, stop, m, _ in runs):
            what = "Lips do not meet" if sound(phone.label).kind == "closure" else "The lip does not touch the teeth"
            yield Finding(
                "closure-missed", f"{what} for {phone.label}.", frame=_frame(motion, placed, rate, phone.start)
            )


def _open_in_silence(
    runs: Runs, motion: Motion, recipe: Mouths, placed: Placed, line: Voice, rate: Fraction
) -> Iterator[Finding]:
    for _, phone, end in ends(line.chart.phones, line.seconds):
        if sound(phone.label).kind != "pause" or end - phone.start < LONG_PAUSE:
            continue
        # At both ends it may still be closing, or open already.
        first = _frame(motion, placed, rate, phone.start - recipe.lead / float(rate)) + CLOSING
        last = _frame(motion, placed, rate, end - recipe.lead / float(rate)) - CLOSING
        open_ = next(
            ((max(f, first), m) for f, stop, m, _ in runs if m and m.look[0] > SHUT and f <= last and stop > first),
            None,
        )
        if open_ is not None:
            text = f"“{open_[1].name}” hangs open while nobody speaks."
            yield Finding("open-in-silence", text, frame=open_[0])
