"""Helpers of classic practice as recipes: anticipation, overshoot and settle, squash and stretch, bounce, blinks."""

from __future__ import annotations

import math
import random
from collections.abc import Iterable, Mapping

import numpy as np

from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import CHOICES, Key
from sorvan.core.model.ease import Ease, Family, Slow
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.recipe import Anticipate, Blink, Bounce, Settle, Squash
from sorvan.core.model.voice import Voice
from sorvan.core.motion.recipes import Written
from sorvan.core.motion.speaking import placed_on
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.voice.accents import blink_times

SLOW_OUT = Family(family="quadratic", slow="out")
SLOW_IN = Family(family="quadratic", slow="in")
BOTH = Slow(out=50, into=50)


def _key(values: Iterable[float], ease: Ease) -> Key:
    return Key(value=tuple(round(float(v), 4) for v in values), ease=ease)


def _moves(motion: Motion, channels: Iterable[str], frame: int, arriving: bool) -> dict[str, tuple[Floats, int, int]]:
    """For each channel that arrives at a frame, or leaves it, the change of its value and from when to when."""
    found: dict[str, tuple[Floats, int, int]] = {}
    for id in channels:
        channel = motion.channels.get(id)
        if channel is None or frame not in channel.keys or channel.kind in CHOICES:
            continue
        row = sorted(f for f in channel.keys if f < motion.length)
        other = (
            max((f for f in row if f < frame), default=None)
            if arriving
            else min((f for f in row if f > frame), default=None)
        )
        if other is None:
            continue
        start, end = (other, frame) if arriving else (frame, other)
        change = np.array(channel.keys[end].value) - np.array(channel.keys[start].value)
        if np.any(change != 0):
            found[id] = change, start, end
    if not found:
        raise Refusal(
            f"Nothing {'arrives at' if arriving else 'leaves'} frame {frame + 1}.",
            where=motion.name,
            remedy="Choose the frame of a key that channels move to or from.",
        )
    return found


def settle(motion: Motion, recipe: Settle) -> Written:
    """Past the key and back, each swing a part of the last, standing at the key's own value in the end."""
    keys: dict[str, dict[int, Key]] = {}
    cut = False
    for id, (change, _, frame) in _moves(motion, recipe.channels, recipe.frame, arriving=True).items():
        value = np.array(motion.channels[id].keys[frame].value)
        limit = min((f for f in motion.channels[id].keys if f > frame), default=motion.length)
        half = recipe.frames / 2
        found: dict[int, Key] = {}
        size = recipe.amount / 100
        for n in range(2 * recipe.swings - 1):
            at = frame + max(1, round(half * (n + 0.5)))
            if at >= limit - 1:
                cut = True
                break
            found[at] = _key(value + (size if n % 2 == 0 else -size) * change, BOTH)
            size *= 1 - recipe.damping / 100
        end = min(frame + round(half * 2 * recipe.swings), limit - 1)
        if found and end > max(found):
            found[end] = _key(value, motion.channels[id].keys[frame].ease)
        keys[id] = found
    return Written(keys, said=("There was no room for all swings before the next key.",) if cut else ())


def anticipate(motion: Motion, recipe: Anticipate) -> Written:
    """Back before it goes: the wind-up takes its frames from the start of the move."""
    keys: dict[str, dict[int, Key]] = {}
    cut = False
    for id, (change, start, end) in _moves(motion, recipe.channels, recipe.frame, arriving=False).items():
        at = start + recipe.frames
        if at >= end:
            at, cut = max(start + 1, (start + end) // 2), True
        if not start < at < end:
            continue
        own = motion.channels[id].keys[start]
        keys[id] = {at: _key(np.array(own.value) - recipe.amount / 100 * change, SLOW_OUT)}
    return Written(keys, said=("The move is too short: it winds up for half of it.",) if cut else ())


def squash(motion: Motion, puppet: Puppet, recipe: Squash) -> Written:
    """Sizes by how the joint moves up and down: width times height is always one.

    Stretch goes with the speed. Where the joint strikes (it turns from down to up with a jump in
    speed) it is flat for that frame, and long on the frames beside it.
    """
    if recipe.joint != ROOT and recipe.joint not in puppet.joints:
        raise missing("joint", recipe.joint)
    evaluation = Evaluation.full(puppet, motion)
    row = evaluation.skeleton.ids.index(recipe.joint)
    end = min(recipe.end or motion.length - 1, motion.length - 1)
    height = evaluation.worlds[row, 5, :] if recipe.joint != ROOT else _root_height(evaluation, puppet)
    y = height[recipe.start : end + 1]
    if len(y) < 3:
        return Written({}, said=("The stretch is too short.",))
    whole = motion.cycle and recipe.start == 0 and end == motion.length - 1
    before = np.concatenate([[y[-1] if whole else y[0]], y[:-1]])
    after = np.concatenate([y[1:], [y[0] if whole else y[-1]]])
    speed = np.abs(after - before) / 2
    down, up = y - before, y - after
    top = max(float(speed.max()), 1e-9)
    strikes = (down > 0) & (up > 0) & (down + up > 0.3 * top) & (np.minimum(down, up) > 0.02 * top)
    # A frame beside a strike moves at full speed, whatever half of the step to the strike says.
    fast = np.maximum(speed, np.where(np.roll(strikes, 1), up, 0))
    fast = np.maximum(fast, np.where(np.roll(strikes, -1), down, 0))
    tall = 1 + recipe.stretch / 100 * np.clip(np.abs(fast) / max(float(np.abs(fast).max()), 1e-9), 0, 1)
    hardest = max(float((down + up)[strikes].max()) if strikes.any() else 0.0, 1e-9)
    flat = 1 - recipe.squash / 100 * (down + up) / hardest
    tall = np.where(strikes, flat, tall)
    if np.all(np.abs(tall - 1) < 1e-6):
        return Written({}, said=("It does not move up or down in that stretch.",))
    sizes = {recipe.start + i: Key(value=(round(1 / t, 6), round(t, 6))) for i, t in enumerate(tall.tolist())}
    return Written({f"{recipe.joint}.scale": sizes})


def _root_height(evaluation: Evaluation, puppet: Puppet) -> Floats:
    x, y = puppet.origin
    world = evaluation.worlds[0]
    found: Floats = world[1] * x + world[3] * y + world[5]
    return found


def bounce(motion: Motion, recipe: Bounce) -> Written:
    """A fall and its rebounds, each in the time and to the height that gravity gives it.

    With a first fall of T frames from height h, a rebound that keeps the part k of the speed rises to
    k²h and takes 2kT frames (h = g·t²/2). Raises `Refusal` if it would begin after the motion has ended.
    """
    if recipe.frame >= motion.length:
        raise Refusal(
            f"The fall would begin at frame {recipe.frame + 1}; “{motion.name}” has {motion.length} frames.",
            where=motion.name,
            remedy="Let it begin earlier, or make the motion longer first.",
        )
    id = f"{recipe.joint}.move"
    own = motion.channels.get(id)
    x, floor = own.keys[min(own.keys)].value if own and own.keys else (0.0, 0.0)
    k = recipe.keeps / 100
    times = [0.0, float(recipe.frames)]
    for n in range(recipe.bounces):
        times += [times[-1] + k ** (n + 1) * recipe.frames, times[-1] + 2 * k ** (n + 1) * recipe.frames]
    total = times[-1]
    found: dict[int, Key] = {}
    for n, t in enumerate(times):
        at = recipe.frame + round(t)
        if at >= motion.length:
            break
        rise = recipe.height * k ** (2 * (n // 2)) if n % 2 == 0 else 0.0
        if at in found:
            # Rebounds that fit in no frame are too small to be seen: it lies still.
            found[at] = _key((x + recipe.across * t / total, floor), Slow())
            break
        found[at] = _key((x + recipe.across * t / total, floor - rise), SLOW_OUT if n % 2 == 0 else SLOW_IN)
    last = max(found)
    said = () if recipe.frame + round(total) < motion.length else ("It does not come to rest before the motion ends.",)
    found[last] = found[last].changed(ease=Slow())
    return Written({id: found}, said=said)


def blink(
    motion: Motion, puppet: Puppet, recipe: Blink, per_second: float, lines: Mapping[str, Voice] | None = None
) -> Written:
    """Shut in two frames, open in three, at times that a fixed seed scatters about an even beat, drawn to the
    pauses of the line that is spoken if the recipe goes by one."""
    dial = puppet.dials.get(recipe.dial)
    if dial is None:
        raise missing("dial", recipe.dial)
    end = min(recipe.end or motion.length - 1, motion.length - 1)
    keys: dict[int, Key] = {}
    for f in _blinks(motion, recipe, end, per_second, lines or {}):
        keys[f] = _key((dial.rest,), BOTH)
        keys[f + 2] = _key((recipe.shut,), Slow())
        keys[f + 2 + recipe.hold - 1] = _key((recipe.shut,), BOTH)
        keys[f + 5 + recipe.hold - 1] = _key((dial.rest,), Slow())
    said = () if keys else ("The stretch is too short for a blink.",)
    return Written({f"{recipe.dial}.dial": keys} if keys else {}, said=said)


def _blinks(motion: Motion, recipe: Blink, end: int, per_second: float, lines: Mapping[str, Voice]) -> list[int]:
    """The frames at which blinks begin, each over before the next and before the end."""
    long = recipe.hold + 6
    if recipe.sound is not None:
        placed, line = placed_on(motion, recipe.sound, lines)
        times = blink_times(
            line,
            placed.at,
            recipe.start / per_second,
            (end - long) / per_second,
            recipe.seconds,
            recipe.uneven / 100,
            recipe.seed,
        )
        return _parted((round(t * per_second) for t in times), long)
    beat, chance = recipe.seconds * per_second, random.Random(recipe.seed)
    found: list[int] = []
    at = recipe.start + beat * 0.5
    while at + long <= end:
        found.append(round(at))
        scatter = recipe.uneven / 100 * chance.uniform(-0.8, 0.8)
        at = max(at + beat * math.exp(scatter), found[-1] + long + 1)
    return found


def _parted(frames: Iterable[int], long: int) -> list[int]:
    found: list[int] = []
    for f in frames:
        if not found or f > found[-1] + long:
            found.append(f)
    return found
