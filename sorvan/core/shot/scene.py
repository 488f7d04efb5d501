"""A shot evaluated: everybody in the cast with what they do, where they are, and how the camera sees them.

It evaluates into the same plan as a motion, a cel for each of the cast. After a change only those whose puppet,
motions or spans differ are worked out anew, in the frames that differ.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from sorvan.core.art.source import Arts
from sorvan.core.geometry import Floats, compose_blocks, place_in
from sorvan.core.model.base import Id, Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import Puppet
from sorvan.core.model.shot import Camera, Copies, Member, Pass, Shot, motions_of
from sorvan.core.plan.evaluate import NOTHING, Evaluation, Touched
from sorvan.core.plan.plan import Cel, Plan
from sorvan.core.plan.scene import cel_of
from sorvan.core.plan.values import SEEN, Values
from sorvan.core.shot.camera import keyed_frames, view
from sorvan.core.shot.copies import spread_out
from sorvan.core.shot.performance import EMPTY, Performance
from sorvan.core.shot.planted_feet import Planting, held_at, lowered, settled, stances
from sorvan.core.shot.spans import held, poses_at
from sorvan.core.shot.travel import Carried, carried


class InShot(Value):
    """Look at a shot, in its own pass unless another is told."""

    kind: Literal["shot"] = "shot"
    shot: Id
    seen_as: Pass | None = None


@dataclass(frozen=True)
class Acted:
    """One of the cast, evaluated, and `bare` with no foot planted: what it does and where it is carried (a copied
    element does neither)."""

    cast: Member | Copies
    evaluation: Evaluation
    bare: Evaluation
    doing: Performance
    carried: Carried | None
    holds: NDArray[np.int32] | None
    """In a shot that is only blocked, the frame that is held in each frame."""
    shift: Floats | None = None
    """By how much copies go along with whom they are on, `(2, times)` stage units."""
    made_of: tuple[Puppet | Motion, ...] = ()
    """The puppet and the motions that it was worked out from."""


@dataclass(frozen=True)
class ActedAnew:
    """What of one of the cast is new: frames and items, and whether it is in other places."""

    touched: Touched
    moved: bool
    whole: bool = False


@dataclass(frozen=True)
class ShotScene:
    """A shot evaluated at its times: its cast from back to front, and for each share in the camera's movement what
    takes the stage to the picture, `(6, times)`."""

    shot: Shot
    production: Production
    seen_as: Pass
    times: Floats
    arts: Arts | None
    acted: tuple[Acted, ...]
    views: Mapping[float, Floats]
    before_camera: Camera | None = None
    """While a change is taken up: the camera as it was."""

    @classmethod
    def full(
        cls, documents: Documents, target: InShot, arts: Arts | None = None, times: Floats | None = None
    ) -> ShotScene:
        """Evaluate everything, at every frame or at these times. Raises `Refusal` if the shot is gone."""
        shot = documents.shot(target.shot)
        production, seen_as = documents.production, target.seen_as or shot.stage
        at = np.arange(shot.length, dtype=np.float64) if times is None else times
        empty = cls(shot, production, seen_as, at, arts, (), {})
        acted = empty._along(tuple(empty._act(documents, shot.cast[id], None)[0] for id in shot.order))
        return replace(empty, acted=acted, views=empty._views(acted))

    @property
    def frames(self) -> int:
        """How many frames, or times, were evaluated."""
        return len(self.times)

    @property
    def late(self) -> bool:
        """Whether channels come as late as they are told to: not before the final pass."""
        return self.seen_as == "final"

    def after(self, documents: Documents, target: InShot) -> tuple[ShotScene, dict[str, ActedAnew], bool] | None:
        """The shot as the documents are now, what of each of the cast is new, and whether the camera is; None if
        all is new: another length, pass, palette or cast."""
        shot, production = documents.shot(target.shot), documents.production
        seen_as = target.seen_as or shot.stage
        kept = (
            shot.length == self.shot.length
            and seen_as == self.seen_as
            and shot.order == self.shot.order
            and (production.width, production.height, production.rate, production.swatches)
            == (self.production.width, self.production.height, self.production.rate, self.production.swatches)
        )
        if not kept:
            return None
        now = replace(self, shot=shot, production=production, before_camera=self.shot.camera)
        acted: list[Acted] = []
        anew: dict[str, ActedAnew] = {}
        for before in self.acted:
            found, new = now._act(documents, shot.cast[before.cast.id], before)
            acted.append(found)
            if new.touched is not NOTHING or new.moved or new.whole:
                anew[before.cast.id] = new
        acted = list(now._along(tuple(acted)))
        for one, before in zip(acted, self.acted, strict=True):
            if not _same_shift(one.shift, before.shift):
                new = anew.get(one.cast.id, ActedAnew(NOTHING, False))
                anew[one.cast.id] = replace(new, moved=True)
        same_camera = shot.camera == self.shot.camera and set(self.views) == {a.cast.share for a in acted}
        views = self.views if same_camera else now._views(tuple(acted))
        return replace(now, acted=tuple(acted), views=views), anew, not same_camera

    def _along(self, acted: tuple[Acted, ...]) -> tuple[Acted, ...]:
        """Everybody, copies gone along with whom they are on."""
        members = {a.cast.id: a for a in acted if isinstance(a.cast, Member)}
        found: list[Acted] = []
        for one in acted:
            on = members.get(one.cast.along) if isinstance(one.cast, Copies) and one.cast.along else None
            shift = None
            if on is not None and on.carried is not None:
                ox, oy = on.evaluation.puppet.origin
                place = on.carried.place if on.holds is None else on.carried.place[:, on.holds]
                there = place_in(place, ox, oy)
                shift = np.stack([there.real - on.cast.at[0], there.imag - on.cast.at[1]])
            found.append(one if _same_shift(one.shift, shift) else replace(one, shift=shift))
        return tuple(found)

    def _act(self, documents: Documents, cast: Member | Copies, before: Acted | None) -> tuple[Acted, ActedAnew]:
        puppet = documents.puppet(cast.puppet)
        made_of: tuple[Puppet | Motion, ...] = (puppet, *(documents.motion(id) for id in motions_of(cast)))
        if before is not None and self._same(cast, made_of, before):
            return before, ActedAnew(NOTHING, False)
        found, new = self._acted(documents, cast, puppet, before)
        return replace(found, made_of=made_of), new

    def _same(self, cast: Member | Copies, made_of: tuple[Puppet | Motion, ...], before: Acted) -> bool:
        """Whether nothing that one of the cast is worked out from is new."""
        alike = len(made_of) == len(before.made_of) and all(
            a is b for a, b in zip(made_of, before.made_of, strict=True)
        )
        # What is struck while a shot is only blocked depends on the camera too.
        return alike and cast == before.cast and (self.seen_as != "blocking" or self.shot.camera == self.before_camera)

    def _acted(
        self, documents: Documents, cast: Member | Copies, puppet: Puppet, before: Acted | None
    ) -> tuple[Acted, ActedAnew]:
        if before is not None and (type(before.cast) is not type(cast) or before.cast.puppet != cast.puppet):
            before = None
        if isinstance(cast, Copies):
            return self._copied(documents, cast, puppet, before)
        doing = Performance.of(documents, self.shot, cast, self.times, self.late, before.doing if before else EMPTY)
        frames = self._by_frames()
        by_frames = None if frames is None or SEEN not in doing.values else frames._doing(documents, cast)
        on = carried(cast, puppet, doing, self.times, by_frames)
        bare, of_bare = self._performed(puppet, doing.values, before.bare if before else None, doing.seen)
        found = stances(doing, on, puppet)
        if found:
            if frames is None:
                down = lowered(bare, held_at(found, on))
            else:
                by, placed = frames._let_down(documents, cast, puppet)
                found, down = settled(found, self.times, placed), np.interp(self.times, frames.times, by)
            on = on.lower(down)
            values = {**doing.values, **held_at(found, on)}
            evaluation, touched = self._performed(puppet, values, before.evaluation if before else None, doing.seen)
        else:
            evaluation, touched = bare, of_bare
            if before is not None and before.evaluation is not before.bare:
                # Feet that were planted are not any more.
                touched = Touched(0, self.frames, tuple(range(len(puppet.order))))
        moved = before is None or before.carried is None or not on.same(before.carried)
        holds = held(self._struck(cast, doing)) if self.seen_as == "blocking" else None
        if before is not None and holds is not None and before.holds is not None:
            moved = moved or not np.array_equal(holds, before.holds)
        looks = before is not None and evaluation.looks_like(before.evaluation) and cast.hidden == before.cast.hidden
        return Acted(cast, evaluation, bare, doing, on, holds), ActedAnew(touched, moved, whole=not looks)

    def _by_frames(self) -> ShotScene | None:
        """The same scene at whole frames, if it is not: what goes by frames is worked out there."""
        grid = np.arange(math.ceil(self.times[-1]) + 1 if len(self.times) else 1, dtype=np.float64)
        return None if np.array_equal(grid, self.times) else replace(self, times=grid)

    def _let_down(
        self, documents: Documents, cast: Member, puppet: Puppet
    ) -> tuple[Floats, Mapping[str, list[Planting]]]:
        """How far down a member comes for its feet to reach at each time, and where its feet stand."""
        doing = self._doing(documents, cast)
        on = carried(cast, puppet, doing, self.times)
        found = stances(doing, on, puppet)
        bare, _ = self._performed(puppet, doing.values, None, doing.seen)
        return lowered(bare, held_at(found, on)), found

    def _doing(self, documents: Documents, cast: Member) -> Performance:
        """What a member does at the scene's times, worked out from nothing."""
        return Performance.of(documents, self.shot, cast, self.times, self.late, EMPTY)

    def _performed(
        self, puppet: Puppet, values: Values, before: Evaluation | None, seen: float | None
    ) -> tuple[Evaluation, Touched]:
        if before is not None:
            return before.performing(puppet, values, self.production, seen)
        found = Evaluation.performed(puppet, values, self.frames, self.production, self.arts, seen)
        return found, Touched(0, self.frames, tuple(range(len(puppet.order))))

    def _copied(
        self, documents: Documents, cast: Copies, puppet: Puppet, before: Acted | None
    ) -> tuple[Acted, ActedAnew]:
        motion = documents.motion(cast.motion) if cast.motion else None
        if before is None or (before.evaluation.motion is None) != (motion is None):
            evaluation = Evaluation.full(puppet, motion, False, self.production, self.arts)
            touched = Touched(0, evaluation.frames, tuple(range(len(puppet.order))))
        else:
            evaluation, touched = before.evaluation.after(puppet, motion, self.production)
        whole = before is None or touched is not NOTHING or before.cast != cast
        return Acted(cast, evaluation, evaluation, EMPTY, None, None), ActedAnew(touched, False, whole)

    def _struck(self, member: Member, doing: Performance) -> NDArray[np.bool_]:
        """At which times a member strikes a pose, or a key of its place or of the camera begins."""
        poses = poses_at((*doing.lower, *doing.upper), self.times)
        keyed = {f for c in (*member.place.values(), *member.over.values()) for f in c.keys}
        return poses | np.isin(self.times, sorted(keyed | keyed_frames(self.shot.camera)))

    def _views(self, acted: tuple[Acted, ...]) -> dict[float, Floats]:
        shakes = self.seen_as == "final"
        shares = {100.0, *(a.cast.share for a in acted)}
        found = {s: view(self.shot, self.production, self.times, s, shakes) for s in sorted(shares)}
        if self.seen_as == "blocking":
            struck = np.isin(self.times, sorted(keyed_frames(self.shot.camera) | {0}))
            found = {s: v[:, held(struck)] for s, v in found.items()}
        return found

    def stage_of(self, acted: Acted) -> Floats:
        """What takes one of the cast from its own space to the picture, `(6, times)`."""
        seen = self.views[acted.cast.share]
        if acted.shift is not None:
            x, y = acted.shift
            return np.stack([*seen[:4], seen[0] * x + seen[2] * y + seen[4], seen[1] * x + seen[3] * y + seen[5]])
        if acted.carried is None:
            return seen
        place = acted.carried.place if acted.holds is None else acted.carried.place[:, acted.holds]
        block = np.empty((1, *seen.shape))
        compose_blocks(seen[None], np.ascontiguousarray(place)[None], block)
        found: Floats = block[0]
        return found

    def cel(self, acted: Acted) -> Cel:
        """What one of the cast shows."""
        own = cel_of(acted.evaluation)
        if isinstance(acted.cast, Copies):
            loop = acted.evaluation.frames
            # Until all is to be seen they stand as they do when the shot begins.
            times = (np.floor(self.times if self.late else self.times * 0).astype(np.int64) % loop).astype(np.int32)
            copies = spread_out(acted.cast, acted.evaluation.puppet, loop)
            return replace(own, times=times, stage=self.stage_of(acted), copies=copies)
        assert acted.carried is not None
        fade = acted.carried.opacity
        if fade is not None and acted.holds is not None:
            fade = fade[acted.holds]
        return replace(own, times=acted.holds, stage=self.stage_of(acted), fade=fade)

    def plan(self) -> Plan:
        """The plan of all frames: a cel for everybody who shows, from back to front."""
        cels = tuple(self.cel(a) for a in self.acted if not a.cast.hidden)
        return Plan(self.production.width, self.production.height, self.production.paper, self.frames, cels)


def _same_shift(one: Floats | None, other: Floats | None) -> bool:
    if one is None or other is None:
        return one is other
    return np.array_equal(one, other)
