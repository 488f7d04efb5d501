"""Pieces that look like drawings of one."""

from __future__ import annotations

from collections.abc import Iterator

from sorvan.core.change.drawings import GatherDrawings
from sorvan.core.checks.finding import Finding
from sorvan.core.model.art import Box
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.lexicon import COUNTED, MOUTHS
from sorvan.core.rig.names import words
from sorvan.core.rig.skeleton import box_of, piece_worlds

ALIKE = 0.25
"""The part of both together that two alternates have in common at least: they lie in the same place."""
UPON = 0.5
"""The part of the smaller that lies upon the larger at least, where one is hidden or both are mouths: a mouth that is closed
is a line on one that is open."""


def alternates(puppet: Puppet) -> Iterator[Finding]:
    """Pieces named alike but for their last letter or number that lie in one place: mouths, hands, eyes. Of those that are
    named alike but for their last word, all but one are hidden."""
    worlds = piece_worlds(puppet)
    alike: dict[tuple[bool, tuple[object, ...]], list[str]] = {}
    for id in puppet.order:
        held = puppet.pieces[id]
        told = words(held.name)
        if COUNTED.issuperset(told[:-1]) or len(told) < 2 or len(held.drawings) != 1:
            continue
        counted = len(told[-1]) == 1 or told[-1].isdecimal()
        # The L of a mouth is a sound, not a side.
        side = None if MOUTHS & {*told} else held.side
        alike.setdefault((counted, (*told[:-1], side, held.group)), []).append(id)
    for (counted, _), ids in alike.items():
        together = _together(puppet, ids, {id: box_of(puppet.pieces[id], worlds[id]) for id in ids})
        seen = [id for id in together if not puppet.unseen(puppet.pieces[id])]
        if len(together) < 2 or (len(seen) > 1 and not counted):
            continue
        shown = next(iter(seen), together[0])
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


def _together(puppet: Puppet, ids: list[str], boxes: dict[str, Box]) -> list[str]:
    """Those of some pieces that lie in the place of the largest of them."""
    largest = max(ids, key=lambda id: _area(boxes[id]))
    found: list[str] = []
    for id in ids:
        both = _area(_shared(boxes[id], boxes[largest]))
        one, two = (puppet.pieces[i] for i in (id, largest))
        lenient = MOUTHS.intersection(words(one.name)) or puppet.unseen(one) or puppet.unseen(two)
        either = _area(boxes[id]) + _area(boxes[largest]) - both
        if both >= ALIKE * either or (lenient and both >= UPON * _area(boxes[id])):
            found.append(id)
    return found


def _shared(a: Box, b: Box) -> Box:
    return (max(a[0], b[0]), max(a[1], b[1]), min(a[2], b[2]), min(a[3], b[3]))


def _area(box: Box) -> float:
    return max(0.0, box[2] - box[0]) * max(0.0, box[3] - box[1])
