"""A rig put on other art: the joints, limits, limbs, bends, dials and mouths of one puppet for the pieces of another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats, Point
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import AS_AT_REST, ChannelId, channel_id, owner_of
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import (
    ROOT,
    Attach,
    Bend,
    Chain,
    Dial,
    DialStop,
    Joint,
    Limits,
    MouthChart,
    Piece,
    Placement,
    Puppet,
)
from sorvan.core.reuse.carrying import carried
from sorvan.core.reuse.links import Links, laid_over, linked
from sorvan.core.reuse.pins import box_over
from sorvan.core.reuse.proportions import Proportions
from sorvan.core.rig.riding import move_joint, ride
from sorvan.core.rig.roles import roles_of
from sorvan.core.rig.sides import free_name, twin_limits, twins
from sorvan.core.rig.skeleton import ancestors, link, rest_worlds
from sorvan.core.rig.usual import near


@dataclass(frozen=True)
class Fitted:
    """A puppet with the rig of another on its own art. `links` are the source's joints and what else answers to them,
    those that were `made` for it among them; `lacking` are the source's joints for which there is no art, `over` the
    pieces for which the rig has no joint, and `said` tells what did not come along."""

    puppet: Puppet
    links: Links
    made: tuple[str, ...] = ()
    lacking: tuple[str, ...] = ()
    over: tuple[str, ...] = ()
    said: tuple[str, ...] = ()


def fitted(source: Puppet, target: Puppet, joints: Mapping[str, str], pins: Mapping[str, Point]) -> Fitted:
    """The target with the source's rig. `joints` are the target's by those of the source that they answer to, `pins` where
    the target's joints turn (stage units). What was set by hand on the target stays, and no piece moves.

    Raises `Refusal` when nothing answers to anything.
    """
    if not joints:
        raise Refusal(
            f"Nothing of “{target.name}” answers to the rig of “{source.name}”.",
            where=target.name,
            remedy="Choose by hand which piece takes which joint, or name the pieces as they are named there.",
        )
    return _Fitter(source, target, dict(joints), pins).fitted()


@dataclass(eq=False)
class _Fitter:
    source: Puppet
    puppet: Puppet
    joints: dict[str, str]
    pins: Mapping[str, Point]
    made: dict[str, str] = field(default_factory=dict)
    said: list[str] = field(default_factory=list)

    def fitted(self) -> Fitted:
        source, before = self.source, self.puppet
        self.over_: Floats = laid_over(source, before, self.joints)
        self.across = bool(self.over_[0] < 0)
        self.pieces = self._linked().pieces
        self.needed = self._bones()
        fresh = all(j.parent is None for j in before.joints.values())
        answered = dict(self.joints)
        for one in sorted(source.joints, key=lambda j: len(ancestors(source.joints, j))):
            if not source.joints[one].handle:
                self._hang(one)
        self._roles()
        for one, other in self.pieces.items():
            self._ride(one, other)
        self._handles()
        self._limits()
        for one, other in self.pieces.items():
            self._bend(one, other)
        self._chains()
        if fresh:
            x, y = self._laid(source.origin)
            self.puppet = self.puppet.changed(origin=(round(x, 2), round(y, 2)))
        self._refresh()
        self._masks()
        self._dials()
        self._refresh()
        self._mouths()
        self._book()
        lacking = [j for j in source.joints if j in source.pieces and j not in answered]
        used = {*self.joints.values()}
        over = [p.joint for p in before.pieces.values() if p.owns_joint() and p.joint not in used]
        kept = [j for j in over if j in self.puppet.joints]
        return Fitted(self.puppet, self.links, tuple(self.made), tuple(lacking), tuple(kept), tuple(self.said))

    def _refresh(self) -> None:
        links = self._linked()
        self.links = replace(links, joints=dict(links.joints) | self.joints)
        self.between = Proportions(self.source, self.puppet, self.links)

    def _bones(self) -> set[str]:
        """The source's joints without a picture that the target needs too: what carries something that is there, bends it,
        or is a part of a body by itself."""
        source, found = self.source, set[str]()
        for one in self.pieces:
            held = source.pieces[one]
            found |= {held.joint, *(held.attach.nodes if held.attach is not None else ())}
        found |= {j for c in source.chains.values() if self.joints.keys() & set(c.joints) for j in c.joints}
        found |= {j for j in roles_of(source) if source.joints[j].parent in {*self.joints, *found}}
        found |= {a for j in (*self.joints, *found) for a in ancestors(source.joints, j)}
        return {j for j in found if j not in source.pieces and not source.joints[j].handle}

    def _linked(self) -> Links:
        """What answers to what, with the joints as they are told."""
        return linked(self.source, self.puppet, {j: self.joints.get(j) for j in self.source.joints})

    def _laid(self, at: Point) -> Point:
        """A place of the source's stage as the whole figure lies over the target."""
        kx, x, ky, y = self.over_
        return (float(kx * at[0] + x), float(ky * at[1] + y))

    def _above(self, one: str) -> str | None:
        """What answers to the nearest joint that this one hangs on, by whatever way."""
        return next((self.joints[j] for j in ancestors(self.source.joints, one) if j in self.joints), None)

    def _hang(self, one: str) -> None:
        own = self.source.joints[one]
        if one not in self.joints:
            if one in self.needed:
                self._make(own, self._place(one), self._above(one))
            return
        other = self.joints[one]
        if other in self.pins:
            self.puppet = move_joint(self.puppet, other, *self.pins[other])
        held, above = self.puppet.joints[other], self._above(one)
        if above is not None and above != held.parent:
            if held.parent is None and other not in ancestors(self.puppet.joints, above):
                self.puppet = link(self.puppet, other, above)
            else:
                self.said.append(f"“{held.name}” hangs where it was hung by hand.")
        held = self.puppet.joints[other]
        given: dict[str, object] = {}
        if held.role is None and own.role is not None:
            given["role"] = own.role
        if held.side == "centre" and own.side != "centre":
            given["side"] = own.side
        self.puppet = self.puppet.with_joints(held.changed(**given))
        piece = self.puppet.pieces.get(other)
        if piece is not None and piece.owns_joint() and piece.side == "centre" and own.side != "centre":
            self.puppet = self.puppet.with_pieces(piece.changed(side=own.side))

    def _roles(self) -> None:
        """Tell what joints are for that say it by their names in the source and not in the target."""
        known = roles_of(self.puppet)
        for one, role in roles_of(self.source).items():
            held = self.puppet.joints.get(self.joints.get(one, ""))
            if held is not None and held.id not in known:
                self.puppet = self.puppet.with_joints(held.changed(role=role))

    def _place(self, one: str) -> Point:
        """Where a joint without a picture lies in the target: by the piece that bends over it, or lies around it; else by
        the whole figure."""
        at = rest_worlds(self.source)[one].at
        bent = [p for p in self.source.pieces.values() if p.attach is not None and one in p.attach.nodes]
        riding = [p for p in self.source.pieces.values() if p.joint == one]
        for piece in (*bent, *riding):
            its = self.puppet.pieces.get(self.pieces.get(piece.id, ""))
            if its is not None:
                return box_over(self.source, piece, self.puppet, its, self.across, at)
        return self._laid(at)

    def _make(self, own: Joint, at: Point, above: str | None, world: bool = False) -> None:
        """A joint or handle of the source made for the target too."""
        id = _free(own.id, self.puppet)
        name = free_name(own.name, {j.name for j in self.puppet.joints.values()})
        rest = Placement(x=round(at[0], 2), y=round(at[1], 2))
        joint = own.changed(id=id, name=name, parent=None, world=False, rest=rest, limits=None)
        self.puppet = self.puppet.with_joints(joint)
        if above is not None or world:
            self.puppet = link(self.puppet, id, above, world)
        self.joints[own.id] = self.made[own.id] = id

    def _ride(self, one: str, other: str) -> None:
        """Let a piece ride on what answers to the joint that the source's rides on."""
        own, its = self.source.pieces[one], self.puppet.pieces[other]
        wanted = self.joints.get(own.joint)
        if own.owns_joint() or wanted is None or wanted == its.joint or not its.owns_joint():
            return
        loose = self.puppet.joints[its.joint]
        if loose.parent is not None or its.joint in self.joints.values():
            return
        self.puppet = ride(self.puppet, its, wanted)
        # Its own joint has nothing more to carry.
        if all(j.parent != loose.id for j in self.puppet.joints.values()):
            left = {id: j for id, j in self.puppet.joints.items() if id != loose.id}
            self.puppet = self.puppet.changed(joints=left)

    def _handles(self) -> None:
        ends = {c.handle: c.joints[-1] for c in self.source.chains.values()}
        worlds = rest_worlds(self.source)
        handles = [h for h in self.source.joints.values() if h.handle and h.id not in self.joints]
        for handle in sorted(handles, key=lambda h: len(ancestors(self.source.joints, h.id))):
            end = ends.get(handle.id)
            if any(j is not None and j not in self.joints for j in (end, handle.parent)):
                self.said.append(f"The handle “{handle.name}” has nothing to hold here.")
                continue
            at = self._beside(handle.id) or self._place(handle.id)
            if end is not None:
                x, y = rest_worlds(self.puppet)[self.joints[end]].at
                (hx, hy), (ex, ey) = worlds[handle.id].at, worlds[end].at
                at = (x + float(self.over_[0]) * (hx - ex), y + float(self.over_[2]) * (hy - ey))
            self._make(handle, at, self._above(handle.id), handle.world)

    def _beside(self, one: str) -> Point | None:
        """Where a handle lies that carries that of a limb: as it lies at the picture of that limb's end, like a heel."""
        for chain in self.source.chains.values():
            own, its = (p.pieces.get(j) for p, j in ((self.source, chain.joints[-1]), (self.puppet, self._end(chain))))
            if own is not None and its is not None and one in ancestors(self.source.joints, chain.handle):
                at = rest_worlds(self.source)[one].at
                return box_over(self.source, own, self.puppet, its, self.across, at)
        return None

    def _end(self, chain: Chain) -> str:
        return self.joints.get(chain.joints[-1], "")

    def _limits(self) -> None:
        """Turning ranges, about where the source's joints point at rest."""
        self._refresh()
        offsets = self.between.offsets([*self.joints])
        set_now: set[str] = set()
        for one, other in self.joints.items():
            limits, held = self.source.joints[one].limits, self.puppet.joints[other]
            if limits is None or held.limits is not None:
                continue
            by = round(offsets.get(one, 0.0), 1)
            flip = self.between.sign(one, other) < 0
            low, high = (-limits.high, -limits.low) if flip else (limits.low, limits.high)
            # Rest itself stays within.
            given = Limits(low=max(min(low + by, 0.0), -720), high=min(max(high + by, 0.0), 720))
            self.puppet = self.puppet.with_joints(held.changed(limits=given))
            set_now.add(other)
        # Art is never quite the same on both sides; what twins may do is.
        for left, right in twins(self.puppet).items():
            first, second = self.puppet.joints[left], self.puppet.joints[right]
            alike = twin_limits(self.puppet, left, right) if first.side == "left" and {left, right} <= set_now else None
            if alike is not None and second.limits is not None and near(alike, second.limits):
                self.puppet = self.puppet.with_joints(second.changed(limits=alike))

    def _bend(self, one: str, other: str) -> None:
        own, its = self.source.pieces[one], self.puppet.pieces[other]
        if own.attach is None or its.attach is not None:
            return
        if any(n not in self.joints for n in own.attach.nodes):
            self.said.append(f"“{its.name}” does not bend: what it would bend over is not all there.")
            return
        self.puppet = self.puppet.with_pieces(its.changed(attach=self._attach(own, its, own.attach)))

    def _attach(self, own: Piece, its: Piece, attach: Attach) -> Attach:
        """How a piece bends, in the units of the other's picture."""
        a, b = own.shown().bounds, its.shown().bounds
        kx, ky = ((b[k + 2] - b[k]) / max(a[k + 2] - a[k], 1e-9) for k in (0, 1))
        by = (kx * ky) ** 0.5
        renamed = attach.renamed(self.joints)
        if not isinstance(renamed, Bend):
            turning = {h: min(r * by, 1e5) for h, r in renamed.turning.items()}
            return renamed.changed(margin=min(max(renamed.margin * by, 0.5), 200.0), turning=turning)
        dabs = tuple(
            d.changed(x=b[0] + kx * (d.x - a[0]), y=b[1] + ky * (d.y - a[1]), radius=min(d.radius * by, 1e5))
            for d in renamed.dabs
        )
        return renamed.changed(reach={j: min(r * by, 1e5) for j, r in renamed.reach.items()}, dabs=dabs)

    def _chains(self) -> None:
        other_way = {"clockwise": "counter-clockwise", "counter-clockwise": "clockwise"}
        ends = {c.joints[-1] for c in self.puppet.chains.values()}
        for chain in self.source.chains.values():
            if self.joints.get(chain.joints[-1]) in ends:
                continue
            if any(j not in self.joints for j in (*chain.joints, chain.handle)):
                self.said.append(f"“{chain.name}” does not reach: it lacks joints.")
                continue
            made: Chain = chain.changed(
                id=_free(chain.id, self.puppet),
                joints=tuple(self.joints[j] for j in chain.joints),
                handle=self.joints[chain.handle],
                bend=other_way.get(chain.bend, chain.bend) if self.across else chain.bend,
            )
            if any(self.puppet.joints[b].parent != a for a, b in zip(made.joints, made.joints[1:], strict=False)):
                self.said.append(f"“{chain.name}” does not reach: its joints do not hang on one another here.")
                continue
            self.puppet = self.puppet.with_chains(made)

    def _masks(self) -> None:
        for one, other in self.pieces.items():
            own, its = self.source.pieces[one], self.puppet.pieces[other]
            masks = [m.changed(piece=self.pieces[m.piece]) for m in own.masks if m.piece in self.pieces]
            if masks and not its.masks:
                self.puppet = self.puppet.with_pieces(its.changed(masks=tuple(masks)))

    def _dials(self) -> None:
        there = {d.name.casefold() for d in self.puppet.dials.values()}
        turning = any(d.turns for d in self.puppet.dials.values())
        for dial in self.source.dials.values():
            if dial.name.casefold() in there or (dial.turns and turning):
                continue
            made, lost, kept = self._dial(dial)
            if dial.turns and self._without_views(dial):
                self.said.append(f"“{dial.name}” does not turn it: there are no drawings of its other views.")
                continue
            if not kept and lost:
                self.said.append(f"The dial “{dial.name}” has nothing to drive here.")
                continue
            if lost:
                self.said.append(
                    f"The dial “{dial.name}” drives {kept} of {kept + lost} values: the rest is not there."
                )
            self.puppet = self.puppet.changed(dials={**self.puppet.dials, made.id: made})

    def _without_views(self, dial: Dial) -> bool:
        """Whether most of the drawings that a turnaround shows are not there."""
        shows = [
            (owner_of(c), round(v[0])) for s in dial.stops for c, v in s.values.items()
            if c.endswith(".show") and v[0] != AS_AT_REST
        ]  # fmt: skip
        there = sum(number in self.links.drawings.get(piece, {}) for piece, number in shows)
        return bool(shows) and 2 * there < len(shows)

    def _dial(self, dial: Dial) -> tuple[Dial, int, int]:
        """A dial for the target; how many of its values have nothing to drive there, and how many have."""
        stops: list[DialStop] = []
        lost = kept = 0
        for stop in dial.stops:
            values: dict[str, tuple[float, ...]] = {}
            for channel, value in stop.values.items():
                owner, kind = ChannelId.of(channel)
                its = self.links.owner(kind, owner)
                given = None if its is None else self.between.value(kind, owner, its, value)
                if its is None or given is None:
                    lost += 1
                else:
                    values[channel_id(its, kind)], kept = given, kept + 1
            stops.append(stop.changed(values=values))
        return dial.changed(id=_free(dial.id, self.puppet), stops=tuple(stops)), lost, kept

    def _mouths(self) -> None:
        chart = self.source.mouths
        if chart is None or self.puppet.mouths is not None:
            return
        made = self._chart(chart)
        if made is None:
            self.said.append("The mouth chart has no mouths here: draw them, or bring them in under the same names.")
        else:
            self.puppet = self.puppet.changed(mouths=made)

    def _chart(self, chart: MouthChart) -> MouthChart | None:
        if chart.dial is not None:
            dial = self.links.dials.get(chart.dial)
            return None if dial is None else chart.changed(dial=dial)
        piece = self.links.pieces.get(chart.piece or "")
        numbers = self.links.drawings.get(chart.piece or "", {})
        if piece is None or not numbers:
            return None
        mouths = {
            id: m.changed(
                shows={
                    mood: shown
                    for mood, held in m.shows.items()
                    if (shown := tuple(float(numbers[round(n)]) for n in held if round(n) in numbers))
                }
            )
            for id, m in chart.mouths.items()
        }
        bare = [m.name for id, m in mouths.items() if chart.mouths[id].shows and not m.shows]
        if bare:
            self.said.append(f"Mouths without a drawing: {', '.join(bare)}.")
        return chart.changed(piece=piece, mouths=mouths) if any(m.shows for m in mouths.values()) else None

    def _book(self) -> None:
        """The poses kept with the puppet."""
        there = {e.name.casefold() for e in self.puppet.book.values()}
        book = dict(self.puppet.book)
        for entry in self.source.book.values():
            if entry.name.casefold() in there:
                continue
            channels: dict[str, Channel] = {}
            for id, keys in entry.keys.items():
                owner, kind = ChannelId.of(id)
                channels[id] = Channel(joint=owner, kind=kind, keys=keys)  # type: ignore[arg-type]
            motion = Motion(id="m", name=entry.name, puppet=self.source.id, length=entry.frames, channels=channels)
            made = carried(motion, self.source, self.puppet, self.links, "m", Fraction(24)).motion
            if made.channels:
                id = _free(entry.id, self.puppet)
                book[id] = entry.changed(id=id, keys={c: dict(held.keys) for c, held in made.channels.items()})
        self.puppet = self.puppet.changed(book=book)


def _free(wanted: str, puppet: Puppet) -> str:
    """An id that nothing of the puppet has yet: the wanted one, or one like it."""
    taken = {ROOT, *puppet.joints, *puppet.pieces, *puppet.chains, *puppet.dials, *puppet.book}
    name, n = wanted, 2
    while name in taken:
        name, n = f"{wanted[:34]}-{n}", n + 1
    return name
