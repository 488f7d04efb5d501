"""Mistakes in a shot: all that is looked for, of the whole first, then of each of its cast."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from sorvan.core.change.casting import SetCast
from sorvan.core.change.command import Command
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.shot import Copies, Member, Shot, Span, motions_of
from sorvan.core.rig.anatomy import has_legs
from sorvan.core.timing.rates import per_second

STILL = 0.75
"""Seconds after which it is noticed that somebody has stopped."""
RUNS = 0.5
"""Units a frame by which the ground runs under one who walks."""


@dataclass(frozen=True)
class ShotFinding:
    """A likely mistake in a shot: the one of the cast who shows it and the frame of the shot, or the motion and the
    frame of that, or of a puppet's rig the joint; and the command that mends it, with what it does."""

    check: str
    text: str
    cast: str | None = None
    frame: int | None = None
    motion: str | None = None
    puppet: str | None = None
    joint: str | None = None
    mend: Command | None = None
    mending: str = ""


@dataclass(frozen=True)
class SeenShot:
    """A shot that is looked at."""

    documents: Documents
    shot: Shot

    @cached_property
    def rate(self) -> float:
        """Frames a second."""
        return float(per_second(self.documents.production.rate))

    @cached_property
    def motions(self) -> list[Motion]:
        """What its cast does."""
        return [self.documents.motion(id) for c in self.shot.cast.values() for id in motions_of(c)]

    def does(self, member: Member) -> list[Span]:
        """The spans of a member's lowest row, in their order."""
        return sorted((s for s in member.spans.values() if s.row == 0), key=lambda s: s.start)


ShotCheck = Callable[[SeenShot], Iterator[ShotFinding]]


def nobody(seen: SeenShot) -> Iterator[ShotFinding]:
    """Nobody to be seen but the backdrop."""
    behind = seen.documents.production.backdrop
    if not any(c.puppet != behind and not c.hidden for c in seen.shot.cast.values()):
        yield ShotFinding("nobody", "Nobody is in this shot yet.")


def hidden_cast(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who is in the shot and hidden."""
    for cast in seen.shot.cast.values():
        if cast.hidden:
            shown = SetCast(shot=seen.shot.id, cast=cast.id, hidden=False)
            text = f"“{cast.name or cast.puppet}” is hidden."
            yield ShotFinding("hidden", text, cast.id, mend=shown, mending="Show it")


def unheard_sounds(seen: SeenShot) -> Iterator[ShotFinding]:
    """Sounds that begin outside of the shot."""
    for sound in seen.shot.sounds.values():
        if sound.at < 0 or sound.at * seen.rate >= seen.shot.length:
            name = seen.documents.voice(sound.voice).name
            yield ShotFinding("unheard", f"“{name}” begins outside of the shot.")


def unspoken_lines(seen: SeenShot) -> Iterator[ShotFinding]:
    """Lines with a text that nobody's mouth says."""
    spoken = {p.voice for m in seen.motions for p in m.sounds.values()}
    for sound in seen.shot.sounds.values():
        voice, frame = seen.documents.voice(sound.voice), int(sound.at * seen.rate)
        inside = sound.at >= 0 and frame < seen.shot.length
        if inside and voice.text and voice.id not in spoken and not sound.mute:
            text = f"Nobody's mouth says “{voice.name}”: give its motion to someone."
            yield ShotFinding("unspoken", text, None, frame)


def still_copies(seen: SeenShot) -> Iterator[ShotFinding]:
    """Copies that have no motion when all is to move."""
    still = any(isinstance(c, Copies) and c.motion is None for c in seen.shot.cast.values())
    if seen.shot.stage == "final" and still:
        yield ShotFinding("copies", "Copies without a motion do not move.")


def idle_members(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who has motions and does none."""
    for member in seen.shot.members().values():
        if not seen.does(member) and any(True for _ in seen.documents.motions(member.puppet)):
            yield ShotFinding("does-nothing", f"{_name(member)} does nothing.", member.id, seen.shot.played[0])


def stopped_members(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who stops moving for a while."""
    _, stop = seen.shot.played
    for member in seen.shot.members().values():
        spans = seen.does(member)
        for span, after in zip(spans, [*spans[1:], None], strict=False):
            until = after.start if after is not None else stop
            moves = span.play != "hold" and seen.documents.motion(span.motion).channels
            if moves and until - span.end > STILL * seen.rate and span.end < stop:
                text = f"{_name(member)} stops moving here, for {until - span.end} frames."
                yield ShotFinding("stops", text, member.id, span.end)


def skating_members(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who walks on the spot."""
    first, stop = seen.shot.played
    for member in seen.shot.members().values():
        for span in seen.does(member):
            motion = seen.documents.motion(span.motion)
            walks = motion.cycle and abs(motion.ground.runs) > RUNS and span.play == "loop"
            if member.travel is None and walks and span.end > first and span.start < stop:
                text = f"{_name(member)} walks on the spot: let its feet carry it, or the ground slides under them."
                yield ShotFinding("skates", text, member.id, max(span.start, first))


def members_moved_while_they_walk(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who is moved by keys while its feet go."""
    for member in seen.shot.members().values():
        moved = member.place.get("place.move")
        if moved is None or len({k.value for k in moved.keys.values()}) < 2:
            continue
        walks = any(abs(seen.documents.motion(s.motion).ground.runs) > RUNS for s in seen.does(member))
        if walks and has_legs(seen.documents.puppet(member.puppet)):
            text = f"{_name(member)} is moved by keys while it walks: its feet slide. Let them carry it along a way."
            yield ShotFinding("slides", text, member.id, max(min(moved.keys), seen.shot.played[0]))


def ways_not_gone(seen: SeenShot) -> Iterator[ShotFinding]:
    """Who has a way to go, and nothing that carries it."""
    for member in seen.shot.members().values():
        carried = any(_carries(seen.documents.motion(s.motion)) for s in seen.does(member))
        if member.travel is not None and not carried:
            text = f"{_name(member)} has a way to go, and no motion that walks."
            yield ShotFinding("not-carried", text, member.id, seen.shot.played[0])


def lines_without_mouths(seen: SeenShot) -> Iterator[ShotFinding]:
    """Motions that have a line, and no mouths for it."""
    for member in seen.shot.members().values():
        for id in dict.fromkeys(s.motion for s in member.spans.values()):
            motion = seen.documents.motion(id)
            said = {r.sound for r in motion.recipes.values() if isinstance(r, Mouths)}
            lines = seen.documents.lines_on(motion)
            for placed in motion.sounds.values():
                if placed.id not in said and placed.voice in lines and lines[placed.voice].text:
                    text = f"“{motion.name}” has a line without mouths."
                    yield ShotFinding("no-mouths", text, member.id, None, motion.id, member.puppet)


SHOT_CHECKS: Sequence[ShotCheck] = (
    nobody,
    hidden_cast,
    unheard_sounds,
    unspoken_lines,
    still_copies,
    idle_members,
    stopped_members,
    skating_members,
    members_moved_while_they_walk,
    ways_not_gone,
    lines_without_mouths,
)


def _name(member: Member) -> str:
    return f"“{member.name or member.puppet}”"


def _carries(motion: Motion) -> bool:
    on = motion.channels.get("puppet.move")
    return abs(motion.ground.runs) > 0 or (on is not None and len(on.keys) > 1)
