"""Mistakes in a motion: all that is looked for, the gravest kinds first."""

from __future__ import annotations

from collections.abc import Sequence

from sorvan.core.checks.feet import out_of_reach, sliding_feet, sunken_feet
from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.checks.flow import first_picture_twice, pops, seam
from sorvan.core.checks.keying import beyond_limits, beyond_the_end, hidden_keys, nothing_moves, stray_keys
from sorvan.core.checks.morphs import tangled_betweens
from sorvan.core.checks.motion_seen import MotionCheck, MotionSeen
from sorvan.core.checks.swing import twins_together
from sorvan.core.model.documents import Documents

CHECKS: Sequence[MotionCheck] = (
    nothing_moves,
    beyond_the_end,
    first_picture_twice,
    seam,
    out_of_reach,
    sunken_feet,
    sliding_feet,
    pops,
    tangled_betweens,
    stray_keys,
    beyond_limits,
    twins_together,
    hidden_keys,
)


def findings(seen: MotionSeen, documents: Documents) -> list[Finding]:
    """Every likely mistake in a motion of these documents, the gravest kinds first; none while it is only blocked.
    Mends that would be refused are left out."""
    return [mendable(f, documents) for f in likely(seen)]


def likely(seen: MotionSeen) -> list[Finding]:
    """The same by the motion alone: what would mend them may be refused."""
    if seen.evaluation.blocking:
        return []
    return [f for check in CHECKS for f in check(seen)]
