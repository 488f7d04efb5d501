"""Commands on the cast of a shot: who is on, where, and in what order from back to front."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import several
from sorvan.core.change.keys import NewKey
from sorvan.core.change.shots import ShotCommand
from sorvan.core.errors import Refusal, missing
from sorvan.core.model.base import Colour, Id, Number, Pair, Value
from sorvan.core.model.channel import Channel, Frame, Key, channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Ease
from sorvan.core.model.shot import CAMERA, PLACE, Camera, Copies, Member, Shake, Shot, Travel

Percent = Annotated[float, Field(ge=0, le=100)]


def cast_of(shot: Shot, id: str) -> Member | Copies:
    """One of a shot's cast. Raises `Refusal` when it is gone."""
    if id not in shot.cast:
        raise missing(f"cast member of “{shot.name}”", id)
    return shot.cast[id]


def member_of(shot: Shot, id: str) -> Member:
    """A puppet in a shot's cast. Raises `Refusal` when it is gone, or an element that is copied."""
    found = cast_of(shot, id)
    if not isinstance(found, Member):
        raise Refusal(f"“{called(found)}” is copied: it has no spans and keys of its own.", where=shot.name)
    return found


def called(cast: Member | Copies) -> str:
    """What one of the cast is called."""
    return cast.name or cast.puppet


class AddCast(ShotCommand):
    """Put a puppet, or copies of one, into the cast, in front of all, or behind one that is there."""

    do: Literal["add-cast"] = "add-cast"
    cast: Annotated[Member | Copies, Field(discriminator="kind")]
    behind: Id | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        if self.cast.id in shot.cast:
            raise Refusal("That id is taken already.", where=self.cast.id, remedy="Try again.", kind="conflict")
        name = self.cast.name or documents.puppet(self.cast.puppet).name
        after = shot.with_cast(self.cast.changed(name=name))
        if self.behind is None:
            return after
        cast_of(shot, self.behind)
        at = shot.order.index(self.behind)
        return after.changed(order=(*shot.order[:at], self.cast.id, *shot.order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Put “{called(self.cast)}” into “{shot.name}”"


class SetCast(ShotCommand):
    """Change where one of the cast stands, how large, turned and mirrored it is, how much it shifts with the camera,
    its name, or whether it shows; only what is given. `travel` null: it is not carried."""

    do: Literal["set-cast"] = "set-cast"
    cast: Id
    name: Annotated[str, Field(max_length=120)] | None = None
    at: Pair | None = None
    scale: Annotated[float, Field(ge=0.01, le=100)] | None = None
    turn: Number | None = None
    mirror: bool | None = None
    share: Annotated[float, Field(ge=0, le=1000)] | None = None
    hidden: bool | None = None
    travel: Travel | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        names = ("name", "at", "scale", "turn", "mirror", "share", "hidden")
        given = {f: v for f in names if (v := getattr(self, f)) is not None}
        if "travel" in self.model_fields_set:
            member_of(shot, self.cast)
            given["travel"] = self.travel
        return shot.with_cast(held.changed(**given))

    def said(self, shot: Shot) -> str:
        name = called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast
        what = {"name": "Rename", "at": "Place", "scale": "Scale", "turn": "Turn", "mirror": "Mirror"}
        what |= {"share": "Set the depth of", "hidden": "Hide" if self.hidden else "Show", "travel": "Set the way of"}
        return f"{next((what[f] for f in what if f in self.model_fields_set), 'Leave')} “{name}”"


class SetCopies(ShotCommand):
    """Change how an element is copied; only what is given. `along` null: they go along with nobody."""

    do: Literal["set-copies"] = "set-copies"
    cast: Id
    motion: Id | None = None
    along: Id | None = None
    count: Annotated[int, Field(ge=1, le=400)] | None = None
    seed: Annotated[int, Field(ge=0, lt=2**31)] | None = None
    spread: Pair | None = None
    size: Percent | None = None
    turn: Annotated[float, Field(ge=0, le=180)] | None = None
    opacity: Percent | None = None
    tint: Colour | None = None
    tinted: Percent | None = None
    fade_in: Percent | None = None
    fade_out: Percent | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        if not isinstance(held, Copies):
            raise Refusal(f"“{called(held)}” is not copied.", where=shot.name)
        given = {f: v for f in self.model_fields_set - {"do", "shot", "cast"} if (v := getattr(self, f)) is not None}
        if "along" in self.model_fields_set:
            if self.along is not None:
                member_of(shot, self.along)
            given["along"] = self.along
        return shot.with_cast(held.changed(**given))

    def said(self, shot: Shot) -> str:
        return f"Set the copies of “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


class RemoveCast(ShotCommand):
    """Take some of the cast out of a shot."""

    do: Literal["remove-cast"] = "remove-cast"
    cast: Annotated[tuple[Id, ...], Field(min_length=1)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        for id in self.cast:
            cast_of(shot, id)
        return shot.without(*self.cast)

    def said(self, shot: Shot) -> str:
        one = called(shot.cast[self.cast[0]]) if self.cast[0] in shot.cast else self.cast[0]
        return f"Take {several(len(self.cast), 'cast member', one)} out of “{shot.name}”"


class OrderCast(ShotCommand):
    """Put one of the cast behind another one, or in front of all."""

    do: Literal["order-cast"] = "order-cast"
    cast: Id
    behind: Id | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        cast_of(shot, self.cast)
        order = [c for c in shot.order if c != self.cast]
        if self.behind is not None and self.behind not in order:
            raise missing(f"cast member of “{shot.name}”", self.behind)
        at = len(order) if self.behind is None else order.index(self.behind)
        return shot.changed(order=(*order[:at], self.cast, *order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Put “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}” elsewhere in depth"


class DuplicateCast(ShotCommand):
    """The same puppet once more, with spans of its own that do the same, right in front; a little aside."""

    do: Literal["duplicate-cast"] = "duplicate-cast"
    cast: Id
    id: Id

    def on(self, shot: Shot, documents: Documents) -> Shot:
        held = cast_of(shot, self.cast)
        fresh = held.changed(id=self.id, at=(held.at[0] + 80, held.at[1]), name=f"{called(held)[:110]} again")
        at = shot.order.index(self.cast) + 1
        return shot.with_cast(fresh).changed(order=(*shot.order[:at], self.id, *shot.order[at:]))

    def said(self, shot: Shot) -> str:
        return f"Duplicate “{called(shot.cast[self.cast]) if self.cast in shot.cast else self.cast}”"


class KeyInShot(ShotCommand):
    """Set keys of the camera, of a member's place, or laid over its motions for this shot only.

    Of a `cast` member keys on “place” are of its place, others over its motions; without one they are the
    camera's. A new key has the ease of the gap that it falls into.
    """

    do: Literal["key-in-shot"] = "key-in-shot"
    cast: Id | None = None
    keys: Annotated[tuple[NewKey, ...], Field(min_length=1, max_length=20_000)]

    def on(self, shot: Shot, documents: Documents) -> Shot:
        if self.cast is None:
            return shot.changed(camera=shot.camera.changed(channels=_keyed(shot.camera.channels, self.keys, CAMERA)))
        member = member_of(shot, self.cast)
        own = tuple(k for k in self.keys if k.joint == PLACE)
        over = tuple(k for k in self.keys if k.joint != PLACE)
        return shot.with_cast(
            member.changed(place=_keyed(member.place, own, PLACE), over=_keyed(member.over, over, None))
        )

    def said(self, shot: Shot) -> str:
        what = "the camera" if self.cast is None else f"“{called(shot.cast[self.cast])}”"
        return f"Key {what} at frame {self.keys[0].frame + 1}"


def _keyed(channels: dict[str, Channel], keys: tuple[NewKey, ...], owner: str | None) -> dict[str, Channel]:
    """Channels with keys set in them."""
    found = dict(channels)
    for key in keys:
        id = channel_id(key.joint, key.kind)
        channel = found.get(id) or Channel(joint=owner or key.joint, kind=key.kind)
        known = channel.keys.get(key.frame)
        made = (known or Key(value=key.value)).changed(value=key.value)
        before = [channel.keys[f].ease for f in sorted(channel.keys) if f < key.frame]
        if ease := key.ease or (None if known or not before else before[-1]):
            made = made.changed(ease=ease)
        found[id] = channel.changed(keys={**channel.keys, key.frame: made})
    return found


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
        def moved(channel: Channel, frames: set[int]) -> dict[int, Key]:
            kept = {f: k for f, k in channel.keys.items() if f not in frames}
            return {**kept, **{max(f + self.by, 0): k for f, k in channel.keys.items() if f in frames}}

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


class SetShake(ShotCommand):
    """Let the camera shake, or, with none, hold it still."""

    do: Literal["set-shake"] = "set-shake"
    shake: Shake | None = None

    def on(self, shot: Shot, documents: Documents) -> Shot:
        camera: Camera = shot.camera.changed(shake=self.shake)
        return shot.changed(camera=camera)

    def said(self, shot: Shot) -> str:
        return f"{'Hold the camera still' if self.shake is None else 'Let the camera shake'} in “{shot.name}”"


CastCommand = (
    AddCast | SetCast | SetCopies | RemoveCast | OrderCast | DuplicateCast | KeyInShot | UnkeyInShot | MoveShotKeys
    | EaseShotGaps | SetShake
)  # fmt: skip
