"""The in-betweens of a motion's drawings, as drawings of their own."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.model.art import Art
from sorvan.core.model.base import asset_id
from sorvan.core.model.puppet import Drawing
from sorvan.core.morph.kept_betweens import kept_at
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ready_morphs import NEVER, made_ready
from sorvan.core.rig.skeleton import piece


def betweens_at(evaluation: Evaluation, id: str, frames: Iterable[int]) -> list[tuple[int, Drawing, Art]]:
    """What a piece's drawing is on its way at those of these frames in which it becomes another: the frame, a drawing
    of it, and the art. Raises `Refusal` if it does so in none of them."""
    held = piece(evaluation.puppet, id)
    on = evaluation.places.becoming.get(evaluation.puppet.order.index(id), NEVER)
    assert evaluation.arts is not None
    found: list[tuple[int, Drawing, Art]] = []
    for frame in frames:
        if frame >= len(on.which) or on.which[frame] < 0:
            continue
        pair = on.pairs[int(on.which[frame])]
        ready, _ = made_ready(held, pair, evaluation.production, evaluation.arts)
        art, shape = kept_at(ready, float(np.float32(on.parts[frame])))
        asset = asset_id(art.model_dump_json().encode())
        one, two = (held.drawings[n].name[:40] for n in pair)
        name = f"{one} to {two}, {round(100 * float(on.parts[frame]))} %"
        drawn = Drawing(
            id=f"b{asset[:12]}-{frame}", name=name, art=asset, pivot=(0.0, 0.0), bounds=art.bounds, shape=shape
        )
        found.append((frame, drawn, art))
    if not found:
        raise Refusal(
            f"“{held.name}” becomes no other drawing there.",
            where=held.name,
            remedy="Go to a frame between two drawings of which the first becomes the second.",
        )
    return found
