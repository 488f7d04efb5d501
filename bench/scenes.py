"""What is measured: made-up puppets of a given size, in motion."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from statistics import median

from sorvan.core.change.commands import COMMAND
from sorvan.core.model.art import Art, Flat, Outline, Shape, Stroke
from sorvan.core.model.base import asset_id
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Slow
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Drawing, Joint, Piece, Placement, Puppet
from sorvan.interchange.archive import KeptFiles
from sorvan.picture.studio import ART_MEDIA


def leaf(hue: int) -> Art:
    """A curved, outlined leaf about 90 units long."""
    outline = Outline(verbs="MCCZ", points=(0, 0, 20, -26, 60, -26, 90, 0, 60, 26, 20, 26, 0, 0))
    colour = f"#{60 + hue * 3 % 180:02x}{90 + hue * 7 % 120:02x}{120 + hue * 11 % 120:02x}ff"
    stroke = Stroke(paint=Flat(colour="#20304aff"), width=3, join="round")
    return Art(bounds=(-2, -24, 92, 24), nodes=(Shape(outline=outline, fill=Flat(colour=colour), stroke=stroke),))


def puppet(
    id: str, pieces: int, frames: int, at: tuple[float, float], keys: int = 6
) -> tuple[Puppet, Motion, KeptFiles]:
    """A branching puppet of so many pieces, every joint keyed, and its motion."""
    kept: KeptFiles = {}
    made, joints, channels = {}, {}, {}
    for i in range(pieces):
        name = f"{id}-{i}"
        data = leaf(i).model_dump_json().encode()
        kept[asset_id(data)] = (ART_MEDIA, data)
        parent = f"{id}-{(i - 1) // 2}" if i else None
        rest = Placement(x=60 if i else at[0], y=(18 if i % 2 else -18) if i else at[1], angle=24 if i % 2 else -24)
        joints[name] = Joint(id=name, name=name, parent=parent, rest=rest)
        drawing = Drawing(id="d", name="leaf", art=asset_id(data), pivot=(0, 0), bounds=(-2, -24, 92, 24))
        made[name] = Piece(id=name, name=name, joint=name, drawings=(drawing,))
        step = max(1, frames // keys)
        turns = {f: Key(value=(18 * math.sin(i + f),), ease=Slow(out=40, into=60)) for f in range(0, frames, step)}
        channels[f"{name}.turn"] = Channel(joint=name, kind="turn", keys=turns)
    whole = Puppet(id=id, name=id, pieces=made, joints=joints, order=tuple(made))
    return whole, Motion(id=f"{id}-m", name="sway", puppet=id, length=frames, channels=channels), kept


def production(pieces: int, frames: int) -> tuple[Documents, KeptFiles]:
    """A production with one such puppet."""
    whole, motion, kept = puppet("tree", pieces, frames, (500, 360))
    return Documents({"bench": Production(id="bench", name="Bench")}).with_(whole, motion), kept


def changed(documents: Documents, command: dict[str, object]) -> Documents:
    """The documents after a command given as plain data."""
    return COMMAND.validate_python(command).apply(documents)


def seconds(work: Callable[[], object], times: int = 9) -> float:
    """The median time that this takes, after one run to warm up."""
    work()
    found = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        found.append(time.perf_counter() - began)
    return median(found)


def report(what: str, figure: str, ratio: float, against: str, goal: str) -> None:
    """One line of results."""
    print(f"{what:<44} {figure:>16}   {ratio:8.2f} × {against:<44} (goal: {goal})", flush=True)
