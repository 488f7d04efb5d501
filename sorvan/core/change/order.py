"""Commands that key what is in front and which drawing shows, from a frame on."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import MotionCommand, several
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.channels import ChannelKind, channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.times import Frame
from sorvan.core.timing.channels import evaluate


class OrderAt(MotionCommand):
    """From a frame on, let pieces lie just in `front` of another piece, or just behind it; in front or behind
    all, if no piece is named; as at rest, if they are to go `back`. They keep their order among themselves."""

    do: Literal["order-at"] = "order-at"
    frame: Frame
    pieces: Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]
    front: bool = True
    of: Id | None = None
    back: bool = False

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for id in (*self.pieces, *((self.of,) if self.of else ())):
            if id not in puppet.pieces:
                raise Refusal("A piece is gone.", where=id, remedy="Select the pieces again.", kind="missing")
        if self.of in self.pieces:
            raise Refusal("A piece can't lie in front of itself.", remedy="Choose another piece.")
        values = dict.fromkeys(self.pieces, 0.0) if self.back else self._values(motion, puppet)
        return from_here_on(motion, puppet, "order", self.frame, values)

    def _values(self, motion: Motion, puppet: Puppet) -> dict[str, float]:
        lies = {id: self._lies(motion, row, id) for row, id in enumerate(puppet.order)}
        rest = sorted(v for id, v in lies.items() if id not in self.pieces)
        chosen = sorted(self.pieces, key=lambda id: lies[id])
        if not rest:
            return dict.fromkeys(chosen, 0.0)
        at = lies[self.of] if self.of else (rest[-1] if self.front else rest[0])
        n = rest.index(at)
        if self.front:
            low, high = at, rest[n + 1] if n + 1 < len(rest) else at + 2
        else:
            low, high = rest[n - 1] if n else at - 2, at
        row = {id: r for r, id in enumerate(puppet.order)}
        step = (high - low) / (len(chosen) + 1)
        return {id: round(low + step * (i + 1) - row[id], 6) for i, id in enumerate(chosen)}

    def _lies(self, motion: Motion, row: int, id: str) -> float:
        channel = motion.channels.get(channel_id(id, "order"))
        if channel is None:
            return float(row)
        held = evaluate(channel, motion.length, motion.cycle)[0, min(self.frame, motion.length - 1)]
        return float(row + held)

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        pieces = documents.puppet(motion.puppet).pieces
        first = pieces[self.pieces[0]].name if self.pieces[0] in pieces else ""
        what = several(len(self.pieces), "piece", first)
        if self.back:
            return f"Put {what} back in its place at frame {self.frame + 1}"
        where = f"“{pieces[self.of].name}”" if self.of in pieces else "everything"
        return f"Put {what} {'in front of' if self.front else 'behind'} {where} at frame {self.frame + 1}"


class ShowAt(MotionCommand):
    """Show a drawing of a piece, by its number, from a frame on."""

    do: Literal["show-at"] = "show-at"
    frame: Frame
    piece: Id
    drawing: Annotated[int, Field(ge=-1, le=9999)]

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        if self.piece not in puppet.pieces:
            raise Refusal("A piece is gone.", where=self.piece, remedy="Select it again.", kind="missing")
        return from_here_on(motion, puppet, "show", self.frame, {self.piece: float(self.drawing)})

    def label(self, documents: Documents) -> str:
        puppet = documents.puppet(documents.motion(self.motion).puppet)
        piece = puppet.pieces.get(self.piece)
        shown = next((d.name for d in piece.drawings if d.number == self.drawing), "its own") if piece else "a drawing"
        return f"Show “{shown}” of “{piece.name if piece else ''}” from frame {self.frame + 1} on"


def from_here_on(motion: Motion, puppet: Puppet, kind: ChannelKind, frame: int, values: dict[str, float]) -> Motion:
    """Choices keyed at a frame."""
    keys = [NewKey(joint=id, kind=kind, frame=frame, value=(v,)) for id, v in values.items()]
    return SetKeys(motion=motion.id, keys=tuple(keys)).on(motion, puppet)


OrderCommand = OrderAt | ShowAt
