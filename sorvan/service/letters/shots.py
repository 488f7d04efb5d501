"""The letters that bring a shot, or the whole film, to a page."""

from __future__ import annotations

from typing import Literal

from sorvan.core.film.film import InFilm
from sorvan.core.model.base import Value
from sorvan.core.shot.scene import InShot
from sorvan.service.letters.drawn import Drawn, ItemView, Letter, Posed


class CopiesView(Value):
    """Copies of a cel: `places` copies × 6 and `tints` copies × red green blue amount, both float32; how many frames
    `ahead` each is (int32), how opaque each is and, in the course of the loop, any of them (float32)."""

    places: bytes
    ahead: bytes
    opacity: bytes
    tints: bytes
    fade: bytes


class CelView(Value):
    """What one of a shot's cast shows, without its frames: `place` frames × 6 takes it to the stage (left out: it
    is there), `times` int32 says which of its `own` frames shows in each frame, `fade` float32 how opaque it is;
    `keyed` are the values of the channels of its place, float32, number by number over all frames. An element that
    is copied comes with all frames of its loop."""

    cast: str
    puppet: str
    items: tuple[ItemView, ...]
    joints: tuple[str, ...]
    own: int
    share: float
    hidden: bool
    place: bytes | None = None
    times: bytes | None = None
    fade: bytes | None = None
    keyed: dict[str, bytes] = {}
    copies: CopiesView | None = None
    loop: Drawn | None = None


class HeardView(Value):
    """Something that is heard: its asset, when it begins, how long it is, how loud, and how it fades (seconds and
    decibels); only what of it lies between `begins` and `ends`, if these are given."""

    asset: str
    at: float
    seconds: float
    level: float
    fade_in: float
    fade_out: float
    begins: float | None = None
    ends: float | None = None


Rounds = dict[str, dict[str, tuple[float, float]]]
"""By member and span, at which of the span's frames it begins its motion again, and after how many once more."""


class ShotLetter(Letter):
    """A shot that the window watches, from back to front, and for each share in the camera's movement what takes
    the stage to the picture, frames × 6; `aims` are how the camera is keyed: x, y, turn and zoom over all frames,
    float32; `rounds` where spans begin again. Its frames follow in parts."""

    type: Literal["shot"] = "shot"
    seq: int
    target: InShot
    frames: int
    cels: tuple[CelView, ...]
    views: dict[str, bytes]
    aims: bytes
    heard: tuple[HeardView, ...] = ()
    rounds: Rounds = {}


class ShotPart(Letter):
    """Frames `start` up to `stop` of some of a shot's cast."""

    type: Literal["shot-part"] = "shot-part"
    seq: int
    shot: str
    start: int
    stop: int
    cels: dict[str, Posed]


class ShotChanged(Letter):
    """What is new in a shot besides frames: some of its cast, the camera, what is heard, and where spans begin
    again."""

    type: Literal["shot-changed"] = "shot-changed"
    seq: int
    shot: str
    cels: tuple[CelView, ...]
    views: dict[str, bytes] = {}
    aims: bytes | None = None
    heard: tuple[HeardView, ...] | None = None
    rounds: Rounds | None = None


class FilmPart(Value):
    """A shot in the film: its `frames` from `first` on, from frame `start` of the film on. It dissolves from the one
    before over its first `over` frames, and fades in and out over so many."""

    shot: str
    start: int
    first: int
    frames: int
    over: int
    fade_in: int
    fade_out: int


class FilmLetter(Letter):
    """The film that the window watches. In each of its frames up to two of its parts show: `shown` int16, frames × 2,
    which lies below and which above (-1: none), the latter so opaque as `there` says (float32); over them lies the
    colour of `veil`, frames × red green blue opacity (float32). Its shots follow, each as if it were watched."""

    type: Literal["film"] = "film"
    seq: int
    target: InFilm
    frames: int
    parts: tuple[FilmPart, ...]
    shown: bytes
    there: bytes
    veil: bytes
    heard: tuple[HeardView, ...]


class FilmLess(Letter):
    """Shots of the film that the page need not hold any more: they lie far from the playhead."""

    type: Literal["film-less"] = "film-less"
    shots: tuple[str, ...]
