"""Plain copies of pieces: as they are, with their pins, links, bends and limbs, beside what they are copies of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Affine
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.riding import fit_of
from sorvan.core.rig.sides import free_name, hung_alike
from sorvan.core.rig.skeleton import ancestors, piece, put_joints, rest_worlds


def copied(puppet: Puppet, pieces: Sequence[str], new_ids: Mapping[str, str], by: Affine) -> Puppet:
    """Copy pieces, laid out as they lie, moved `by` on the stage, in front of the foremost of them.

    A copy hangs on the copy of what its original hangs on, or else on the very same joint; what it bends by or is pulled
    by is copied along unless it carries a piece that is not. Limbs that reach are copied where all their joints are, the
    one that they hang on too: two limbs can't both turn it.
    Raises `Refusal` where an id is taken.
    """
    worlds = rest_worlds(puppet)
    names = _nodes(puppet, pieces, new_ids)
    chains = [c for c in puppet.chains.values() if all(j in names for j in c.joints)]
    for c in chains:
        names.setdefault(c.handle, f"{names[c.joints[-1]]}-h"[-40:])
    joints, copies = dict(puppet.joints), dict(puppet.pieces)
    for old, new in names.items():
        if new in joints or (new in copies and new not in new_ids.values()):
            raise Refusal("The copy's id is already taken.", remedy="Try again.", kind="conflict")
        name = free_name(puppet.joints[old].name, {j.name for j in joints.values()})
        joints[new] = puppet.joints[old].changed(id=new, name=name, parent=None)
    for id in pieces:
        original, new = puppet.pieces[id], new_ids[id]
        if new in copies:
            raise Refusal("The copy's id is already taken.", remedy="Try again.", kind="conflict")
        attach = original.attach
        copies[new] = original.changed(
            id=new,
            name=free_name(original.name, {p.name for p in copies.values()}),
            joint=names.get(original.joint, original.joint),
            attach=attach.renamed({n: names.get(n, n) for n in attach.nodes}) if attach is not None else None,
            masks=tuple(m.changed(piece=new_ids.get(m.piece, m.piece)) for m in original.masks),
            shared=None,
        )
    front = max(puppet.order.index(id) for id in pieces) + 1
    ours = (new_ids[id] for id in puppet.order if id in new_ids)
    order = (*puppet.order[:front], *ours, *puppet.order[front:])
    places = {new: by @ worlds[old] for old, new in names.items()}
    result = put_joints(puppet.changed(joints=joints, pieces=copies, order=order), places)
    result = hung_alike(result, puppet, names, names)
    for id in pieces:
        # What rides on a joint that stays moves upon it.
        if puppet.pieces[id].joint not in names:
            result = _moved_upon(result, new_ids[id], by)
    limbs = [
        c.changed(
            id=f"{names[c.handle]}-c"[-40:],
            name=free_name(c.name, {other.name for other in puppet.chains.values()}),
            joints=tuple(names.get(j, j) for j in c.joints),
            handle=names[c.handle],
        )
        for c in chains
    ]
    return result.with_chains(*limbs)


def _moved_upon(puppet: Puppet, id: str, by: Affine) -> Puppet:
    held = puppet.pieces[id]
    wanted = by @ rest_worlds(puppet)[held.joint] @ held.fit.affine()
    return puppet.with_pieces(held.changed(fit=fit_of(puppet, held, wanted)))


def _nodes(puppet: Puppet, pieces: Sequence[str], new_ids: Mapping[str, str]) -> dict[str, str]:
    """What each joint or handle that is copied becomes."""
    names = {puppet.pieces[id].joint: new_ids[id] for id in pieces if piece(puppet, id).owns_joint()}
    carrying = {p.joint for p in puppet.pieces.values() if p.id not in new_ids}

    def take(node: str, of: str, tag: str) -> None:
        if node not in names and node not in carrying:
            names[node] = f"{new_ids[of]}-{tag}"[-40:]

    for id in pieces:
        attach = puppet.pieces[id].attach
        for n, node in enumerate(attach.nodes if attach is not None else ()):
            take(node, id, str(n))
    # What lies between copies goes with them, and what hangs on them and moves nothing that is not copied.
    bending = {j for p in puppet.pieces.values() if p.id not in new_ids and p.attach for j in p.attach.nodes}
    above = {id: ancestors(puppet.joints, id) for id in puppet.joints}
    between = {a for id in names for a in above[id] if any(up in names for up in above[a])}
    for n, node in enumerate(sorted(puppet.joints, key=lambda id: len(above[id]))):
        held = above[node][:1]
        ends = node not in bending and not any(node in ups and id not in names for id, ups in above.items())
        if node in between or (held and held[0] in names and ends):
            take(node, pieces[0], f"j{n}")
    return names
