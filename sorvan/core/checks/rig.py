"""Mistakes in a puppet's rig."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sorvan.core.change.rig import LinkJoint, MatchTwin, NameTwins, RelinkJoints, SetJoints
from sorvan.core.checks.alternates import alternates
from sorvan.core.checks.finding import Finding, mendable
from sorvan.core.checks.turning import findings_of_views
from sorvan.core.geometry import Affine, Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Joint, Limits, Piece, Puppet, Role
from sorvan.core.rig.lexicon import LIMBS, MOUTHS, ON_HEADS
from sorvan.core.rig.names import by_depth, side_of, words
from sorvan.core.rig.reach import NEARLY_STRAIGHT
from sorvan.core.rig.roles import ARM, LEG, TRUNK, roles_of
from sorvan.core.rig.sides import middle_of, other, twin_limits, twins
from sorvan.core.rig.skeleton import ancestors, below, box_of, children, piece_worlds, rest_worlds
from sorvan.core.rig.told_parts import ABOUT_HIPS
from sorvan.core.rig.usual import faces, flipped_limits, near


@dataclass(frozen=True)
class PuppetSeen:
    """A puppet with what the checks ask of it, worked out once."""

    puppet: Puppet
    roles: dict[str, Role]
    twins: dict[str, str]
    worlds: Mapping[str, Affine]

    def name(self, id: str) -> str:
        return f"“{self.puppet.joints[id].name}”"

    def place(self, id: str) -> tuple[float, float]:
        return self.worlds[id].at

    def with_role(self, *roles: Role) -> list[str]:
        return [id for role in roles for id, r in self.roles.items() if r == role]


RigCheck = Callable[[PuppetSeen], Iterator[Finding]]


def findings(puppet: Puppet) -> list[Finding]:
    """Every likely mistake, the gravest kinds first. Mends that would be refused are left out."""
    seen = PuppetSeen(puppet, roles_of(puppet), twins(puppet), rest_worlds(puppet))
    found: list[Finding] = []
    for check in CHECKS:
        told = {j for f in found for j in f.joints}
        # One mistake is told once: what differs from its twin because it hangs wrongly hangs wrongly.
        found += [f for f in check(seen) if check is not unlike_twins or not told.intersection(f.joints)]
    found += findings_of_views(puppet)
    found += alternates(puppet)
    documents = Documents({puppet.id: puppet})
    return [mendable(f, documents) for f in found]


def upside_down(seen: PuppetSeen) -> Iterator[Finding]:
    """A limb drawn from foot to hip, or from hand to shoulder: its far end carries its near end."""
    done: set[str] = set()
    for line in (ARM, LEG):
        for id, role in seen.roles.items():
            if role not in line or id in done:
                continue
            run = [id]
            while True:
                under = [
                    c
                    for c in children(seen.puppet.joints, run[-1])
                    if seen.roles.get(c) in line and line.index(seen.roles[c]) < line.index(seen.roles[run[-1]])
                ]
                if len(under) != 1:
                    break
                run.append(under[0])
            above = seen.puppet.joints[id].parent
            starts = above is None or seen.roles.get(above) not in line
            if len(run) < 2 or not starts:
                continue
            done |= set(run)
            body = _body_for(seen, run[-1], line)
            links: dict[str, str | None] = {run[-1]: body}
            links |= {run[i]: run[i + 1] for i in range(len(run) - 1)}
            kind = "leg" if line is LEG else "arm"
            yield Finding(
                "upside-down",
                f"The {kind} hangs on its far end: {seen.name(run[0])} carries {seen.name(run[-1])}.",
                tuple(run),
                mend=RelinkJoints(puppet=seen.puppet.id, links=links),
                mending="Turn the limb round",
            )


def _body_for(seen: PuppetSeen, id: str, line: Sequence[Role]) -> str | None:
    """The joint of the trunk that a limb should hang on: legs on the pelvis, arms on the spine."""
    wanted: tuple[Role, ...] = ("pelvis", "spine") if line is LEG else ("spine", "neck", "pelvis")
    inside = below(seen.puppet.joints, [id])
    for role in wanted:
        found = [j for j in seen.with_role(role) if j not in inside]
        if found:
            # Of several joints of a spine an arm hangs on the uppermost, a leg on the lowest.
            return min(found, key=lambda j: math.dist(seen.place(j), seen.place(id)))
    return None


FIRST: dict[Role, tuple[Role, ...]] = {
    **dict.fromkeys(ARM, ("head", *LEG)),
    **dict.fromkeys(LEG, ("head", *ARM)),
    "upper arm": ("head", "hand", "lower arm", *LEG),
    "thigh": ("head", "foot", "shin", "toe", *ARM),
    "wing": ("head", *ARM, *LEG),
}
"""What the parts of limbs hang on by mistake."""


def on_the_head(seen: PuppetSeen) -> Iterator[Finding]:
    """An arm or leg hung on the head, on a hand or on some other limb's end."""
    for id, role in seen.roles.items():
        above = seen.puppet.joints[id].parent
        if above is None or seen.roles.get(above) not in FIRST.get(role, ()):
            continue
        held_by = seen.roles[above]
        line = LEG if role in LEG else ARM
        # Upper arms on lower ones are told elsewhere: the whole limb is upside down.
        if held_by in line:
            continue
        own = [j for j in seen.with_role(*line[: line.index(role)]) if role in line and _one_side(seen, j, id)]
        body = own[-1] if own else _body_for(seen, id, line)
        if body is None or body in below(seen.puppet.joints, [id]):
            continue
        yield Finding(
            "wrong-hold",
            f"{seen.name(id)} hangs on the {held_by}, {seen.name(above)}.",
            (id, above),
            mend=LinkJoint(puppet=seen.puppet.id, joint=id, parent=body),
            mending=f"Hang it on {seen.name(body)}",
        )


def _one_side(seen: PuppetSeen, one: str, two: str) -> bool:
    return seen.puppet.joints[one].side == seen.puppet.joints[two].side


FEATURES = (ON_HEADS | MOUTHS) - frozenset(("hair", "antenna", "headphones", "headband", "haar", "haare"))
"""Words for what is part of a face, or sits on a head."""
NO_PLACE = frozenset(
    ("neck", "hals", "cou", "pupil", "iris", "hat", "cap", "helmet", "crown", "glasses", "scarf", "tie")
)
"""Words for what no part of a face hangs on."""


def off_the_face(seen: PuppetSeen) -> Iterator[Finding]:
    """A part of a face that hangs beside the head: on the neck, on a hat, on a pupil, on the body."""
    heads = seen.with_role("head")
    if len(heads) != 1:
        return
    on_head = below(seen.puppet.joints, heads)
    told: set[str] = set()
    for p in seen.puppet.pieces.values():
        joint = seen.puppet.joints[p.joint]
        said = set(words(p.name))
        # A toe cap is no cap.
        if not said & FEATURES or said & LIMBS or not p.owns_joint() or joint.parent is None or joint.id in heads:
            continue
        above = set(words(seen.puppet.joints[joint.parent].name))
        if joint.parent in on_head and not (above & NO_PLACE):
            continue
        # What goes along with something that is told already is right once that is.
        if told & set(ancestors(seen.puppet.joints, joint.id)):
            continue
        told.add(joint.id)
        yield Finding(
            "off-face",
            f"“{p.name}” hangs on {seen.name(joint.parent)}, and not on the head.",
            (joint.id, joint.parent),
            (p.id,),
            mend=LinkJoint(puppet=seen.puppet.id, joint=joint.id, parent=heads[0]),
            mending=f"Hang it on {seen.name(heads[0])}",
        )


def across(seen: PuppetSeen) -> Iterator[Finding]:
    """A left joint that hangs on a right one, or the other way round."""
    for id, joint in seen.puppet.joints.items():
        above = joint.parent
        if (
            above is None
            or joint.side == "centre"
            or joint.handle
            or seen.puppet.joints[above].side != other(joint.side)
        ):
            continue
        right = seen.twins.get(above)
        yield Finding(
            "wrong-side",
            f"{seen.name(id)} is on the {joint.side} but hangs on {seen.name(above)}, on the {other(joint.side)}.",
            (id, above),
            mend=LinkJoint(puppet=seen.puppet.id, joint=id, parent=right) if right else None,
            mending=f"Hang it on {seen.name(right)}" if right else "",
        )


def swapped(seen: PuppetSeen) -> Iterator[Finding]:
    """A pair that lies the other way round than all other pairs: its left is where rights are."""
    pairs = [(id, twin) for id, twin in seen.twins.items() if seen.puppet.joints[id].side == "left"]
    apart = {id: seen.place(id)[0] - seen.place(twin)[0] for id, twin in pairs}
    xs = [seen.place(j)[0] for j in seen.puppet.joints]
    wide = max(xs, default=0) - min(xs, default=0)
    # A limb that crosses over further down is a pose; one that starts on the other side is not.
    starts = {id: a for id, a in apart.items() if not any(j in apart for j in ancestors(seen.puppet.joints, id))}
    clear = {id: a for id, a in starts.items() if abs(a) > 0.04 * wide}
    usual = sum(1 if a > 0 else -1 for a in clear.values())
    if len(clear) < 3 or not usual:
        return
    for id, away in clear.items():
        if (away > 0) == (usual > 0):
            continue
        twin = seen.twins[id]
        yield Finding(
            "sides-swapped",
            f"{seen.name(id)} and {seen.name(twin)} lie the other way round than the other pairs.",
            (id, twin),
        )


def loose_pieces(seen: PuppetSeen) -> Iterator[Finding]:
    """A piece that hangs on the puppet itself while the others hang together."""
    roots = children(seen.puppet.joints, None)
    sizes = {r: len(below(seen.puppet.joints, [r])) for r in roots if not seen.puppet.joints[r].handle}
    if not sizes:
        return
    body = max(sizes, key=lambda r: sizes[r])
    if sizes[body] < 3:
        return
    for root, size in sizes.items():
        riding = [p for p in seen.puppet.pieces.values() if p.joint == root]
        if root == body or size > max(2, sizes[body] // 3) or not riding:
            continue
        target = _place_for(seen, root, riding[0]) or body
        # A body hangs on no arm: then it is the rest that hangs wrongly, and nobody knows how.
        sound = seen.roles.get(root) not in TRUNK or seen.roles.get(target) in (None, *TRUNK)
        yield Finding(
            "loose",
            f"“{riding[0].name}” hangs on nothing: it stays behind when the puppet moves.",
            (root,),
            (riding[0].id,),
            mend=LinkJoint(puppet=seen.puppet.id, joint=root, parent=target) if sound else None,
            mending=f"Hang it on {seen.name(target)}" if sound else "",
        )


def _place_for(seen: PuppetSeen, root: str, held: Piece) -> str | None:
    """What a loose joint should hang on: as its twin does; a limb on the trunk; else what it lies on."""
    twin = seen.twins.get(root)
    if twin is not None and (hung := seen.puppet.joints[twin].parent) is not None:
        return _mate(seen, hung)
    role = seen.roles.get(root)
    if role in ("upper arm", "thigh", "wing") and (trunk := _body_for(seen, root, LEG if role == "thigh" else ARM)):
        return trunk
    said = set(words(seen.puppet.joints[root].name))
    heads = seen.with_role("head")
    if len(heads) == 1 and heads[0] != root and said & (ON_HEADS | MOUTHS):
        return heads[0]
    if role in TRUNK or said & ABOUT_HIPS:
        others = [j for j in seen.with_role("pelvis", "spine") if j not in below(seen.puppet.joints, [root])]
        if others:
            return min(others, key=lambda j: math.dist(seen.place(j), seen.place(root)))
    onto = _nearest_piece(seen, held, below(seen.puppet.joints, [root]))
    return seen.puppet.pieces[onto].joint if onto else None


def _nearest_piece(seen: PuppetSeen, held: Piece, apart_from: frozenset[str]) -> str | None:
    """The piece whose box, as it lies, holds the middle of this one's most closely."""
    worlds = piece_worlds(seen.puppet)
    x, y = seen.place(held.joint)
    best, found = math.inf, None
    for p in seen.puppet.pieces.values():
        if p.joint in apart_from:
            continue
        l, t, r, b = box_of(p, worlds[p.id])
        dx, dy = max(l - x, x - r, 0), max(t - y, y - b, 0)
        size = (r - l) * 1e-3
        if math.hypot(dx, dy) + size < best:
            best, found = math.hypot(dx, dy) + size, p.id
    return found


def unlike_twins(seen: PuppetSeen) -> Iterator[Finding]:
    """Twins that differ: in what they hang on, in their limits, or in where they lie."""
    puppet = seen.puppet
    tall = max((p[5] for p in seen.worlds.values()), default=0) - min((p[5] for p in seen.worlds.values()), default=0)
    for id, twin in seen.twins.items():
        one, two = puppet.joints[id], puppet.joints[twin]
        if one.side != "left":
            continue
        if _mate(seen, one.parent) != two.parent:
            if one.parent is not None and two.parent is not None and other(puppet.joints[two.parent].side) == two.side:
                continue
            yield from _unlike_links(seen, one, two)
            continue
        if not _alike_twins(puppet, id, twin):
            yield Finding(
                "twins-differ",
                f"{seen.name(id)} and {seen.name(twin)} turn within different limits.",
                (id, twin),
                mend=MatchTwin(puppet=puppet.id, joint=id if one.limits else twin),
                mending=f"Make them as on {seen.name(id if one.limits else twin)}",
            )
        elif not by_depth(one.name) and _one_off(seen, id, twin, tall):
            yield Finding(
                "twins-differ",
                f"{seen.name(id)} and {seen.name(twin)} do not lie at the same height.",
                (id, twin),
                mend=MatchTwin(puppet=puppet.id, joint=id),
                mending=f"Place both as {seen.name(id)}",
            )


def _alike_twins(puppet: Puppet, id: str, twin: str) -> bool:
    wanted, its = twin_limits(puppet, id, twin), puppet.joints[twin].limits
    if _alike(wanted, its):
        return True
    if by_depth(puppet.joints[id].name) or not faces(puppet) or wanted is None or its is None:
        return False
    own = puppet.joints[id].limits
    # Of one who faces to a side, what is mirrored may be meant so: arms held out, say.
    if own is None or _alike(flipped_limits(own), its):
        return True
    # Where rest is the end of one, that is because it is drawn bent so far.
    low, high = (wanted.low if own.low and its.low else its.low), (wanted.high if own.high and its.high else its.high)
    return near(Limits(low=low, high=high), its)


def _alike(one: Limits | None, two: Limits | None) -> bool:
    if one is None or two is None:
        return one is two
    return abs(one.low - two.low) <= 0.5 and abs(one.high - two.high) <= 0.5


def _mate(seen: PuppetSeen, id: str | None) -> str | None:
    return None if id is None else seen.twins.get(id, id)


def _unlike_links(seen: PuppetSeen, one: Joint, two: Joint) -> Iterator[Finding]:
    # Whichever hangs on its own side, or on the trunk, is right.
    trunk = {id for id, r in seen.roles.items() if r in TRUNK}
    for right, wrong in ((one, two), (two, one)):
        if right.parent is None:
            continue
        target = _mate(seen, right.parent)
        if wrong.parent is None or wrong.parent not in trunk or right.parent in trunk:
            yield Finding(
                "twins-differ",
                f"{seen.name(one.id)} and {seen.name(two.id)} hang on different things.",
                (one.id, two.id),
                mend=LinkJoint(puppet=seen.puppet.id, joint=wrong.id, parent=target),
                mending=f"Hang {seen.name(wrong.id)} on {seen.name(target) if target else 'the puppet'}",
            )
            return


def _one_off(seen: PuppetSeen, id: str, twin: str, tall: float) -> bool:
    """Whether twins lie at different heights though what they hang on and what hangs on them does not:
    a limb that is raised as a whole is posed, not mistaken."""
    parent = seen.puppet.joints[id].parent
    if parent is None or not tall:
        return False
    off = abs(seen.place(id)[1] - seen.place(twin)[1])
    under = [(c, seen.twins[c]) for c in children(seen.puppet.joints, id) if c in seen.twins]
    level = all(abs(seen.place(a)[1] - seen.place(b)[1]) < 0.02 * tall for a, b in under)
    line = middle_of(seen.puppet, [id])
    even = abs(seen.place(id)[0] + seen.place(twin)[0] - 2 * line) < 0.25 * tall
    return bool(under) and level and even and off > 0.06 * tall


def straight_limbs(seen: PuppetSeen) -> Iterator[Finding]:
    """A limb that reaches but lies straight at rest, with nothing to say which way it bends."""
    for chain in seen.puppet.chains.values():
        places = [seen.place(j) for j in chain.joints]
        length = sum(math.dist(a, b) for a, b in itertools.pairwise(places))
        told = chain.bend != "rest" or any(seen.puppet.joints[j].limits for j in chain.joints[1:-1])
        if (
            len(places) > 2
            and not told
            and math.dist(places[0], places[-1]) > length * (1 - (1 - NEARLY_STRAIGHT) / 100)
        ):
            yield Finding(
                "straight",
                f"“{chain.name}” lies straight at rest, so nothing says which way it bends.",
                chain.joints,
            )


def far_pivots(seen: PuppetSeen) -> Iterator[Finding]:
    """A piece that turns about a place well outside itself."""
    worlds = piece_worlds(seen.puppet)
    for p in seen.puppet.pieces.values():
        if not p.owns_joint() or p.attach is not None:
            continue
        l, t, r, b = p.shown().bounds
        x, y = p.shown().pivot
        away = max(l - x, x - r, 0.0), max(t - y, y - b, 0.0)
        size = math.hypot(r - l, b - t)
        if math.hypot(*away) > 0.75 * size and p.id in worlds:
            yield Finding("far-pivot", f"“{p.name}” turns about a place well outside it.", (p.joint,), (p.id,))


def broken_bends(seen: PuppetSeen) -> Iterator[Finding]:
    """A piece that bends over joints which do not hang together: it is torn when one of them moves."""
    joints = seen.puppet.joints
    for p in seen.puppet.pieces.values():
        if p.attach is None or p.attach.kind != "bend":
            continue
        over = set(p.attach.joints)
        loose = [j for j in p.attach.joints if joints[j].parent is None]
        if len(loose) < 2 and (not loose or all(over & set(ancestors(joints, j)) for j in over - set(loose))):
            continue
        for id in loose[1:] or loose:
            others = [j for j in over if j not in below(joints, [id])]
            onto = min(others, key=lambda j: math.dist(seen.place(j), seen.place(id)), default=None)
            yield Finding(
                "torn",
                f"“{p.name}” bends over {seen.name(id)}, which hangs on nothing: it is torn when the rest moves.",
                (id,),
                (p.id,),
                mend=LinkJoint(puppet=seen.puppet.id, joint=id, parent=onto) if onto else None,
                mending=f"Hang it on {seen.name(onto)}" if onto else "",
            )


def doubled_sides(seen: PuppetSeen) -> Iterator[Finding]:
    """Two limbs of one role on the same side: one of them is most likely the other side's."""
    grouped: dict[tuple[Role, str, str | None], list[str]] = {}
    for id, role in seen.roles.items():
        joint = seen.puppet.joints[id]
        if role in ("upper arm", "thigh") and joint.side != "centre":
            grouped.setdefault((role, joint.side, joint.parent), []).append(id)
    for (role, side, parent), ids in grouped.items():
        lone = [i for i in ids if i not in seen.twins]
        taken = grouped.get((role, other(seen.puppet.joints[ids[0]].side), parent), [])
        if len(ids) == 2 and len(lone) and not taken:
            wrong = lone[-1]
            yield Finding(
                "same-side",
                f"{seen.name(ids[0])} and {seen.name(ids[1])} are both on the {side}.",
                tuple(ids),
                mend=SetJoints(puppet=seen.puppet.id, joints=(wrong,), side=other(seen.puppet.joints[wrong].side)),
                mending=f"Put {seen.name(wrong)} on the other side",
            )


def nameless_twins(seen: PuppetSeen) -> Iterator[Finding]:
    """Pieces that mirror one another but whose names tell no side: offered as twins, never taken for them."""
    puppet = seen.puppet
    worlds = piece_worlds(puppet)
    boxes = {p.joint: box_of(p, worlds[p.id]) for p in puppet.pieces.values() if p.owns_joint()}
    plain = [id for id in boxes if puppet.joints[id].side == "centre" and side_of(puppet.joints[id].name) == "centre"]
    if len(plain) < 3:
        return
    found = _mirrored(np.array([boxes[id] for id in plain]))
    # Whatever could be the twin of two says nothing.
    sure = tuple((plain[a], plain[b]) for a, b in np.argwhere(found) if found[a].sum() == found[:, b].sum() == 1)
    if sure:
        shown = ", ".join(f"{seen.name(a)} and {seen.name(b)}" for a, b in sure[:3])
        more = f", and {len(sure) - 3} more pairs" if len(sure) > 3 else ""
        yield Finding(
            "nameless-twins",
            f"These mirror one another, but no name tells left from right: {shown}{more}.",
            tuple(id for pair in sure for id in pair),
            mend=NameTwins(puppet=puppet.id, pairs=sure),
            mending="Name them left and right",
        )


def _mirrored(boxes: Floats) -> NDArray[np.bool_]:
    """Which boxes `(n, 4)`, to the right of the stage, are the images of which, `(n, n)`.

    They are so in the upright line in which the most are, the nearest to the middle of all.
    """
    middles = (boxes[:, 0] + boxes[:, 2]) / 2
    tall = boxes[:, 3].max() - boxes[:, 1].min()
    lines = np.unique(np.round((middles[:, None] + middles) / 2, 1))
    lines = lines[np.argsort(np.abs(lines - middles.mean()), kind="stable")][:40]

    def images(line: float) -> NDArray[np.bool_]:
        flipped = boxes[:, [2, 1, 0, 3]] * [-1, 1, -1, 1] + [2 * line, 0, 2 * line, 0]
        alike = np.abs(flipped[:, None] - boxes).max(axis=2) < 0.02 * tall
        clear: NDArray[np.bool_] = alike & (middles - line > 0.03 * tall)[:, None]
        return clear

    return max((images(float(line)) for line in lines), key=np.count_nonzero)


CHECKS: tuple[RigCheck, ...] = (
    upside_down,
    on_the_head,
    off_the_face,
    across,
    broken_bends,
    loose_pieces,
    doubled_sides,
    unlike_twins,
    swapped,
    straight_limbs,
    far_pivots,
    nameless_twins,
)
