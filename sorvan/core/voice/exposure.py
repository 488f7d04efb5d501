"""Exposure: which mouth shows on each frame, worked out from the chart as a path of least cost.

The line is a row of frames, and each frame shows one mouth. A path costs

* `match`: how far each frame's mouth is from what is heard, weighed by how much the sound matters;
* `change`: a little for every change, so that a run of quick sounds is one mouth and no flicker;
* `jump`: for changes between mouths that are far apart, growing with the square beyond `FAR`, so that an
  in-between mouth is cheaper where there is room for one;
* `odd`: for changes on odd frames, when the line is exposed on twos;
* `slack`: for lips that meet one frame beside their sound, where they can't in it;
* `short`: for a run of lips that meet or touch the teeth which is shorter than the hold;
* `unseen`: for a sound whose lips must meet or touch the teeth, and don't.

No other run is ever shorter than the hold. Of all paths the cheapest is found by dynamic programming
(Bellman 1957; over frames it is the algorithm of Viterbi 1967), so no choice of mouths costs less.

What is heard is a track of looks (`track`); the sound groups are those of `phonemes`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sorvan.core.model.puppet import Mouth, MouthChart
from sorvan.core.model.voice import Voice
from sorvan.core.voice.mouths import FAR, apart
from sorvan.core.voice.phonemes import LOOKS
from sorvan.core.voice.track import WEIGHT, Beat, ExposureSettings, Looks, beats, heard_looks

CHANGE, JUMP, ODD, SLACK, SHORT, UNSEEN = 0.08, 5.0, 2.0, 6.0, 60.0, 300.0
"""What each kind of cost amounts to; a mouth wholly unlike a plain vowel for one frame costs about one."""
NO_WAY = 1e9


@dataclass(frozen=True)
class Must:
    """Lips that must meet or touch the teeth: on one of the frames `first` up to `last`, at the worst one beside."""

    first: int
    last: int
    mouth: int
    beat: int


@dataclass(frozen=True)
class Problem:
    """A line to be exposed, as numbers: `match` frames × mouths, `jump` mouths × mouths, what must be seen,
    the frames whose mouth the hand chose, and where the line begins (its first frame's number)."""

    first: int
    mouths: tuple[Mouth, ...]
    beats: tuple[Beat, ...]
    match: Looks
    jump: Looks
    musts: tuple[Must, ...]
    seen: NDArray[np.bool_]
    pinned: Mapping[int, int]
    settings: ExposureSettings
    track: Looks
    """What is heard at each frame: frames × five."""

    @property
    def frames(self) -> int:
        """How many frames the line has."""
        return len(self.match)

    @cached_property
    def starts(self) -> NDArray[np.float64]:
        """When each beat begins (frames)."""
        return np.array([b.start for b in self.beats])


@dataclass(frozen=True)
class Exposure:
    """The mouth of each frame, as numbers of the set, and what it cost."""

    problem: Problem
    path: NDArray[np.int64]
    cost: float

    def runs(self) -> list[tuple[int, int, int]]:
        """Each run of one mouth: first frame and end (in the motion's frames), and its mouth. A mouth that the
        hand chose begins a run of its own."""
        cuts = [0, *(np.flatnonzero(np.diff(self.path)) + 1), *self.problem.pinned, len(self.path)]
        row = sorted(set(cuts))
        return [(self.problem.first + a, self.problem.first + b, int(self.path[a])) for a, b in pairwise(row)]


SAMPLES = 8
"""Looks taken in each frame, whose costs are averaged."""


def problem(
    voice: Voice,
    chart: MouthChart,
    at: float,
    rate: float,
    frames: int,
    settings: ExposureSettings,
    pinned: Mapping[int, Mouth | None] | None = None,
) -> Problem | None:
    """A line to be exposed on a motion of so many frames; None if none of it falls there.

    `pinned` are the frames whose mouths the hand chose; one that is none of the set is None.
    """
    row = beats(voice, chart, at, rate, settings)
    first = max(int(np.floor(at * rate - settings.lead)), 0)
    stop = min(int(np.ceil((at + voice.seconds) * rate - settings.lead)), frames)
    if not row or stop <= first:
        return None
    mouths = tuple(chart.mouths.values())
    looks = np.array([m.look for m in mouths])
    inside = (np.arange(SAMPLES) + 0.5) / SAMPLES
    times = (np.arange(first, stop)[:, None] + inside[None, :]).ravel()
    track = heard_looks(row, times, rate)
    starts = np.array([b.start for b in row])
    own = np.clip(np.searchsorted(starts, times, side="right") - 1, 0, len(row) - 1)
    weight = np.array([b.weight for b in row])[own]
    weight[times < row[0].start] = WEIGHT["pause"]
    track[times < row[0].start] = LOOKS["rest"]
    far = apart(track[:, None, :], looks[None, :, :])
    told = np.array([mouths.index(b.mouth) if b.told else -1 for b in row])[own]
    far[told >= 0] += 0.05
    far[np.flatnonzero(told >= 0), told[told >= 0]] = 0.0
    match = (far * weight[:, None]).reshape(stop - first, SAMPLES, -1).mean(axis=1)
    hand: dict[int, int] = {}
    for frame, mouth in sorted((pinned or {}).items()):
        if first <= frame < stop:
            if mouth is None:
                # One that is none of the set stands beside it, and nothing but the hand chooses it.
                if len(mouths) == match.shape[1]:
                    match = np.concatenate([match, np.full((len(match), 1), 0.4)], axis=1)
                hand[frame - first] = match.shape[1] - 1
            else:
                hand[frame - first] = mouths.index(mouth)
    if match.shape[1] > len(mouths):
        looks = np.concatenate([looks, np.array([LOOKS["rest"]])])
    between = apart(looks[:, None, :], looks[None, :, :])
    jump = CHANGE + JUMP * np.maximum(between - FAR, 0) ** 2
    if match.shape[1] > len(mouths):
        jump[:, -1] = jump[-1, :] = CHANGE
    musts = _musts(row, mouths, first, stop)
    seen = np.zeros(match.shape[1], dtype=bool)
    seen[[m.mouth for m in musts]] = True
    middle = track.reshape(stop - first, SAMPLES, 5).mean(axis=1)
    return Problem(first, mouths, row, match, jump, musts, seen, hand, settings, middle)


def _musts(row: Sequence[Beat], mouths: tuple[Mouth, ...], first: int, stop: int) -> tuple[Must, ...]:
    found: list[Must] = []
    for n, beat in enumerate(row):
        if beat.kind not in ("closure", "contact"):
            continue
        a, b = max(int(np.floor(beat.start)), first), min(int(np.ceil(beat.end)), stop)
        if b > a:
            found.append(Must(a - first, b - first, mouths.index(beat.mouth), n))
    return tuple(found)


def expose(problem: Problem) -> Exposure:
    """The cheapest path. Of equal ones always the same."""
    search = _Search(problem)
    return Exposure(problem, *search.run())


@dataclass
class _Search:
    """Dynamic programming over frames. A state is how many of the open musts are seen already, how long the
    mouth has been there (up to the hold), and which mouth it is."""

    problem: Problem
    depth: int = 1
    back: list[NDArray[np.int32]] = field(default_factory=list)
    leaps: dict[float, Looks] = field(default_factory=dict)

    def run(self) -> tuple[NDArray[np.int64], float]:
        p = self.problem
        hold, count = p.settings.hold, p.match.shape[1]
        opens, closes = self._windows()
        self.depth = 1 + max((int(o - c) for o, c in zip(opens, closes, strict=True)), default=0)
        shape = (self.depth, hold, count)
        ids = np.arange(self.depth * hold * count, dtype=np.int32).reshape(shape)
        cost = np.full(shape, NO_WAY)
        low = 0
        starting = np.zeros(count)
        for f in range(p.frames):
            if f == 0:
                new = np.full(shape, NO_WAY)
                new[0, 0, :] = starting
                back = np.full(shape, -1, dtype=np.int32)
            else:
                new, back = self._step(cost, ids, f)
            if f in p.pinned:
                new, back = self._pin(cost, ids, f) if f else (self._only(new, p.pinned[f]), back)
            new = new + p.match[f][None, None, :]
            self._see(new, back, low, f, int(opens[f]))
            cost, back, low = self._close(new, back, low, f)
            self.back.append(back)
        return self._traced(self._ended(cost), cost)

    def _windows(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """For each frame how many musts have opened by then (slack and all), and how many had closed before it."""
        musts = self.problem.musts
        frames = np.arange(self.problem.frames)
        starts = np.array([m.first - 1 for m in musts], dtype=np.int64)
        stops = np.array([m.last + 1 for m in musts], dtype=np.int64)
        return np.searchsorted(starts, frames, side="right"), np.searchsorted(stops, frames, side="right")

    def _step(
        self, cost: NDArray[np.float64], ids: NDArray[np.int32], f: int
    ) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
        p = self.problem
        hold = p.settings.hold
        new, back = np.full_like(cost, NO_WAY), np.full(cost.shape, -1, dtype=np.int32)
        # It stays: one frame older, at most as old as the hold.
        new[:, 1:, :], back[:, 1:, :] = cost[:, :-1, :], ids[:, :-1, :]
        older = cost[:, -1, :] < new[:, -1, :]
        new[:, -1, :] = np.where(older, cost[:, -1, :], new[:, -1, :])
        back[:, -1, :] = np.where(older, ids[:, -1, :], back[:, -1, :])
        # It changes, once it is old enough; lips that meet may leave sooner, at a price.
        free, come = cost[:, -1, :].copy(), ids[:, -1, :].copy()
        for age in range(hold - 1):
            sooner = np.where(p.seen[None, :], cost[:, age, :] + SHORT, NO_WAY)
            better = sooner < free
            free = np.where(better, sooner, free)
            come = np.where(better, ids[:, age, :], come)
        ways = free[:, :, None] + self._leaps(f)[None, :, :]
        best = ways.argmin(axis=1)
        rows = np.arange(cost.shape[0])[:, None]
        changed = np.take_along_axis(ways, best[:, None, :], axis=1)[:, 0, :]
        source = come[rows, best]
        better = changed < new[:, 0, :]
        new[:, 0, :] = np.where(better, changed, new[:, 0, :])
        back[:, 0, :] = np.where(better, source, back[:, 0, :])
        return new, back

    def _leaps(self, f: int) -> Looks:
        """What a change into this frame costs, from each mouth to each: none to itself."""
        odd = _odd(self.problem, f)
        if odd not in self.leaps:
            leaps = self.problem.jump + odd
            np.fill_diagonal(leaps, NO_WAY)
            self.leaps[odd] = leaps
        return self.leaps[odd]

    def _pin(
        self, cost: NDArray[np.float64], ids: NDArray[np.int32], f: int
    ) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
        """The hand's mouth begins here, whatever was there and for however long."""
        hand = self.problem.pinned[f]
        new, back = np.full_like(cost, NO_WAY), np.full(cost.shape, -1, dtype=np.int32)
        flat = cost.reshape(cost.shape[0], -1)
        best = flat.argmin(axis=1)
        rows = np.arange(cost.shape[0])
        new[:, 0, hand] = flat[rows, best]
        back[:, 0, hand] = ids.reshape(cost.shape[0], -1)[rows, best]
        return new, back

    def _only(self, new: NDArray[np.float64], hand: int) -> NDArray[np.float64]:
        kept = np.full_like(new, NO_WAY)
        kept[:, :, hand] = new[:, :, hand]
        return kept

    def _see(self, cost: NDArray[np.float64], back: NDArray[np.int32], low: int, f: int, opened: int) -> None:
        """Where the mouth is what an open must wants, it may count as seen, in their order."""
        for n in range(low, opened):
            at = n - low
            if at + 1 >= cost.shape[0]:
                break
            must = self.problem.musts[n]
            price = 0.0 if must.first <= f < must.last else SLACK
            seen = cost[at, :, must.mouth] + price
            better = seen < cost[at + 1, :, must.mouth]
            cost[at + 1, :, must.mouth] = np.where(better, seen, cost[at + 1, :, must.mouth])
            back[at + 1, :, must.mouth] = np.where(better, back[at, :, must.mouth], back[at + 1, :, must.mouth])

    def _close(
        self, cost: NDArray[np.float64], back: NDArray[np.int32], low: int, f: int
    ) -> tuple[NDArray[np.float64], NDArray[np.int32], int]:
        """Musts whose last frame this was are over: whoever has not seen them pays."""
        musts = self.problem.musts
        last = f == self.problem.frames - 1
        while low < len(musts) and (musts[low].last + 1 <= f + 1 or last):
            if cost.shape[0] > 1:
                missed = cost[0] + UNSEEN
                better = missed < cost[1]
                first, its = np.where(better, missed, cost[1]), np.where(better, back[0], back[1])
                cost = np.concatenate([first[None], cost[2:], np.full_like(cost[:1], NO_WAY)])
                back = np.concatenate([its[None], back[2:], np.full_like(back[:1], -1)])
            else:
                cost = cost + UNSEEN
            low += 1
        return cost, back, low

    def _ended(self, cost: NDArray[np.float64]) -> NDArray[np.float64]:
        """What each last state costs: a run that is too short at the end counts as one anywhere else."""
        hold = self.problem.settings.hold
        if self.problem.frames < hold:
            return cost
        ended = cost.copy()
        for age in range(hold - 1):
            ended[:, age, :] = np.where(self.problem.seen[None, :], ended[:, age, :] + SHORT, NO_WAY)
            for frame, hand in self.problem.pinned.items():
                if frame == self.problem.frames - 1 - age:
                    ended[:, age, hand] = cost[:, age, hand]
        return ended

    def _traced(self, ended: NDArray[np.float64], cost: NDArray[np.float64]) -> tuple[NDArray[np.int64], float]:
        count = cost.shape[2]
        at = int(ended.argmin())
        path = np.empty(self.problem.frames, dtype=np.int64)
        total = float(ended.reshape(-1)[at])
        for f in range(self.problem.frames - 1, -1, -1):
            path[f] = at % count
            at = int(self.back[f].reshape(-1)[at])
        return path, total


def _odd(problem: Problem, f: int) -> float:
    return ODD if problem.settings.twos and (problem.first + f) % 2 else 0.0


def cost_of(problem: Problem, path: Sequence[int] | NDArray[np.int64]) -> float:
    """What a path costs, counted frame by frame; `NO_WAY` and more for one that is not allowed at all."""
    p, row = problem, np.asarray(path)
    total = float(p.match[np.arange(p.frames), row].sum())
    cuts = [0, *sorted({*(np.flatnonzero(np.diff(row)) + 1), *(f for f in p.pinned if f)}), p.frames]
    for f, hand in p.pinned.items():
        if row[f] != hand:
            return NO_WAY
    for begin, end in pairwise(cuts):
        if begin and begin not in p.pinned:
            total += float(p.jump[row[begin - 1], row[begin]]) + _odd(p, begin)
        if end - begin < p.settings.hold <= p.frames and end not in p.pinned:
            if end == p.frames and begin in p.pinned:
                continue
            total += SHORT if p.seen[row[begin]] else NO_WAY
    return total + _seen_cost(p, row)


def _seen_cost(problem: Problem, row: NDArray[np.int64]) -> float:
    """The least that what must be seen costs on a path, each seen no sooner than the one before it."""
    best = {0: 0.0}
    for must in problem.musts:
        new: dict[int, float] = {}
        for since, cost in best.items():
            choices = [(since, cost + UNSEEN)]
            for f in range(max(must.first - 1, since, 0), min(must.last + 1, problem.frames)):
                if row[f] == must.mouth:
                    choices.append((f, cost + (0.0 if must.first <= f < must.last else SLACK)))
            for f, price in choices:
                new[f] = min(price, new.get(f, NO_WAY))
        best = new
    return min(best.values())


def unseen(exposure: Exposure) -> list[Must]:
    """What must be seen and is not, not even one frame beside its sound."""
    p, row = exposure.problem, exposure.path
    return [m for m in p.musts if not np.any(row[max(m.first - 1, 0) : m.last + 1] == m.mouth)]
