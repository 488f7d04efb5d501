"""Commands on turnarounds: views of a puppet from all round."""

from __future__ import annotations

from abc import abstractmethod
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import PuppetCommand, Tried
from sorvan.core.change.dials import DRIVEN, with_dial
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name, Ratio
from sorvan.core.model.channels import kind_of, owner_of
from sorvan.core.model.puppet import ROOT, Dial, DialStop, Puppet
from sorvan.core.rig.roles import ARM, LEG
from sorvan.core.rig.skeleton import box_of, piece_worlds

Bearing = Annotated[float, Field(ge=0, lt=360)]
USUAL = ((0.0, "front"), (45.0, "three-quarter"), (90.0, "side"), (135.0, "three-quarter back"), (180.0, "back"))
"""The views of a first half, and where they lie."""


def with_turnaround(puppet: Puppet, id: str, name: str = "turn") -> Puppet:
    """The puppet with a dial that turns it, its first view how it is rigged. Raises `Refusal` if it has one."""
    if any(d.turns for d in puppet.dials.values()):
        raise Refusal(f"“{puppet.name}” can be turned already.", where=puppet.name, remedy="Add views to its dial.")
    if id in puppet.dials:
        raise Refusal("That dial is there already.", where=id, kind="conflict")
    at, first = USUAL[0]
    stops = (DialStop(at=at, name=first),)
    return with_dial(puppet, Dial(id=id, name=name, low=0, high=360, rest=0, turns=True, stops=stops))


class AddTurnaround(PuppetCommand):
    """Give a puppet a dial that turns it. Its first view is how it is rigged."""

    do: Literal["add-turnaround"] = "add-turnaround"
    id: Id
    name: Name = "turn"

    def on(self, puppet: Puppet) -> Puppet:
        return with_turnaround(puppet, self.id, self.name)

    def said(self, puppet: Puppet) -> str:
        return f"Let “{puppet.name}” be turned"


class OfView(PuppetCommand):
    """A command on the view of a turnaround that lies at some degrees."""

    dial: Id
    at: Bearing

    def named(self, puppet: Puppet) -> str:
        """What the view is called."""
        dial = puppet.dials.get(self.dial)
        found = next((s for s in dial.stops if s.at == self.at), None) if dial else None
        return f"“{found.name or f'{found.at:g}°'}”" if found else "a view"


class AddView(PuppetCommand):
    """Add a view, as a copy of the one before it round the turn. Where and under which name, if that is not told: the
    next of the usual ones, or half way in the widest gap."""

    do: Literal["add-view"] = "add-view"
    dial: Id
    at: Bearing | None = None
    name: Name | None = None

    def on(self, puppet: Puppet) -> Puppet:
        dial = turnaround(puppet, self.dial)
        at, name = self._where(dial)
        if any(s.at == at for s in dial.stops):
            raise Refusal(f"There is a view at {at:g}° already.", where=dial.name, remedy="Choose other degrees.")
        before = max(dial.stops, key=lambda s: (s.at < at, s.at))
        added = dial.view(before).changed(at=at, name=name, of=None)
        return with_dial(puppet, dial.changed(stops=tuple(sorted((*dial.stops, added), key=lambda s: s.at))))

    def _where(self, dial: Dial) -> tuple[float, str]:
        places = sorted(s.at for s in dial.stops)
        if self.at is not None:
            return self.at, self.name or f"{self.at:g}°"
        free = next(((at, name) for at, name in USUAL if all(abs(at - p) > 1 for p in places)), None)
        if free is None:
            gaps = [(b - a, (a + b) / 2) for a, b in pairwise([*places, 360.0])]
            middle = round(max(gaps, key=lambda g: g[0])[1], 1)
            free = (middle, f"{middle:g}°")
        return free[0], self.name or free[1]

    def said(self, puppet: Puppet) -> str:
        return f"Add the view “{self._where(turnaround(puppet, self.dial))[1]}”"


class OnViews(OfView):
    """A command on a view that touches nothing but the views."""

    def on(self, puppet: Puppet) -> Puppet:
        dial = turnaround(puppet, self.dial)
        return with_dial(puppet, dial.changed(stops=tuple(sorted(self.viewed(dial), key=lambda s: s.at))))

    @abstractmethod
    def viewed(self, dial: Dial) -> list[DialStop]:
        """The views after this command."""


class SetView(OnViews):
    """Rename a view, put it elsewhere, or say how much it shortens what swings, all or the arms or the legs; only the
    fields given are changed."""

    do: Literal["set-view"] = "set-view"
    name: Name | None = None
    to: Bearing | None = None
    shorten: Ratio | None = None
    arms: Ratio | None = None
    legs: Ratio | None = None

    def viewed(self, dial: Dial) -> list[DialStop]:
        found = view_at(dial, self.at)
        if self.to is not None and self.at == 0:
            raise Refusal("The first view is how the puppet is rigged, and stays at 0°.", where=dial.name)
        given: dict[str, object] = {
            f: v for f, v in (("name", self.name), ("at", self.to), ("shorten", self.shorten)) if v is not None
        }
        of_limbs = {r: v for line, v in ((ARM, self.arms), (LEG, self.legs)) if v is not None for r in line}
        if of_limbs:
            given["by_role"] = {**found.by_role, **of_limbs}
        to = self.at if self.to is None else self.to

        def along(made: DialStop) -> DialStop:
            """A view that is made of this one goes on being so, and stays opposite if it is."""
            return made.changed(of=to, at=360 - to if made.at == 360 - self.at else made.at)

        return [found.changed(**given) if s is found else along(s) if s.of == self.at else s for s in dial.stops]

    def said(self, puppet: Puppet) -> str:
        return f"Change the view {self.named(puppet)}"


class KeepView(OnViews):
    """Keep what is tried in a view: joints as they are turned, moved and sized there, drawings, what is in front and
    what can be seen."""

    do: Literal["keep-view"] = "keep-view"
    tried: Tried

    def viewed(self, dial: Dial) -> list[DialStop]:
        found = view_at(dial, self.at)
        held, values = dial.view(found).values, dict(found.values)
        for channel, more in self.tried.items():
            kind = kind_of(channel)
            if kind not in DRIVEN or owner_of(channel) == ROOT:
                continue
            before = held.get(channel)
            if before is None or kind in ("show", "order", "opacity"):
                values[channel] = more
            elif kind == "scale":
                values[channel] = tuple(round(a * b, 6) for a, b in zip(before, more, strict=True))
            else:
                values[channel] = tuple(round(a + b, 6) for a, b in zip(before, more, strict=True))
        return [found.changed(values=values) if s is found else s for s in dial.stops]

    def said(self, puppet: Puppet) -> str:
        return f"Keep the view {self.named(puppet)}"


class RemoveView(OnViews):
    """Take a view away, with those that are made of it."""

    do: Literal["remove-view"] = "remove-view"

    def viewed(self, dial: Dial) -> list[DialStop]:
        found = view_at(dial, self.at)
        if self.at == 0:
            raise Refusal(
                "The first view is how the puppet is rigged.",
                where=dial.name,
                remedy="Remove the dial to turn no more.",
            )
        return [s for s in dial.stops if s is not found and s.of != self.at]

    def said(self, puppet: Puppet) -> str:
        return f"Remove the view {self.named(puppet)}"


class FlipViews(PuppetCommand):
    """Make the second half of a turn: every view of the first, in the mirror. They go along with what is changed in the
    first half, but for what is changed in themselves. The mirror stands where the puppet does; one that would
    stand beside itself is put below its own middle first."""

    do: Literal["flip-views"] = "flip-views"
    dial: Id

    def on(self, puppet: Puppet) -> Puppet:
        dial = turnaround(puppet, self.dial)
        half = to_flip(dial)
        if not half:
            raise Refusal(
                "There is nothing to flip: every view between front and back has its counterpart.",
                where=dial.name,
                remedy="Add views between 0° and 180° first.",
            )
        flipped = [DialStop(at=360 - s.at, name=f"{s.name} flipped", flips=not s.flips, of=s.at) for s in half]
        stops = tuple(sorted((*dial.stops, *flipped), key=lambda s: s.at))
        return with_dial(_standing(puppet), dial.changed(stops=stops))

    def said(self, puppet: Puppet) -> str:
        return "Make the second half of the turn"


ViewCommand = AddTurnaround | AddView | SetView | KeepView | RemoveView | FlipViews


def to_flip(dial: Dial) -> list[DialStop]:
    """The views between front and back that have no counterpart in the second half yet."""
    taken = {s.of for s in dial.stops} | {360 - s.at for s in dial.stops}
    return [s for s in dial.stops if 0 < s.at < 180 and s.of is None and s.at not in taken]


def _standing(puppet: Puppet) -> Puppet:
    """The puppet standing below itself."""
    if not puppet.pieces:
        return puppet
    worlds = piece_worlds(puppet)
    l, _, r, b = zip(*(box_of(p, worlds[id]) for id, p in puppet.pieces.items()), strict=True)
    if min(l) <= puppet.origin[0] <= max(r):
        return puppet
    return puppet.changed(origin=(round((min(l) + max(r)) / 2, 2), round(max(b), 2)))


def turnaround(puppet: Puppet, id: str) -> Dial:
    """The puppet's dial with this id, which turns it. Raises `Refusal` if there is none."""
    found = puppet.dials.get(id)
    if found is None or not found.turns:
        raise missing("turnaround", id)
    return found


def view_at(dial: Dial, at: float) -> DialStop:
    """The view at these degrees. Raises `Refusal` if it is gone."""
    found = next((s for s in dial.stops if s.at == at), None)
    if found is None:
        raise missing("view", f"{at:g}°")
    return found
