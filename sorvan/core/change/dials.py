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
from sorvan.core.model.puppet import Dial, DialStop, Puppet

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


class KeepStop(PuppetCommand):
    """Keep a pose that is tried, added to what is kept there already, where a dial stands.

    Of the pose only what a dial can drive counts. A dial that is given its first stop away from its
    rest gets one at rest too, so that it comes back to nothing there.
    """

    do: Literal["keep-stop"] = "keep-stop"
    dial: Id
    at: Number
    tried: Tried = {}

    def on(self, puppet: Puppet) -> Puppet:
        known(puppet, self.dial, "dials")
        dial = puppet.dials[self.dial]
        at = min(max(self.at, dial.low), dial.high)
        here = [s for s in dial.stops if abs(s.at - at) < SAME_PLACE]
        kept = dict(here[0].values) if here else {}
        values = kept | {c: v for c, v in self.tried.items() if kind_of(c) in DRIVEN}
        others = [s for s in dial.stops if s not in here]
        if not any(abs(s.at - dial.rest) < SAME_PLACE for s in (*others, DialStop(at=at))):
            others.append(DialStop(at=dial.rest))
        kept_here = here[0].changed(values=values) if here else DialStop(at=at, values=values)
        stops = sorted((*others, kept_here), key=lambda s: s.at)
        return with_dial(puppet, dial.changed(stops=tuple(stops)))

    def said(self, puppet: Puppet) -> str:
        return f"Keep a pose on dial “{puppet.dials[self.dial].name}”"


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
