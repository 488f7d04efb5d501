"""What a cast member does: the values of its puppet's channels over the frames of a shot, from its spans.

Values are kept from one performance to the next where nothing changed, as the same arrays, so that an evaluation
works out only what differs.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.kept import kept
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import ChannelKind, channel_id, kind_of, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.shot import Member, Shot
from sorvan.core.plan.evaluate import channel_values
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.travel import matched
from sorvan.core.plan.turning import turnaround_of
from sorvan.core.plan.values import SEEN, Values, neutral
from sorvan.core.rig.anatomy import has_legs
from sorvan.core.shot.spans import SpanLayer, When, lowest, upper
from sorvan.core.timing.laws import laid, on_its_way

ON = channel_id(ROOT, "move")


PlayedPart = tuple[When, Floats | None]
"""When a motion does something to a channel, and the values it gives it then; None: those of the rest."""
MadeChannel = tuple[tuple[PlayedPart, ...], Channel | None, tuple[float, ...]]
"""What the values of a channel are made of: what the motions do, what is laid over it, and what it is at rest."""


@dataclass(frozen=True)
class Performance:
    """A cast member's spans sampled at the shot's times: the layers of the lowest row, those above, and the
    channels' `values` `(numbers, times)`, without what carries the puppet on. `sampled` and `parts` are what they
    were made of."""

    lower: tuple[SpanLayer, ...] = ()
    upper: tuple[SpanLayer, ...] = ()
    values: Values = field(default_factory=dict)
    sampled: Mapping[tuple[str, str], tuple[When, tuple[int, bool], Channel, Floats]] = field(default_factory=dict)
    parts: Mapping[str, MadeChannel] = field(default_factory=dict)

    @property
    def seen(self) -> float | None:
        """From where the first motion of the lowest row that is made for one view is made to be seen."""
        return next((layer.motion.seen for layer in self.lower if layer.motion.seen is not None), None)

    @classmethod
    def of(
        cls, documents: Documents, shot: Shot, member: Member, times: Floats, late: bool, before: Performance
    ) -> Performance:
        """Sample a member's spans; `late` with the delays of channels. `before` is what it did before something
        changed, at the same times and as late, or an empty one."""
        puppet, going = documents.puppet(member.puppet), member.travel is not None
        motions = {s.motion: documents.motion(s.motion) for s in member.spans.values()}
        if going:
            motions = {id: footed(motion, puppet) for id, motion in motions.items()}
        spans = [(s, motions[s.motion]) for s in member.spans.values()]
        known = {layer.span.id: layer.when for layer in (*before.lower, *before.upper)}
        lower, over = ([_kept(layer, known) for layer in row(spans, times)] for row in (lowest, upper))
        sampler = _Sampler(puppet, times, late, before)
        layers = (*lower, *over)
        ids = dict.fromkeys((*(id for layer in layers for id in layer.motion.channels), *member.over))
        dial = turnaround_of(puppet)
        if dial is not None and any(layer.motion.seen is not None for layer in layers):
            ids |= dict.fromkeys((SEEN, channel_id(dial.id, "dial")))
        values = {id: sampler.value(id, lower, over, member.over.get(id), shot.length) for id in ids}
        return cls(tuple(lower), tuple(over), values, sampler.sampled, sampler.parts)


EMPTY = Performance()
"""Nothing done yet."""


@kept()
def footed(motion: Motion, puppet: Puppet) -> Motion:
    """A motion with its feet planted where they stand, if nobody has planted any: so that they stay there when its
    puppet is carried."""
    if motion.plants or not has_legs(puppet):
        return motion
    try:
        return matched(motion, puppet, "spot", keeping=True)
    except Refusal:
        return motion


def _kept(layer: SpanLayer, known: Mapping[str, When]) -> SpanLayer:
    """A layer with the very times it had, if they are the same."""
    before = known.get(layer.span.id)
    return replace(layer, when=before) if before is not None and before.same(layer.when) else layer


class _Sampler:
    def __init__(self, puppet: Puppet, times: Floats, late: bool, before: Performance) -> None:
        self.puppet, self.times, self.late, self.before = puppet, times, late, before
        dial = turnaround_of(puppet)
        self.turning = None if dial is None else channel_id(dial.id, "dial")
        self.sampled: dict[tuple[str, str], tuple[When, tuple[int, bool], Channel, Floats]] = {}
        self.parts: dict[str, MadeChannel] = {}

    def sample(self, layer: SpanLayer, channel: Channel) -> Floats:
        """A channel of a layer's motion at the layer's times."""
        key, motion, when = (layer.span.id, channel.id), layer.motion, layer.when
        ring = (motion.length, motion.cycle)
        known = self.before.sampled.get(key)
        if known and known[0] is when and known[1] == ring and (known[2] is channel or known[2] == channel):
            self.sampled[key] = known
            return known[3]
        own = channel if self.late or not channel.delay else channel.changed(delay=0.0)
        values = channel_values(own, whole(when.times), *ring)
        if channel.id == ON and (carried := travel_of(motion)):
            share = when.times / motion.length
            values = values - np.stack([carried.real * share, carried.imag * share])
        self.sampled[key] = (when, ring, channel, values)
        return values

    def value(
        self, id: str, lower: Sequence[SpanLayer], over: Sequence[SpanLayer], laid: Channel | None, length: int
    ) -> Floats:
        """A channel's value in the shot, the same array as before where all that makes it is the same."""
        kind: ChannelKind = kind_of(id)
        layers = (*lower, *(layer for layer in over if id in layer.motion.channels))
        parts = tuple((layer.when, self._of(layer, id)) for layer in layers)
        at_rest = self._rest(id, kind)
        self.parts[id] = (parts, laid, at_rest)
        known = self.before.parts.get(id)
        if (
            known
            and _same(known[0], parts)
            and known[1:] == (laid, at_rest)
            and self.before.values[id].shape[1] == len(self.times)
        ):
            return self.before.values[id]
        rest = np.array(at_rest)[:, None]
        found = np.repeat(rest, len(self.times), axis=1)
        for when, values in parts:
            below = found[:, when.at]
            above = rest if values is None else values
            if id == self.turning:
                above = below + np.mod(above - below + 180.0, 360.0) - 180.0
            found[:, when.at] = on_its_way(kind, below, above, when.weight)
        return found if laid is None else laid_over(found, laid, self.times, length)

    def _of(self, layer: SpanLayer, id: str) -> Floats | None:
        motion = layer.motion
        channel = motion.channels.get(id)
        if channel is not None:
            return self.sample(layer, channel)
        # A motion that is made for one view is seen from there, if nothing else is told.
        if motion.seen is not None and id in (SEEN, self.turning):
            return _always(layer.when, motion.seen)
        return None

    def _rest(self, id: str, kind: ChannelKind) -> tuple[float, ...]:
        owner = owner_of(id)
        if kind == "dial" and owner in self.puppet.dials:
            return (self.puppet.dials[owner].rest,)
        return neutral(id)


@kept()
def _always(when: When, value: float) -> Floats:
    """One number at all of a motion's times."""
    return np.full((1, len(when.times)), value)


def _same(one: tuple[PlayedPart, ...], other: tuple[PlayedPart, ...]) -> bool:
    """Whether these are the very same parts."""
    return len(one) == len(other) and all(a is c and b is d for (a, b), (c, d) in zip(one, other, strict=True))


def whole(times: Floats) -> Floats:
    """Times as whole numbers where all are, which channels know exactly."""
    whole = times.astype(np.int64)
    return whole if np.array_equal(whole, times) else times  # type: ignore[return-value]


def laid_over(values: Floats, channel: Channel, times: Floats, length: int) -> Floats:
    """Values with keys of the shot laid over them."""
    return laid(channel.kind, values, channel_values(channel, whole(times), length, False))
