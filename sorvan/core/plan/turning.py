"""What a turnaround adds to channels: views of a puppet from all round, on one dial."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Floats
from sorvan.core.kept import kept
from sorvan.core.model.channels import AS_AT_REST, NEUTRAL, channel_id, kind_of, owner_of
from sorvan.core.model.puppet import ROOT, Dial, DialStop, Joint, Puppet, Role
from sorvan.core.plan.values import AS_IT_TURNS, ASPECT, SEEN, Values, added
from sorvan.core.rig.roles import roles_of

Indices = NDArray[np.intp]


@dataclass(frozen=True)
class Between:
    """Views of a turnaround over some frames: the numbers of the two that it is between (`low`, `high`), how far it has
    come from one to the other (`part`), which is the `nearest`, and whether it is `mirrored`."""

    views: tuple[DialStop, ...]
    low: Indices
    high: Indices
    part: Floats
    nearest: Indices
    mirrored: NDArray[np.bool_]

    @classmethod
    def of(cls, dial: Dial, at: Floats) -> Between:
        """What is seen from these degrees: the nearest view, or the two beside become one another."""
        views = dial.views()
        places = np.array([v.at for v in views])
        angle = np.mod(at, 360.0)
        low = (np.searchsorted(places, angle + 1e-9, side="right") - 1) % len(views)
        high = (low + 1) % len(views)
        gap = np.mod(places[high] - places[low], 360.0)
        share = np.mod(angle - places[low], 360.0) / np.where(gap > 0, gap, 360.0)
        share = np.where(share < 1e-9, 0.0, share)
        nearest = np.where(share < 0.5, low, high)
        flips = np.array([v.flips for v in views])
        # On the way between a view and one in the mirror the other lies in it too: the way is that of the mirrored half.
        on_the_way = np.where(share > 0, flips[low] | flips[high], flips[low])
        morphs = dial.between == "morph"
        part = share if morphs else np.where(nearest == low, 0.0, 1.0)
        return cls(views, low, high, part, nearest, on_the_way if morphs else flips[nearest])

    def even(self, table: Floats) -> Floats:
        """Between the numbers of the views, `(…, views)`, evenly."""
        return table[..., self.low] + self.part * (table[..., self.high] - table[..., self.low])

    def of_limb(self, role: Role | None) -> Floats:
        """To which part what a joint of a role swings is made smaller."""
        return self.even(np.array([v.shortens(role) for v in self.views]))


def turned_to(dial: Dial, values: Values) -> tuple[Floats | None, Floats | None]:
    """From where the puppet is seen at each time, and what its motion is made for (degrees, `AS_IT_TURNS` where for
    anything); None for what nothing tells. Where the dial is not told what is made for a view is seen from there."""
    seen = values[SEEN][0] if SEEN in values else None
    held = values.get(channel_id(dial.id, "dial"))
    if held is not None:
        return held[0], seen
    return (None if seen is None else np.where(seen == AS_IT_TURNS, 0.0, seen)), seen


def turn(puppet: Puppet, dial: Dial, found: dict[str, Floats], frames: int) -> None:
    """What a turnaround adds to the values, at the degrees that they tell, or where it is left as what is played is made
    to be seen.

    What is made for one view stands on that view; what it becomes seen from others comes of `ASPECT`. Everything else
    stands on the view it is in, turns made smaller as far as that shortens them.
    """
    at, seen = turned_to(dial, found)
    if at is None:
        # How it is rigged may be without something that is seen from elsewhere.
        if not dial.views()[0].values or dial.views()[0].at != 0:
            return
        at = np.zeros(frames)
    there = here = Between.of(dial, at)
    free: Floats = np.ones(len(at))
    if seen is not None:
        free = np.where(seen == AS_IT_TURNS, 1.0, 0.0)
        here = Between.of(dial, np.where(free > 0, at, seen))
        if (aspect := aspect_of(dial, at, seen, there)) is not None:
            found[ASPECT] = aspect
    _shorten(puppet, there, free > 0, found)
    stand(puppet, here, found)
    for channel in sorted({c for v in there.views for c in v.values}):
        kind, before = kind_of(channel), found.get(channel)
        table = _table(there, channel)
        if kind == "show":
            piece = puppet.pieces.get(owner_of(channel))
            numbers = np.where(table[0] == AS_AT_REST, piece.shown().number if piece else AS_AT_REST, table[0])
            found[channel] = _seen(numbers, there.low, there.high, there.part, before)
        elif kind == "order":
            found[channel] = added(kind, table[:, there.nearest], before)
        elif kind == "opacity":
            found[channel] = added(kind, there.even(table) - 100.0, before)


def stand(puppet: Puppet, views: Between, found: dict[str, Floats]) -> None:
    """What views add to joints, and to the puppet as a whole, and to what hangs on the world, where they are in the
    mirror."""
    for channel in sorted({c for v in views.views for c in v.values}):
        kind, before = kind_of(channel), found.get(channel)
        if kind not in ("turn", "move", "scale"):
            continue
        given = views.even(_table(views, channel))
        if kind == "scale":
            found[channel] = given if before is None else before * given
        else:
            found[channel] = added(kind, given, before)
    if views.mirrored.any():
        whole = channel_id(ROOT, "scale")
        face = np.stack([np.where(views.mirrored, -1.0, 1.0), np.ones(len(views.mirrored))])
        found[whole] = face if whole not in found else found[whole] * face
        for joint in puppet.joints.values():
            if joint.world:
                _mirror(puppet, joint, views.mirrored, found)


def _mirror(puppet: Puppet, joint: Joint, mirrored: NDArray[np.bool_], found: dict[str, Floats]) -> None:
    """Put something that hangs on the world on the other side of where the puppet stands."""
    turn, move, scale = (
        found.get(channel_id(joint.id, kind), np.array(NEUTRAL[kind])[:, None]) for kind in ("turn", "move", "scale")
    )
    across = 2 * (puppet.origin[0] - joint.rest.x) - move[0]
    found[channel_id(joint.id, "turn")] = np.where(mirrored, -2 * joint.rest.angle - turn, turn)
    found[channel_id(joint.id, "move")] = np.stack(
        [np.where(mirrored, across, move[0]), move[1] + np.zeros(len(mirrored))]
    )
    found[channel_id(joint.id, "scale")] = scale * np.stack([np.where(mirrored, -1.0, 1.0), np.ones(len(mirrored))])


def _table(views: Between, channel: str) -> Floats:
    """What each of the views holds of a channel, `(numbers, views)`."""
    return np.array([v.values.get(channel, NEUTRAL[kind_of(channel)]) for v in views.views], dtype=np.float64).T


def aspect_of(dial: Dial, at: Floats, seen: Floats, there: Between) -> Floats | None:
    """What goes under `ASPECT` where what is made for one view is seen from another; None if it never is."""
    # Where views are held, what moves is seen from where the view is that is held.
    places = np.array([v.at for v in there.views])
    held = at if dial.between == "morph" else places[there.nearest]
    apart = np.abs(np.mod(held - seen + 180.0, 360.0) - 180.0)
    other = (seen != AS_IT_TURNS) & (apart > 1e-9)
    return np.where(other, np.stack([np.ones(len(held)), held, seen]), 0.0) if other.any() else None


def _shorten(puppet: Puppet, views: Between, free: NDArray[np.bool_], found: dict[str, Floats]) -> None:
    if all(v.shorten == 1 and not v.by_role for v in views.views) or not free.any():
        return
    roles = roles_of(puppet)
    for id, own in list(found.items()):
        if kind_of(id) == "turn" and owner_of(id) != ROOT:
            by = np.where(free, views.of_limb(roles.get(owner_of(id))), 1.0)
            if np.any(by != 1):
                found[id] = own * by


def _seen(numbers: Floats, low: Indices, high: Indices, part: Floats, before: Floats | None) -> Floats:
    """The drawings that views choose; what a motion chooses itself is what is seen, but where it chooses none."""
    one, two = numbers[low], numbers[high]
    goes = (part > 0) & (part < 1) & (one != two)
    here = np.where(part >= 0.5, two, one)
    views = np.stack([np.where(goes, one, here), np.where(goes, two, here), np.where(goes, part, 0.0)])
    if before is None:
        return views
    return np.where(before[0] == AS_AT_REST, views, before)


def turnaround_of(puppet: Puppet) -> Dial | None:
    """The dial that turns the puppet, if there is one."""
    return next((d for d in puppet.dials.values() if d.turns and d.stops), None)


def seen_from(puppet: Puppet, at: float | None) -> Puppet:
    """The puppet rigged as it is seen from these degrees, and turned no more: what is made for that view is measured on
    this. Where it can't be turned, or it is as it is rigged, the puppet itself."""
    dial = turnaround_of(puppet)
    if dial is None or at is None:
        return puppet
    return _rigged(puppet, dial, at)


@kept(8)
def _rigged(puppet: Puppet, dial: Dial, at: float) -> Puppet:
    views, values = Between.of(dial, np.array([at])), dict[str, Floats]()
    stand(puppet, replace(views, mirrored=np.zeros(1, dtype=np.bool_)), values)
    joints = {}
    for id, held in puppet.joints.items():
        rest, given = held.rest, {k: values.get(f"{id}.{k}") for k in ("turn", "move", "scale")}
        turned, moved, sized = ((v[:, 0] if v is not None else None) for v in given.values())
        if turned is not None:
            rest = rest.changed(angle=rest.angle + float(turned[0]))
        if moved is not None:
            rest = rest.changed(x=rest.x + float(moved[0]), y=rest.y + float(moved[1]))
        if sized is not None:
            rest = rest.changed(sx=rest.sx * float(sized[0]), sy=rest.sy * float(sized[1]))
        joints[id] = held.changed(rest=rest)
    nearest = views.views[int(views.nearest[0])].values
    pieces = {}
    for id, piece in puppet.pieces.items():
        number = nearest.get(channel_id(id, "show"), (AS_AT_REST,))[0]
        shown = next((d.id for d in piece.drawings if d.number == number), piece.shows)
        pieces[id] = piece.changed(shows=shown)
    dials = {id: d for id, d in puppet.dials.items() if id != dial.id}
    return puppet.changed(joints=joints, pieces=pieces, dials=dials)
