"""The shot: who is on, what each does when, and how the camera sees it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from sorvan.core.model.base import Checked, Colour, Id, Name, Number, Pair, Percent, Value, filed
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import ChannelKind
from sorvan.core.model.times import LONGEST, At, Frame, Frames, Moving, Time, fields_moved
from sorvan.core.model.voice import Placed

PLACE, CAMERA = "place", "camera"
"""What the channels of a cast member's own place, and of the camera, belong to."""
OF_PLACES: frozenset[ChannelKind] = frozenset({"move", "turn", "scale", "opacity"})
"""Kinds of channel that a place has: stage units, degrees, parts of its size, percent."""
OF_CAMERAS: frozenset[ChannelKind] = frozenset({"move", "turn", "scale"})
"""Kinds of channel that a camera has; its scale is its zoom."""

Fading = Annotated[int, Field(ge=0, le=240), Time.LASTS]
Pass = Literal["blocking", "breakdown", "final"]


class Span(Checked):
    """A motion on a cast member for some `frames` of the shot from `start` on.

    It begins `first` frames into the motion and uses it up to before frame `stop` (its end, if not told), at a
    `speed` in percent, backwards if `reverse`: once, in a `loop`, or as a `hold` of its first frame.
    It has gone on for `skip` frames of the shot when it begins. It comes in
    over `blend` frames and, on a row above the lowest, goes out over `out` frames. Right after another span, which it
    goes on from, so many frames of the blend are `done` when it begins; right before one that goes on from it, so many of going out
    are `left` when it ends. A motion on a higher `row` does
    what it has keys for, over what lies below.
    """

    id: Id
    motion: Id
    start: At
    frames: Annotated[Frames, Time.LENGTH]
    row: Annotated[int, Field(ge=0, le=9)] = 0
    first: Annotated[float, Field(ge=0, lt=LONGEST), Time.LASTS] = 0.0
    stop: Annotated[float, Field(gt=0, le=LONGEST), Time.LASTS] | None = None
    skip: Annotated[Number, Time.LASTS] = 0.0
    speed: Annotated[float, Field(ge=5, le=2000)] = 100.0
    reverse: bool = False
    play: Literal["once", "loop", "hold"] = "loop"
    blend: Fading = 0
    out: Fading = 0
    done: Fading = 0
    left: Fading = 0

    def check(self) -> None:
        if self.stop is not None and self.stop <= self.first:
            raise ValueError("a span uses at least something of its motion: it stops after where it begins in it")

    @property
    def end(self) -> int:
        """The first frame that is no more its own."""
        return self.start + self.frames


class Via(Value):
    """A place on a way, seen from where the cast member is put (stage units); `smooth`, it is gone through in a
    curve."""

    at: Pair
    smooth: bool = True


class Travel(Value):
    """How a cast member is carried through the shot by its feet: along a `way`, as far as its motions step. Without
    a way it goes straight on, to where it looks. With `turning` it looks to where it goes. It has `gone` so many
    stage units of it when the shot begins."""

    way: tuple[Via, ...] = ()
    turning: bool = True
    gone: Number = 0.0


class Member(Checked):
    """A puppet in the cast: where it stands (`at`, its standing place in stage units), how large and turned, and
    what it does.

    It shifts with `share` percent of the camera's movement: the stage itself with all of it, what is far behind
    with less, what is close in front with more. `place` are channels of its place, which add to it; `over` are keys
    laid over its motions for this shot only, which add to them too.
    """

    kind: Literal["member"] = "member"
    id: Id
    puppet: Id
    name: Annotated[str, Field(max_length=120)] = ""
    at: Pair
    scale: Annotated[float, Field(ge=0.01, le=100)] = 1.0
    turn: Number = 0.0
    mirror: bool = False
    share: Annotated[float, Field(ge=0, le=1000)] = 100.0
    hidden: bool = False
    spans: dict[Id, Span] = {}
    travel: Travel | None = None
    place: dict[str, Channel] = {}
    over: dict[str, Channel] = {}

    def check(self) -> None:
        filed("span", self.spans)
        _channels(self.place, PLACE, OF_PLACES)
        for id, channel in self.over.items():
            if id != channel.id:
                raise ValueError(f"the channel “{channel.id}” is filed under “{id}”")


class Copies(Checked):
    """An element copied `count` times, each copy a share of its motion's loop later than the one before.

    They go `along` with a member of the cast, if one is named. They lie about `at` within `spread` (stage units), and differ by chance, which `seed` settles: in size (percent
    of it), `turn` (degrees to both sides), and opacity (percent less). `tint` is mixed in, up to `tinted` percent.
    Each fades in and out over so many percent of its loop.
    """

    kind: Literal["copies"] = "copies"
    id: Id
    puppet: Id
    motion: Id | None = None
    along: Id | None = None
    name: Annotated[str, Field(max_length=120)] = ""
    count: Annotated[int, Field(ge=1, le=400)] = 8
    seed: Annotated[int, Field(ge=0, lt=2**31)] = 1
    at: Pair
    spread: Pair = (200.0, 60.0)
    scale: Annotated[float, Field(ge=0.01, le=100)] = 1.0
    size: Percent = 25.0
    turn: Annotated[float, Field(ge=0, le=180)] = 0.0
    opacity: Percent = 20.0
    tint: Colour = "#ffffffff"
    tinted: Percent = 0.0
    fade_in: Percent = 10.0
    fade_out: Percent = 25.0
    mirror: bool = False
    share: Annotated[float, Field(ge=0, le=1000)] = 100.0
    hidden: bool = False

    def check(self) -> None:
        if self.fade_in + self.fade_out > 100:
            raise ValueError("a copy that fades in and out does so within its loop: both together in 100 %")


def motions_of(cast: Member | Copies) -> list[str]:
    """The motions that one of the cast does."""
    if isinstance(cast, Member):
        return [s.motion for s in cast.spans.values()]
    return [cast.motion] if cast.motion else []


class Shake(Value):
    """A camera that is not held still: it moves within `size` (stage units) and turns within `turn` (degrees) to
    both sides, some `times` a second, by a chance that `seed` settles, over `frames` from `start` on (all, if not
    told), coming and going over `fade` frames."""

    size: Annotated[float, Field(ge=0, le=500)] = 6.0
    turn: Annotated[float, Field(ge=0, le=45)] = 0.4
    times: Annotated[float, Field(ge=0.1, le=12)] = 3.0
    seed: Annotated[int, Field(ge=0, lt=2**31)] = 1
    start: At = 0
    frames: Annotated[Frames, Time.LENGTH] | None = None
    fade: Fading = 6


def _channels(channels: dict[str, Channel], owner: str, kinds: frozenset[ChannelKind]) -> None:
    for id, channel in channels.items():
        if id != channel.id or channel.joint != owner or channel.kind not in kinds:
            raise ValueError(f"the channel “{id}” is none of a {owner}'s")


class Camera(Checked):
    """How a shot is seen: `channels` move the middle of the picture from that of the stage (units), zoom it (1 is
    the whole stage), and turn it (degrees)."""

    channels: dict[str, Channel] = {}
    shake: Shake | None = None

    def check(self) -> None:
        _channels(self.channels, CAMERA, OF_CAMERAS)


class Join(Value):
    """How a shot begins after the one before: at once, out of a `colour` after that has gone into it (each over
    `frames`), or by dissolving from one to the other over `frames` that both show."""

    kind: Literal["cut", "fade", "dissolve"] = "cut"
    frames: Annotated[int, Field(ge=1, le=240), Time.LASTS] = 12
    colour: Colour = "#000000ff"


class Close(Value):
    """How a shot ends by itself: going into a `colour` over its last `frames`."""

    frames: Annotated[int, Field(ge=1, le=240), Time.LASTS] = 24
    colour: Colour = "#000000ff"


class Heard(Placed):
    """A line or an effect on a `row` of the shot."""

    row: Annotated[int, Field(ge=0, le=9)] = 0


class Shot(Checked):
    """A piece of the film between two cuts. `order` is its cast from back to front; frames `first` up to before
    `stop` are those that play and are rendered, all of them if not told."""

    kind: Literal["shot"] = "shot"
    id: Id
    name: Name
    length: Annotated[Frames, Time.LASTS] = 72
    stage: Pass = "blocking"
    note: Annotated[str, Field(max_length=2000)] = ""
    cast: dict[Id, Annotated[Member | Copies, Field(discriminator="kind")]] = {}
    order: tuple[Id, ...] = ()
    camera: Camera = Camera()
    sounds: dict[Id, Heard] = {}
    join: Join = Join()
    close: Close | None = None
    first: Annotated[Frame, Time.BETWEEN] | None = None
    stop: Annotated[Frames, Time.BETWEEN] | None = None

    @field_validator("order")
    @classmethod
    def _named_once(cls, order: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(order))

    def check(self) -> None:
        filed("cast member", self.cast)
        filed("sound", self.sounds)
        for copies in self.cast.values():
            if (
                isinstance(copies, Copies)
                and copies.along is not None
                and not isinstance(self.cast.get(copies.along), Member)
            ):
                raise ValueError("copies go along with a member of the cast")
        if set(self.order) != set(self.cast):
            raise ValueError("the order of a shot names each of its cast, and nobody else")
        first, stop = self.played
        if first >= stop:
            raise ValueError("the frames that play begin before they end")

    @property
    def played(self) -> tuple[int, int]:
        """The frames that play and are rendered: the first, and the one after the last."""
        return self.first or 0, min(self.stop or self.length, self.length)

    def moved(self, moving: Moving) -> Shot:
        """This shot with everything where its times go."""
        found = fields_moved(self.changed(first=None, stop=None), moving)
        return found.playing(*(f and moving.until(f) for f in (self.first, self.stop)))

    def playing(self, first: int | None, stop: int | None) -> Shot:
        """This shot, of which these frames play, as far as there are any: all of it, if not."""
        first = None if first is None else min(first, self.length - 1)
        if stop is not None and stop <= (first or 0):
            first = stop = None
        return self.changed(first=first, stop=stop)

    @property
    def frames(self) -> int:
        """How many frames of it play."""
        first, stop = self.played
        return stop - first

    @property
    def held(self) -> bool:
        """Whether its poses are held until the next wherever it is shown and rendered."""
        return self.stage == "blocking"

    def uses(self) -> set[str]:
        """The documents that it is made of: itself, puppets, motions and voices."""
        motions = {id for c in self.cast.values() for id in motions_of(c)}
        return {self.id, *(c.puppet for c in self.cast.values()), *motions, *(s.voice for s in self.sounds.values())}

    def members(self) -> dict[str, Member]:
        """Those of the cast that are puppets with motions."""
        return {id: m for id, m in self.cast.items() if isinstance(m, Member)}

    def channels(self) -> list[Channel]:
        """All channels of the camera and of those in the cast."""
        found = [*self.camera.channels.values()]
        for member in self.members().values():
            found += [*member.place.values(), *member.over.values()]
        return found

    def without(self, *cast: str) -> Shot:
        """This shot without these of its cast."""
        kept: dict[str, Member | Copies] = {
            id: c.changed(along=None) if isinstance(c, Copies) and c.along in cast else c
            for id, c in self.cast.items()
            if id not in cast
        }
        return self.changed(cast=kept, order=tuple(id for id in self.order if id in kept))

    def with_cast(self, *cast: Member | Copies) -> Shot:
        """This shot with these in place of those of the cast that had their ids; who is new stands in front."""
        new = [c.id for c in cast if c.id not in self.cast]
        return self.changed(cast={**self.cast, **{c.id: c for c in cast}}, order=(*self.order, *new))
