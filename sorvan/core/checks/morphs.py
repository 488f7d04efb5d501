"""Mistakes on the way from one drawing to another."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sorvan.core.checks.finding import Finding
from sorvan.core.checks.motion_seen import MotionSeen
from sorvan.core.geometry import Floats
from sorvan.core.model.channels import channel_id
from sorvan.core.morph.trouble import STEPS, TroubleKind, clear, usual
from sorvan.core.plan.ready_morphs import made_ready

WORDS: dict[TroubleKind, str] = {
    "crosses": "crosses itself",
    "turned-over": "is turned over",
    "shrinks": "shrinks",
    "against": "goes against the movement of the rest",
}


def tangled_betweens(seen: MotionSeen) -> Iterator[Finding]:
    """In-betweens that cross themselves, turn over, shrink, or go the wrong way."""
    for row, start, pair, frames, parts in _stretches(seen):
        piece = seen.puppet.pieces[seen.puppet.order[row]]
        one, two = (piece.drawings[n].name for n in pair)
        arts = seen.evaluation.arts
        assert arts is not None
        ready, _ = made_ready(piece, pair, seen.evaluation.production, arts)
        for kind, words in WORDS.items():
            bad = [t for t in usual(ready) if t.kind == kind]
            if not bad:
                continue
            amounts = np.max([np.interp(parts, STEPS, t.amounts) for t in bad], axis=0)
            names = sorted({ready.going[t.going].name for t in bad} - {""})
            what = f"“{piece.name}”" + (f" ({', '.join(names[:3])})" if names else "")
            frame = int(frames[int(amounts.argmax())])
            yield Finding(
                "in-betweens",
                f"{what} {words} while “{one}” becomes “{two}”, most of all at frame {frame + 1}.",
                pieces=(piece.id,),
                frame=frame,
                keys=((channel_id(piece.id, "show"), start),),
            )


def tangles(seen: MotionSeen) -> dict[str, Floats]:
    """By channel of drawings that become others: how bad the worst is in each frame, 0 to 1, `(frames,)`."""
    found: dict[str, Floats] = {}
    for row, _, pair, frames, parts in _stretches(seen):
        piece = seen.puppet.pieces[seen.puppet.order[row]]
        arts = seen.evaluation.arts
        assert arts is not None
        ready, _ = made_ready(piece, pair, seen.evaluation.production, arts)
        own = found.setdefault(channel_id(piece.id, "show"), np.zeros(seen.motion.length))
        for trouble in usual(ready):
            own[frames] = np.maximum(own[frames], clear(np.interp(parts, STEPS, trouble.amounts)))
    return found


def _stretches(seen: MotionSeen) -> Iterator[tuple[int, int, tuple[int, int], np.ndarray, Floats]]:
    """Runs of frames in which a drawing becomes another: the piece's row, the frame of the key that leads to it, which
    drawings, the frames, and how far each has come."""
    for row, on in seen.evaluation.places.becoming.items():
        keys = sorted(seen.motion.channels[channel_id(seen.puppet.order[row], "show")].keys)
        for slot, pair in enumerate(on.pairs):
            frames = np.flatnonzero(on.which == slot)
            for run in np.split(frames, np.flatnonzero(np.diff(frames) > 1) + 1):
                led = max((k for k in keys if k <= run[0]), default=keys[-1])
                yield row, led, pair, run, on.parts[run]
