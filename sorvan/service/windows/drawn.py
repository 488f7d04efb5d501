"""Evaluations as they are sent: what is drawn in some frames, as blocks of numbers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import channel_id
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plan import Item, Reshaping
from sorvan.core.plan.scene import points_of
from sorvan.core.timing.channels import gaps
from sorvan.service.letters.drawn import BentPoints, ItemView
from sorvan.service.letters.messages import SpacedView

PART_BYTES = 4_000_000
"""Bytes of what is very long that are sent at once, about."""


def block(values: Floats) -> bytes:
    """`(things, 6, frames)` as little-endian float32 in the order frame, thing, number."""
    return np.ascontiguousarray(values.transpose(2, 0, 1), dtype="<f4").tobytes()


def item_view(item: Item, rest: int) -> ItemView:
    """One item of a plan, as sent; `rest` is the drawing that shows at rest."""
    return ItemView(
        rest=rest,
        puppet=item.puppet,
        piece=item.piece,
        arts=item.arts,
        boxes=item.boxes,
        hidden=item.hidden,
        opacity=item.opacity,
        masks=item.masks,
    )


def drawn(e: Evaluation, span: slice = slice(None)) -> dict[str, Any]:
    """The fields of `Drawn` for some frames. What is as at rest throughout is left out."""
    fields: dict[str, Any] = {"matrices": block(e.pieces[:, :, span])}
    if np.any(e.shown[:, span] != e.rig.rest[:, None]):
        fields["shown"] = np.ascontiguousarray(e.shown[:, span].T, dtype="<i2").tobytes()
    if e.reorders:
        fields["order"] = np.ascontiguousarray(e.places.order[:, span].T, dtype="<i2").tobytes()
    if e.fades:
        fields["opacity"] = np.ascontiguousarray(e.places.opacity[:, span].T, dtype="<f4").tobytes()
    points = [
        BentPoints(item=item, drawing=drawing, count=found.shape[0], data=block(found[:, :, span]))
        for (item, drawing), found in points_of(e).items()
        if found.shape[0]
    ]
    start, stop, _ = span.indices(e.frames)
    points += [_going(*which, found, start) for which, found in e.going_in(start, stop).items()]
    if points:
        fields["points"] = points
    if e.reached:
        fields["reached"] = {
            id: (_track(r.turned[:, span]), _track(r.reached[:, span]), _blend(e, id, span))
            for id, r in e.reached.items()
        }
    return fields


def _going(item: int, drawing: int, found: Reshaping, start: int) -> BentPoints:
    """What a drawing that becomes another looks like in the frames in which it shows, counted from `start`."""
    return BentPoints(
        item=item,
        drawing=drawing,
        count=found.points.shape[0],
        data=block(found.points),
        frames=np.ascontiguousarray(found.frames - start, dtype="<i4").tobytes(),
        looks=np.ascontiguousarray(found.looks.T, dtype="<f4").tobytes(),
    )


def posed(e: Evaluation, span: slice = slice(None)) -> dict[str, Any]:
    """The fields of `Posed` for some frames."""
    return {"worlds": block(e.worlds[:, :, span]), **drawn(e, span)}


def _track(places: NDArray[np.complex128]) -> bytes:
    """Places `(joints, frames)` as float32 in the order frame, joint, x y."""
    both = np.stack([places.real, places.imag], axis=-1)
    return np.ascontiguousarray(both.transpose(1, 0, 2), dtype="<f4").tobytes()


def _blend(e: Evaluation, chain: str, span: slice) -> bytes:
    held = e.values.get(channel_id(chain, "reach"))
    percent = np.full(e.frames, 100.0) if held is None else np.clip(held[0], 0, 100)
    return np.ascontiguousarray(percent[span], dtype="<f4").tobytes()


def part_of(e: Evaluation) -> int:
    """How many frames of an evaluation are sent at once."""
    return max(48, PART_BYTES // (24 * (len(e.skeleton.ids) + len(e.puppet.order))))


def parts(frames: int, at: int, size: int) -> Iterator[tuple[int, int]]:
    """Frames in parts of a `size`: from the one with frame `at` on, and then those before it."""
    first = min(at, frames - 1) // size * size
    for start in (*range(first, frames, size), *range(0, first, size)):
        yield start, min(start + size, frames)


def items_of(evaluation: Evaluation) -> tuple[ItemView, ...]:
    """The items of an evaluation, as sent."""
    return tuple(item_view(i, int(rest)) for i, rest in zip(evaluation.items, evaluation.rig.rest, strict=True))


def spaced(channel: Channel, values: Floats, length: int, cycle: bool) -> SpacedView:
    found = tuple((g.start, g.end, tuple(round(float(p), 4) for p in g.progress)) for g in gaps(channel, length, cycle))
    return SpacedView(gaps=found, frames=values.shape[-1], values=np.ascontiguousarray(values, dtype="<f8").tobytes())
