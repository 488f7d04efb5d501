"""What of a puppet blinks: lids that come over eyes, and eyes that are drawn open and shut."""

from __future__ import annotations

from sorvan.core.model.base import Value
from sorvan.core.model.puppet import Puppet
from sorvan.core.rig.lexicon import EYES, LIDS, SHUT
from sorvan.core.rig.names import words


class BlinkParts(Value):
    """What blinks: the pieces that show only while the eyes are shut, those that show only while they are open, and by
    piece the number of the drawing that it shows while they are shut."""

    only_shut: tuple[str, ...] = ()
    only_open: tuple[str, ...] = ()
    drawings: dict[str, int] = {}


def blink_parts(puppet: Puppet) -> BlinkParts:
    """What blinks by its name: eyes with a drawing called shut, or else lids, and eyes called shut or open."""
    drawings: dict[str, int] = {}
    only_shut: list[str] = []
    only_open: list[str] = []
    for piece in puppet.pieces.values():
        said = set(words(piece.name))
        shut = next((d.number for d in piece.drawings if SHUT & set(words(d.name)) and d != piece.shown()), None)
        if said & (EYES | LIDS) and shut is not None:
            drawings[piece.id] = shut
        elif said & LIDS or (said & EYES and said & SHUT):
            only_shut.append(piece.id)
        elif said & EYES and said & {"open", "offen", "ouvert", "abierto", "aperto", "auki"}:
            only_open.append(piece.id)
    return BlinkParts(only_shut=tuple(only_shut), only_open=tuple(only_open), drawings=drawings)
