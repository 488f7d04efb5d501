"""The tree of joints: order, places at rest, and linking without a jump."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import IDENTITY, Affine
from sorvan.core.kept import kept
from sorvan.core.model.art import Box
from sorvan.core.model.puppet import ROOT, Joint, Piece, Placement, Puppet


def joint(puppet: Puppet, id: str) -> Joint:
    """The joint with this id. Raises `Refusal` when it is gone."""
    found = puppet.joints.get(id)
    if found is None:
        raise missing("joint", id)
    return found


def piece(puppet: Puppet, id: str) -> Piece:
    """The piece with this id. Raises `Refusal` when it is gone."""
    found = puppet.pieces.get(id)
    if found is None:
        raise missing("piece", id)
    return found


def ancestors(joints: Mapping[str, Joint], id: str) -> list[str]:
    """The joint's parent, its parent, and so on up to a joint that hangs on the puppet."""
    found: dict[str, None] = {}
    parent = joints[id].parent
    while parent is not None and parent not in found:
        found[parent] = None
        parent = joints[parent].parent
    return [*found]


def children(joints: Mapping[str, Joint], id: str | None) -> list[str]:
    """The joints linked straight under this one, by name."""
    return sorted((j.id for j in joints.values() if j.parent == id), key=lambda i: (joints[i].name, i))


def below(joints: Mapping[str, Joint], ids: Iterable[str]) -> frozenset[str]:
    """These joints and every joint that rides on them."""
    riding: dict[str | None, list[str]] = {}
    for j in joints.values():
        riding.setdefault(j.parent, []).append(j.id)
    found: set[str] = set()
    waiting = [id for id in ids if id in joints]
    while waiting:
        at = waiting.pop()
        if at not in found:
            found.add(at)
            waiting += riding.get(at, ())
    return frozenset(found)


@dataclass(frozen=True)
class Skeleton:
    """The joints sorted so that a parent always comes before its children.

    `parents[i]` is the row of joint i's parent; row 0 is the puppet as a whole, and -1 stands
    for the world. `levels` are the row ranges of equal depth, so that a whole level is evaluated
    at once; `free` are the rows of nodes that hang on the world.
    """

    ids: tuple[str, ...]
    parents: tuple[int, ...]
    levels: tuple[tuple[int, int], ...]
    free: tuple[int, ...] = ()

    @classmethod
    def of(cls, joints: Mapping[str, Joint]) -> Skeleton:
        """Sort these joints by depth. The tree must have no loop."""
        by_parent: dict[str | None, list[str]] = {}
        for j in joints.values():
            by_parent.setdefault(j.parent, []).append(j.id)
        ids, parents = [ROOT], [0]
        levels: list[tuple[int, int]] = []
        row = {None: 0}
        level: list[str | None] = [None]
        while level:
            start = len(ids)
            following: list[str | None] = []
            for parent in level:
                for id in by_parent.get(parent, ()):
                    row[id] = len(ids)  # type: ignore[index]
                    ids.append(id)
                    parents.append(-1 if joints[id].world else row[parent])  # type: ignore[index]
                    following.append(id)
            if following:
                levels.append((start, len(ids)))
            level = following
        free = tuple(i for i, parent in enumerate(parents) if parent < 0)
        return cls(tuple(ids), tuple(parents), tuple(levels), free)


@kept()
def skeleton_of(puppet: Puppet) -> Skeleton:
    """The puppet's joints sorted by depth."""
    return Skeleton.of(puppet.joints)


@kept()
def rest_worlds(puppet: Puppet) -> Mapping[str, Affine]:
    """Each joint's transform to the stage, with no motion applied."""
    worlds: dict[str, Affine] = {}
    skeleton = skeleton_of(puppet)
    for id, parent in zip(skeleton.ids[1:], skeleton.parents[1:], strict=True):
        above = worlds[skeleton.ids[parent]] if parent > 0 else IDENTITY
        worlds[id] = above @ puppet.joints[id].rest.affine()
    return worlds


def piece_worlds(puppet: Puppet) -> dict[str, Affine]:
    """Each piece's transform from its shown drawing to the stage, with no motion applied."""
    worlds = rest_worlds(puppet)
    return {p.id: worlds[p.joint] @ p.in_joint() for p in puppet.pieces.values()}


def hung(moved: Joint, parent: str | None, world: bool, worlds: Mapping[str, Affine]) -> Joint:
    """A joint hung on another, or on nothing, staying where it is on the stage: `worlds` says where both are."""
    onto = worlds[parent] if parent is not None else IDENTITY
    return moved.changed(parent=parent, world=world, rest=Placement.of(onto.inverse() @ worlds[moved.id]))


def link(puppet: Puppet, child: str, parent: str | None, world: bool = False) -> Puppet:
    """Hang one joint on another, leaving every piece where it is on the stage.

    With no parent it hangs on the puppet itself, or, with `world`, on nothing.

    Raises `Refusal` when either is gone, or when the link would close a loop.
    """
    moved = joint(puppet, child)
    if parent is not None:
        above = joint(puppet, parent)
        if parent == child:
            raise Refusal(f"“{moved.name}” cannot hang on itself.", remedy="Drop it on another piece.", kind="loop")
        if child in ancestors(puppet.joints, parent):
            raise Refusal(
                f"“{moved.name}” cannot hang on “{above.name}”, because “{above.name}” already hangs on it.",
                remedy=f"Link “{above.name}” somewhere else first, then try again.",
                kind="loop",
            )
    if parent == moved.parent and world == moved.world:
        return puppet
    linked = hung(moved, parent, world, rest_worlds(puppet))
    return puppet.changed(joints={**puppet.joints, child: linked})


def put_joints(puppet: Puppet, places: Mapping[str, Affine]) -> Puppet:
    """Give some joints new places on the stage at rest, leaving all others where they are."""
    before = rest_worlds(puppet)
    after = {**before, **places}
    joints = dict(puppet.joints)
    for id, j in puppet.joints.items():
        onto = after[j.parent] if j.parent is not None else IDENTITY
        stays = j.parent not in places and id not in places
        if not stays:
            joints[id] = j.changed(rest=Placement.of(onto.inverse() @ after[id]))
    return puppet.changed(joints=joints)


def box_of(piece: Piece, world: Affine) -> Box:
    """The upright box around a piece's shown drawing, as its transform lays it."""
    l, t, r, b = piece.shown().bounds
    corners = [world.place(c) for c in ((l, t), (r, t), (r, b), (l, b))]
    xs, ys = zip(*corners, strict=True)
    return (min(xs), min(ys), max(xs), max(ys))
