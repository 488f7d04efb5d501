"""Commands on the keys of a shot: of its camera, of its cast's places, and laid over what they do."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sorvan.core.change.casting import called, cast_of, member_of
from sorvan.core.change.command import several
from sorvan.core.change.keys import NewKey
from sorvan.core.change.shots import ShotCommand
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id, Number, Pair, Value
from sorvan.core.model.channel import Channel, Key
from sorvan.core.model.channels import NEUTRAL, channel_id, kind_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Ease, Slow
from sorvan.core.model.shot import CAMERA, PLACE, Member, Pass, Shot
from sorvan.core.model.times import LONGEST, Frame
from sorvan.core.motion.hand import typed
from sorvan.core.motion.kept_poses import begun_kept
from sorvan.core.motion.keying import keyed
from sorvan.core.staging.posing import laid
from sorvan.core.timing.channels import at as value_at

SOFT = Slow(out=50, into=50)
"""How who is moved, and the camera, start and stop."""


class KeyInShot(ShotCommand):
    """Set keys of the camera, of a member's place, or laid over its motions for this shot only.

    Of a `cast` member keys on “place” are of its place, others over its motions; without one they are the
    camera's. A new key of a place or the camera lets it start and stop softly if no ease is told, another has the ease of
    the gap that it falls into.
    """

    do: Literal["key-in-shot"] = "key-in-shot"
    cast: Id | None = None
    keys: Annotated[tuple[NewKey, ...], Field(min_length=1, max_length=20_000)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        if self.cast is None:
            channels = _keyed(shot, shot.camera.channels, self.keys, CAMERA)
            return shot.changed(camera=shot.camera.changed(channels=channels))
        member = member_of(shot, self.cast)
        own = tuple(k for k in self.keys if k.joint == PLACE)
        over = tuple(k for k in self.keys if k.joint != PLACE)
        return shot.with_cast(
            member.changed(place=_keyed(shot, member.place, own, PLACE), over=_keyed(shot, member.over, over, None))
        )

    def said(self, shot: Shot) -> str:
        what = "the camera" if self.cast is None else f"“{called(shot.cast[self.cast])}”"
        return f"Key {what} at frame {self.keys[0].frame + 1}"


def _keyed(shot: Shot, channels: dict[str, Channel], keys: tuple[NewKey, ...], owner: str | None) -> dict[str, Channel]:
    """Channels with keys set in them. One that begins later than the shot holds at its first frame what was seen there."""
    found = dict(channels)
    for key in keys:
        id = channel_id(key.joint, key.kind)
        channel = found.get(id) or Channel(joint=owner or key.joint, kind=key.kind)
        value = key.whole(channel, shot.length, False, NEUTRAL[key.kind])
        made = keyed(
            channel.keys, key.frame, key.kind, value, key.ease or (owner and _ease_of(channel, key.frame)) or None
        )
        if not channel.keys:
            # The camera, and who is moved by keys, go straight until they are told otherwise.
            made = made.changed(tangents=None)
        found[id] = channel.changed(keys={**channel.keys, key.frame: made})
    soft = SOFT if owner else None
    for id, channel in found.items():
        if channel is not channels.get(id):
            rest = NEUTRAL[channel.kind]
            found[id] = begun_kept(channels.get(id), channel, rest, shot.length, cycle=False, ease=soft)
    return found


def _ease_of(channel: Channel, frame: int) -> Ease | None:
    """The ease of a key of a place or of the camera: the one it has, or a soft one."""
    return None if frame in channel.keys else SOFT


class NudgeCast(ShotCommand):
    """Move one of the cast `by` so many stage units: where it stands, or, where its place is keyed, its place at a frame,
    which is keyed."""

    do: Literal["nudge-cast"] = "nudge-cast"
    cast: Id
    by: Pair
    frame: Frame

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        keyed = held.place.get(channel_id(PLACE, "move")) if isinstance(held, Member) else None
        if keyed is None:
            return shot.with_cast(held.changed(at=_by(held.at, self.by)))
        frame = min(self.frame, shot.length - 1)
        x, y = value_at(keyed, np.array([frame]), shot.length, False)[:, 0]
        key = NewKey(joint=PLACE, kind="move", frame=frame, value=_by((float(x), float(y)), self.by))
        return KeyInShot(shot=self.shot, cast=self.cast, keys=(key,)).on(shot, documents)

    def said(self, shot: Shot) -> str:
        return f"Place “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


def _by(place: tuple[float, float], by: tuple[float, float]) -> tuple[float, float]:
    return round(place[0] + by[0], 2), round(place[1] + by[1], 2)


class ShotKeyAt(Value):
    """A key of a shot: of the camera, or of one of the cast."""

    cast: Id | None = None
    channel: str
    frame: Frame


class UnkeyInShot(ShotCommand):
    """Remove keys of the camera and of members from a shot."""

    do: Literal["unkey-in-shot"] = "unkey-in-shot"
    keys: Annotated[tuple[ShotKeyAt, ...], Field(min_length=1, max_length=20_000)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        return _over_channels(
            shot, self.keys, lambda channel, frames: {f: k for f, k in channel.keys.items() if f not in frames}
        )

    def said(self, shot: Shot) -> str:
        return f"Remove {several(len(self.keys), 'key')} from “{shot.name}”"


class MoveShotKeys(ShotCommand):
    """Move keys of a shot by so many frames; those that lie where they go are replaced."""

    do: Literal["move-shot-keys"] = "move-shot-keys"
    keys: Annotated[tuple[ShotKeyAt, ...], Field(min_length=1, max_length=20_000)]
    by: int

    def on(self, shot: Shot, documents: Documents) -> Shot:
        frames = [k.frame + self.by for k in self.keys]
        if min(frames) < 0 or max(frames) >= LONGEST:
            raise Refusal(
                "A key would lie before the shot begins." if min(frames) < 0 else "A key would lie too far on.",
                where=shot.name,
                remedy="Move them less far.",
            )

        def moved(channel: Channel, frames: set[int]) -> dict[int, Key]:
            kept = {f: k for f, k in channel.keys.items() if f not in frames}
            return {**kept, **{f + self.by: k for f, k in channel.keys.items() if f in frames}}

        return _over_channels(shot, self.keys, moved)

    def said(self, shot: Shot) -> str:
        return f"Move {several(len(self.keys), 'key')} of “{shot.name}” by {several(abs(self.by), 'frame')}"


class EaseShotGaps(ShotCommand):
    """Set the ease of the gaps that begin at these keys of a shot; `smooth` says whether a path goes through them in
    a curve."""

    do: Literal["ease-shot-gaps"] = "ease-shot-gaps"
    keys: Annotated[tuple[ShotKeyAt, ...], Field(min_length=1, max_length=20_000)]
    ease: Ease | None = None
    smooth: bool | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        def eased(channel: Channel, frames: set[int]) -> dict[int, Key]:
            given: dict[str, object] = {} if self.ease is None else {"ease": self.ease}
            if self.smooth is not None and channel.kind == "move":
                given["tangents"] = {} if self.smooth else None
            return {f: k.changed(**given) if f in frames else k for f, k in channel.keys.items()}

        return _over_channels(shot, self.keys, eased)

    def said(self, shot: Shot) -> str:
        return f"Ease {several(len(self.keys), 'gap')} of “{shot.name}”"


def _over_channels(
    shot: Shot, keys: tuple[ShotKeyAt, ...], change: Callable[[Channel, set[int]], dict[int, Key]]
) -> Shot:
    """A shot whose channels with any of these keys have other keys; one without keys goes."""
    wanted: dict[tuple[str | None, str], set[int]] = {}
    for key in keys:
        wanted.setdefault((key.cast, key.channel), set()).add(key.frame)

    def anew(channels: dict[str, Channel], cast: str | None) -> dict[str, Channel]:
        made = {
            id: c.changed(keys=change(c, wanted[cast, id])) if (cast, id) in wanted else c for id, c in channels.items()
        }
        return {id: c for id, c in made.items() if c.keys}

    members = [
        m.changed(place=anew(m.place, id), over=anew(m.over, id))
        for id, m in shot.members().items()
        if any(cast == id for cast, _ in wanted)
    ]
    if any(cast is None for cast, _ in wanted):
        shot = shot.changed(camera=shot.camera.changed(channels=anew(shot.camera.channels, None)))
    return shot.with_cast(*members)


class PoseInShot(ShotCommand):
    """Give channels of a member values at a frame, for this shot only: what is missing is laid over its motions.

    With `added` the values are so much more than what is there; sizes and shares so many times as much.

    It comes and goes over so many frames, so that nothing farther away changes; with 0 it holds until the next key. The
    values are those of the pass that it is `seen_as`, the shot's own if not told.
    """

    do: Literal["pose-in-shot"] = "pose-in-shot"
    cast: Id
    frame: Frame
    values: Annotated[dict[str, tuple[Number, ...]], Field(min_length=1, max_length=2000)]
    over: Annotated[int, Field(ge=0, le=240)] = 6
    added: bool = False
    seen_as: Pass | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        member = member_of(shot, self.cast)
        late = (self.seen_as or shot.stage) == "final"
        for id, numbers in self.values.items():
            typed(kind_of(id), numbers)
        return shot.with_cast(
            member.changed(over=laid(documents, shot, member, self.frame, self.values, self.over, self.added, late))
        )

    def said(self, shot: Shot) -> str:
        return f"Pose “{called(shot.cast[self.cast])}” at frame {self.frame + 1} of “{shot.name}”"


ShotKeyCommand = NudgeCast | KeyInShot | UnkeyInShot | MoveShotKeys | EaseShotGaps | PoseInShot
