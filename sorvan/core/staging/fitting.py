"""Steps fitted to a distance: a walk that arrives where it is to, in a whole number of steps."""

from __future__ import annotations

from dataclasses import dataclass

from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import Gait
from sorvan.core.model.shot import Member, Span
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.travel import stances
from sorvan.core.recipes.doing import with_recipe
from sorvan.core.shot.performance import footed
from sorvan.core.shot.travel import Way, speed_of
from sorvan.core.timing.rates import per_second

EXACT = 0.002
"""The part of a step by which a stride may miss and still stay as it is."""
NEAREST = 1.0
"""Stage units: who has less to go has arrived."""


@dataclass(frozen=True)
class Fit:
    """A span that goes as far as it is to, the motion whose stride fits (None: it stays the span's), in how many
    steps of how many stage units, and how far that is."""

    span: Span
    motion: Motion | None
    steps: int
    step: float
    distance: float


def steps_in(puppet: Puppet, motion: Motion) -> int:
    """How many steps a cycle has: as many as times a foot comes down in it."""
    return max(len(stances(Evaluation.full(puppet, motion.changed(plants={})), motion)[0]), 1)


def fitted(documents: Documents, member: Member, span: Span, steps: int | None, distance: float | None, id: str) -> Fit:
    """A walking span fitted to the member's way, or a distance (stage units): in so many `steps`, to which the stride
    gives way, or in as many as are nearest to its stride. Another stride makes a motion of its own, `id`.

    Raises `Refusal` if it does not walk, or its stride can't be changed.
    """
    puppet, held = documents.puppet(member.puppet), documents.motion(span.motion)
    motion = footed(held, puppet)
    speed = abs(speed_of(motion, member.travel)) * member.scale
    far = distance if distance is not None else _left(member)
    if not motion.cycle or speed <= 0 or far < NEAREST:
        raise Refusal(
            f"“{held.name}” does not carry “{member.name or puppet.name}” along a way.",
            where=held.name,
            remedy="Choose a cycle that walks, and give the member a way to go.",
        )
    each = steps_in(puppet, motion)
    step = speed * motion.length / each
    count = steps if steps is not None else max(round(far / step), 1)
    wanted = far / count
    frames = max(round(count * motion.length / each * 100 / span.speed), 1)
    given = span.changed(frames=frames, play="loop", stop=None, skip=0.0)
    if abs(wanted / step - 1) <= EXACT:
        return Fit(given, None, count, step, far)
    gait = next((r for r in held.recipes.values() if isinstance(r, Gait)), None)
    if gait is None:
        raise Refusal(
            f"{count} steps of “{held.name}” go {count * step:.0f} of {far:.0f} units, and its stride was not made by "
            "a gait, so that it can't be another.",
            where=held.name,
            remedy=f"Make the way {count * step:.0f} units long, or take a walk that a gait made.",
        )
    longer = gait.changed(step=wanted / member.scale)
    rate = per_second(documents.production.rate)
    made, _ = with_recipe(held, puppet, longer, rate, documents.lines_on(held))
    made = made.changed(id=id, name=f"{held.name[:80]} in steps of {wanted:.0f}")
    got = abs(speed_of(footed(made, puppet), member.travel)) * member.scale * made.length / each
    if abs(got / wanted - 1) > EXACT:
        raise Refusal(
            f"These legs make steps of {got:.0f} units, not {wanted:.0f}.",
            where=held.name,
            remedy=f"Take {max(round(far / got), 1)} steps, or another distance.",
        )
    return Fit(given.changed(motion=id), made, count, wanted, far)


def _left(member: Member) -> float:
    """How much of its way a member has before it (stage units)."""
    if member.travel is None or len(member.travel.way) < 2:
        return 0.0
    return Way(member.travel.way).length - member.travel.gone
