"""Blinks."""

from __future__ import annotations

import math
import random
import re
from collections.abc import Iterable, Mapping
from typing import Any

from sorvan.core.errors import missing
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.ease import Slow
from sorvan.core.model.motion import Motion
from sorvan.core.model.recipe import Blink
from sorvan.core.model.voice import Voice
from sorvan.core.motion.recipes import Written
from sorvan.core.planning.speaking import placed_on
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, choose_first
from sorvan.core.recipes.moves import BOTH, rounded_key
from sorvan.core.voice.accents import blink_times


class Blinking(Kind[Blink]):
    """A dial shuts the eyes now and then."""

    of = Blink
    name = "Blinks"
    does = "on an irregular rhythm"

    def write(self, recipe: Blink, on: On) -> Written:
        """Shut in two frames, open in three, at times that a fixed seed scatters about an even beat, drawn to the
        pauses of the line that is spoken if the recipe goes by one."""
        motion, puppet = on.motion, on.stands
        dial = puppet.dials.get(recipe.dial)
        if dial is None:
            raise missing("dial", recipe.dial)
        end = min(recipe.end or motion.length - 1, motion.length - 1)
        keys: dict[int, Key] = {}
        for f in _blinks(motion, recipe, end, float(on.rate), on.lines):
            keys[f] = rounded_key((dial.rest,), BOTH)
            keys[f + 2] = rounded_key((recipe.shut,), Slow())
            keys[f + 2 + recipe.hold - 1] = rounded_key((recipe.shut,), BOTH)
            keys[f + 5 + recipe.hold - 1] = rounded_key((dial.rest,), Slow())
        said = () if keys else ("The stretch is too short for a blink.",)
        return Written({channel_id(recipe.dial, "dial"): keys} if keys else {}, said=said)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Blink:
        dials = list(on.puppet.dials.values())
        dial = next((d for d in dials if re.search("blink|lid|eye", d.name, re.IGNORECASE)), next(iter(dials), None))
        if dial is None:
            raise choose_first("Blinks need a dial that shuts the eyes: make one on the Rig bench.")
        return Blink(dial=dial.id, shut=dial.high, sound=chosen.sound, **base)

    def carried_over(self, recipe: Blink, to: OtherPuppet) -> Blink | None:
        dial = to.owner("dial", recipe.dial)
        return recipe.changed(dial=dial, shut=to.dial(recipe.dial, recipe.shut)) if dial else None


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
