"""The camera: what takes places of the stage to the picture, for each share in its movement."""

from __future__ import annotations

import numpy as np

from sorvan.core.geometry import Floats, placed_block
from sorvan.core.model.channels import NEUTRAL, ChannelKind, channel_id
from sorvan.core.model.production import Production
from sorvan.core.model.shot import CAMERA, Camera, Shake, Shot
from sorvan.core.shot.spans import smooth
from sorvan.core.timing.channels import at as value_at
from sorvan.core.timing.rates import per_second

WAVES = 5
"""Waves of which a shake is put together."""
LEAST_ZOOM = 0.01


def view(shot: Shot, production: Production, times: Floats, share: float, shakes: bool = True) -> Floats:
    """What takes the stage to the picture at these times, `(6, times)`, for what shifts with `share` percent of the
    camera's movement; turn and zoom are the same for all. `shakes` with the camera's shake.

    The picture is that of a multiplane camera: layers farther away pass by more slowly (Walt Disney, US patent
    2,201,689, 1940).
    """
    camera = shot.camera
    (x, y), (turn,), (zoom, _) = (_value(camera, kind, times) for kind in ("move", "turn", "scale"))
    if shakes and camera.shake is not None:
        dx, dy, by = shaken(camera.shake, shot, production, times)
        x, y, turn = x + dx, y + dy, turn + by
    zoom = np.maximum(zoom, LEAST_ZOOM)
    cx, cy = production.width / 2, production.height / 2
    block = np.empty((1, 6, len(times)))
    nought = np.zeros((1, len(times)))
    placed_block(nought, nought, -turn[None], np.zeros((1, 1)), zoom[None], zoom[None], block)
    a, b, c, d = block[0, :4]
    # The middle of what it sees goes to the middle of the picture.
    mx, my = cx + x * share / 100, cy + y * share / 100
    block[0, 4] = cx - (a * mx + c * my)
    block[0, 5] = cy - (b * mx + d * my)
    found: Floats = block[0]
    return found


def aims(camera: Camera, times: Floats) -> Floats:
    """How a camera is keyed at these times: x and y (units from the middle of the stage), turn (degrees) and zoom,
    `(4, times)`, without its shake."""
    (x, y), (turn,), (zoom, _) = (_value(camera, kind, times) for kind in ("move", "turn", "scale"))
    return np.stack([x, y, turn, zoom])


def _value(camera: Camera, kind: ChannelKind, times: Floats) -> Floats:
    channel = camera.channels.get(channel_id(CAMERA, kind))
    if channel is None:
        return np.repeat(np.array(NEUTRAL[kind])[:, None], len(times), axis=1)
    return value_at(channel, times, 1, False)


def shaken(shake: Shake, shot: Shot, production: Production, times: Floats) -> Floats:
    """By how much a shake moves (units) and turns (degrees) the camera, `(3, times)`: for each a few waves about its
    usual speed, of chance speeds and beginnings."""
    random = np.random.default_rng(shake.seed)
    frames = shot.length - shake.start if shake.frames is None else shake.frames
    seconds = times / float(per_second(production.rate))
    since, left = times - shake.start + 1, shake.start + frames - times
    there = smooth(since / (shake.fade + 1)) * smooth(left / (shake.fade + 1))
    found = np.zeros((3, len(times)))
    for row, size in enumerate((shake.size, shake.size, shake.turn)):
        speeds = shake.times * random.uniform(0.5, 1.6, WAVES)
        begins, parts = random.uniform(0, 2 * np.pi, WAVES), random.uniform(0.4, 1.0, WAVES)
        waves = np.sin(2 * np.pi * speeds[:, None] * seconds + begins[:, None]) * parts[:, None]
        found[row] = size * there * waves.sum(axis=0) / parts.sum()
    return found


def keyed_frames(camera: Camera) -> set[int]:
    """The frames at which the camera has keys."""
    return {f for channel in camera.channels.values() for f in channel.keys}
