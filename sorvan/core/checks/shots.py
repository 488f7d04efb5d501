"""Mistakes in a shot: who does nothing, who skates, lines that nobody speaks, and what is wrong in its motions."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from sorvan.core.change.casting import SetCast
from sorvan.core.change.command import Command
from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.checks.motion import likely
from sorvan.core.checks.rig import findings as rig_findings
from sorvan.core.checks.seen import Seen
from sorvan.core.checks.voice import findings as voice_findings
from sorvan.core.kept import kept
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.recipe import Mouths
from sorvan.core.model.shot import Copies, Member, Shot, motions_of
from sorvan.core.model.voice import Voice
from sorvan.core.plan.evaluate import Evaluation
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
class Apart:
    """What is likely wrong with a puppet by itself: in its rig, and in motions that no shot uses."""

    puppet: Puppet
    found: list[ShotFinding]


def apart(documents: Documents) -> list[Apart]:
    """Every likely mistake that no shot shows, by puppet."""
    used = {id for shot in documents.all_shots() for c in shot.cast.values() for id in motions_of(c)}
    groups: list[Apart] = []
    for puppet in documents.puppets():
        found = [_of_puppet(f, puppet, None) for f in _rig_findings(puppet)]
        for motion in documents.motions(puppet.id):
            if motion.id not in used:
                found += [_of_puppet(f, puppet, motion) for f in found_in(documents, puppet, motion)]
        if found:
            groups.append(Apart(puppet, found))
    return groups


@kept()
def _rig_findings(puppet: Puppet) -> list[Finding]:
    return rig_findings(puppet)


def _of_puppet(found: Finding, puppet: Puppet, motion: Motion | None) -> ShotFinding:
    """A finding of a puppet's rig, or of a motion of it."""
    text = f"{motion.name}: {found.text}" if motion is not None else found.text
    return ShotFinding(
        found.check,
        text,
        frame=found.frame,
        motion=motion.id if motion is not None else None,
        puppet=puppet.id,
        joint=next(iter(found.joints), None),
        mend=found.mend,
        mending=found.mending,
    )


def findings(documents: Documents, shot: Shot) -> list[ShotFinding]:
    """Every likely mistake of a shot, of the whole first, then of its cast and of their motions."""
    first, stop = shot.played
    found = [*_of_shot(documents, shot)]
    for member in shot.members().values():
        found += _of_member(documents, shot, member)
    # What does not play is not seen.
    found = [f for f in found if f.frame is None or first <= f.frame < stop]
    for id in dict.fromkeys(m for c in shot.cast.values() for m in motions_of(c)):
        motion = documents.motion(id)
        puppet = documents.puppet(motion.puppet)
        found += [_of_puppet(f, puppet, motion) for f in found_in(documents, puppet, motion)]
    return found


def found_in(documents: Documents, puppet: Puppet, motion: Motion) -> list[Finding]:
    """The likely mistakes of a motion and its lines. Mends that these documents would refuse are left out."""
    found = _in_motion(motion, puppet, documents.lines_on(motion), per_second(documents.production.rate))
    return [mendable(f, documents) for f in found]


@kept()
def _in_motion(motion: Motion, puppet: Puppet, lines: dict[str, Voice], rate: Fraction) -> list[Finding]:
    seen = Seen(Evaluation.full(puppet, motion), motion)
    return likely(seen) + voice_findings(puppet, motion, lines, rate)


def _of_shot(documents: Documents, shot: Shot) -> Iterator[ShotFinding]:
    behind = documents.production.backdrop
    seen = [c for c in shot.cast.values() if c.puppet != behind and not c.hidden]
    if not seen:
        yield ShotFinding("nobody", "Nobody is in this shot yet.")
    for cast in shot.cast.values():
        if cast.hidden:
            shown = SetCast(shot=shot.id, cast=cast.id, hidden=False)
            text = f"“{cast.name or cast.puppet}” is hidden."
            yield ShotFinding("hidden", text, cast.id, mend=shown, mending="Show it")
    rate = float(per_second(documents.production.rate))
    spoken = {p.voice for m in _motions(documents, shot) for p in m.sounds.values()}
    for sound in shot.sounds.values():
        voice = documents.voice(sound.voice)
        if sound.at < 0 or sound.at * rate >= shot.length:
            yield ShotFinding("unheard", f"“{voice.name}” begins outside of the shot.")
        elif voice.text and voice.id not in spoken and not sound.mute:
            frame = int(sound.at * rate)
            yield ShotFinding(
                "unspoken", f"Nobody's mouth says “{voice.name}”: give its motion to someone.", None, frame
            )
    if shot.stage == "final" and any(isinstance(c, Copies) and c.motion is None for c in shot.cast.values()):
        yield ShotFinding("copies", "Copies without a motion do not move.")


def _motions(documents: Documents, shot: Shot) -> list[Motion]:
    return [documents.motion(id) for c in shot.cast.values() for id in motions_of(c)]


def _of_member(documents: Documents, shot: Shot, member: Member) -> Iterator[ShotFinding]:
    name = f"“{member.name or member.puppet}”"
    first, stop = shot.played
    rate = float(per_second(documents.production.rate))
    spans = sorted((s for s in member.spans.values() if s.row == 0), key=lambda s: s.start)
    plays = [s for s in spans if s.end > first and s.start < stop]
    if not spans and any(True for _ in documents.motions(member.puppet)):
        yield ShotFinding("does-nothing", f"{name} does nothing.", member.id, first)
    for span, after in zip(spans, [*spans[1:], None], strict=False):
        until = after.start if after is not None else stop
        moves = span.play != "hold" and documents.motion(span.motion).channels
        if moves and until - span.end > STILL * rate and span.end < stop:
            yield ShotFinding("stops", f"{name} stops moving here, for {until - span.end} frames.", member.id, span.end)
    for span in plays:
        motion = documents.motion(span.motion)
        if member.travel is None and motion.cycle and abs(motion.ground.runs) > RUNS and span.play == "loop":
            text = f"{name} walks on the spot: let its feet carry it, or the ground slides under them."
            yield ShotFinding("skates", text, member.id, max(span.start, first))
    puppet = documents.puppet(member.puppet)
    moved = member.place.get("place.move")
    if moved is not None and len({k.value for k in moved.keys.values()}) > 1 and has_legs(puppet):
        walks = any(abs(documents.motion(s.motion).ground.runs) > RUNS for s in spans)
        if walks:
            text = f"{name} is moved by keys while it walks: its feet slide. Let them carry it along a way."
            yield ShotFinding("slides", text, member.id, max(min(moved.keys), first))
    if member.travel is not None and not any(_carries(documents, s.motion) for s in spans):
        yield ShotFinding("not-carried", f"{name} has a way to go, and no motion that walks.", member.id, first)
    for id in dict.fromkeys(s.motion for s in member.spans.values()):
        motion = documents.motion(id)
        said = {r.sound for r in motion.recipes.values() if isinstance(r, Mouths)}
        for placed in motion.sounds.values():
            if placed.id not in said and placed.voice in documents.by_id and documents.voice(placed.voice).text:
                text = f"“{motion.name}” has a line without mouths."
                yield ShotFinding("no-mouths", text, member.id, None, motion.id, puppet.id)


def _carries(documents: Documents, id: str) -> bool:
    motion = documents.motion(id)
    on = motion.channels.get("puppet.move")
    return abs(motion.ground.runs) > 0 or (on is not None and len(on.keys) > 1)
