"""Left and right: twins, and making the other side."""

from __future__ import annotations

from collections.abc import Container, Mapping, Sequence

from sorvan.core.errors import Refusal
from sorvan.core.geometry import MIRROR, Affine
from sorvan.core.model.art import Box
from sorvan.core.model.puppet import Bend, Chain, Joint, Limits, Mask, Piece, Placement, Puppet, Role, Side
from sorvan.core.rig.names import by_depth, fitted, side_of, sideless, twin_name, words
from sorvan.core.rig.riding import move_joint
from sorvan.core.rig.skeleton import ancestors, box_of, link, piece, piece_worlds, put_joints, rest_worlds
from sorvan.core.rig.usual import faces, flipped_limits, rest_bend


def other(side: Side) -> Side:
    """The opposite side; the centre is its own."""
    return {"left": "right", "right": "left", "centre": "centre"}[side]  # type: ignore[return-value]


_BODY: tuple[Role, ...] = ("pelvis", "spine")
ON_AXIS = 1.0
"""Units from the axis within which a piece lies on it, and is on neither side."""


def mirror_line(puppet: Puppet, pieces: Sequence[str]) -> float:
    """Where the upright line is in which the other side of pieces is made, in stage units from the left.

    The puppet's axis, if one was set; else as the first of the pieces lies: the nearest centre joint that it hangs on,
    or the pin of the body, or where the puppet stands.
    """
    if puppet.axis is not None:
        return puppet.axis
    first = next(id for id in puppet.order if id in set(pieces))
    return middles_of(puppet, (first,))[first]


def middles_of(puppet: Puppet, pieces: Sequence[str]) -> dict[str, float]:
    """For each piece the upright line in which its other side is made, in stage units from the left.

    The body is what has its role, or the largest that shows and is of no side; a backdrop, which has everything upon
    it, gives way to the next that the piece lies on.
    """
    if puppet.axis is not None:
        return dict.fromkeys(pieces, puppet.axis)
    worlds, laid = rest_worlds(puppet), piece_worlds(puppet)

    boxes = {p.id: box_of(p, laid[p.id]) for p in puppet.pieces.values() if not puppet.unseen(p)}

    def body(p: Piece) -> tuple[bool, float]:
        l, t, r, b = boxes[p.id]
        return puppet.joints[p.joint].role in _BODY, (r - l) * (b - t)

    centre = [p for p in puppet.pieces.values() if p.side == "centre" and p.id in boxes]
    largest = sorted(centre, key=body, reverse=True)[:3]
    behind = largest and not body(largest[0])[0] and all(_holds(boxes[largest[0].id], box) for box in boxes.values())

    def under(id: str) -> Piece | None:
        """The body that a piece belongs to."""
        others = [p for p in largest if p.id != id]
        x, y = worlds[puppet.pieces[id].joint].at
        if behind and others[:1] == largest[:1] and len(others) > 1 and _holds(boxes[others[1].id], (x, y, x, y)):
            return others[1]
        return others[0] if others else None

    found: dict[str, float] = {}
    for id in pieces:
        above = ancestors(puppet.joints, puppet.pieces[id].joint)
        on = next((a for a in above if puppet.joints[a].side == "centre"), None)
        other = None if on else under(id)
        at = on or (other.joint if other else None)
        found[id] = worlds[at].e if at else puppet.origin[0]
    return found


def _holds(outer: Box, inner: Box) -> bool:
    return outer[0] <= inner[0] and outer[1] <= inner[1] and outer[2] >= inner[2] and outer[3] >= inner[3]


def twins(puppet: Puppet) -> dict[str, str]:
    """For each joint and handle with a side, the one on the other side that goes by the same name but for
    the side. Of several, the one whose name is just the other's with the side word swapped."""
    alike: dict[tuple[object, ...], list[Joint]] = {}
    for j in puppet.joints.values():
        if j.side != "centre":
            alike.setdefault((sideless(j.name), j.handle, j.side), []).append(j)
    found: dict[str, str] = {}
    for (name, handle, side), own in alike.items():
        opposite = alike.get((name, handle, other(side)), [])  # type: ignore[arg-type]
        for j in own:
            wanted = twin_name(j.name, other(j.side))
            exact = [k for k in opposite if k.name == wanted]
            if exact or len(own) == len(opposite) == 1:
                found[j.id] = (exact or opposite)[0].id
    for j in puppet.joints.values():
        if j.side != "centre" and j.id not in found and side_of(j.name) == "centre":
            # A side that was told, not named: the twin may go by the same name with a number behind it.
            for k in puppet.joints.values():
                same = k.handle == j.handle and k.side == other(j.side) and side_of(k.name) == "centre"
                if same and k.id not in found and _numbered(j.name, k.name):
                    found[j.id], found[k.id] = k.id, j.id
                    break
    return found


def _numbered(one: str, two: str) -> bool:
    short, long = sorted((words(one), words(two)), key=len)
    return len(long) == len(short) + 1 and long[:-1] == short and long[-1].isdecimal()


def middle_of(puppet: Puppet, joints: Sequence[str]) -> float:
    """Where the upright line between these joints and their twins is: where somebody put it, else the nearest centre
    joint that they hang on, else half way between."""
    if puppet.axis is not None:
        return puppet.axis
    worlds = rest_worlds(puppet)
    for id in joints:
        for above in ancestors(puppet.joints, id):
            if puppet.joints[above].side == "centre":
                return worlds[above].e
    other_side = twins(puppet)
    pairs = [(worlds[id].e + worlds[other_side[id]].e) / 2 for id in joints if id in other_side]
    return sum(pairs) / len(pairs) if pairs else puppet.origin[0]


def twin_limits(puppet: Puppet, id: str, twin: str) -> Limits | None:
    """The turning range that a joint's twin should have: mirrored, or, of twins in depth, the same. Of one who faces to a
    side it is the same from straight, however each is bent at rest, and rest stays within."""
    joint = puppet.joints[id]
    if joint.limits is None or by_depth(joint.name):
        return joint.limits
    if not faces(puppet):
        return flipped_limits(joint.limits)
    by = rest_bend(puppet, id) - rest_bend(puppet, twin)
    return Limits(low=max(min(joint.limits.low + by, 0.0), -720), high=min(max(joint.limits.high + by, 0.0), 720))


def _twin_place(puppet: Puppet, id: str, pairs: Mapping[str, str]) -> tuple[float, float]:
    """Where a joint's twin should be: mirrored, or, in depth, as far from what it hangs on. Of one who faces to a side the
    twins lie at one height, and what lies nearer to us lies where it was drawn."""
    worlds = rest_worlds(puppet)
    x, y = worlds[id].at
    above, mate = puppet.joints[id].parent, puppet.joints[pairs[id]].parent
    if not by_depth(puppet.joints[id].name):
        if faces(puppet):
            return worlds[pairs[id]].e, y
        return 2 * middle_of(puppet, [id]) - x, y
    if above is None or mate is None or above == mate:
        return worlds[pairs[id]].at
    return x + worlds[mate].e - worlds[above].e, y + worlds[mate].f - worlds[above].f


def matched(puppet: Puppet, id: str) -> Puppet:
    """Make a joint's twin agree with it: its place mirrored, its limits and role, and how the
    pieces on it bend. Raises `Refusal` when it has no twin."""
    pairs = twins(puppet)
    held = puppet.joints[id]
    if id not in pairs:
        raise Refusal(
            f"“{held.name}” has no twin on the other side.",
            where=held.name,
            remedy="Name the two alike but for left and right, and give both their sides.",
        )
    twin = pairs[id]
    puppet = move_joint(puppet, twin, *_twin_place(puppet, id, pairs))
    same = puppet.joints[twin].changed(limits=twin_limits(puppet, id, twin), role=held.role)
    puppet = puppet.with_joints(same)
    pieces = dict(puppet.pieces)
    for p in puppet.pieces.values():
        mate = next(
            (q for q in pieces.values() if q.joint == twin and sideless(q.name) == sideless(p.name)),
            None,
        )
        if p.joint == id and mate is not None and isinstance(p.attach, Bend) and mate.shown().art == p.shown().art:
            pieces[mate.id] = mate.changed(attach=p.attach.renamed(pairs))
    return puppet.changed(pieces=pieces)


def mirrored(
    puppet: Puppet, pieces: Sequence[str], new_ids: Mapping[str, str], line: float, share: bool = False
) -> Puppet:
    """Duplicate pieces as the other side, mirrored in the upright line at `line`.

    Copies keep their places relative to one another: a copy hangs on the copy of what its
    original hangs on, or else on the very same joint. Joints and handles that the pieces ride
    on or bend by are copied too, unless they are the centre's or have a twin already, and so
    are limbs that reach whose joints all are. Originals that are called centre get the side that they lie on.
    """
    worlds = rest_worlds(puppet)
    names = _nodes_to_copy(puppet, pieces, new_ids)
    chains = [
        c for c in puppet.chains.values() if all(j in names and names[j] not in puppet.joints for j in c.joints[1:])
    ]
    for c in chains:
        names.setdefault(c.handle, f"{names[c.joints[-1]]}-h"[-40:])
    flip = Affine.mirror(line)
    places: dict[str, Affine] = {}
    joints, copies = dict(puppet.joints), dict(puppet.pieces)
    # What lay on neither side goes to one together, with all that is copied along.
    undecided = [worlds[puppet.pieces[id].joint].e for id in pieces if puppet.pieces[id].side == "centre"]
    lies = sum(undecided) / len(undecided) if undecided else line
    sides = {id: _side_for(puppet.pieces[id].side, lies, line) for id in pieces}
    off = abs(lies - line) > ON_AXIS
    for old, new in names.items():
        if new in puppet.joints:
            continue
        hung = puppet.joints[old]
        if new in joints or new in copies:
            raise Refusal("The new piece's id is already taken.", remedy="Try again.", kind="conflict")
        side = _side_for(hung.side, lies, line)
        if hung.side == "centre" and off:
            joints[old] = hung.changed(side=other(side))
        name = free_name(twin_name(hung.name, side), {j.name for j in joints.values()})
        joints[new] = hung.changed(id=new, name=name, parent=None, side=side, limits=flipped_limits(hung.limits))
        places[new] = flip @ worlds[old] @ MIRROR
    for id in pieces:
        original, new = puppet.pieces[id], new_ids[id]
        if new in copies:
            raise Refusal("The new piece's id is already taken.", remedy="Try again.", kind="conflict")
        name = free_name(twin_name(original.name, sides[id]), {p.name for p in copies.values()})
        flipped = _flipped(original, new, name, sides[id], names, share)
        copies[new] = flipped.changed(masks=_flipped_masks(puppet, original, sides[id], new_ids))
        if share:
            copies[id] = original.changed(shared=original.shared or original.id)
        if original.side == "centre" and off:
            copies[id] = copies[id].changed(side=other(sides[id]))
    order = (*puppet.order, *(new_ids[id] for id in puppet.order if id in new_ids))
    result = put_joints(puppet.changed(joints=joints, pieces=copies, order=order), places)
    result = hung_alike(result, puppet, {old: new for old, new in names.items() if new in places}, names)
    limbs = [_flipped_chain(c, f"{names[c.handle]}-c"[-40:], joints[names[c.joints[-1]]].side, names) for c in chains]
    return result.with_chains(*limbs)


def hung_alike(made: Puppet, of: Puppet, copies: Mapping[str, str], names: Mapping[str, str]) -> Puppet:
    """Hang copied joints on what stands for what their originals hang on, or else on the very same; nothing moves."""
    for old, new in copies.items():
        parent, world = of.joints[old].parent, of.joints[old].world
        if parent is not None or world:
            made = link(made, new, names.get(parent, parent) if parent else None, world)
    return made


def _side_for(side: Side, x: float, line: float) -> Side:
    if side == "centre":
        return "right" if x < line else "left"
    return other(side)


def _nodes_to_copy(puppet: Puppet, pieces: Sequence[str], new_ids: Mapping[str, str]) -> dict[str, str]:
    """What each joint or handle of these pieces becomes on the other side."""
    pairs = twins(puppet)
    names: dict[str, str] = {}
    for id in pieces:
        held = piece(puppet, id)
        if held.owns_joint():
            names[held.joint] = new_ids[id]
    for id in pieces:
        held = puppet.pieces[id]
        nodes = held.attach.nodes if held.attach is not None else ()
        for n, node in enumerate((held.joint, *nodes)):
            j = puppet.joints[node]
            if node in names or (j.side == "centre" and not j.handle):
                continue
            names[node] = pairs.get(node) or f"{new_ids[id]}-{n}"[-40:]
    return names


def _flipped(original: Piece, id: str, name: str, side: Side, names: Mapping[str, str], share: bool) -> Piece:
    fit = Placement.of(MIRROR @ original.fit.affine())
    return original.changed(
        id=id,
        joint=names.get(original.joint, original.joint),
        name=name,
        side=side,
        fit=fit,
        attach=original.attach.renamed(names) if original.attach is not None else None,
        shared=(original.shared or original.id) if share else None,
    )


def _flipped_masks(puppet: Puppet, original: Piece, side: Side, new_ids: Mapping[str, str]) -> tuple[Mask, ...]:
    """What masks the other side's copy: the copies of the masks, or their twins, or what is the centre's.

    A mask that has no counterpart there is left out, since nothing of the copy would show.
    """
    by_name = {(sideless(p.name), p.side): p.id for p in puppet.pieces.values()}
    found: list[Mask] = []
    for mask in original.masks:
        over = puppet.pieces[mask.piece]
        twin = by_name.get((sideless(over.name), side))
        id = new_ids.get(over.id) or (over.id if over.side == "centre" else twin)
        if id is not None:
            found.append(mask.changed(piece=id))
    return tuple(found)


def _flipped_chain(c: Chain, id: str, side: Side, names: Mapping[str, str]) -> Chain:
    bends = {"clockwise": "counter-clockwise", "counter-clockwise": "clockwise"}
    return c.changed(
        id=id,
        name=twin_name(c.name, side),
        joints=tuple(names.get(j, j) for j in c.joints),
        handle=names[c.handle],
        bend=bends.get(c.bend, c.bend),
    )


def free_name(wanted: str, taken: Container[str]) -> str:
    """`wanted`, with a number behind it if that name is taken, cut where it would be too long."""
    name, n = fitted(wanted), 2
    while name in taken:
        name, n = fitted(wanted, f" {n}"), n + 1
    return name
