"""The puppet as a whole."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.model.base import AssetId, Checked, Id, Name, Number, Pair, Value, filed, in_tree
from sorvan.core.model.channels import ChannelId, belongs_to
from sorvan.core.model.puppet.book import Entry
from sorvan.core.model.puppet.dial import Dial
from sorvan.core.model.puppet.joint import ROOT, Chain, Joint
from sorvan.core.model.puppet.mouths import MouthChart
from sorvan.core.model.puppet.piece import Group, Piece
from sorvan.core.model.times import LONGEST


class Reference(Value):
    """Pictures laid under the work and never rendered, placed by their top left corner (units). Of several
    one shows a frame, beginning with number `offset` at the first; after the last comes the first again."""

    pictures: Annotated[tuple[AssetId, ...], Field(min_length=1, max_length=2000)]
    width: Annotated[float, Field(gt=0, le=1e5)]
    height: Annotated[float, Field(gt=0, le=1e5)]
    x: Number = 0.0
    y: Number = 0.0
    scale: Annotated[float, Field(gt=0, le=100)] = 1.0
    opacity: Annotated[float, Field(ge=0, le=1)] = 0.5
    hidden: bool = False
    offset: Annotated[int, Field(ge=-LONGEST, le=LONGEST)] = 0


class Puppet(Checked):
    """A rigged character, prop or set. `order` runs from back to front; `origin` is where it stands; `axis` is the upright
    line in which its other side is made (stage units from the left), where it was set."""

    kind: Literal["puppet"] = "puppet"
    id: Id
    name: Name
    origin: Pair = (0.0, 0.0)
    axis: Number | None = None
    pieces: dict[Id, Piece] = {}
    joints: dict[Id, Joint] = {}
    groups: dict[Id, Group] = {}
    order: tuple[Id, ...] = ()
    chains: dict[Id, Chain] = {}
    dials: dict[Id, Dial] = {}
    reference: Reference | None = None
    book: dict[Id, Entry] = {}
    mouths: MouthChart | None = None

    def check(self) -> None:
        for noun, values in (
            ("piece", self.pieces), ("joint", self.joints), ("group", self.groups),
            ("limb", self.chains), ("dial", self.dials), ("pose", self.book),
        ):  # fmt: skip
            filed(noun, values)  # type: ignore[arg-type]
        in_tree("group", {g.id: g.parent for g in self.groups.values()})
        in_tree("joint", {j.id: j.parent for j in self.joints.values()})
        if ROOT in self.joints:
            raise ValueError(f"no joint can be called “{ROOT}”, which stands for all of them")
        if len(self.order) != len(self.pieces) or set(self.order) != self.pieces.keys():
            raise ValueError("the order must name every piece once")
        for piece in self.pieces.values():
            self._seated(piece)
        for chain in self.chains.values():
            self._there(f"“{chain.name}” reaches with", (*chain.joints, chain.handle))
        for dial in self.dials.values():
            self._drives(dial)
        if self.mouths is not None:
            self._speaks(self.mouths)
        no_circle({p.id: tuple(m.piece for m in p.masks) for p in self.pieces.values() if p.masks})

    def _there(self, sentence: str, joints: Iterable[str]) -> None:
        for id in joints:
            if id not in self.joints:
                raise ValueError(f"{sentence} a joint that is not there")

    def _seated(self, piece: Piece) -> None:
        self._there(f"“{piece.name}” rides on", (piece.joint,))
        if piece.attach is not None:
            self._there(f"“{piece.name}” bends by", piece.attach.nodes)
        if piece.group is not None and piece.group not in self.groups:
            raise ValueError(f"“{piece.name}” is in a group that is not there")
        if any(m.piece not in self.pieces for m in piece.masks):
            raise ValueError(f"“{piece.name}” is masked by a piece that is not there")

    def _drives(self, dial: Dial) -> None:
        for stop in dial.stops:
            for channel in stop.values:
                owner, kind = ChannelId.of(channel)
                if owner not in (self.pieces if belongs_to(kind) == "piece" else self.joints):
                    raise ValueError(f"“{dial.name}” drives something that is not there")

    def _speaks(self, chart: MouthChart) -> None:
        if chart.piece is not None and chart.piece not in self.pieces:
            raise ValueError("the mouths are drawings of a piece that is not there")
        if chart.dial is not None and chart.dial not in self.dials:
            raise ValueError("the mouths are places of a dial that is not there")

    def unseen(self, piece: Piece) -> bool:
        """Whether a piece is hidden, by itself or with a group that it is in."""
        return piece.hidden or any(g.hidden for g in self.around(piece))

    def around(self, piece: Piece) -> list[Group]:
        """The groups a piece is in, innermost first."""
        found: list[Group] = []
        at = piece.group
        while at is not None and at in self.groups and len(found) < 64:
            found.append(self.groups[at])
            at = found[-1].parent
        return found

    def with_pieces(self, *pieces: Piece) -> Puppet:
        """This puppet with these pieces in place of those that had their ids."""
        return self.changed(pieces={**self.pieces, **{p.id: p for p in pieces}})

    def with_joints(self, *joints: Joint) -> Puppet:
        """This puppet with these joints; those that had their ids go."""
        return self.changed(joints={**self.joints, **{j.id: j for j in joints}})

    def with_chains(self, *chains: Chain) -> Puppet:
        """This puppet with these limbs reaching; those that had their ids go."""
        return self.changed(chains={**self.chains, **{c.id: c for c in chains}})


def no_circle(masks: Mapping[str, tuple[str, ...]]) -> None:
    """Raises `ValueError` if a piece masks itself, by way of what masks it. `masks` are a piece's masks by its id."""
    for start in masks:
        waiting, seen = list(masks[start]), set[str]()
        while waiting:
            at = waiting.pop()
            if at == start:
                raise ValueError(f"the piece “{start}” would mask itself, by way of what masks it")
            if at not in seen:
                seen.add(at)
                waiting.extend(masks.get(at, ()))
