"""A rig for loose pieces: what hangs on what, where it turns, and what it is for, with how sure that is.

Names say most, where they say anything; what overlaps says the rest. What neither tells is left open, and what was set
by hand is left as it is.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from sorvan.core.art.source import Arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Point
from sorvan.core.model.puppet import Joint, Limits, Piece, Puppet, Role, Side
from sorvan.core.rig.cutouts import COVERED, Contacts, Cutout, cutouts
from sorvan.core.rig.lexicon import EYES, LIMBS, MOUTHS, ON_HEADS
from sorvan.core.rig.names import sideless, words
from sorvan.core.rig.roles import ARM, LEG, role_by_name
from sorvan.core.rig.skeleton import rest_worlds
from sorvan.core.rig.told_parts import FACES, backdrops, told_roles
from sorvan.core.rig.unnamed_bodies import chains, roles_by_form
from sorvan.core.rig.usual import facing_of, flipped_limits, near, usual_limits

MOST = 300
"""Pieces among which it is looked what hangs on what."""
SURE = 0.5
"""What is less sure than this is left open."""
MOST_ASKED = 4
"""LinksSaid from which one can choose where it is asked what something hangs on."""
WITHIN = (
    (frozenset(("pupil", "iris", "pupille", "pupila", "pupilla", "pupilli")), EYES),
    (frozenset(("teeth", "tongue", "zunge", "langue", "lengua", "lingua", "tong", "kieli")), MOUTHS),
)
"""Words for what lies in something else, and for that."""
_TRUNKS: tuple[Role, ...] = ("spine", "pelvis", "neck")
ON: dict[Role, tuple[Role, ...]] = {
    "hand": ("lower arm", "upper arm", "spine", "pelvis"),
    "lower arm": ("upper arm", "spine", "pelvis"),
    "upper arm": ("spine", "pelvis", "neck"),
    "toe": ("foot", "shin"),
    "foot": ("shin", "thigh"),
    "shin": ("thigh", "pelvis", "spine"),
    "thigh": ("pelvis", "spine"),
    "head": ("neck", "spine", "pelvis"),
    "neck": ("spine", "pelvis"),
    "spine": ("pelvis",),
    "wing": ("spine", "pelvis"),
    "tail": ("pelvis", "spine"),
    "pelvis": (),
}
"""What each part of a body hangs on, the likeliest first."""
ENDS: frozenset[Role] = frozenset(("lower arm", "hand", "shin", "foot", "toe"))
"""What goes on one of what it hangs on: no arm has two hands."""


@dataclass(frozen=True)
class Hang:
    """What is proposed for one joint: what it hangs on, where it turns (stage units; None to stay), what it is for, its
    side and limits, each None to stay as it is; how sure that is, 0 to 1, and why."""

    joint: str
    parent: str | None
    pin: Point | None
    role: Role | None
    side: Side | None
    limits: Limits | None
    sure: float
    why: str
    limb: str


@dataclass(frozen=True)
class Question:
    """What a loose joint hangs on, which is not clear: the likeliest, the first first; of those `proposed` is taken for
    right until somebody says, if one is."""

    joint: str
    among: tuple[str, ...]
    proposed: str | None


@dataclass(frozen=True)
class Proposal:
    """A proposed rig: what is proposed, from the body outwards, and the loose joints that are left open."""

    hangs: tuple[Hang, ...] = ()
    open: tuple[str, ...] = ()
    questions: tuple[Question, ...] = ()


def loose_of(puppet: Puppet) -> list[str]:
    """The joints of pieces that hang on nothing yet, back to front."""
    found = (puppet.pieces[id] for id in puppet.order)
    return [p.joint for p in found if p.owns_joint() and puppet.joints[p.joint].parent is None]


LinksSaid = Mapping[str, str | None]
"""What somebody said that joints hang on, by the joint; on nothing, with None."""


def proposed(puppet: Puppet, arts: Arts, said: LinksSaid | None = None) -> Proposal:
    """The rig that these pieces seem to be made for, where somebody `said` what some of them hang on, by that. Raises
    `Refusal` for more pieces than can be gone through."""
    loose = loose_of(puppet)
    ids = [id for id in puppet.order if puppet.pieces[id].owns_joint() and not puppet.unseen(puppet.pieces[id])]
    if len(loose) < 2 or len(ids) < 2:
        return Proposal()
    if len(ids) > MOST:
        raise Refusal(
            f"There are {len(ids)} pieces, too many to be gone through.",
            where=puppet.name,
            remedy=f"Join pieces that belong together until there are at most {MOST}.",
        )
    return _Proposer(puppet, cutouts(puppet, arts, ids), loose, said or {}).proposal()


class _Proposer:
    def __init__(self, puppet: Puppet, found: Mapping[str, Cutout], loose: Iterable[str], said: LinksSaid) -> None:
        roles = told_roles(puppet, found)
        behind = backdrops(puppet, found, roles)
        self.puppet, self.found = puppet, {id: c for id, c in found.items() if id not in behind}
        self.contacts = Contacts(self.found)
        self.height = {puppet.pieces[id].joint: n for n, id in enumerate(puppet.order)}
        self.loose = [id for id in loose if id in self.found]
        self.parents = {id: puppet.joints[id].parent for id in self.found}
        self.roles: dict[str, Role] = {id: role for id, role in roles.items() if id in self.found}
        self.sides: dict[str, Side] = {id: puppet.joints[id].side for id in self.found}
        self.sure: dict[str, float] = {}
        self.why: dict[str, str] = {}
        # What each might hang on, the likeliest first, where that is not clear.
        self.doubts: dict[str, list[str]] = {}
        self.said = {id: on for id, on in said.items() if id in self.loose and (on is None or on in self.found)}
        self.asking = [id for id in self.loose if id not in self.said]
        # Names tell of a body once they tell of a good part of it.
        self.named = len(self.roles) >= max(2, len(self.found) / 5)

    def proposal(self) -> Proposal:
        for id, parent in self.said.items():
            if parent is not None and not self._above(parent, id):
                self._take(id, parent, 1.0, "as you said")
        if self.named:
            self._in_lines()
            self._by_role()
            self._by_group()
            self._by_overlap()
        else:
            self._by_group()
            self._by_form()
        hangs = [self._hang(id) for id in self._outwards()]
        facing = facing_of(
            {h.joint: h.pin or self._pivot(h.joint) for h in hangs},
            {id: self.found[id].middle for id in self.found},
            self.roles,
        )
        hangs = self._evened([self._limited(h, hangs, facing) for h in hangs], facing)
        said = [h for h in hangs if h.parent is not None or h.role is not None or h.side is not None]
        kept = {h.joint for h in said}
        top = {p for p in self.parents.values() if p is not None}
        left = tuple(id for id in self.asking if id not in kept and id not in top)
        return Proposal(tuple(said), left, self._questions())

    def _questions(self) -> tuple[Question, ...]:
        """What is not clear, the lowest first. What hangs on it meanwhile can't carry it."""
        found = []
        for id, among in self.doubts.items():
            free = [k for k in dict.fromkeys(among) if k != id and not self._above(k, id)]
            if id in self.asking and (len(free) > 1 or (free and self.parents[id] is None)):
                found.append(Question(id, tuple(free[:MOST_ASKED]), self.parents[id]))
        return tuple(sorted(found, key=lambda q: self.height[q.joint]))

    def _name(self, id: str) -> str:
        return self.puppet.joints[id].name

    def _pivot(self, id: str) -> Point:
        return self.found[id].middle

    def _turns_at(self, id: str) -> Point:
        """Where a joint turns that is proposed no other place: where somebody said, else in its middle."""
        held = self.found.get(id)
        return rest_worlds(self.puppet)[id].at if held is None or _pinned(held.piece) else held.middle

    def _in_lines(self) -> None:
        """Of several pieces of one name on one side (“arm 1”, “arm 2”), the one farther from the body goes on the limb."""
        trunks = [id for id, role in self.roles.items() if role in _TRUNKS]
        if not trunks:
            return
        for line in (ARM, LEG):
            alike: dict[tuple[str, ...], list[str]] = {}
            for id, role in self.roles.items():
                if role == line[0] and id in self.loose and self.puppet.joints[id].role is None:
                    plain = tuple(w for w in sideless(self._name(id)) if not w.isdecimal())
                    alike.setdefault((*plain, self.sides[id]), []).append(id)
            for ids in alike.values():
                side = self.sides[ids[0]]
                # Of parts whose side nobody told either side may go on in those that are told.
                taken = {self.roles[k] for k in self.roles if side == "centre" or self.sides[k] == side}
                if not 2 <= len(ids) <= len(line) or any(r in taken for r in line[1 : len(ids)]):
                    continue
                if len(ids) == 2 and self.contacts.touch(*ids) == 0:
                    continue
                ids.sort(key=lambda id: min(self.contacts.gap(id, t) for t in trunks))
                ids[1:] = sorted(ids[1:], key=lambda id: self.contacts.gap(id, ids[0]))
                for id, role in zip(ids, line, strict=False):
                    self.roles[id] = role

    def _by_role(self) -> None:
        """Hang what names tell of on what bodies have it on.

        Of several that would suit, an end of a limb takes one that no other end has; and of as many as there is to hang
        them on, that which lies farther behind takes that which does.
        """
        suits: dict[str, list[str]] = {}
        for id in self.asking:
            role = self.roles.get(id)
            if role is None:
                continue
            choices = []
            for rank, wanted in enumerate(ON[role]):
                for parent, its in self.roles.items():
                    if its == wanted and parent != id and self._may_hang(id, parent):
                        choices.append((self._fits(id, parent) - 0.25 * rank, parent))
            if choices:
                choices.sort(key=lambda choice: (-choice[0], self.height[choice[1]]))
                suits[id] = [parent for fits, parent in choices if fits > choices[0][0] - 0.1]
        for id, suit in suits.items():
            if len(suit) > 1:
                self.doubts[id] = suit
            else:
                self._by_name(id, suit[0], 0.0)
        unclear: dict[tuple[Role, frozenset[str]], list[str]] = {}
        for id, suit in suits.items():
            if len(suit) > 1:
                role = self.roles[id]
                has = {p for k, p in self.parents.items() if p is not None and self.roles.get(k) == role}
                free = [k for k in suit if k not in has] if role in ENDS else []
                if len(free) == 1:
                    del self.doubts[id]
                unclear.setdefault((role, frozenset(free or suit)), []).append(id)
        for (role, among), ids in unclear.items():
            paired = role in ENDS and len(ids) == len(among)
            row = sorted(among, key=self._depth) if paired else [next(k for k in suits[id] if k in among) for id in ids]
            for id, parent in zip(sorted(ids, key=self._depth) if paired else ids, row, strict=True):
                self._by_name(id, parent, 0.3 if id in self.doubts else 0.1)

    def _by_name(self, id: str, parent: str, doubt: float) -> None:
        touch = self.contacts.touch(id, parent)
        if not self._above(parent, id):
            why = "by its name" + (", and they meet" if touch > 0 else "")
            self._take(id, parent, 0.6 + 0.35 * touch - doubt, why)

    def _depth(self, id: str) -> int:
        return self.height[id]

    def _may_hang(self, id: str, parent: str) -> bool:
        sides = {self.sides[id], self.sides[parent]}
        return sides != {"left", "right"} and not self._above(parent, id)

    def _above(self, id: str, other: str) -> bool:
        """Whether one hangs, by whatever way, on another."""
        at: str | None = id
        while at is not None:
            if at == other:
                return True
            at = self.parents.get(at)
        return False

    def _fits(self, id: str, parent: str) -> float:
        """How well a parent suits: it touches, is on the same side, and has words in common."""
        own, its = (set(sideless(self._name(k))) for k in (id, parent))
        alike = 0.2 if own & its else 0.0
        side = 0.2 if self.sides[id] == self.sides[parent] else 0.0
        return self.contacts.touch(id, parent) + alike + side

    def _take(self, id: str, parent: str, sure: float, why: str) -> None:
        if sure >= SURE:
            self.parents[id], self.sure[id], self.why[id] = parent, min(sure, 0.99), why

    def _by_group(self) -> None:
        """Where groups lie in groups, hang what a group holds on the piece that goes by the group's name, or by that of
        the nearest group around it that has one."""
        own: dict[str, str] = {}
        for id in self.found:
            held = self.found[id].piece
            if held.group is not None and self.puppet.groups[held.group].name == held.name:
                own.setdefault(held.group, id)
        for id in self.asking:
            around = (own.get(g.id) for g in self.puppet.around(self.found[id].piece))
            parent = next((k for k in around if k is not None and k != id), None)
            if self.parents.get(id) is None and parent is not None and self._may_hang(id, parent):
                self._take(id, parent, 0.85, "by the group that it is in")

    def _by_form(self) -> None:
        """Without names: the piece that most others meet carries them, and they hang in chains on it."""
        trunks = {id for id, role in self.roles.items() if role in _TRUNKS}
        tree, unsure = chains(self.contacts, self.loose, trunks, self.height)
        for id, parent in tree.items():
            if id in self.said or self.parents.get(id) is not None or self._above(parent, id):
                continue
            if id in unsure:
                self.doubts[id] = [parent, *(k for _, k in self._choices(id) if k != parent)]
            # What was reached by way of what is unsure is less sure the farther it is.
            doubts, at = 0, parent
            while at in tree:
                doubts, at = doubts + (at in unsure), tree[at]
            self._take(id, parent, 0.45 if id in unsure else 0.75 - 0.15 * doubts, "they overlap")
        found = roles_by_form(dict(self.parents), self.contacts)
        for id, (role, side) in found.items():
            self.roles.setdefault(id, role)
            if self.sides[id] == "centre" and side != "centre":
                self.sides[id] = side

    def _by_overlap(self) -> None:
        """Hang what has no role on what it lies upon, or meets most."""
        for id in sorted(self.asking, key=lambda k: -self.found[k].area):
            if id in self.roles and self.parents.get(id) is not None:
                continue
            for way in (self._by_words, self._held, self._upon, self._across):
                if self.parents.get(id) is None:
                    way(id)

    def _by_words(self, id: str) -> None:
        """Hang what belongs to a face or is worn on a head on that."""
        said = set(words(self._name(id)))
        for inside, of in WITHIN:
            around = [k for k in self.found if k != id and of & set(words(self._name(k))) and self._may_hang(id, k)]
            best = max(around, key=lambda k: self.contacts.covered(id, k), default=None)
            if inside & said and best is not None and self.contacts.covered(id, best) > 0:
                self._take(id, best, 0.9, "by its name, and it lies in it")
                return
        heads = [k for k, role in self.roles.items() if role == "head" and self._may_hang(id, k)]
        if len(heads) == 1 and (ON_HEADS | FACES).intersection(said) and not LIMBS.intersection(said):
            touch = self.contacts.touch(id, heads[0])
            if touch > 0:
                self._take(id, heads[0], 0.7 + 0.25 * touch, "by its name, and they meet")

    def _held(self, id: str) -> None:
        """Hang what is long and lies in a hand by an end on the hand that holds it."""
        if not self.found[id].long:
            return
        hands = [k for k, role in self.roles.items() if role == "hand" and self._may_hang(id, k)]
        holding = [k for k in hands if self.contacts.ends_in(id, k)]
        if len(holding) == 1:
            self._take(id, holding[0], 0.75, "it lies in the hand")

    def _choices(self, id: str) -> list[tuple[float, str]]:
        """What a piece overlaps, with how much of it does, the most first."""
        found = [
            (self.contacts.covered(id, parent), parent)
            for parent in self.found
            if parent != id and self.found[parent].area > 0.3 * self.found[id].area and self._may_hang(id, parent)
        ]
        return sorted(((share, parent) for share, parent in found if share > 0.01), reverse=True)

    def _upon(self, id: str) -> None:
        """Hang a piece on the smallest that it lies upon: the eye on the head, not on the coat behind."""
        under = [
            p
            for share, p in self._choices(id)
            if share >= COVERED and self.found[p].area > self.found[id].area and self.height[p] < self.height[id]
        ]
        if not under:
            return
        under.sort(key=lambda p: self.found[p].area)
        parent = under[0]
        clear = len(under) == 1 or self.found[parent].area < 0.7 * self.found[under[1]].area
        clear = clear or self._above(parent, under[1]) or self._above(under[1], parent)
        if not clear:
            self.doubts[id] = under
        self._take(id, parent, (0.85 if len(under) == 1 else 0.75) if clear else 0.45, "it lies upon it")

    def _across(self, id: str) -> None:
        """Hang a piece on the one that it overlaps most, if that is clear."""
        choices = self._choices(id)
        if choices:
            best, parent = choices[0]
            clear = len(choices) == 1 or choices[1][0] < 0.5 * best
            if not clear:
                self.doubts[id] = [k for _, k in choices]
            self._take(id, parent, 0.65 if clear else 0.4, "they overlap")

    def _outwards(self) -> list[str]:
        """The loose joints, each behind what it hangs on."""
        depth: dict[str, int] = {}

        def deep(id: str) -> int:
            if id not in depth:
                above = self.parents.get(id)
                depth[id] = 0 if above is None or above not in self.found else 1 + deep(above)
            return depth[id]

        return sorted(self.loose, key=lambda id: (deep(id), self.puppet.order.index(self.found[id].piece.id)))

    def _hang(self, id: str) -> Hang:
        joint, held = self.puppet.joints[id], self.found[id].piece
        parent = self.parents.get(id)
        role = self.roles.get(id) if joint.role is None else None
        guessed = role_by_name(joint.name)
        side = self.sides[id] if self.sides[id] != joint.side and joint.side == "centre" else None
        pin = None
        if parent is not None and parent in self.found and not _pinned(held):
            # A head's ears don't tell where it turns.
            bare = self.roles.get(id) != "head"
            beyond = [k for k, p in self.parents.items() if p == id and bare and self._goes_on(id, k)]
            pin = self.contacts.pin(id, parent, beyond, self.roles.get(id) in (*ARM, *LEG))
        return Hang(
            joint=id,
            parent=parent,
            pin=(round(pin[0], 2), round(pin[1], 2)) if pin else None,
            role=role if role != guessed else None,
            side=side,
            limits=None,
            sure=round(self.sure.get(id, 0.6), 2),
            why=self.why.get(id, "by how it lies"),
            limb=_limb(self.roles.get(id), self.sides[id]) or self._limb_above(id),
        )

    def _goes_on(self, id: str, child: str) -> bool:
        """Whether a child is how a limb goes on, and not something that lies upon it."""
        return self.contacts.covered(child, id) < COVERED

    def _limb_above(self, id: str) -> str:
        at = self.parents.get(id)
        while at is not None and at in self.found:
            if found := _limb(self.roles.get(at), self.sides[at]):
                return found
            at = self.parents.get(at)
        return "other parts"

    def _limited(self, hang: Hang, hangs: list[Hang], facing: int) -> Hang:
        joint: Joint = self.puppet.joints[hang.joint]
        role = self.roles.get(hang.joint)
        if joint.limits is not None or role is None or hang.parent is None:
            return hang
        pins = {h.joint: h.pin for h in hangs}
        chain = [pins.get(hang.parent) or self._turns_at(hang.parent), hang.pin or self._turns_at(hang.joint)]
        after = next(
            (h for h in hangs if h.parent == hang.joint and h.pin and self._goes_on(hang.joint, h.joint)), None
        )
        held = self.found[hang.joint]
        end = after.pin if after is not None else None
        if end is None and held.long:
            far = max(held.ends, key=lambda e: abs(e - complex(*chain[1])))
            end = (far.real, far.imag)
        return replace(hang, limits=usual_limits(role, facing, [*chain, end] if end else chain))

    def _evened(self, hangs: list[Hang], facing: int) -> list[Hang]:
        """With the same limits, or the mirrored ones, for both sides, where only the art is a little different."""
        by_place: dict[tuple[Role | None, Side | None], list[Hang]] = {}
        for hang in hangs:
            place = (self.roles.get(hang.joint), hang.side or self.puppet.joints[hang.joint].side)
            by_place.setdefault(place, []).append(hang)
        given: dict[str, Limits] = {}
        for (role, side), own in by_place.items():
            twins = by_place.get((role, "left"), [])
            if side != "right" or len(own) != 1 or len(twins) != 1 or role is None:
                continue
            alike = twins[0].limits if facing else flipped_limits(twins[0].limits)
            if alike is not None and own[0].limits is not None and near(alike, own[0].limits):
                given[own[0].joint] = alike
        return [replace(h, limits=given.get(h.joint, h.limits)) for h in hangs]


def _pinned(held: Piece) -> bool:
    """Whether somebody, or the file, said where a piece turns: it does not turn about its middle."""
    l, t, r, b = held.shown().bounds
    x, y = held.shown().pivot
    return abs(x - (l + r) / 2) > 0.01 or abs(y - (t + b) / 2) > 0.01 or bool(held.drawings[1:])


_LIMBS: dict[Role, str] = {
    **dict.fromkeys(ARM, "arm"), **dict.fromkeys(LEG, "leg"), "neck": "head", "head": "head", "spine": "body",
    "pelvis": "body", "wing": "wing", "tail": "tail",
}  # fmt: skip


def _limb(role: Role | None, side: Side) -> str:
    if role is None:
        return ""
    name = _LIMBS[role]
    return f"{side} {name}" if side != "centre" and name in ("arm", "leg", "wing") else name
