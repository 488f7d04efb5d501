"""The one order in which a puppet comes to its places, written once.

Channels, dials and limits give values, and plants say where feet stand; then, here: joints in their
parents, joints on the stage with limbs reaching and then feet planted on the way, what is made for one view as it is
seen from another, which drawing shows, what is in front and how opaque it is, where pieces sit, and bending. A full evaluation, a
partial one and one frame by itself run these same stages over different spans and rows. Every stage
but two looks at the frames it is asked for alone; bending by a sheet looks at the block of frames
around them, and so gets the places of all frames. So does what drawings become, which looks at the drawings of
all frames.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats, compose_blocks
from sorvan.core.model.channels import AS_AT_REST, channel_id, kind_of
from sorvan.core.model.puppet import Puppet
from sorvan.core.plan.joints import joints
from sorvan.core.plan.places import Places, Work
from sorvan.core.plan.ready_morphs import NEVER, becoming
from sorvan.core.plan.rig import Rig
from sorvan.core.plan.seen_from_elsewhere import seen_from_elsewhere
from sorvan.core.plan.values import ASPECT, Values


def run(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places) -> tuple[int, ...]:
    """Run the stages in their order. `values` are those of all frames of `places`.

    Gives the rows of the pieces that were worked out anew.
    """
    span = slice(work.start, work.stop)
    windowed = {id: v[:, span] for id, v in values.items()}
    _becoming(puppet, rig, values, work, places)
    elsewhere = _elsewhere(values, work, places)
    moved = joints(puppet, rig, windowed, work, places, span)
    if elsewhere:
        seen_from_elsewhere(puppet, rig, windowed, places.made[:, :, span], places.worlds[:, :, span])
        moved = None
    choosing = _drawings(puppet, rig, windowed, work, places, span)
    seated = _seats(rig, moved, choosing, places, span)
    return tuple(sorted(seated | _bending(rig, moved, work, places)))


def _elsewhere(values: Values, work: Work, places: Places) -> bool:
    """Whether anything is, or was, seen from another view than that it is made for; then joints have two places."""
    if places.made is places.worlds:
        if ASPECT not in values and ASPECT not in (work.channels or ()):
            return False
        places.made = places.worlds.copy()
    return True


def _drawings(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places, span: slice) -> set[int]:
    """Which drawings show. Gives the pieces among which something may have changed."""
    owners = work.owners("show")
    choosing = {row for row, id in enumerate(puppet.order) if id in owners} if owners else set()
    if work.channels is None or choosing:
        places.shown[:, span] = _with_becoming(rig, _shown(puppet, rig, values, span.stop - span.start), places, span)
    # Where nothing is keyed all is as blank places have it.
    if _worth(values, work, "order"):
        places.order[:, span] = _ordered(puppet, values, span.stop - span.start)
    if _worth(values, work, "opacity"):
        places.opacity[:, span] = _faded(puppet, values, span.stop - span.start)
    return choosing


def _becoming(puppet: Puppet, rig: Rig, values: Values, work: Work, places: Places) -> None:
    """Which drawings become others, in all frames."""
    owners = work.owners("show")
    for row, id in enumerate(puppet.order):
        if work.channels is None or id in owners:
            known = places.becoming.pop(row, NEVER)
            found = becoming(puppet, id, rig.shows, values, known.pairs if work.glimpse or work.of_whole else ())
            if found.pairs:
                places.becoming[row] = found


def _with_becoming(rig: Rig, shown: NDArray[np.int16], places: Places, span: slice) -> NDArray[np.int16]:
    for row, on in places.becoming.items():
        which = on.which[span]
        shown[row] = np.where(which >= 0, rig.plain(row) + which, shown[row])
    return shown


def _worth(values: Values, work: Work, kind: str) -> bool:
    """Whether what channels of a kind say is to be worked out."""
    return bool(work.owners(kind)) or (work.channels is None and any(kind_of(id) == kind for id in values))


def _seats(rig: Rig, moved: set[int] | None, choosing: set[int], places: Places, span: slice) -> set[int]:
    """Where pieces sit: on the joints that moved, or by another drawing's pivot. Gives their rows."""
    worlds, pieces = places.worlds[:, :, span], places.pieces[:, :, span]
    if moved is None:
        compose_blocks(worlds[rig.seats], rig.at_rest, pieces)
        seated = set(range(len(rig.seats)))
    else:
        seated = set(np.flatnonzero(np.isin(rig.seats, list(moved))).tolist()) | choosing
        touched = np.array(sorted(seated), dtype=np.intp)
        block = np.empty((touched.size, 6, span.stop - span.start))
        compose_blocks(worlds[rig.seats[touched]], rig.at_rest[touched], block)
        pieces[touched] = block
    _seat_changing(rig, worlds, places.shown[:, span], pieces, seated)
    return seated


def _bending(rig: Rig, moved: set[int] | None, work: Work, places: Places) -> set[int]:
    """Where the points of bending drawings go. Gives the rows of their pieces."""
    bent: set[int] = set()
    for i, bender in enumerate(rig.benders):
        if work.glimpse and places.shown[bender.piece, work.start] != bender.drawing:
            places.points[i] = np.zeros((0, 2, 1))
        elif moved is None or bender.main in moved or moved.intersection(bender.rows):
            points = np.array(places.points[i])
            points[:, :, work.start : work.stop] = bender.points(places.worlds, work.start, work.stop)
            places.points[i] = points
            bent.add(bender.piece)
    return bent


def _shown(puppet: Puppet, rig: Rig, values: Values, frames: int) -> NDArray[np.int16]:
    """Which drawing of each piece shows, `(pieces, frames)`."""
    shown = np.repeat(rig.rest[:, None], frames, axis=1)
    for row, id in enumerate(puppet.order):
        held = values.get(channel_id(id, "show"))
        if held is None:
            continue
        for index, drawing in enumerate(puppet.pieces[id].drawings):
            shown[row][np.round(held[0]) == drawing.number] = index
        shown[row][held[0] == AS_AT_REST] = rig.rest[row]
    return shown


def _ordered(puppet: Puppet, values: Values, frames: int) -> NDArray[np.int16]:
    """Which piece is the n-th from the back, `(pieces, frames)`: each lies as many places farther to the
    front than at rest as its `order` channel holds (1.5: in front of the next one)."""
    lies = np.repeat(np.arange(len(puppet.order), dtype=np.float64)[:, None], frames, axis=1)
    for row, id in enumerate(puppet.order):
        held = values.get(channel_id(id, "order"))
        if held is not None:
            lies[row] += held[0]
    return np.argsort(lies, axis=0, kind="stable").astype(np.int16)


def _faded(puppet: Puppet, values: Values, frames: int) -> Floats:
    """The part of its own opacity that each piece has, `(pieces, frames)`."""
    found = np.ones((len(puppet.order), frames))
    for row, id in enumerate(puppet.order):
        held = values.get(channel_id(id, "opacity"))
        if held is not None:
            found[row] = np.clip(held[0] / 100, 0, 1)
    return found


def _seat_changing(rig: Rig, worlds: Floats, shown: NDArray[np.int16], pieces: Floats, rows: Iterable[int]) -> None:
    """Seat the pieces anew whose drawing changes over the frames: each drawing has its own pivot."""
    changing = np.flatnonzero(np.any(shown != rig.rest[:, None], axis=1))
    for row in np.intersect1d(changing, np.asarray(list(rows), dtype=np.intp)):
        fits = np.ascontiguousarray(rig.fits[row][np.minimum(shown[row], rig.plain(row))].T)
        compose_blocks(worlds[rig.seats[row]][None], fits[None], pieces[row][None])
