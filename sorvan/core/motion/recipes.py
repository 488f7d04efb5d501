"""Recipes: keys that a rule makes, written beside the hand's and kept apart from them.

What a recipe wrote it can write again with other parameters. A key of its that the hand changed is
the hand's from then on; one that the hand took away stays away.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import ChannelId
from sorvan.core.model.motion import Ground, Motion, Pose
from sorvan.core.model.recipe import AnyRecipe
from sorvan.core.model.times import FrameMap, Moving
from sorvan.core.motion.retime import Bound
from sorvan.core.timing.channels import travels


@dataclass(frozen=True)
class Written:
    """What a recipe writes: keys by channel and frame, cards, and what of the motion it sets. `said` are sentences for the user: what could not be done as asked, and what was done instead."""

    keys: Mapping[str, Mapping[int, Key]]
    poses: Mapping[int, Pose] = field(default_factory=dict)
    delays: Mapping[str, float] = field(default_factory=dict)
    outside: Mapping[str, str] = field(default_factory=dict)
    length: int | None = None
    cycle: bool | None = None
    ground: Ground | None = None
    seen: float | None = None
    said: tuple[str, ...] = ()


def slots(keys: Mapping[int, Key]) -> dict[int, int]:
    """The slot of each key that is written on a channel, by its frame: their number in order."""
    return {f: n for n, f in enumerate(sorted(keys))}


def left_out(motion: Motion, gone: Mapping[str, Collection[int]], after: Motion) -> Motion:
    """The motion after keys were taken away by hand, its recipes knowing of it."""
    missed: dict[str, list[str]] = {}
    for id, frames in gone.items():
        for f in frames:
            key = motion.channels[id].keys[f]
            if key.recipe in motion.recipes and key.slot is not None:
                missed.setdefault(key.recipe, []).append(f"{id}@{key.slot}")  # type: ignore[arg-type]
    if not missed:
        return after
    told = {r: after.recipes[r].changed(left_out=(*after.recipes[r].left_out, *m)) for r, m in missed.items()}
    return after.changed(recipes=after.recipes | told)


def without_own(motion: Motion, recipe: str) -> Motion:
    """The motion without what a recipe wrote and the hand has left as it was."""
    channels = [
        c.changed(keys={f: k for f, k in c.keys.items() if k.recipe != recipe or k.hand})
        for c in motion.channels.values()
        if any(k.recipe == recipe and not k.hand for k in c.keys.values())
    ]
    return motion.with_channels(*channels).changed(
        poses={f: p for f, p in motion.poses.items() if p.recipe != recipe},
    )


def without_any(motion: Motion, recipe: str) -> Motion:
    """The motion without any key that a recipe wrote, the hand's among them."""
    channels = [
        c.changed(keys={f: k for f, k in c.keys.items() if k.recipe != recipe})
        for c in motion.channels.values()
        if any(k.recipe == recipe for k in c.keys.values())
    ]
    return motion.with_channels(*channels)


def taken_off(motion: Motion, recipe: str) -> Motion:
    """The motion without a recipe and what it wrote; what the hand changed stays, and is only the hand's."""
    if recipe not in motion.recipes:
        raise Refusal("That recipe is gone.", where=motion.name, remedy="Undo brings it back.", kind="missing")
    bare = without_own(motion, recipe)
    own = [
        c.changed(
            keys={
                f: k.changed(recipe=None, slot=None, hand=False) if k.recipe == recipe else k for f, k in c.keys.items()
            }
        )
        for c in bare.channels.values()
        if any(k.recipe == recipe for k in c.keys.values())
    ]
    left = {id: r for id, r in motion.recipes.items() if id != recipe}
    return bare.with_channels(*own).changed(recipes=left)


def put(motion: Motion, done: AnyRecipe, new: Written, before: Written | None) -> Motion:
    """The motion with what a recipe that is `done` writes now in place of what it wrote `before`.

    Keys of the hand's stay, and keep their place among the recipe's poses when its timing changes.
    """
    recipe = done.id
    bare = _carried(without_own(motion, recipe), recipe, new, before)
    missing = set(motion.recipes[recipe].left_out) if recipe in motion.recipes else set()
    channels: list[Channel] = []
    for id, keys in new.keys.items():
        held = bare.channels.get(id)
        owner, kind = ChannelId.of(id)
        own = dict(held.keys) if held else {}
        taken = set() if done.by_frame else {k.slot for k in own.values() if k.recipe == recipe}
        order = {f: f for f in keys} if done.by_frame else slots(keys)
        for f, key in keys.items():
            n = order[f]
            if n not in taken and f not in own and f"{id}@{n}" not in missing:
                own[f] = key.changed(recipe=recipe, slot=n, hand=False)
        # A channel that lost all its keys keeps what else the hand told it.
        channel = held or motion.channels.get(id) or Channel(joint=owner, kind=kind)  # type: ignore[arg-type]
        given: dict[str, object] = {"keys": own}
        if id in new.delays and channel.delay == (before.delays.get(id, 0.0) if before else 0.0):
            given["delay"] = new.delays[id]
        if id in new.outside:
            given["outside"] = new.outside[id]
        channels.append(channel.changed(**given))
    fields: dict[str, object] = {
        "poses": {f: p.changed(recipe=recipe) for f, p in new.poses.items()} | bare.poses,
    }
    fields |= {k: v for k in ("length", "cycle", "ground", "seen") if (v := getattr(new, k)) is not None}
    return bare.with_channels(*channels).changed(**fields)


def _carried(motion: Motion, recipe: str, new: Written, before: Written | None) -> Motion:
    """Everything else taken along when a recipe that sets the motion's length changes its timing: the hand's keys and
    cards, what other recipes go by, and where feet are planted. What belongs to a sound stays with it."""
    if before is None or before.length is None or new.length is None:
        return motion
    old_marks, new_marks = [*sorted(before.poses), before.length], [*sorted(new.poses), new.length]
    if old_marks == new_marks:
        return motion
    if len(old_marks) != len(new_marks):
        old_marks, new_marks = [0, before.length], [0, new.length]
    length, longer = new.length, new.length - before.length

    def place(frame: int) -> int:
        return frame + longer if frame > old_marks[-1] else round(float(np.interp(frame, old_marks, new_marks)))

    bound, known = Bound.of(motion), motion.slots_moved(place)
    channels: list[Channel] = []
    for channel in motion.channels.values():
        old, now = before.keys.get(channel.id, {}), new.keys.get(channel.id, {})
        at = {n: f for f, n in slots(now).items()}
        was = {n: f for f, n in slots(old).items()}
        fixed = {f: f for f in bound.of_channel(channel)}
        for f, key in channel.keys.items():
            if key.recipe == recipe and key.slot in at and was.get(key.slot) == f:
                fixed[f] = at[key.slot]  # type: ignore[index]
            elif f == before.length and travels(channel, before.length, motion.cycle):
                fixed[f] = length
        to = _roomy(channel.keys, place, fixed, (before.length, length), motion.name)
        channels.append(channel.changed(keys={to[f]: k if f in fixed else known(k) for f, k in channel.keys.items()}))
    cards = _roomy(motion.poses, place, {}, (before.length, length), motion.name)
    found = motion.beside_moved(Moving.by(place), {recipe, *bound.by})
    return found.changed(channels={c.id: c for c in channels}, poses={cards[f]: p for f, p in motion.poses.items()})


def _roomy(
    frames: Collection[int], place: FrameMap, fixed: Mapping[int, int], lasts: tuple[int, int], name: str
) -> dict[int, int]:
    """Where each of these frames goes: the `fixed` ones as told, the others in their order to the free frame nearest to
    their place, within a motion that lasted so many frames and lasts as many now. Raises `Refusal` if there are too many
    of them."""
    before, now = lasts
    inside = sorted(f for f in frames if f not in fixed and f < before)
    free = sorted(set(range(now)) - set(fixed.values()))
    if len(inside) > len(free):
        raise Refusal(
            f"There is no room for the keys of “{name}” in {now} frames.",
            where=name,
            remedy="Let it last longer, or take keys away first.",
        )
    at = np.searchsorted(free, [place(f) for f in inside])
    steps = np.arange(len(inside))
    at = np.maximum.accumulate(at - steps) + steps
    at = np.minimum(at, len(free) - len(inside) + steps)
    beyond = {f: place(f) for f in frames if f not in fixed and f >= before}
    return dict(fixed) | {f: free[i] for f, i in zip(inside, at.tolist(), strict=True)} | beyond
