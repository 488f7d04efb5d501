"""A puppet in motion, evaluated: all frames at once, and anew only where something changed.

The evaluation is a value: `Evaluation.after` makes the next one from it by working out only what a
change touches, in the frames it touches. The numbers are exactly those a full evaluation gives.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.colours import dressed
from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import NEUTRAL, ChannelKind, channel_id, kind_of, owner_of
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.morph.ready import Ready
from sorvan.core.plan.bending import ends_bending
from sorvan.core.plan.dials import with_dials
from sorvan.core.plan.long_performances import Stretched, too_long
from sorvan.core.plan.mouth_blends import blends
from sorvan.core.plan.order import run
from sorvan.core.plan.places import Places, Work
from sorvan.core.plan.plan import Item, Reshaping
from sorvan.core.plan.plants import planted
from sorvan.core.plan.ready_morphs import NEVER, becoming, made_ready
from sorvan.core.plan.rig import Rig
from sorvan.core.plan.values import SEEN, Values, neutral
from sorvan.core.rig import reach
from sorvan.core.rig.skeleton import Skeleton
from sorvan.core.timing.channels import Times, at, drawings_at

NO_PRODUCTION = Production(id="none", name="none")


@dataclass(frozen=True)
class Touched:
    """What a re-evaluation worked out anew: frames `start` up to `stop`, and these piece rows."""

    start: int
    stop: int
    pieces: tuple[int, ...]


NOTHING = Touched(0, 0, ())


@dataclass(frozen=True)
class Evaluation:
    """A puppet in motion (or at rest, in one frame), evaluated over frames 0…frames-1.

    `keyed` are the channels' own values, `values` those with what dials add and limits kept, each
    `(numbers, frames)`; `places` is what came of them.
    """

    puppet: Puppet
    motion: Motion | None
    blocking: bool
    production: Production
    arts: Arts | None
    rig: Rig
    keyed: Values
    values: Values
    places: Places

    @property
    def frames(self) -> int:
        """How many frames were evaluated."""
        return int(self.worlds.shape[2])

    @property
    def skeleton(self) -> Skeleton:
        """The joints in the order of the rows of `worlds`."""
        return self.rig.skeleton

    @property
    def stretched(self) -> bool:
        """Whether it is too long to be held worked out: then what is looked at is worked out each time."""
        return isinstance(self.places, Stretched)

    @property
    def stance(self) -> Puppet:
        """The puppet rigged as in the view that what it plays is made for."""
        return self.rig.stance or self.puppet

    @property
    def worlds(self) -> Floats:
        """Joints on the stage, `(joints + 1, 6, frames)`; row 0 is the puppet as a whole."""
        return self.places.worlds

    @property
    def pieces(self) -> Floats:
        """What takes each piece's shown drawing to the stage, `(pieces, 6, frames)`, back to front."""
        return self.places.pieces

    @property
    def shown(self) -> NDArray[np.int16]:
        """Which drawing of each piece shows, `(pieces, frames)`."""
        return self.places.shown

    @property
    def points(self) -> tuple[Floats, ...]:
        """For each of the rig's benders where its points lie, `(n, 2, frames)` drawing units."""
        return tuple(self.places.points)

    @property
    def reached(self) -> Mapping[str, reach.Reached]:
        """For each limb that reaches where its joints are, only turned and only reaching."""
        return self.places.reached

    @property
    def reorders(self) -> bool:
        """Whether what is in front changes in any frame."""
        return any(id.endswith(".order") for id in self.values)

    @property
    def fades(self) -> bool:
        """Whether the opacity of any piece is keyed."""
        return any(id.endswith(".opacity") for id in self.values)

    @cached_property
    def items(self) -> tuple[Item, ...]:
        """The puppet's pieces as items of a plan, from back to front."""
        puppet = self.puppet
        place = {id: i for i, id in enumerate(puppet.order)}
        bent = {(b.piece, b.drawing): b.art for b in self.rig.benders}
        items: list[Item] = []
        for row, id in enumerate(puppet.order):
            piece = puppet.pieces[id]
            drawn = tuple(
                bent.get((row, i)) or dressed(piece, drawing, self.production, self.arts)
                for i, drawing in enumerate(piece.drawings)
            )
            masks = tuple((place[m.piece], m.inside) for m in piece.masks if m.piece in place)
            boxes = tuple(d.bounds for d in piece.drawings)
            made = [self._made(row, pair) for pair in self.places.becoming.get(row, NEVER).pairs]
            drawn, boxes = drawn + tuple(art for _, art in made), boxes + tuple(ready.box for ready, _ in made)
            items.append(Item(puppet.id, id, drawn, boxes, puppet.unseen(piece), piece.opacity, masks))
        return tuple(items)

    def _made(self, row: int, pair: tuple[int, int]) -> tuple[Ready, str]:
        """A drawing of a piece made ready to become another, and what the painters draw."""
        assert self.arts is not None
        return made_ready(self.puppet.pieces[self.puppet.order[row]], pair, self.production, self.arts)

    @cached_property
    def going(self) -> dict[tuple[int, int], Reshaping]:
        """The drawings that become others, by item and drawing, in all frames."""
        return self.going_in(0, self.frames)

    def going_in(self, start: int, stop: int) -> dict[tuple[int, int], Reshaping]:
        """The drawings that become others, by item and drawing, in frames `start`…`stop`-1."""
        found: dict[tuple[int, int], Reshaping] = {}
        for row, on in self.places.becoming.items():
            for slot, pair in enumerate(on.pairs):
                frames = start + np.flatnonzero(on.which[start:stop] == slot)
                ready, _ = self._made(row, pair)
                parts = on.parts[frames]
                points = self._bent_on_its_way(row, pair, ready, frames, parts, start, stop)
                moving = Reshaping(points, ready.looks_at(parts), frames.astype(np.int32))
                found[row, self.rig.plain(row) + slot] = moving
        return found

    def _bent_on_its_way(
        self,
        row: int,
        pair: tuple[int, int],
        ready: Ready,
        frames: NDArray[np.intp],
        parts: Floats,
        start: int,
        stop: int,
    ) -> Floats:
        """Where the points of a drawing that becomes another lie in these frames. One that bends lies between where both
        would, bent, and as far beside that as its way leads at rest."""
        points, piece = ready.points_at(parts), self.puppet.pieces[self.puppet.order[row]]
        if piece.attach is None or not len(frames):
            return points
        assert self.arts is not None
        one, two = (piece.drawings[n] for n in pair)
        ends = ends_bending(self.puppet, self.rig.row, piece, (one, two), ready, self.arts)
        first, second = (
            end.points(self.worlds, start, stop)[:, :, frames - start] - np.array(drawing.pivot)[:, None]
            for end, drawing in zip(ends, (one, two), strict=True)
        )
        aside = points - (ready.points[0][:, :, None] + parts * (ready.points[1] - ready.points[0])[:, :, None])
        found: Floats = first + parts * (second - first) + aside
        return found

    def looks_like(self, other: Evaluation) -> bool:
        """Whether both draw the same items, and the same drawing of each at rest."""
        if not np.array_equal(self.rig.rest, other.rig.rest):
            return False
        one, two = self.puppet, other.puppet
        alike = (
            self.production is other.production
            and (one.id, one.order, one.groups) == (two.id, two.order, two.groups)
            and all(p is two.pieces.get(id) for id, p in one.pieces.items())
            and [b.art for b in self.rig.benders] == [b.art for b in other.rig.benders]
            and blends(one) == blends(two)
            and {r: b.pairs for r, b in self.places.becoming.items()}
            == {r: b.pairs for r, b in other.places.becoming.items()}
        )
        return alike or self.items == other.items

    @classmethod
    def full(
        cls,
        puppet: Puppet,
        motion: Motion | None = None,
        blocking: bool = False,
        production: Production = NO_PRODUCTION,
        arts: Arts | None = None,
    ) -> Evaluation:
        """Work everything out from nothing. Without `arts` no piece bends and no colour changes."""
        frames = motion.length if motion else 1
        keyed = _values(motion, blocking, {}, None)
        made = cls.performed(puppet, keyed, frames, production, arts, motion.seen if motion else None)
        return replace(made, motion=motion, blocking=blocking)

    @classmethod
    def performed(
        cls,
        puppet: Puppet,
        keyed: Values,
        frames: int,
        production: Production = NO_PRODUCTION,
        arts: Arts | None = None,
        seen: float | None = None,
    ) -> Evaluation:
        """Work everything out for channels that have these values, `(numbers, frames)` each. Feet stand as they do
        `seen` from so many degrees."""
        rig = Rig.of(puppet, production, arts, seen)
        values = with_dials(puppet, keyed, frames)
        if too_long(rig, frames):
            return cls(
                puppet, None, False, production, arts, rig, keyed, values, Stretched.over(puppet, rig, values, frames)
            )
        places = Places.blank(rig, frames)
        run(puppet, rig, values, Work(0, frames), places)
        return cls(puppet, None, False, production, arts, rig, keyed, values, places)

    def performing(
        self, puppet: Puppet, keyed: Values, production: Production | None = None, seen: float | None = None
    ) -> tuple[Evaluation, Touched]:
        """The evaluation for channels that now have these values, over as many frames, and what of it is new."""
        production = production or self.production
        kept = _same_puppet(puppet, self.puppet) and production.swatches == self.production.swatches
        if not (kept and self.rig.seen == seen):
            fresh = Evaluation.performed(puppet, keyed, self.frames, production, self.arts, seen)
            return fresh, Touched(0, fresh.frames, tuple(range(len(puppet.order))))
        return self._with(puppet, keyed, production)

    def after(
        self, puppet: Puppet, motion: Motion | None, production: Production | None = None
    ) -> tuple[Evaluation, Touched]:
        """The evaluation of what the documents are now, and what of it is new."""
        production = production or self.production
        shape_kept = (
            _same_puppet(puppet, self.puppet)
            and production.swatches == self.production.swatches
            and (motion.length if motion else 1) == self.frames
            and (motion and motion.seen) == (self.motion and self.motion.seen)
        )
        if not shape_kept:
            fresh = Evaluation.full(puppet, motion, self.blocking, production, self.arts)
            return fresh, Touched(0, fresh.frames, tuple(range(len(puppet.order))))
        found, touched = self._with(puppet, _values(motion, self.blocking, self.keyed, self.motion), production)
        return replace(found, motion=motion), touched

    def _with(self, puppet: Puppet, keyed: Values, production: Production) -> tuple[Evaluation, Touched]:
        values = with_dials(puppet, keyed, self.frames)
        channels, start, stop = _difference(self, values)
        if self._becoming_others(puppet, values, channels):
            start, stop = 0, self.frames
        if (told := blends(puppet)) is not None and channels:
            # A mouth that changes is seen for some frames after.
            stop = min(stop + told[1], self.frames)
        kept = replace(self, puppet=puppet, production=production, keyed=keyed, values=values)
        if not channels:
            return kept, NOTHING
        if isinstance(self.places, Stretched):
            rows = tuple(range(len(puppet.order)))
            return replace(kept, places=self.places.after(values, start, stop)), Touched(start, stop, rows)
        places = self.places.part(slice(None))
        touched = run(puppet, self.rig, values, Work(start, stop, channels), places)
        return replace(kept, places=places), Touched(start, stop, touched)

    def _becoming_others(self, puppet: Puppet, values: Values, channels: frozenset[str]) -> bool:
        """Whether pieces become other drawings than before: then what is shown is counted anew."""
        owners = {owner_of(c) for c in channels if kind_of(c) == "show"}
        for row, id in enumerate(puppet.order):
            if id in owners:
                found = becoming(puppet, id, self.rig.shows, values)
                if self.places.becoming.get(row, NEVER).pairs != found.pairs:
                    return True
        return False

    def pose(self, frame: int, tried: Mapping[str, tuple[float, ...]]) -> Evaluation:
        """One frame by itself, with some channels given tried values instead of their own."""
        at = slice(frame, frame + 1)
        keyed = {id: v[:, at] for id, v in self.keyed.items()}
        for id, numbers in tried.items():
            number = (numbers[0], numbers[0], 0.0) if kind_of(id) == "show" else numbers
            keyed[id] = np.array(number, dtype=np.float64)[:, None]
        values = with_dials(self.puppet, keyed, 1)
        before = {id: v[:, at] for id, v in self.values.items()}
        changed = frozenset(c for c in values.keys() | before.keys() if not _equal(values.get(c), before.get(c)))
        places = self.places.part(at)
        # Only what shows, and only what moved, is bent: a hand waits for this.
        run(self.puppet, self.rig, values, Work(0, 1, changed, glimpse=True), places)
        return replace(self, keyed=keyed, values=values, places=places)

    def at_frames(self, frames: Sequence[int]) -> Evaluation:
        """These frames of it alone, in this order."""
        rows = np.array(frames, dtype=np.intp)
        places = self.places.at_frames(rows)
        keyed, values = ({id: v[:, rows] for id, v in all_.items()} for all_ in (self.keyed, self.values))
        return replace(self, keyed=keyed, values=values, places=places)

    def value(self, owner: str, kind: ChannelKind, frame: int) -> tuple[float, ...]:
        """A channel's own value at a frame, before dials; what it neutrally holds if it has no keys."""
        found = self.keyed.get(channel_id(owner, kind))
        if found is None and kind == "dial" and owner in self.puppet.dials:
            dial = self.puppet.dials[owner]
            seen = self.keyed.get(SEEN) if dial.turns else None
            return (dial.rest if seen is None else max(float(seen[0, frame]), dial.rest),)
        return NEUTRAL[kind] if found is None else tuple(float(v) for v in found[: len(NEUTRAL[kind]), frame])


def _same_puppet(one: Puppet, other: Puppet) -> bool:
    if one is other:
        return True
    names = ("order", "pieces", "joints", "origin", "chains", "dials")
    return blends(one) == blends(other) and all(
        getattr(one, n) is getattr(other, n) or getattr(one, n) == getattr(other, n) for n in names
    )


def _equal(one: Floats | None, other: Floats | None) -> bool:
    return one is other or (one is not None and other is not None and np.array_equal(one, other))


def _values(motion: Motion | None, blocking: bool, known: Values, before: Motion | None) -> Values:
    """Every channel's values, taking over those whose channel and frames are as before."""
    if motion is None:
        return {}
    same_frames = before is not None and (before.length, before.cycle) == (motion.length, motion.cycle)
    values: dict[str, Floats] = {}
    for id, channel in motion.channels.items():
        if same_frames and before is not None and _same(before.channels.get(id), channel):
            values[id] = known[id]
        else:
            values[id] = channel_values(channel, np.arange(motion.length), motion.length, motion.cycle, blocking)
    if motion.seen is not None:
        known_seen = known.get(SEEN) if same_frames else None
        same = known_seen is not None and known_seen[0, 0] == motion.seen
        values[SEEN] = known_seen if same else np.full((1, motion.length), motion.seen)  # type: ignore[assignment]
    return values | planted(motion, blocking)


def channel_values(channel: Channel, times: Times, length: int, cycle: bool, blocking: bool = False) -> Floats:
    """What an evaluation goes by of a channel: its value at these times, of drawings also what they are becoming."""
    told = drawings_at if channel.kind == "show" else at
    return told(channel, times, length, cycle, blocking)


def _same(one: Channel | None, other: Channel) -> bool:
    return one is other or one == other


def _difference(before: Evaluation, values: Values) -> tuple[frozenset[str], int, int]:
    """Which channels differ from before, and the frames they differ in."""
    channels: set[str] = set()
    start, stop = before.frames, 0
    for id in before.values.keys() | values.keys():
        old, new = before.values.get(id), values.get(id)
        if old is new:
            continue
        nothing: Floats = np.array(neutral(id), dtype=np.float64)[:, None]
        left = old if old is not None else nothing
        right = new if new is not None else nothing
        changed = np.flatnonzero(np.any(np.broadcast_to(left != right, (len(nothing), before.frames)), axis=0))
        if changed.size:
            channels.add(id)
            start, stop = min(start, int(changed[0])), max(stop, int(changed[-1]) + 1)
    return frozenset(channels), start, stop
