"""Recipes of the voice: mouths to the words of a line, and the face on its stressed words."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

import numpy as np

from sorvan.core.errors import Refusal, missing
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.ease import Ease, Family, Hold, Slow
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import PLAIN, Mouth, MouthChart, Puppet
from sorvan.core.model.recipe import Accents, Mouths
from sorvan.core.model.times import LONGEST
from sorvan.core.model.voice import Placed, Voice
from sorvan.core.motion.recipes import Written
from sorvan.core.timing.channels import evaluate
from sorvan.core.voice.accents import Accent, accents
from sorvan.core.voice.charting import word_at
from sorvan.core.voice.exposure import Exposure, expose, problem, unseen
from sorvan.core.voice.mouths import by_value, of_group, shown
from sorvan.core.voice.mouths import missing as missing_mouths
from sorvan.core.voice.reasons import why
from sorvan.core.voice.track import ExposureSettings

NO_CHART = "Make a mouth chart first: choose the piece whose drawings are the mouths."


def placed_on(motion: Motion, sound: str, lines: Mapping[str, Voice]) -> tuple[Placed, Voice]:
    """A sound that is placed on a motion, and its line. Raises `Refusal` if either is gone."""
    placed = motion.sounds.get(sound)
    if placed is None or placed.voice not in lines:
        raise missing("line on this motion", sound)
    return placed, lines[placed.voice]


AFTER = 6
"""Frames that a motion goes on after its line, so that the mouth comes to rest."""


def needed_for(placed: Placed, line: Voice, rate: Fraction) -> int:
    """How many frames a motion needs for a line that is placed on it, with those after it; no more than there can be."""
    return min(math.ceil((placed.at + line.seconds) * rate) + AFTER, LONGEST)


def goes_on(motion: Motion, placed: Placed, line: Voice, rate: Fraction) -> int:
    """For how many frames a line goes on after its motion has ended, if for more than one; else 0."""
    over = (placed.at + line.seconds) * float(rate) - motion.length
    return round(over) if over > 1 else 0


def usable(puppet: Puppet) -> MouthChart:
    """The puppet's mouth chart with only those mouths that speak, and that something shows. Raises `Refusal` if there is none."""
    chart = puppet.mouths
    if chart is None:
        raise Refusal("This puppet has no mouth chart.", where=puppet.name, remedy=NO_CHART)
    kept = {id: m for id, m in chart.mouths.items() if m.speaks and shown(m, PLAIN) is not None}
    if len(kept) < 2:
        raise Refusal(
            "The mouth chart has fewer than two mouths to show.", where=puppet.name, remedy="Give its mouths drawings."
        )
    return chart.changed(mouths=kept, sounds={s: m for s, m in chart.sounds.items() if m in kept})


def chosen_by_hand(motion: Motion, chart: MouthChart) -> dict[int, Mouth | None]:
    """The frames on which the hand keyed a mouth; None for one that is not in the set."""
    channel = motion.channels.get(chart.channel)
    if channel is None:
        return {}
    of = by_value(chart)
    return {f: of.get(k.value[0]) for f, k in channel.keys.items() if k.recipe is None or k.hand}


@dataclass(frozen=True)
class ExposedLine:
    """A line exposed on a motion: what was exposed by which chart."""

    exposure: Exposure
    chart: MouthChart
    placed: Placed
    line: Voice
    rate: float


def spoken(
    motion: Motion, puppet: Puppet, recipe: Mouths, rate: Fraction, lines: Mapping[str, Voice]
) -> ExposedLine | None:
    """A line exposed as a recipe has it; None if none of it falls into the motion.

    Raises `Refusal` if there is no line, no phoneme chart, or no mouths to show.
    """
    placed, line = placed_on(motion, recipe.sound, lines)
    if not any(p.label for p in line.chart.phones.values()):
        raise Refusal(
            "This line has no phoneme chart yet.",
            where=line.name,
            remedy="Find its sounds from the text, or tap them in by hand.",
        )
    chart = usable(puppet)
    settings = ExposureSettings(recipe.lead, recipe.hold, recipe.twos, recipe.strength)
    pinned = chosen_by_hand(motion, chart)
    found = problem(line, chart, placed.at, float(rate), motion.length, settings, pinned)
    return ExposedLine(expose(found), chart, placed, line, float(rate)) if found is not None else None


def mouths(motion: Motion, puppet: Puppet, recipe: Mouths, rate: Fraction, lines: Mapping[str, Voice]) -> Written:
    """A held key wherever another mouth begins; none where the hand put its own."""
    done = spoken(motion, puppet, recipe, rate, lines)
    if done is None:
        return Written({}, said=("No part of the line is heard while this motion lasts.",))
    chart, keys = done.chart, dict[int, Key]()
    pinned = {done.exposure.problem.first + f for f in done.exposure.problem.pinned}
    runs = done.exposure.runs()
    limit = _until_next(motion, recipe, rate)
    for start, end, number in runs:
        cut_off = end > limit and limit - start < recipe.hold
        if start < limit and not cut_off and number < len(done.exposure.problem.mouths):
            mouth = done.exposure.problem.mouths[number]
            keys |= _keys(chart, mouth, start, min(end, limit), recipe.moods, start in pinned)
    _rest_before(motion, chart, recipe, keys)
    _, stop, last = runs[-1]
    rest = of_group(chart, "rest")
    if (
        stop < min(motion.length, limit)
        and rest is not None
        and last < len(done.exposure.problem.mouths)
        and stop not in pinned
    ):
        keys |= _keys(chart, rest, stop, stop + 1, recipe.moods, False)
    return Written({chart.channel: keys}, said=tuple(_said(motion, done, rate)))


def reasons(done: ExposedLine) -> list[tuple[int, int, str, str]]:
    """Each run of a line that was exposed: first frame, end, the mouth's name, and why it is shown."""
    p = done.exposure.problem
    spelled = {}
    rate = done.rate
    for n, beat in enumerate(p.beats):
        middle = ((beat.start + beat.end) / 2 + p.settings.lead) / rate - done.placed.at
        spelled[n] = word_at(done.line, middle)
    return [
        (a, b, p.mouths[m].name if m < len(p.mouths) else "by hand", why(done.exposure, a, spelled))
        for a, b, m in done.exposure.runs()
    ]


def _rest_before(motion: Motion, chart: MouthChart, recipe: Mouths, keys: dict[int, Key]) -> None:
    """Let the mouth rest until the line begins, where nothing else is keyed before it: a channel that has no key
    yet shows what its first one does."""
    channel = motion.channels.get(chart.channel)
    others = [f for f, k in channel.keys.items() if k.recipe != recipe.id or k.hand] if channel else []
    rest = of_group(chart, "rest")
    first = min(keys, default=0)
    if first > 0 and rest is not None and not any(f < first for f in others):
        keys |= _keys(chart, rest, 0, 1, recipe.moods, False)


def _until_next(motion: Motion, recipe: Mouths, rate: Fraction) -> int:
    """The frame at which the mouths of the next line begin: until then this one's are shown."""
    own = motion.sounds[recipe.sound]
    after = [
        max(int(np.floor(placed.at * float(rate) - other.lead)), 0)
        for other in motion.recipes.values()
        if isinstance(other, Mouths)
        and other.id != recipe.id
        and (placed := motion.sounds.get(other.sound)) is not None
        if (placed.at, placed.id) > (own.at, own.id)
    ]
    return min(after, default=motion.length)


def cut_short(motion: Motion, recipe: Mouths, lines: Mapping[str, Voice], rate: Fraction) -> list[Mouths]:
    """The recipes whose lines began before this one's and are still heard when its mouths begin."""
    own = motion.sounds[recipe.sound]
    begins = own.at - recipe.lead / float(rate)
    return [
        other
        for other in motion.recipes.values()
        if isinstance(other, Mouths)
        and other.id != recipe.id
        and (placed := motion.sounds.get(other.sound)) is not None
        and placed.voice in lines
        and (placed.at, placed.id) < (own.at, own.id)
        and placed.at + lines[placed.voice].seconds > begins
    ]


def mood_at(moods: Mapping[int, str], frame: int) -> str:
    """The mood that holds at a frame."""
    return next((moods[f] for f in sorted(moods, reverse=True) if f <= frame), PLAIN)


EARLY = 0.2
"""Seconds before a line begins in which a hand already means it."""


def moods_on(motion: Motion, rate: Fraction) -> dict[int, str]:
    """From which frames of a motion on which mood holds: that of the line that began last."""
    begins = sorted(
        (max(math.ceil((motion.sounds[r.sound].at - EARLY) * rate), 0), r.sound, r.moods)
        for r in motion.recipes.values()
        if isinstance(r, Mouths) and r.sound in motion.sounds
    )
    found: dict[int, str] = {}
    ends = [b[0] for b in begins[1:]] + [motion.length]
    for (start, _, moods), end in zip(begins, ends, strict=False):
        found[start] = mood_at(moods, start)
        found |= {f: mood for f, mood in moods.items() if start < f < end}
    return found


def _keys(
    chart: MouthChart, mouth: Mouth, start: int, end: int, moods: Mapping[int, str], by_hand: bool
) -> dict[int, Key]:
    """The keys of one run: the mouth, the further drawings of one that moves, and another mood on its frame."""
    if by_hand:
        return {}
    found: dict[int, Key] = {}
    marks = [start, *(f for f in moods if start < f < end), end]
    for begin, stop in pairwise(marks):
        seen = shown(mouth, mood_at(moods, begin))
        values = seen.values if seen is not None else ()
        at = begin
        for value in values:
            if at >= stop:
                break
            found[at] = Key(value=(value,), ease=Hold())
            at += chart.every
    return found


def _said(motion: Motion, done: ExposedLine, rate: Fraction) -> list[str]:
    said: list[str] = []
    filled = missing_mouths(done.chart)
    used = {b.mouth.id for b in done.exposure.problem.beats}
    gaps = [f"{group} by “{mouth.name}”" for group, mouth in filled.items() if mouth.id in used]
    if gaps:
        said.append(f"No mouth for {', '.join(gaps)}: the nearest fills in.")
    missed = unseen(done.exposure)
    if missed:
        labels = ", ".join(done.exposure.problem.beats[m.beat].label for m in missed[:6])
        said.append(f"There is no room for all lips that meet: {labels} is not seen.")
    over = (done.placed.at + done.line.seconds) * float(rate) - motion.length
    if over > 1:
        said.append(f"The line goes on for {round(over)} frames after the motion has ended.")
    return said


def accented(motion: Motion, puppet: Puppet, recipe: Accents, rate: Fraction, lines: Mapping[str, Voice]) -> Written:
    """Up, there, and back on each stressed word, from wherever head and brows are on those frames."""
    placed, line = placed_on(motion, recipe.sound, lines)
    for joint in (*((recipe.head,) if recipe.head else ()), *recipe.brows):
        if joint not in puppet.joints:
            raise missing("joint", joint)
    if recipe.head is None and not recipe.brows:
        raise Refusal("Nothing is to move.", where=recipe.name, remedy="Choose the head, or the brows, or both.")
    beats: list[tuple[int, Accent]] = []
    for accent in accents(line):
        f = round((placed.at + accent.at) * float(rate)) - recipe.lead
        if 0 <= f < motion.length:
            beats.append((f, accent))
    keys: dict[str, dict[int, Key]] = {}
    if recipe.head is not None and recipe.nod:
        channel = _own(motion, recipe.head, "turn")
        change = [(f, (-0.7 if a.rises else 1.0) * recipe.nod * a.size) for f, a in beats]
        keys[channel.id] = _strokes(motion, channel, [(f, (size,)) for f, size in change])
    for brow in recipe.brows:
        channel = _own(motion, brow, "move")
        keys[channel.id] = _strokes(motion, channel, [(f, (0.0, -recipe.lift * a.size)) for f, a in beats])
    keys = {id: k for id, k in keys.items() if k}
    return Written(keys, said=() if keys else ("No word of the line bears an accent.",))


def _own(motion: Motion, joint: str, kind: str) -> Channel:
    return motion.channels.get(channel_id(joint, kind)) or Channel(joint=joint, kind=kind)  # type: ignore[arg-type]


IN, STAY, BACK = 3, 2, 6
"""Frames that a stroke takes to get there, stays, and takes to go back."""


def _strokes(motion: Motion, channel: Channel, beats: list[tuple[int, tuple[float, ...]]]) -> dict[int, Key]:
    """Keys that add a stroke at each of these frames to what the channel does without them."""
    under = evaluate(channel, motion.length, motion.cycle) if channel.keys else None
    found: dict[int, Key] = {}
    for n, (at, change) in enumerate(beats):
        limit = beats[n + 1][0] - IN if n + 1 < len(beats) else motion.length
        places: list[tuple[int, float, Ease]] = [
            (max(at - IN, 0), 0.0, Slow(out=40, into=40)),
            (at, 1.0, Family(family="sine", slow="in")),
            (at + STAY, 0.85, Slow(out=40, into=60)),
            (min(at + STAY + BACK, limit), 0.0, Slow()),
        ]
        for f, part, ease in places:
            if f in found and part == 0.0:
                continue
            if 0 <= f < motion.length and f not in channel.keys:
                base = under[:, f] if under is not None else np.zeros(len(change))
                value = tuple(round(float(b + part * c), 4) for b, c in zip(base, change, strict=True))
                found[f] = Key(value=value, ease=ease)
    return found
