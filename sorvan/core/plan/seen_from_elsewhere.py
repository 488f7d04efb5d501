"""What is made for one view, seen from another.

What a motion moves lies in the plane of the picture that it is made for, upright and turned so many degrees round the
puppet. Seen straight on from elsewhere (an orthographic projection), what went across goes the cosine of the angle
between as far, what went down goes as far down, and what swings towards the eye grows shorter. So feet that stand go on
standing, however the puppet is turned. Where a view is the mirror image of another, each side does what its twin does:
there the right arm is drawn as the left.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sorvan.core.geometry import Floats, place_in
from sorvan.core.kept import kept
from sorvan.core.model.puppet import DialStop, Puppet
from sorvan.core.plan.joints import compose_rows, fill_locals
from sorvan.core.plan.rig import Rig
from sorvan.core.plan.turning import Between, aspect_of, stand, turnaround_of, turned_to
from sorvan.core.plan.values import ASPECT, Values
from sorvan.core.rig.roles import ARM, LEG, STANDING, roles_of
from sorvan.core.rig.sides import twins
from sorvan.core.rig.skeleton import children, skeleton_of

FLAT = 1e-9
"""An area below which a joint has no inside to be turned by."""
LONG = 0.3
"""The part of what goes across from which on a foot is seen to be longer than wide."""
SHORT = 1.0
"""Units below which a bone is too short to lead its picture."""


def seen_from_elsewhere(puppet: Puppet, rig: Rig, values: Values, made: Floats, worlds: Floats) -> None:
    """Write joints on the stage, `(joints, 6, frames)`, into `worlds`: as they are `made`, but in the frames of
    `ASPECT` as they look from there."""
    worlds[:] = made
    aspect, dial = values.get(ASPECT), turnaround_of(puppet)
    if aspect is None or dial is None:
        return
    now = np.flatnonzero(aspect[0] > 0)
    if not now.size:
        return
    place, made_for = aspect[1, now], aspect[2, now]
    views = [Between.of(dial, at) for at in (place, made_for)]
    there, here = (standing(puppet, v) for v in views)
    across = _across(views[0], place - made_for)
    played = made[:, :, now]
    away, linear = _moved(puppet, played, here)
    if np.any(swapped := views[0].mirrored != views[1].mirrored):
        twin = _twin_rows(puppet, rig)
        away = np.where(swapped, away[twin], away)
        linear = np.where(swapped, linear[twin], linear)
    worlds[:, :, now] = _projected(puppet, rig, there, away, linear, across)


def widths(puppet: Puppet, values: Values) -> Floats | None:
    """How far what goes across in what is played goes across in the view that is seen, at each time: less, or the other
    way, where it is made for another view. None where none is."""
    dial = turnaround_of(puppet)
    at, seen = (None, None) if dial is None else turned_to(dial, values)
    if dial is None or at is None or seen is None:
        return None
    there = Between.of(dial, at)
    aspect = aspect_of(dial, at, seen, there)
    return None if aspect is None else np.where(aspect[0] > 0, _across(there, aspect[1] - aspect[2]), 1.0)


def _across(there: Between, apart: Floats) -> Floats:
    """The part of what goes across that is seen from so many degrees beside: the cosine, or less where the view shortens."""
    angle = np.cos(np.deg2rad(apart))
    shortened = there.even(np.array([v.shorten for v in there.views]))
    found: Floats = np.sign(angle) * np.minimum(np.abs(angle), shortened)
    return found


def standing(puppet: Puppet, views: Between) -> Floats:
    """Joints on the stage in views with nothing played, `(joints, 6, frames)`, in the rows of the skeleton."""
    values: dict[str, Floats] = {}
    stand(puppet, views, values)
    skeleton = skeleton_of(puppet)
    block = np.empty((len(skeleton.ids), 6, len(views.part)))
    fill_locals(puppet, skeleton, values, range(len(block)), block)
    worlds = np.empty(block.shape)
    compose_rows(skeleton, block, worlds, None)
    return worlds


def places_in_views(puppet: Puppet, views: Sequence[DialStop]) -> list[dict[str, tuple[float, float]]]:
    """Where joints lie on the stage in each of these views of its turnaround, all worked out together."""
    dial = turnaround_of(puppet)
    if dial is None or not views:
        return []
    worlds = standing(puppet, Between.of(dial, np.array([v.at for v in views])))
    ids = skeleton_of(puppet).ids
    return [
        {id: (float(worlds[row, 4, k]), float(worlds[row, 5, k])) for row, id in enumerate(ids) if row}
        for k in range(len(views))
    ]


def _points(puppet: Puppet, worlds: Floats) -> Floats:
    """Where joints are, and the puppet as a whole stands, `(joints, 2, frames)`."""
    found = worlds[:, 4:].copy()
    stands = place_in(worlds[0], *puppet.origin)
    found[0] = stands.real, stands.imag
    return found


def _moved(puppet: Puppet, played: Floats, rest: Floats) -> tuple[Floats, Floats]:
    """How far each joint is from where it rests, `(joints, 2, frames)`, and how it is turned and sized against that,
    `(joints, 4, frames)`, on the stage."""
    away = _points(puppet, played) - _points(puppet, rest)
    a, b, c, d = (played[:, k] for k in range(4))
    ra, rb, rc, rd = (rest[:, k] for k in range(4))
    det = ra * rd - rb * rc
    some = np.abs(det) > FLAT
    by = np.where(some, det, 1.0)
    linear = np.stack(
        [(a * rd - c * rb) / by, (b * rd - d * rb) / by, (c * ra - a * rc) / by, (d * ra - b * rc) / by], axis=1
    )
    return away, np.where(some[:, None], linear, np.array([1.0, 0, 0, 1])[:, None])


def _projected(puppet: Puppet, rig: Rig, rest: Floats, away: Floats, linear: Floats, across: Floats) -> Floats:
    """Joints as they look where they rest so, and are moved and turned so in a plane that is `across` as wide."""
    a, b, c, d = (linear[:, k] for k in range(4))
    # A place x of the flat picture lies `across` x along the plane; the rest of it is depth, which nothing moves.
    seen = np.stack([a * across**2 + 1 - across**2, b * across, c * across, d], axis=1)
    # A foot is long in the plane itself: its picture is that much shorter already.
    feet, wide = _feet(puppet, rig), np.abs(across) > LONG
    by = np.where(wide, across, 1.0)
    lying = np.stack([a, b / by, c * by, d], axis=1)
    seen[feet] = np.where(wide, lying[feet], seen[feet])
    found = np.empty(rest.shape)
    ra, rb, rc, rd = (rest[:, k] for k in range(4))
    places = _points(puppet, rest) + away * np.stack([across, np.ones(len(across))])
    seen = _led_by_bones(puppet, rig, _points(puppet, rest), places, seen)
    a, b, c, d = (seen[:, k] for k in range(4))
    found[:, 0], found[:, 1] = a * ra + c * rb, b * ra + d * rb
    found[:, 2], found[:, 3] = a * rc + c * rd, b * rc + d * rd
    found[:, 4:] = places
    ox, oy = puppet.origin
    found[0, 4] -= found[0, 0] * ox + found[0, 2] * oy
    found[0, 5] -= found[0, 1] * ox + found[0, 3] * oy
    return found


def _led_by_bones(puppet: Puppet, rig: Rig, rest: Floats, places: Floats, seen: Floats) -> Floats:
    """How joints are turned, each bone of a limb leading from its joint to the next, so that nothing comes apart."""
    bones = _bones(puppet)
    rows = [rig.row[joint] for joint in bones]
    ends = [rig.row[tip] for tip in bones.values()]
    if not rows:
        return seen
    bone, wanted = rest[ends] - rest[rows], places[ends] - places[rows]
    now = np.stack(
        [seen[rows, 0] * bone[:, 0] + seen[rows, 2] * bone[:, 1], seen[rows, 1] * bone[:, 0] + seen[rows, 3] * bone[:, 1]],
        axis=1,
    )  # fmt: skip
    size = (bone**2).sum(axis=1)
    off = np.where((size > SHORT**2)[:, None], (wanted - now) / np.maximum(size, SHORT**2)[:, None], 0.0)
    found = seen.copy()
    found[rows] += np.stack(
        [off[:, 0] * bone[:, 0], off[:, 1] * bone[:, 0], off[:, 0] * bone[:, 1], off[:, 1] * bone[:, 1]], axis=1
    )
    return found


def _feet(puppet: Puppet, rig: Rig) -> list[int]:
    """The rows of what stands on the ground."""
    return [rig.row[joint] for joint, role in roles_of(puppet).items() if role in STANDING]


@kept()
def _bones(puppet: Puppet) -> dict[str, str]:
    """For each joint of an arm or leg the next of it."""
    roles, found = roles_of(puppet), dict[str, str]()
    for joint, role in roles.items():
        for line in (ARM, LEG):
            if role in line[:-1]:
                after = line[line.index(role) + 1]
                found.update((joint, c) for c in children(puppet.joints, joint) if roles.get(c) == after)
    return found


_twins = kept()(twins)


def _twin_rows(puppet: Puppet, rig: Rig) -> list[int]:
    """For each row that of its joint's twin, or its own."""
    pairs = _twins(puppet)
    return [rig.row.get(pairs.get(id, id), row) for row, id in enumerate(rig.skeleton.ids)]
