"""The frames of a shot in which somebody strikes a pose: what stands for it on a contact sheet."""

from __future__ import annotations

import numpy as np

from sorvan.core.model.documents import Documents
from sorvan.core.model.shot import Shot
from sorvan.core.shot.camera import keyed_frames
from sorvan.core.shot.performance import Performance
from sorvan.core.shot.spans import poses_at

CLOSE = 3
"""Frames within which one picture stands for several poses."""


def struck_frames(documents: Documents, shot: Shot) -> list[int]:
    """The frames that play in which somebody strikes a pose, or the camera has a key, never one right after another;
    the backdrop strikes none."""
    first, stop = shot.played
    times = np.arange(shot.length, dtype=np.float64)
    struck = np.zeros(shot.length, dtype=bool)
    for member in shot.members().values():
        motions = [documents.motion(s.motion) for s in member.spans.values()]
        if any(m.poses for m in motions):
            doing = Performance.of(documents, shot, member, times, True, Performance())
            struck |= poses_at((*doing.lower, *doing.upper), times)
    struck[[f for f in keyed_frames(shot.camera) if f < shot.length]] = True
    found = [first]
    for frame in np.flatnonzero(struck[first:stop]) + first:
        if frame - found[-1] >= CLOSE:
            found.append(int(frame))
    return found
