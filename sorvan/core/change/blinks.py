"""The command that makes a blink of what is there."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import PuppetCommand
from sorvan.core.change.dials import with_dial
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Id, Name
from sorvan.core.model.channels import channel_id
from sorvan.core.model.puppet import Dial, DialStop, Puppet
from sorvan.core.rig.skeleton import piece

PieceIds = Annotated[tuple[Id, ...], Field(max_length=200)]
SHUT_FROM = 50.0
"""Where on the dial, from 0 to 100, the eyes are shut: nothing is half shown on the way."""


class MakeBlink(PuppetCommand):
    """Make a dial that shuts the eyes: pieces that show `only_shut` (lids), pieces that show `only_open` (eyes under them),
    and by piece the number of the drawing that it shows while they are shut. A lid that was hidden is seen by it."""

    do: Literal["make-blink"] = "make-blink"
    dial: Id
    name: Name = "blink"
    only_shut: PieceIds = ()
    only_open: PieceIds = ()
    drawings: Annotated[dict[Id, int], Field(max_length=200)] = {}

    def on(self, puppet: Puppet) -> Puppet:
        if not (self.only_shut or self.only_open or self.drawings):
            raise Refusal(
                "Nothing is chosen that would blink.",
                where=puppet.name,
                remedy="Choose lids that show only while the eyes are shut, or eyes with a drawing of them shut.",
            )
        if self.dial in puppet.dials:
            raise Refusal("A dial with that id is there already.", where=self.name, kind="conflict")
        for id, number in self.drawings.items():
            if all(d.number != number for d in piece(puppet, id).drawings):
                raise missing("drawing", f"{number}")
        seen = {channel_id(id, "opacity"): 0.0 for id in self.only_shut}
        seen |= {channel_id(id, "opacity"): 100.0 for id in self.only_open}
        open_: dict[str, tuple[float, ...]] = {channel: (part,) for channel, part in seen.items()}
        shut: dict[str, tuple[float, ...]] = {channel: (100.0 - part,) for channel, part in seen.items()}
        shut |= {channel_id(id, "show"): (float(number),) for id, number in self.drawings.items()}
        stops = (
            DialStop(at=0.0, values=open_),
            # A step: what a blink shows is there or not.
            DialStop(at=SHUT_FROM - 1, values=open_),
            DialStop(at=SHUT_FROM, values=shut),
        )
        lids = [piece(puppet, id).changed(hidden=False) for id in self.only_shut]
        return with_dial(puppet.with_pieces(*lids), Dial(id=self.dial, name=self.name, stops=stops))

    def said(self, puppet: Puppet) -> str:
        return f"Make “{self.name}” of what is there"


BlinkCommand = MakeBlink
