"""A piece that bends over several joints: made ready once, then bent in all frames at once."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from sorvan.core.deform.mesh import TriangleMesh, mesh_over
from sorvan.core.deform.skin import Skin, evenly, skin_of
from sorvan.core.deform.weights import Bone, bone_weights, limited, painted
from sorvan.core.geometry import Floats, Point
from sorvan.core.late import late
from sorvan.core.model.art import Art
from sorvan.core.model.puppet import Bend

csgraph = late("scipy.sparse.csgraph")
spatial = late("scipy.spatial")

TRIANGLES = 420
"""Triangles on which weights are worked out."""
ALONG = 12
"""Places on the bone before a last joint from which ways along the mesh start."""
FAR = 0.92
"""The part of the longest way along the mesh from which on a place belongs to a limb's end."""
STRAIGHT = 0.9
"""The cosine of the angle from which on a last bone leads straight on."""
STEP = 0.12
"""How much weights may change along one part of an outline."""


@dataclass(frozen=True)
class Bones:
    """The joints a piece bends over, as they lie at rest in its drawing.

    `places` are the joints themselves, `parents` the row of each one's parent among them (-1: none).
    """

    joints: tuple[str, ...]
    places: tuple[Point, ...]
    parents: tuple[int, ...]


@dataclass(frozen=True)
class Weighted:
    """A mesh over a drawing with the weight of each joint at each vertex, `(vertices, joints)`."""

    mesh: TriangleMesh
    weights: Floats

    def at(self, points: Floats) -> Floats:
        """Each joint's weight at points `(n, 2)`, `(n, joints)`."""
        rows, near = self.mesh.within(points)
        found: Floats = (near[:, :, None] * self.weights[rows]).sum(axis=1)
        return np.clip(found, 0, 1)


@dataclass(frozen=True)
class BendReady:
    """A skin with weights `(n, joints)` and, for each point, the place it turns about `(n, 2)`; `parents` are the rows of
    the joints' parents among them (-1: none)."""

    skin: Skin
    weights: Floats
    centres: Floats
    roundness: float
    parents: tuple[int, ...]


def spans(mesh: TriangleMesh, bones: Bones) -> tuple[list[Bone], list[int]]:
    """The spans of these joints and the row of the joint that each belongs to: from a joint to each
    child among them; from one without a child to the end of what hangs on it in the drawing."""
    found: list[Bone] = []
    owners: list[int] = []
    for row, at in enumerate(bones.places):
        children = [i for i, p in enumerate(bones.parents) if p == row]
        ends = [bones.places[i] for i in children] or [_far_end(mesh, bones, row)]
        found += [(at, end) for end in ends]
        owners += [row] * len(ends)
    return found, owners


def _far_end(mesh: TriangleMesh, bones: Bones, row: int) -> Point:
    """Where the last bone of a limb leads: the far end, along the mesh, of what is the last joint's own.

    That is what lies nearer, along the mesh, to the joint than to the bone before it. Straight on, if
    the end lies about there, so that both edges of a limb are treated alike.
    """
    at, parent = np.array(bones.places[row]), bones.parents[row]
    before = np.array(bones.places[parent]) if parent >= 0 else 2 * at - mesh.vertices.mean(axis=0)
    steps = np.linspace(1, 0, ALONG)[:, None]
    tree = spatial.cKDTree(mesh.vertices)
    sources = tree.query(at + (before - at) * (1 - steps))[1] if parent >= 0 else tree.query(at[None])[1]
    distance, _, nearest = csgraph.dijkstra(
        mesh.lengths(), directed=False, indices=np.unique(sources), return_predecessors=True, min_only=True
    )
    own = np.flatnonzero((nearest == sources[0]) & np.isfinite(distance))
    far = own[distance[own] >= FAR * distance[own].max()]
    way = mesh.vertices[far].mean(axis=0) - at
    on = (at - before) / max(float(np.hypot(*(at - before))), 1e-9)
    long = float(np.hypot(*way))
    if way @ on > STRAIGHT * long:
        way = on * max(float(((mesh.vertices[own] - at) @ on).max()), 1.0)
    elif long < 1e-6:
        way = on
    return (float(at[0] + way[0]), float(at[1] + way[1]))


def weighted(shape: BaseGeometry, bones: Bones, bend: Bend, grain: float = 0.0) -> Weighted:
    """The weights that a piece gets by itself, then limited and painted as it says.

    `grain` is how coarsely the silhouette was traced, in drawing units.
    """
    left, top, right, bottom = shape.bounds
    # Narrow, so that two limbs drawn close together do not grow into one.
    margin = max(0.0005 * max(right - left, bottom - top), 0.8 * grain)
    mesh = mesh_over(shape, TRIANGLES, margin, bones.places[1:])
    found, owners = spans(mesh, bones)
    by_bone = bone_weights(mesh, shape, found)
    reach = {i: bend.reach[bones.joints[o]] for i, o in enumerate(owners) if bones.joints[o] in bend.reach}
    by_bone = limited(by_bone, mesh.vertices, found, reach)
    weights = np.zeros((len(mesh.vertices), len(bones.joints)))
    for i, owner in enumerate(owners):
        weights[:, owner] += by_bone[:, i]
    rows = {id: i for i, id in enumerate(bones.joints)}
    return Weighted(mesh, painted(weights, mesh.vertices, bend.dabs, rows))


def bend_ready(art: Art, held: Weighted, bones: Bones, bend: Bend) -> BendReady:
    """The drawing with points added where its weights change, and how each of them goes."""

    def cuts(along: Floats) -> list[Floats]:
        weights = held.at(along.reshape(-1, 2)).reshape(*along.shape[:2], -1)
        return [evenly(change, STEP) for change in np.abs(np.diff(weights, axis=1)).sum(axis=2) / 2]

    return skin_bends(skin_of(art, held.mesh, cuts), held, bones, bend.roundness)


def skin_bends(skin: Skin, held: Weighted, bones: Bones, roundness: float) -> BendReady:
    """How each point of a skin that lies in the drawing goes."""
    weights = held.at(skin.points)
    weights = weights / np.maximum(weights.sum(axis=1, keepdims=True), 1e-12)
    total, centres = np.zeros(len(weights)), np.zeros((len(weights), 2))
    for row, parent in enumerate(bones.parents):
        if parent < 0:
            continue
        pull = weights[:, row] * weights[:, parent]
        total += pull
        centres += pull[:, None] * np.array(bones.places[row])
    known = total > 1e-9
    centres[known] /= total[known, None]
    centres[~known] = skin.points[~known]
    return BendReady(skin, weights, centres, roundness, bones.parents)


def bent(ready: BendReady, moves: Floats) -> Floats:
    """Where the skin's points go, `(n, 2, frames)`, under the joints' moves `(joints, 6, frames)`
    since rest, all in drawing units.

    Where bones meet, the place about which they turn goes as all of them take it (the centre of rotation of Le and Hodgins
    2016), and what lies around it is turned by the angles of the bones, each by its weight, and stretched as they stretch
    (logarithmic blending, Alexa 2002, with the turn and the stretch of each bone apart): so a bend keeps its thickness,
    as far as it is told to by `roundness`; without it, moves are blended as they are, and a bend thins. Sums run joint by
    joint, so that each frame's numbers are the same whichever others are asked for.
    """
    shape = (len(ready.weights), moves.shape[2])
    blended = np.zeros((6, *shape))
    for k in range(moves.shape[0]):
        rows = np.flatnonzero(ready.weights[:, k])
        w = ready.weights[rows, k][:, None]
        for i in range(6):
            blended[i][rows] += w * moves[k, i]
    a, b, c, d, e, f = blended
    cx, cy = ready.centres[:, 0, None], ready.centres[:, 1, None]
    x, y = a * cx + c * cy + e, b * cx + d * cy + f
    soft = np.flatnonzero((ready.weights > 0).sum(axis=1) > 1)
    if ready.roundness > 0 and len(soft):
        for held, whole in zip((a, b, c, d), _turned(ready, moves, soft), strict=True):
            held[soft] += ready.roundness * (whole - held[soft])
    dx, dy = ready.skin.points[:, 0, None] - cx, ready.skin.points[:, 1, None] - cy
    return np.stack([x + a * dx + c * dy, y + b * dx + d * dy], axis=1)


def _outwards(parents: tuple[int, ...]) -> list[int]:
    """The rows of joints, each behind its parent."""

    def depth(row: int) -> int:
        return 0 if parents[row] < 0 else 1 + depth(parents[row])

    return sorted(range(len(parents)), key=depth)


def _turned(ready: BendReady, moves: Floats, rows: NDArray[np.intp]) -> tuple[Floats, Floats, Floats, Floats]:
    """The turn and stretch, as a, b, c and d, of points that go with several bones, `(rows, frames)` each."""
    a, b, c, d = (np.ascontiguousarray(moves[:, i]) for i in range(4))
    mirrored = np.where(a * d - b * c < 0, -1.0, 1.0)
    # What is mirrored is turned as its mirror image, and mirrored again.
    c, d = c * mirrored, d * mirrored
    turns = np.arctan2(b - c, a + d)
    for k in _outwards(ready.parents):
        parent = ready.parents[k]
        if parent >= 0:
            # Bone by bone the short way round: a tail may curl as often as it likes.
            off = turns[k] - turns[parent]
            turns[k] = turns[parent] + off - 2 * np.pi * np.round(off / (2 * np.pi))
    co, si = np.cos(turns), np.sin(turns)
    stretch = (co * a + si * b, co * b - si * a, (co * c + si * d) * mirrored, (co * d - si * c) * mirrored)
    shape = (len(rows), moves.shape[2])
    turn, (p, q, r, s) = np.zeros(shape), (np.zeros(shape) for _ in range(4))
    for k in range(moves.shape[0]):
        w = ready.weights[rows, k][:, None]
        turn += w * turns[k]
        for held, its in zip((p, q, r, s), stretch, strict=True):
            held += w * its[k]
    co, si = np.cos(turn), np.sin(turn)
    return co * p - si * q, si * p + co * q, co * r - si * s, si * r + co * s
