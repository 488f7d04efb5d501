"""A fall that bounces to rest."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import channel_id
from sorvan.core.model.ease import Slow
from sorvan.core.model.puppet import ROOT
from sorvan.core.model.recipe import Bounce
from sorvan.core.motion.recipes import Written
from sorvan.core.recipes.kind import Chosen, Kind, On, OtherPuppet, Sizes, sized
from sorvan.core.recipes.moves import SLOW_IN, SLOW_OUT, rounded_key


class Bouncing(Kind[Bounce]):
    """Gravity has a fall and its rebounds."""

    of = Bounce
    name = "Bounce to rest"
    does = "a fall and its rebounds, as gravity has them"

    def write(self, recipe: Bounce, on: On) -> Written:
        """A fall and its rebounds, each in the time and to the height that gravity gives it.

        With a first fall of T frames from height h, a rebound that keeps the part k of the speed rises to
        k²h and takes 2kT frames (h = g·t²/2). Raises `Refusal` if it would begin after the motion has ended.
        """
        motion = on.motion
        if recipe.frame >= motion.length:
            raise Refusal(
                f"The fall would begin at frame {recipe.frame + 1}; “{motion.name}” has {motion.length} frames.",
                where=motion.name,
                remedy="Let it begin earlier, or make the motion longer first.",
            )
        id = channel_id(recipe.joint, "move")
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
                found[at] = rounded_key((x + recipe.across * t / total, floor), Slow())
                break
            found[at] = rounded_key((x + recipe.across * t / total, floor - rise), SLOW_OUT if n % 2 == 0 else SLOW_IN)
        last = max(found)
        said = (
            () if recipe.frame + round(total) < motion.length else ("It does not come to rest before the motion ends.",)
        )
        found[last] = found[last].changed(ease=Slow())
        return Written({id: found}, said=said)

    def begun(self, base: Mapping[str, Any], on: On, chosen: Chosen) -> Bounce:
        return Bounce(joint=chosen.joint or ROOT, **base)

    def scaled(self, recipe: Bounce, by: Sizes) -> Bounce:
        return sized(recipe, height=recipe.height * by.size, across=recipe.across * by.size)

    def carried_over(self, recipe: Bounce, to: OtherPuppet) -> Bounce | None:
        joint = to.owner("move", recipe.joint)
        found = sized(recipe, height=recipe.height * to.size, across=recipe.across * to.way)
        return found.changed(joint=joint) if joint else None
