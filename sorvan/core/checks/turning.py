"""Mistakes in the views of a puppet that can be turned."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from itertools import pairwise

from sorvan.core.change.views import KeepView
from sorvan.core.checks.finding import Finding
from sorvan.core.model.channels import channel_id, kind_of, owner_of
from sorvan.core.model.puppet import Dial, DialStop, Puppet
from sorvan.core.plan.seen_from_elsewhere import places_in_views
from sorvan.core.rig.sides import twins
from sorvan.core.rig.skeleton import box_of, children, piece_worlds, rest_worlds

JUMPS = 0.5
"""The part of its bone by which a joint may be in another place in the next view."""
ASIDE = 0.9
"""The part of its width by which a piece may reach farther to one side of the middle, before it counts as lying on it."""
NEAR = 120.0
"""Degrees between two views from both of which what is seen should be seen in between too."""
MOST = 0.5
"""The part of the other views that must choose a drawing of a piece, before it counts that one does not."""


def findings_of_views(puppet: Puppet) -> list[Finding]:
    """Every likely mistake in a puppet's views."""
    return [f for d in puppet.dials.values() if d.turns for check in CHECKS for f in check(puppet, d)]


def _named(view: DialStop) -> str:
    return f"“{view.name or f'{view.at:g}°'}”"


def missing_drawings(puppet: Puppet, dial: Dial) -> Iterator[Finding]:
    """Pieces that have a drawing of their own in most views, but not in one."""
    yield from _gaps(puppet, dial)
    views = [v for v in dial.views() if v.at]
    for piece in puppet.pieces.values():
        told = [channel_id(piece.id, "show") in v.values for v in views]
        seen = [v.values.get(channel_id(piece.id, "opacity"), (100.0,))[0] > 0 for v in views]
        if sum(told) <= MOST * len(views) or all(told):
            continue
        for view, chosen, is_seen in zip(views, told, seen, strict=True):
            if not chosen and is_seen and view.of is None:
                yield Finding(
                    "missing in a view",
                    f"{_named(view)} has no drawing of “{piece.name}”: it shows that of the first view.",
                    pieces=(piece.id,),
                )


def _gaps(puppet: Puppet, dial: Dial) -> Iterator[Finding]:
    """Pieces that are not seen in one view, but in the one before and the one after, near by."""
    views = dial.views()
    around = list(zip(views, [*views[1:], views[0]], [*views[2:], *views[:2]], strict=True)) if len(views) > 2 else []
    for piece in puppet.pieces.values():
        for before, view, after in around:
            seen = [v.values.get(channel_id(piece.id, "opacity"), (100.0,))[0] > 0 for v in (before, view, after)]
            near = (after.at - before.at) % 360 < NEAR
            if near and seen == [True, False, True] and view.of is None:
                yield Finding(
                    "missing in a view",
                    f"“{piece.name}” is not seen in {_named(view)}, but in the views before and after it.",
                    pieces=(piece.id,),
                )


def jumping_joints(puppet: Puppet, dial: Dial) -> Iterator[Finding]:
    """Joints that are somewhere else in the next view than where turning can have brought them.

    Turned, a thing stays as high as it is, and goes across by no more than twice its distance from what it turns about
    times the sine of half the angle; how far that is the other views tell.
    """
    views = [v for v in dial.views() if v.at <= 180 and not v.flips]
    rigged = places_in_views(puppet, views)
    still, carries = rest_worlds(puppet), {p.joint for p in puppet.pieces.values()}
    for joint in puppet.joints.values():
        if joint.parent is None or joint.handle or joint.id not in carries:
            continue
        bone = math.dist(still[joint.id].at, still[joint.parent].at)
        if bone <= 1:
            continue
        off = [complex(*w[joint.id]) - complex(*w[joint.parent]) for w in rigged]
        unseen = [_unseen(puppet, joint.id, v) for v in views]
        for n, (one, two) in enumerate(pairwise(views)):
            if unseen[n] or unseen[n + 1]:
                continue
            others = [abs(o.real) for k, o in enumerate(off) if k not in (n, n + 1) and not unseen[k]]
            far = max(*others, min(abs(off[n].real), abs(off[n + 1].real)), 0.0)
            across = 2 * far * math.sin(math.radians(two.at - one.at) / 2)
            by = off[n + 1] - off[n]
            jump = math.hypot(max(abs(by.real) - across, 0.0), by.imag)
            if jump > JUMPS * bone:
                yield Finding(
                    "jump between views",
                    f"“{joint.name}” jumps by {abs(by):.0f} units from {_named(one)} to {_named(two)}, "
                    f"{100 * jump / bone:.0f} % of its bone more than turning explains.",
                    joints=(joint.id,),
                )


def _unseen(puppet: Puppet, joint: str, view: DialStop) -> bool:
    """Whether nothing that a joint carries is seen in a view."""
    return all(
        view.values.get(channel_id(p.id, "opacity"), (100.0,))[0] <= 0
        for p in puppet.pieces.values()
        if p.joint == joint
    )


def order_back_and_forth(puppet: Puppet, dial: Dial) -> Iterator[Finding]:
    """Pieces that come in front and go back again, or the other way, from one view to the next but one."""
    views = [v for v in dial.views() if v.at <= 180]
    for piece in puppet.pieces.values():
        places = [v.values.get(channel_id(piece.id, "order"), (0.0,))[0] for v in views]
        steps = [(k, b - a) for k, (a, b) in enumerate(pairwise(places)) if a != b]
        for (k, one), (n, two) in pairwise(steps):
            if n == k + 1 and one * two < 0:
                yield Finding(
                    "order flips twice",
                    f"“{piece.name}” goes {'in front' if one > 0 else 'back'} in {_named(views[n])} and comes back in the next view.",
                    pieces=(piece.id,),
                )


def changing_sides(puppet: Puppet, dial: Dial) -> Iterator[Finding]:
    """What must not be mirrored, or is on one side only, and so would change sides in the mirror: it wants a drawing of
    its own there."""
    told = _told_apart(puppet)
    for view in dial.stops:
        if not view.flips:
            continue
        for id, why in sorted(told.items()):
            piece = puppet.pieces[id]
            own = {kind_of(c) for c in view.values if owner_of(c) in (id, piece.joint)}
            unseen = dial.view(view).values.get(channel_id(id, "opacity"), (100.0,))[0] <= 0
            if unseen or own & {"show", "opacity", "move", "scale"}:
                continue
            alone = not children(puppet.joints, piece.joint) and piece.owns_joint()
            mend = KeepView(
                puppet=puppet.id, dial=dial.id, at=view.at, tried={channel_id(piece.joint, "scale"): (-1.0, 1.0)}
            )
            yield Finding(
                "changes sides",
                f"“{piece.name}” {why}, and is seen in the mirror in {_named(view)}: "
                "give it a drawing or a place of its own there, or let it not be seen.",
                pieces=(id,),
                mend=mend if alone else None,
                mending="Turn it the right way round there" if alone else "",
            )


def _told_apart(puppet: Puppet) -> dict[str, str]:
    """Pieces that the mirror would show on the wrong side, and why: they are marked, or no twin stands for them there."""
    paired, worlds, middle = twins(puppet), piece_worlds(puppet), puppet.origin[0]
    boxes = {p.id: box_of(p, worlds[p.id]) for p in puppet.pieces.values()}
    above = any(b[0] < middle for b in boxes.values()) and any(b[2] > middle for b in boxes.values())
    found: dict[str, str] = {}
    for piece in puppet.pieces.values():
        left, _, right, _ = boxes[piece.id]
        aside = above and abs((right - middle) - (middle - left)) > ASIDE * (right - left)
        if piece.one_way:
            found[piece.id] = "must not be mirrored"
        elif piece.side != "centre" and piece.joint not in paired:
            found[piece.id] = f"is on the {piece.side} only"
        elif piece.side == "centre" and puppet.joints[piece.joint].side == "centre" and aside:
            found[piece.id] = "lies on one side of the middle"
    return found


TurnCheck = Callable[[Puppet, Dial], Iterator[Finding]]
CHECKS: tuple[TurnCheck, ...] = (changing_sides, missing_drawings, jumping_joints, order_back_and_forth)
