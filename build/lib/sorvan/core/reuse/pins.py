"""Where the joints of a rig turn on other art: at the same part of its pictures."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
import shapely
from shapely.ops import nearest_points

from sorvan.core.art.source import Arts
from sorvan.core.geometry import Point
from sorvan.core.model.puppet import Piece, Puppet
from sorvan.core.reuse.links import laid_over
from sorvan.core.rig.cutouts import Contacts, Cutout, cutouts
from sorvan.core.rig.skeleton import ancestors, box_of, piece_worlds, rest_worlds

ROUGHLY = 0.1
"""The part of a limb's width within which two places are the same."""
PINNED = 1.0
"""Units by which a piece's joint lies off the middle of its picture that was put there by hand."""


def pins_for(source: Puppet, target: Puppet, joints: Mapping[str, str], arts: Arts | None = None) -> dict[str, Point]:
    """Where the target's joints turn (stage units), `joints` being those by the source's that they answer to.

    Each turns at the same part of its picture as the source's does: of the box around it or, seen by `arts`, of a limb
    along its length; and where it overlaps what it hangs on, if the source's does. Those that were put somewhere by
    hand are not among them.
    """
    across = bool(laid_over(source, target, joints)[0] < 0)
    pairs = [
        (one, other)
        for one, other in joints.items()
        if one in source.pieces
        and other in target.pieces
        and source.pieces[one].owns_joint()
        and target.pieces[other].owns_joint()
    ]
    own = cutouts(source, arts, [one for one, _ in pairs]) if arts and pairs else {}
    its = cutouts(target, arts, [other for _, other in pairs]) if arts and pairs else {}
    mine, theirs = Contacts(own), Contacts(its)
    worlds, found = rest_worlds(source), dict[str, Point]()
    for one, other in pairs:
        held = target.pieces[other]
        if _by_hand(target, held):
            continue
        at = worlds[one].at
        place = box_over(source, source.pieces[one], target, held, across, at)
        if one in own and own[one].long and its[other].long:
            along = _along(own[one], its[other], at, across)
            # Outlines are rough: where both agree, as on the same art, the box is the truer one.
            if math.dist(along, place) > ROUGHLY * its[other].width:
                place = along
        above = next((j for j in ancestors(source.joints, one) if j in own and joints.get(j) in its), None)
        if above is not None and mine.over(one, above).buffer(PINNED).contains(shapely.Point(at)):
            place = _within(theirs, other, joints[above], place)
        found[other] = (round(place[0], 2), round(place[1], 2))
    return found


def _by_hand(puppet: Puppet, piece: Piece) -> bool:
    """Whether a piece's turning point was put where it is, or it hangs on something already."""
    l, t, r, b = piece.shown().bounds
    x, y = piece.shown().pivot
    off = max(abs(x - (l + r) / 2), abs(y - (t + b) / 2))
    return off > PINNED or puppet.joints[piece.joint].parent is not None


def box_over(source: Puppet, own: Piece, target: Puppet, its: Piece, across: bool, at: Point) -> Point:
    """A place of the source's stage, laid into the target's as the box around the one piece lies over the other's."""
    a, b = (box_of(p, piece_worlds(puppet)[p.id]) for puppet, p in ((source, own), (target, its)))
    u, v = ((at[k] - a[k]) / max(a[k + 2] - a[k], 1e-9) for k in (0, 1))
    u = 1 - u if across else u
    return (b[0] + u * (b[2] - b[0]), b[1] + v * (b[3] - b[1]))


def _along(own: Cutout, its: Cutout, at: Point, across: bool) -> Point:
    """The same place of another limb: as far along it from end to end, and as far aside by its width."""
    a, b = own.tips
    c, d = its.tips
    way, other = b - a, d - c
    seen = -way.conjugate() if across else way
    if (seen * other.conjugate()).real < 0:
        c, d, other = d, c, -other
    part = (complex(*at) - a) / way
    along, aside = part.real, part.imag * abs(way) / own.width
    # Seen in the mirror, what lies to the left of the way lies to its right.
    aside = -aside if across else aside
    place = c + other * along + 1j * other / abs(other) * aside * its.width
    return (place.real, place.imag)


def _within(contacts: Contacts, one: str, other: str, place: Point) -> Point:
    """A place, or the nearest to it at which two pieces overlap, if they do."""
    over = contacts.over(one, other)
    point = shapely.Point(place)
    if over.area <= 0 or over.buffer(PINNED).contains(point):
        return place
    near, _ = nearest_points(over, point)
    inner = over.buffer(-0.25 * float(np.sqrt(over.area)))
    if not inner.is_empty:
        near, _ = nearest_points(inner, point)
    return (near.x, near.y)
