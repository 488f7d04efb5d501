"""Commands on dials and their stops."""

from __future__ import annotations

from typing import Literal

from sorvan.core.change.command import Command, PuppetCommand, Tried
from sorvan.core.change.given import Given
from sorvan.core.change.rig import known
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number
from sorvan.core.model.channels import KINDS, NEUTRAL, kind_of, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.puppet import Dial, DialStop, Limits, Puppet

DRIVEN = tuple(kind for kind, facts in KINDS.items() if facts.driven)
"""The kinds of channel that a dial drives."""
SAME_PLACE = 1e-6


def with_dial(puppet: Puppet, dial: Dial) -> Puppet:
    """The puppet with this dial. Raises `Refusal` if it drives what it can't."""
    if dial.turns and any(d.turns and d.id != dial.id for d in puppet.dials.values()):
        raise Refusal(
            f"“{puppet.name}” can be turned already.", where=dial.name, remedy="Add views to the dial it has."
        )
    owners = puppet.joints.keys() | puppet.pieces.keys()
    for stop in dial.stops:
        for channel, value in stop.values.items():
            kind = kind_of(channel)
            if kind not in DRIVEN or owner_of(channel) not in owners:
                raise Refusal(
                    "A dial drives joints, handles and drawings that are there.", where=channel, kind="missing"
                )
            if len(value) != len(NEUTRAL[kind]):
                raise Refusal(f"A {kind} takes {len(NEUTRAL[kind])} numbers.", where=channel)
    return puppet.changed(dials={**puppet.dials, dial.id: dial})


class DialGiven(Given, of=Dial):
    """What of a dial is given."""


class SetDial(PuppetCommand):
    """Make a dial, or change what is given of the one with its id."""

    do: Literal["set-dial"] = "set-dial"
    dial: DialGiven

    def on(self, puppet: Puppet) -> Puppet:
        return with_dial(puppet, self._dial(puppet))

    def _dial(self, puppet: Puppet) -> Dial:
        return self.dial.among(puppet.dials, Dial, f"dial of “{puppet.name}”")

    def said(self, puppet: Puppet) -> str:
        there = self.dial.told_id in puppet.dials
        return f"{'Change' if there else 'Make'} dial “{self._dial(puppet).name}”"


class RemoveDial(Command):
    """Take a dial away, with its keys."""

    do: Literal["remove-dial"] = "remove-dial"
    puppet: Id
    dial: Id

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        known(puppet, self.dial, "dials")
        dials = {id: d for id, d in puppet.dials.items() if id != self.dial}
        spoken = puppet.mouths if puppet.mouths is None or puppet.mouths.dial != self.dial else None
        return documents.with_(puppet.changed(dials=dials, mouths=spoken)).swept(self.puppet)

    def label(self, documents: Documents) -> str:
        found = documents.puppet(self.puppet).dials.get(self.dial)
        return f"Remove dial “{found.name if found else self.dial}”"


class KeepStop(Command):
    """Keep a pose that is tried, added to what is kept there already, where a dial stands.

    Of the pose only what a dial can drive counts. A dial that is given its first stop away from its
    rest gets one at rest too, so that it comes back to nothing there. Kept at the rest itself, turned, moved and sized
    joints rest so from now on, and all that motions and the dial's other stops do with them stays as it looks.
    """

    do: Literal["keep-stop"] = "keep-stop"
    puppet: Id
    dial: Id
    at: Number
    tried: Tried = {}

    def result(self, documents: Documents) -> Documents:
        puppet = documents.puppet(self.puppet)
        known(puppet, self.dial, "dials")
        dial = puppet.dials[self.dial]
        at = min(max(self.at, dial.low), dial.high)
        driven = {c: v for c, v in self.tried.items() if kind_of(c) in DRIVEN}
        if abs(at - dial.rest) < SAME_PLACE:
            at = dial.rest
            moved = {c: driven.pop(c) for c in list(driven) if kind_of(c) in RESTED}
            documents = resting(documents, puppet, moved, dial.id)
            puppet = documents.puppet(self.puppet)
        return documents.with_(self._kept(puppet, puppet.dials[self.dial], at, driven))

    def _kept(self, puppet: Puppet, dial: Dial, at: float, driven: Tried) -> Puppet:
        here = [s for s in dial.stops if abs(s.at - at) < SAME_PLACE]
        kept = dict(here[0].values) if here else {}
        values = kept | driven
        puppet, hidden = _unhidden(puppet, driven)
        others = [s for s in dial.stops if s not in here]
        if not any(abs(s.at - dial.rest) < SAME_PLACE for s in (*others, DialStop(at=at))):
            others.append(DialStop(at=dial.rest))
        kept_here = here[0].changed(values=values) if here else DialStop(at=at, values=values)
        stops = sorted((*others, kept_here), key=lambda s: s.at)
        # What was hidden goes on being so at all other stops.
        still = [s.changed(values={**hidden, **s.values}) for s in stops] if hidden else stops
        return with_dial(puppet, dial.changed(stops=tuple(still)))

    def label(self, documents: Documents) -> str:
        found = documents.puppet(self.puppet).dials.get(self.dial)
        return f"Keep a pose on dial “{found.name if found else self.dial}”"


def _unhidden(puppet: Puppet, driven: Tried) -> tuple[Puppet, Tried]:
    """The puppet with the hidden pieces seen that a stop shows, and what holds them hidden elsewhere."""
    shown = {c: owner_of(c) for c, v in driven.items() if kind_of(c) == "opacity" and v[0] > 0}
    found = {c: puppet.pieces[id] for c, id in shown.items() if id in puppet.pieces and puppet.pieces[id].hidden}
    return puppet.with_pieces(*(p.changed(hidden=False) for p in found.values())), dict.fromkeys(found, (0.0,))


RESTED = ("turn", "move", "scale")
"""What a joint's rest is made of."""


def resting(documents: Documents, puppet: Puppet, values: Tried, dial: str) -> Documents:
    """The documents with joints resting as these values pose them. Keys of the puppet's motions, stops of that dial and
    limits count from the new rest, so that what they make of the joints looks as before."""
    if not values:
        return documents
    joints = dict(puppet.joints)
    for channel, value in values.items():
        owner, kind = owner_of(channel), kind_of(channel)
        rest, limits = joints[owner].rest, joints[owner].limits
        if kind == "turn":
            angle, by = rest.angle + value[0], value[0]
            kept = limits and Limits(low=limits.low - by, high=limits.high - by)
            joints[owner] = joints[owner].changed(rest=rest.changed(angle=angle), limits=kept)
        elif kind == "move":
            joints[owner] = joints[owner].changed(rest=rest.changed(x=rest.x + value[0], y=rest.y + value[1]))
        else:
            joints[owner] = joints[owner].changed(rest=rest.changed(sx=rest.sx * value[0], sy=rest.sy * value[1]))

    def less(channel: str, value: tuple[float, ...]) -> tuple[float, ...]:
        product = KINDS[kind_of(channel)].law == "product"
        return tuple(v / b if product else v - b for v, b in zip(value, values[channel], strict=True))

    stops = tuple(
        s
        if s.at == puppet.dials[dial].rest
        else s.changed(values=s.values | {c: less(c, s.values.get(c, NEUTRAL[kind_of(c)])) for c in values})
        for s in puppet.dials[dial].stops
    )
    dials = {**puppet.dials, dial: puppet.dials[dial].changed(stops=stops)}
    changed = documents.with_(puppet.changed(joints=joints, dials=dials))
    for motion in documents.motions(puppet.id):
        mine = {c: motion.channels[c] for c in values if c in motion.channels}
        keys = {
            c: held.changed(keys={f: k.changed(value=less(c, k.value)) for f, k in held.keys.items()})
            for c, held in mine.items()
        }
        if keys:
            changed = changed.with_(motion.changed(channels={**motion.channels, **keys}))
    return changed


class RemoveStop(PuppetCommand):
    """Take away the stop of a dial that is nearest to a place of it."""

    do: Literal["remove-stop"] = "remove-stop"
    dial: Id
    at: Number

    def on(self, puppet: Puppet) -> Puppet:
        known(puppet, self.dial, "dials")
        dial = puppet.dials[self.dial]
        if not dial.stops:
            raise Refusal(f"“{dial.name}” has no stops.", remedy="Keep a pose on it first.")
        nearest = min(dial.stops, key=lambda s: abs(s.at - self.at))
        return puppet.changed(
            dials={**puppet.dials, dial.id: dial.changed(stops=tuple(s for s in dial.stops if s is not nearest))}
        )

    def said(self, puppet: Puppet) -> str:
        return f"Take a stop off dial “{puppet.dials[self.dial].name}”"


DialCommand = SetDial | RemoveDial | KeepStop | RemoveStop
