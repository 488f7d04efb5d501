"""Pieces that look like drawings of one."""

from __future__ import annotations

from collections.abc import Iterator

from sorvan.core.change.drawings import GatherDrawings
from sorvan.core.checks.finding import Finding
from sorvan.core.model.art import Box
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.lexicon import COUNTED
from sorvan.core.rig.names import words
from sorvan.core.rig.skeleton import box_of, piece_worlds

ALIKE = 0.25
"""The part of both together that two alternates have in common at least: they lie in the same place."""


def alternates(puppet: Puppet) -> Iterator[Finding]:
    """Pieces named alike but for their last letter or number that lie in one place: mouths, hands, eyes."""
    worlds = piece_worlds(puppet)
    alike: dict[tuple[object, ...], list[str]] = {}
    for id in puppet.order:
        held = puppet.pieces[id]
        told = words(held.name)
        if COUNTED.issuperset(told[:-1]):
            continue
        if len(told) > 1 and (len(told[-1]) == 1 or told[-1].isdecimal()) and len(held.drawings) == 1:
            alike.setdefault((*told[:-1], held.side, held.group), []).append(id)
    for ids in alike.values():
        boxes = {id: box_of(puppet.pieces[id], worlds[id]) for id in ids}
        together = [id for id in ids if _common(boxes[id], boxes[ids[0]]) >= ALIKE]
        if len(together) < 2:
            continue
        shown = next((id for id in together if not puppet.unseen(puppet.pieces[id])), together[0])
        names = [f"“{puppet.pieces[id].name}”" for id in together]
        listed = ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
        yield Finding(
            "alternates",
            f"{listed} lie in one place, and are named alike: they may be drawings of one piece.",
            tuple(puppet.pieces[id].joint for id in together),
            pieces=tuple(together),
            mend=GatherDrawings(puppet=puppet.id, piece=shown, others=tuple(id for id in together if id != shown)),
            mending="Gather them into one piece",
        )


def _common(a: Box, b: Box) -> float:
    wide = min(a[2], b[2]) - max(a[0], b[0])
    high = min(a[3], b[3]) - max(a[1], b[1])
    if wide <= 0 or high <= 0:
        return 0.0
    both = (a[2] - a[0]) * (a[3] - a[1]) + (b[2] - b[0]) * (b[3] - b[1]) - wide * high
    return wide * high / max(both, 1e-9)
