"""Taking things away: whatever goes, goes everywhere."""

from __future__ import annotations

from collections.abc import Collection

from sorvan.core.model.channels import ChannelId, belongs_to, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Dial, Piece, Puppet
from sorvan.core.rig.skeleton import children, link


def nodes_used(puppet: Puppet) -> set[str]:
    """Every joint and handle that a piece rides on or bends by, or a chain needs."""
    used = {p.joint for p in puppet.pieces.values()}
    used |= {j for c in puppet.chains.values() for j in (*c.joints, c.handle)}
    return used.union(*(p.attach.nodes for p in puppet.pieces.values() if p.attach is not None))


def without(puppet: Puppet, nodes: Collection[str] = (), pieces: Collection[str] = ()) -> Puppet:
    """Take joints, handles and pieces away, and what was said of them.

    What hung on a joint hangs on what that hung on, and nothing moves. Limbs and bending pieces go
    on with what is left, or end where too little is; masks, stops of dials and empty groups go.
    Raises `Refusal` if a piece that stays rides on a joint that goes.
    """
    for id in nodes:
        for child in children(puppet.joints, id):
            puppet = link(puppet, child, puppet.joints[id].parent)
    left = [_piece_without(p, nodes, pieces) for p in puppet.pieces.values() if p.id not in pieces]
    chains = [
        c.changed(joints=tuple(j for j in c.joints if j not in nodes))
        for c in puppet.chains.values()
        if c.handle not in nodes and sum(j not in nodes for j in c.joints) > 1
    ]
    return without_empty_groups(
        puppet.changed(
            pieces={p.id: p for p in left},
            order=tuple(id for id in puppet.order if id not in pieces),
            joints={id: j for id, j in puppet.joints.items() if id not in nodes},
            chains={c.id: c for c in chains},
            dials={d.id: _dial_without(d, nodes, pieces) for d in puppet.dials.values()},
            mouths=None if puppet.mouths is not None and puppet.mouths.piece in pieces else puppet.mouths,
            book={e.id: e.without(lambda c: _stays(c, nodes, pieces)) for e in puppet.book.values()},
        )
    )


def _piece_without(held: Piece, nodes: Collection[str], pieces: Collection[str]) -> Piece:
    masks = tuple(m for m in held.masks if m.piece not in pieces)
    attach = held.attach.without(nodes) if held.attach is not None else None
    return held if masks == held.masks and attach == held.attach else held.changed(masks=masks, attach=attach)


def _dial_without(dial: Dial, nodes: Collection[str], pieces: Collection[str]) -> Dial:
    if all(_stays(c, nodes, pieces) for s in dial.stops for c in s.values):
        return dial
    stops = tuple(s.changed(values={c: v for c, v in s.values.items() if _stays(c, nodes, pieces)}) for s in dial.stops)
    return dial.changed(stops=stops)


def _stays(channel: str, nodes: Collection[str], pieces: Collection[str]) -> bool:
    """Whether what a channel belongs to is still there."""
    owner, kind = ChannelId.of(channel)
    return owner not in (pieces if belongs_to(kind) == "piece" else nodes)


def without_empty_groups(puppet: Puppet) -> Puppet:
    """The puppet without groups that no piece is in, by way of other groups or straight."""
    used: set[str] = set()
    waiting: list[str | None] = [p.group for p in puppet.pieces.values()]
    while waiting:
        id = waiting.pop()
        if id is not None and id not in used:
            used.add(id)
            waiting.append(puppet.groups[id].parent)
    return puppet.changed(groups={id: g for id, g in puppet.groups.items() if id in used})


def without_idle(documents: Documents, puppet: Puppet, left: Collection[str]) -> Puppet:
    """Take away those of these joints that nothing rides on, hangs on or has keyed any more."""
    motions = [*documents.motions(puppet.id)]
    keyed = {c.joint for m in motions for c in m.channels.values()} | {
        p.joint for m in motions for p in m.plants.values()
    }
    for id in left:
        hung_on = any(j.parent == id for j in puppet.joints.values())
        driven = any(owner_of(c) == id for d in puppet.dials.values() for s in d.stops for c in s.values)
        if not hung_on and not driven and id not in keyed and id not in nodes_used(puppet):
            puppet = without(puppet, (id,))
    return puppet
