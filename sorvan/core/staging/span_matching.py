"""Where in its motion a span should begin so that its feet go on from those of the span before it."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import tracks
from sorvan.core.plan.travel import ground_of
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.shot.performance import footed

STEP = 0.25
"""Frames between the beginnings that are tried."""
LIFTED = 0.6
"""What it costs that a foot stands in one motion and not in the other, in lengths of a leg."""


def best_first(puppet: Puppet, before: Motion, at: float, motion: Motion) -> float | None:
    """The time of a cycle at which its feet are most like those of what is done before it, at that one's time `at`: where
    they are beside the puppet, and which of them stand. None if it has no legs, or the motion no cycle."""
    if not has_legs(puppet) or not motion.cycle:
        return None
    own = _between(_feet(puppet, footed(before, puppet)), np.array([at]), before)
    tried = np.arange(0, motion.length, STEP)
    there = _between(_feet(puppet, footed(motion, puppet)), tried, motion)
    cost = np.sqrt(((there - own) ** 2).sum(axis=0))
    return float(tried[int(np.argmin(cost))])


def _feet(puppet: Puppet, motion: Motion) -> Floats:
    """For each foot and frame its place beside the puppet (lengths of a leg) and whether it stands, `(3 × feet,
    frames)`."""
    evaluation = Evaluation.full(puppet, motion.changed(plants={}))
    level, leg = ground_of(motion, puppet), anatomy(evaluation.stance).leg
    rows: list[Floats] = []
    for track in tracks(evaluation, anatomy(evaluation.stance).legs):
        middle = (track.heel + track.toe) / 2 - complex(*puppet.origin)
        rows += [middle.real / leg, middle.imag / leg, np.where(track.stands(level), LIFTED, 0.0)]
    return np.stack(rows)


def _between(rows: Floats, times: Floats, motion: Motion) -> Floats:
    """Rows at any times, evenly between frames."""
    frames = rows.shape[1]
    times = times % frames if motion.cycle else np.clip(times, 0, frames - 1)
    first = np.floor(times).astype(np.intp)
    after = (first + 1) % frames if motion.cycle else np.minimum(first + 1, frames - 1)
    share = times - first
    found: Floats = rows[:, first] * (1 - share) + rows[:, after] * share
    return found
