"""What is left to do in a shot: its own mistakes, and those of the motions in it; and in puppets by themselves."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.checks.in_shots import SHOT_CHECKS, SeenShot, ShotFinding
from sorvan.core.checks.motion import likely
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.checks.rig import findings as rig_findings
from sorvan.core.checks.voice import findings as voice_findings
from sorvan.core.kept import kept
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Shot, motions_of
from sorvan.core.model.voice import Voice
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.timing.rates import per_second


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
    seen = SeenShot(documents, shot)
    found = [f for check in SHOT_CHECKS for f in check(seen)]
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
    seen = MotionSeen(Evaluation.full(puppet, motion), motion)
    return likely(seen) + voice_findings(puppet, motion, lines, rate)
