"""Why a mouth is shown: a sentence for every frame."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping

import numpy as np

from sorvan.core.voice.exposure import Exposure, Problem


def why(exposure: Exposure, frame: int, spelled: Mapping[int, str] | None = None) -> str:
    """Why the mouth of a frame (of the motion) is what it is, in a sentence.

    `spelled` may say, by the number of a beat, of which word it is.
    """
    p, at = exposure.problem, frame - exposure.problem.first
    if not 0 <= at < p.frames:
        return "No line is heard here."
    if at in p.pinned:
        return "The hand chose this mouth."
    chosen = int(exposure.path[at])
    if chosen >= len(p.mouths):
        return "The hand chose this mouth."
    mouth = p.mouths[chosen]
    n = max(int(np.searchsorted(p.starts, frame + 0.5, side="right")) - 1, 0)
    beat = p.beats[n]
    word = f" of “{spelled[n]}”" if spelled and spelled.get(n) else ""
    lead = f", {p.settings.lead:g} frames ahead of the sound" if p.settings.lead else ""
    row = [m.last for m in p.musts]
    near = p.musts[max(bisect_left(row, at) - 1, 0) : bisect_left(row, at) + 4]
    must = next((m for m in near if m.mouth == chosen and m.first - 1 <= at < m.last + 1), None)
    if must is not None:
        of = p.beats[must.beat]
        word = f" of “{spelled[must.beat]}”" if spelled and spelled.get(must.beat) else ""
        what = "The lips must meet" if of.kind == "closure" else "The lip must touch the teeth"
        return f"{what} for {of.label}{word}{lead}."
    if beat.mouth == mouth:
        if beat.kind == "pause":
            return "Nobody speaks: the mouth rests."
        stress = ", which bears the stress" if beat.stress == 1 else ""
        return f"{beat.label}{word} takes “{mouth.name}”{stress}{lead}."
    before, after = _neighbours(exposure, at)
    if before is not None and after is not None and before != after and _between(p, before, chosen, after):
        names = [p.mouths[m].name if m < len(p.mouths) else "the hand's" for m in (before, after)]
        return f"“{mouth.name}” softens the jump from “{names[0]}” to “{names[1]}”."
    nearby = next((b for b in (*p.beats[n + 1 : n + 3], *p.beats[max(n - 2, 0) : n]) if b.mouth == mouth), None)
    heard = f"{beat.label}{word}" if beat.label else "the pause"
    if nearby is not None and nearby.kind in ("closure", "contact"):
        held = next(m for m in p.musts if p.beats[m.beat] is nearby or p.beats[m.beat] == nearby)
        when = "early" if at < held.first else "on"
        return (
            f"“{mouth.name}” comes {when} for {nearby.label}, so that it is seen long enough."
            if when == "early"
            else (f"“{mouth.name}” stays on after {nearby.label}, so that it is seen long enough.")
        )
    if nearby is not None:
        which = "comes" if nearby.start > beat.start else "was"
        return f"“{mouth.name}” is for {nearby.label or 'the pause'}, which {which} beside {heard}: there is no room for both."
    return f"“{mouth.name}” is nearest to {heard} as its neighbours shape it."


def _neighbours(exposure: Exposure, at: int) -> tuple[int | None, int | None]:
    path = exposure.path
    before = next((int(m) for m in path[:at][::-1] if m != path[at]), None)
    after = next((int(m) for m in path[at:] if m != path[at]), None)
    return before, after


def _between(problem: Problem, before: int, chosen: int, after: int) -> bool:
    direct = problem.jump[before, after]
    return bool(direct > problem.jump[before, chosen] and direct > problem.jump[chosen, after])
