"""How a cast member is carried through a shot: by its feet along a way, with its place keyed on top of that.

A motion that walks on the spot says how far the ground runs under it in each frame, one that goes on how far it
carries itself. So far the member is carried in the shot, faster where the motion is, less where it is smaller, and
half of each where one motion comes in over another. Places are complex stage units.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sorvan.core.geometry import Complexes, Floats, placed_block
from sorvan.core.geometry.curves import Cubic, cubic
from sorvan.core.model.channel import Key, Tangents
from sorvan.core.model.channels import NEUTRAL, ChannelKind, channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import PLACE, Member, Travel, Via
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.seen_from_elsewhere import widths
from sorvan.core.shot.performance import Performance, whole
from sorvan.core.shot.spans import SpanLayer, lowest
from sorvan.core.timing.channels import at as value_at
from sorvan.core.timing.paths import curves

SLOW = 1e-9
"""Units a frame under which nobody goes on."""
NARROW = 0.2
"""The part of what goes across below which no place is told from another by it."""


@dataclass(frozen=True)
class Way:
    """A way from place to place, run through along its true length; beyond its ends it goes straight on."""

    points: tuple[Via, ...]

    @cached_property
    def _parts(self) -> tuple[list[Cubic], Floats]:
        keys = [Key(value=p.at, tangents=Tangents() if p.smooth else None) for p in self.points]
        smooth = curves(keys, False)
        parts: list[Cubic] = []
        for n in range(len(keys) - 1):
            (ax, ay), (dx, dy) = self.points[n].at, self.points[n + 1].at
            third = ((dx - ax) / 3, (dy - ay) / 3)
            straight = ((ax, ay), (ax + third[0], ay + third[1]), (dx - third[0], dy - third[1]), (dx, dy))
            part = smooth.get(n) or cubic(straight)
            if part.length > SLOW:
                parts.append(part)
        return parts, np.concatenate([[0.0], np.cumsum([p.length for p in parts])])

    @property
    def length(self) -> float:
        """Its length in stage units."""
        return float(self._parts[1][-1])

    def at(self, gone: Floats) -> Complexes:
        """The places so far along it."""
        parts, ends = self._parts
        if not parts:
            start = complex(*self.points[0].at) if self.points else 0j
            return start + gone.astype(np.complex128)
        n = np.clip(np.searchsorted(ends, gone, side="right") - 1, 0, len(parts) - 1)
        found = np.empty(len(gone), dtype=np.complex128)
        for i in np.unique(n):
            here = n == i
            found[here] = parts[i].along((gone[here] - ends[i]) / parts[i].length)
        return found

    def heading(self, gone: Floats) -> Complexes:
        """The direction in which it leads on there, of length one."""
        ahead = self.at(gone + 0.5) - self.at(gone - 0.5)
        size = np.abs(ahead)
        return np.where(size > SLOW, ahead / np.maximum(size, SLOW), 1 + 0j)


def speed_of(motion: Motion, travel: Travel | None) -> float:
    """How far a motion carries its puppet on in each of its frames, to the right of its own space if positive
    (units). Without travel only what it goes on by itself counts."""
    gone = travel_of(motion).real / motion.length
    return gone - motion.ground.runs if travel is not None else gone


@dataclass(frozen=True)
class Carried:
    """Where a cast member is over the shot's times: `place` `(6, times)` takes its puppet to the stage, seen
    straight on; `gone` is how far it went on by its feet (stage units), `flipped` where it looks the other way,
    and `opacity` how opaque it is, if that is keyed. The `way` begins at `base` `(times,)`; `linear` `(4, times)` is
    the turn and size in `place`; it goes `forward` to the right (1) or the left (-1) of its own space, which
    without a way is `straight` on the stage. Where it is seen from another side than what it plays is made for, what
    goes `across` is seen as so much of it (None: all), from the `middle` that it stands on. Where it is turned `back` by a
    size below nothing it goes that way."""

    place: Floats
    gone: Floats
    flipped: NDArray[np.bool_]
    opacity: Floats | None
    way: Way
    base: Complexes
    linear: Floats
    forward: float
    straight: complex
    across: Floats | None = None
    middle: float = 0.0
    back: NDArray[np.bool_] | None = None

    def in_view(self, n: int, x: float) -> float:
        """Where a place `x` from the left of what is played is seen at a time, in the puppet's own space."""
        return x if self.across is None else self.middle + float(self.across[n]) * (x - self.middle)

    def played(self, x: Floats) -> tuple[Floats, NDArray[np.bool_]]:
        """Where in what is played lies what is seen at `x` at each time; and when it can be told at all: seen from
        almost before, everything lies in the middle."""
        if self.across is None:
            return x, np.ones(len(x), dtype=np.bool_)
        wide = np.abs(self.across) > NARROW
        found = self.middle + (x - self.middle) / np.where(wide, self.across, 1.0)
        return np.where(self.across == 1, x, found), wide

    def lower(self, by: Floats) -> Carried:
        """The same place farther down by so many of the puppet's own units at each time."""
        place = self.place.copy()
        place[4] += self.linear[2] * by
        place[5] += self.linear[3] * by
        return replace(self, place=place)

    def same(self, other: Carried) -> bool:
        """Whether both are in the same places, as opaque."""
        one, two = self.opacity, other.opacity
        if one is None or two is None:
            return one is two and np.array_equal(self.place, other.place)
        return np.array_equal(one, two) and np.array_equal(self.place, other.place)


def carried(
    member: Member, puppet: Puppet, doing: Performance, times: Floats, by_frames: Performance | None = None
) -> Carried:
    """Where a member is at these times of the shot. What it does `by_frames` is told where it plays anything that is made
    for one view, and the times are not the frames."""
    own = {kind: _place(member, kind, times) for kind in ("move", "turn", "scale", "opacity")}
    sx, sy = (member.scale * own["scale"][i] for i in (0, 1))
    speeds = [speed_of(layer.motion, member.travel) for layer in doing.lower]
    travel = member.travel
    across = widths(puppet, doing.values)
    steady = across if by_frames is None else widths(puppet, by_frames.values)
    on_a_way = travel is not None and len(travel.way) > 1
    wide = steady if steady is None or not on_a_way else np.abs(steady)
    total = _gone(member, doing.lower, speeds, times, wide)
    h = next((float(np.sign(s)) for s in speeds if abs(s) > SLOW), 1.0)
    gone = total * h + (travel.gone if travel is not None else 0.0)
    way = Way(travel.way if travel is not None and len(travel.way) > 1 else ())
    flipped = np.full(len(times), member.mirror)
    straight = complex(np.exp(1j * np.deg2rad(member.turn)) * h * (-1 if member.mirror else 1))
    if way.points:
        on = way.at(gone)
        if travel is not None and travel.turning:
            flipped = way.heading(gone).real * h < 0
    else:
        on = np.asarray(gone * straight, dtype=np.complex128)
    base = complex(*member.at) + own["move"][0] + 1j * own["move"][1]
    standing = base + on
    block = np.empty((1, 6, len(times)))
    turn = member.turn + own["turn"][0]
    skew = np.zeros((1, 1))
    placed_block(
        np.zeros((1, len(times))), np.zeros((1, len(times))), turn[None], skew,
        np.where(flipped, -sx, sx)[None], sy[None], block,
    )  # fmt: skip
    linear = block[0, :4]
    ox, oy = puppet.origin
    block[0, 4] = standing.real - (linear[0] * ox + linear[2] * oy)
    block[0, 5] = standing.imag - (linear[1] * ox + linear[3] * oy)
    faded = own["opacity"][0] / 100 if channel_id(PLACE, "opacity") in member.place else None
    return Carried(block[0], gone, flipped ^ (sx < 0), faded, way, base, linear, h, straight, across, ox, sx < 0)


def _gone(
    member: Member, layers: Sequence[SpanLayer], speeds: Sequence[float], times: Floats, across: Floats | None
) -> Floats:
    """How far a member has been carried at these times, so much of it `across` in each frame. Worked out from frame to
    frame whatever the times are, so that it is the same however many pictures are taken."""
    if not any(abs(speed) > SLOW for speed in speeds):
        return np.zeros(len(times))
    grid = np.arange(math.ceil(times[-1] if len(times) else 0) + 1, dtype=np.float64)
    if not np.array_equal(grid, times):
        layers = lowest([(layer.span, layer.motion) for layer in layers], grid)
    sx, sy = (member.scale * _place(member, "scale", grid)[i] for i in (0, 1))
    # Who is turned round by a size below nothing goes to where it looks then.
    size = np.sqrt(np.abs(sx * sy)) * np.where(sx < 0, -1, 1)
    if across is not None:
        size = size * across
    steps = np.zeros(len(grid))
    for layer, speed in zip(layers, speeds, strict=True):
        if abs(speed) <= SLOW:
            continue
        when = layer.when
        begins = np.arange(len(grid))[when.at]
        if not len(begins):
            continue
        # A step from one frame to the next is gone by whoever counts in the middle of it; who begins, or ends, right
        # between two frames goes a half of that step.
        counts = counting(layers, layer, len(grid))
        span = layer.span
        pace = 0.0 if span.play == "hold" else span.speed / 100 * (-1 if span.reverse else 1)
        moves = np.diff(when.times) if len(begins) > 1 else np.array([pace])
        first, last = int(begins[0]), int(begins[-1])
        if first:
            begins, moves = np.insert(begins, 0, first - 1), np.insert(moves, 0, moves[0])
        if last + 1 < len(grid):
            begins, moves = np.append(begins, last + 1), np.append(moves, moves[-1])
        moves = moves[: len(begins) - 1]
        share = (counts[begins[:-1]] + counts[begins[1:]]) / 2
        steps[begins[1:]] += moves * speed * share * size[begins[:-1]]
    found: Floats = np.interp(times, grid, np.cumsum(steps))
    return found


def _place(member: Member, kind: ChannelKind, times: Floats) -> Floats:
    channel = member.place.get(channel_id(PLACE, kind))
    if channel is None:
        return np.repeat(np.array(NEUTRAL[kind])[:, None], len(times), axis=1)
    return value_at(channel, whole(times), 1, False)


def counting(lower: Sequence[SpanLayer], layer: SpanLayer, frames: int) -> Floats:
    """How much a layer of the lowest row counts in the end, at each of so many times."""
    left = np.ones(frames)
    for other in reversed(lower):
        share = np.zeros(frames)
        share[other.when.at] = other.when.weight
        if other is layer:
            return left * share
        left = left * (1 - share)
    return left
