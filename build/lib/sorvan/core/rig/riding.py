"""Pieces on their joints: putting them somewhere, moving them to another joint, and what they share."""

from __future__ import annotations

from sorvan.core.geometry import Affine
from sorvan.core.model.puppet import Drawing, Morph, Piece, Placement, Puppet
from sorvan.core.rig.skeleton import piece_worlds, put_joints, rest_worlds


def fit_of(puppet: Puppet, held: Piece, wanted: Affine, joint: str | None = None) -> Placement:
    """The fit that brings a piece's pivot frame to `wanted` on the stage, on its joint or another."""
    return Placement.of(rest_worlds(puppet)[joint or held.joint].inverse() @ wanted)


def put_piece(puppet: Puppet, held: Piece, wanted: Affine) -> Puppet:
    """Bring a piece's pivot frame to `wanted`. A joint of its own takes the shift, the fit all the rest."""
    if not held.owns_joint():
        updated = held.changed(fit=fit_of(puppet, held, wanted))
        return puppet.changed(pieces={**puppet.pieces, held.id: updated})
    before = rest_worlds(puppet)[held.joint]
    moved_joint = before._replace(e=wanted.e, f=wanted.f)
    moved = put_joints(puppet, {held.joint: moved_joint})
    updated = held.changed(fit=Placement.of(moved_joint.inverse() @ wanted))
    return moved.changed(pieces={**moved.pieces, held.id: updated})


def ride(puppet: Puppet, held: Piece, joint: str) -> Puppet:
    """Let a piece ride on another joint, leaving it where it is on the stage."""
    if held.joint == joint:
        return puppet
    at = rest_worlds(puppet)[held.joint] @ held.fit.affine()
    moved = held.changed(joint=joint, fit=fit_of(puppet, held, at, joint))
    return puppet.changed(pieces={**puppet.pieces, held.id: moved})


def sharers(puppet: Puppet, held: Piece) -> list[str]:
    """The pieces that show the same set of drawings as this one, itself first."""
    others = [p.id for p in puppet.pieces.values() if held.shared and p.shared == held.shared and p.id != held.id]
    return [held.id, *others]


def move_pivots(puppet: Puppet, held: Piece, dx: float, dy: float) -> Puppet:
    """Move the pivots of all of a piece's drawings alike (drawing units); nothing on the stage moves."""
    px, py = held.shown().pivot
    x, y = piece_worlds(puppet)[held.id].place((px + dx, py + dy))
    drawings = tuple(d.changed(pivot=(d.pivot[0] + dx, d.pivot[1] + dy)) for d in held.drawings)
    if held.owns_joint():
        before = rest_worlds(puppet)[held.joint]
        puppet = put_joints(puppet, {held.joint: before._replace(e=x, f=y)})
        fit = held.fit.changed(x=0.0, y=0.0)
    else:
        fx, fy = held.fit.affine().place((dx, dy))
        fit = held.fit.changed(x=fx, y=fy)
    updated = held.changed(drawings=drawings, fit=fit)
    return puppet.changed(pieces={**puppet.pieces, held.id: updated})


def set_pivot(puppet: Puppet, held: Piece, x: float, y: float) -> Puppet:
    """Put a piece's turning point at a stage place; the pieces that share its drawings follow suit."""
    wanted = piece_worlds(puppet)[held.id].inverse().place((x, y))
    dx, dy = wanted[0] - held.shown().pivot[0], wanted[1] - held.shown().pivot[1]
    for each in sharers(puppet, held):
        puppet = move_pivots(puppet, puppet.pieces[each], dx, dy)
    return puppet


def move_joint(puppet: Puppet, id: str, x: float, y: float) -> Puppet:
    """Put a joint or handle at a stage place at rest; the pieces on it and all other joints stay."""
    riding = [p for p in puppet.pieces.values() if p.joint == id]
    own = [p for p in riding if p.owns_joint()]
    worlds = rest_worlds(puppet)
    frames = {p.id: worlds[id] @ p.fit.affine() for p in riding if not p.owns_joint()}
    if own:
        moved = set_pivot(puppet, own[0], x, y)
    else:
        moved = put_joints(puppet, {id: Affine.shift(x - worlds[id].e, y - worlds[id].f) @ worlds[id]})
    pieces = dict(moved.pieces)
    for piece, at in frames.items():
        pieces[piece] = pieces[piece].changed(fit=fit_of(moved, pieces[piece], at))
    return moved.changed(pieces=pieces)


def with_drawings(puppet: Puppet, held: Piece, drawings: tuple[Drawing, ...]) -> Puppet:
    """Give a piece, and all that share with it, these drawings."""
    pieces = dict(puppet.pieces)
    ids = {d.id for d in drawings}
    for id in sharers(puppet, held):
        shows = pieces[id].shows
        morphs = {m.id: m for m in pieces[id].morphs.values() if {m.first, m.second} <= ids}
        pieces[id] = pieces[id].changed(
            drawings=drawings,
            shows=shows if shows in ids else None,
            **({"morphs": morphs} if pieces[id].morphs else {}),
        )
    return puppet.changed(pieces=pieces)


def with_morph(puppet: Puppet, held: Piece, morph: Morph) -> Puppet:
    """Let two drawings of a piece, and of all that share with it, become one another in this way."""
    pieces = dict(puppet.pieces)
    for id in sharers(puppet, held):
        others = {m.id: m for m in pieces[id].morphs.values() if not m.between(morph.first, morph.second)}
        pieces[id] = pieces[id].changed(morphs={**others, morph.id: morph})
    return puppet.changed(pieces=pieces)


def with_drawing(puppet: Puppet, held: Piece, changed: Drawing) -> Puppet:
    """Put a changed drawing in the place of the one with its id, for a piece and all that share with it."""
    return with_drawings(puppet, held, tuple(changed if d.id == changed.id else d for d in held.drawings))
