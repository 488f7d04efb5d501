"""Left and right: reading sides from names, and making the other side."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

from sorvan.core.errors import Refusal
from sorvan.core.geometry import MIRROR, Affine, chain, compose, mirror_about, unplaced
from sorvan.core.model.puppet import Fit, Piece, Puppet, Side
from sorvan.core.rig.skeleton import ancestors, link, piece, put_joints, rest_worlds

_TWINS = {"left": "right", "right": "left", "l": "r", "r": "l"}
_WORD = re.compile(r"(?<![A-Za-z])(left|right|l|r)(?![A-Za-z])", re.IGNORECASE)


def other(side: Side) -> Side:
    """The opposite side; the centre is its own."""
    return {"left": "right", "right": "left", "centre": "centre"}[side]  # type: ignore[return-value]


def side_of(name: str) -> Side:
    """The side a name speaks of: left/right or L/R standing as a word of its own, else centre."""
    found = _WORD.search(name.replace("_", " "))
    if not found:
        return "centre"
    return "left" if found.group(1).lower() in ("left", "l") else "right"


def twin_name(name: str, side: Side) -> str:
    """The name of the other side's piece: the side word swapped, or the new side put in front."""
    found = _WORD.search(name.replace("_", " "))
    if not found:
        return name if side == "centre" else f"{side} {name}"
    word = found.group(1)
    swapped = _TWINS[word.lower()]
    if word.isupper():
        swapped = swapped.upper()
    elif word[0].isupper():
        swapped = swapped.capitalize()
    return name[: found.start(1)] + swapped + name[found.end(1) :]


def mirror_line(puppet: Puppet, pieces: Sequence[str]) -> float:
    """Where the puppet's middle is, in stage units from the left.

    The nearest centre joint that the pieces hang on; else the middle of the puppet's centre
    pieces; else where the puppet stands.
    """
    worlds = rest_worlds(puppet)
    for id in pieces:
        for above in ancestors(puppet.joints, puppet.pieces[id].joint):
            if puppet.joints[above].side == "centre":
                return worlds[above][4]
    middles = [worlds[p.joint][4] for p in puppet.pieces.values() if p.side == "centre" and p.id not in pieces]
    return sum(middles) / len(middles) if middles else puppet.origin[0]


def mirrored(puppet: Puppet, pieces: Sequence[str], new_ids: Mapping[str, str], line: float) -> Puppet:
    """Duplicate pieces as the other side, mirrored in the upright line at `line`.

    Copies keep their places relative to one another: a copy hangs on the copy of what its
    original hangs on, or else on the very same joint. Each copy shares its original's art.
    """
    joint_ids = {piece(puppet, id).joint: new_ids[id] for id in pieces}
    worlds = rest_worlds(puppet)
    flip = mirror_about(line)
    places: dict[str, Affine] = {}
    joints, copies = dict(puppet.joints), dict(puppet.pieces)
    for id in pieces:
        original = puppet.pieces[id]
        if original.side == "centre":
            side: Side = "right" if worlds[original.joint][4] < line else "left"
        else:
            side = other(original.side)
        name = free_name(twin_name(original.name, side), [p.name for p in copies.values()])
        hung = puppet.joints[original.joint]
        new = new_ids[id]
        if new in joints or new in copies:
            raise Refusal("The new piece's id is already taken.", remedy="Try again.", kind="conflict")
        joints[new] = hung.model_copy(update={"id": new, "name": name, "parent": None, "side": side})
        places[new] = chain(flip, worlds[original.joint], MIRROR)
        copies[new] = _flipped(original, new, name, side)
    result = put_joints(puppet.model_copy(update={"joints": joints, "pieces": copies}), places)
    for id in pieces:
        parent = puppet.joints[puppet.pieces[id].joint].parent
        if parent is not None:
            result = link(result, new_ids[id], joint_ids.get(parent, parent))
    order = list(puppet.order) + [new_ids[id] for id in puppet.order if id in new_ids]
    return result.model_copy(update={"order": tuple(order)})


def _flipped(original: Piece, id: str, name: str, side: Side) -> Piece:
    x, y, angle, skew, sx, sy = unplaced(compose(MIRROR, original.fit.affine()))
    fit = Fit(x=x, y=y, angle=angle, skew=skew, sx=sx, sy=sy)
    return original.model_copy(update={"id": id, "joint": id, "name": name, "side": side, "fit": fit})


def free_name(wanted: str, taken: Sequence[str]) -> str:
    """`wanted`, with a number behind it if that name is taken."""
    if wanted not in taken:
        return wanted
    n = 2
    while f"{wanted} {n}" in taken:
        n += 1
    return f"{wanted} {n}"
