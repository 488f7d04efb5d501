"""The puppet: its pieces, the joints they ride on, how they bend, and its dials."""

from sorvan.core.model.puppet.attach import Attach, Bend, BendSheet, Dab
from sorvan.core.model.puppet.book import Entry
from sorvan.core.model.puppet.dial import Dial, DialStop
from sorvan.core.model.puppet.joint import ROOT, Chain, Joint, Limits, Placement, Role, Side
from sorvan.core.model.puppet.morph import Lone, Mark, Morph, Pairing, WayBetween
from sorvan.core.model.puppet.mouths import PLAIN, Mouth, MouthChart, MouthGroup
from sorvan.core.model.puppet.piece import Correction, Drawing, Group, Mask, Piece, Preparation
from sorvan.core.model.puppet.puppet import Puppet, Reference

__all__ = [
    "PLAIN",
    "ROOT",
    "Attach",
    "Bend",
    "BendSheet",
    "Chain",
    "Correction",
    "Dab",
    "Dial",
    "DialStop",
    "Drawing",
    "Entry",
    "Group",
    "Joint",
    "Limits",
    "Lone",
    "Mark",
    "Mask",
    "Morph",
    "Mouth",
    "MouthChart",
    "MouthGroup",
    "Pairing",
    "Piece",
    "Placement",
    "Preparation",
    "Puppet",
    "Reference",
    "Role",
    "Side",
    "WayBetween",
]  # fmt: skip
