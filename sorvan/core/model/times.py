"""What of a thing is a time: said with its fields, so that whatever moves time moves all of it.

A field of a model that counts frames is annotated with what its count means. `moved` then takes the whole thing to
where its time goes, whoever asks: time put in, a pose that lasts longer, another frame rate.
"""

from __future__ import annotations

import types
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction
from functools import cache
from math import floor
from typing import Annotated, Any, Protocol, TypeVar, Union, get_args, get_origin, runtime_checkable

from annotated_types import Ge, Gt, Le, Lt
from pydantic import Field

from sorvan.core.model.base import Value

LONGEST = 20_000
"""Frames in the longest motion: a quarter of an hour at 24 frames a second."""

Frame = Annotated[int, Field(ge=0, lt=LONGEST)]
Frames = Annotated[int, Field(ge=1, le=LONGEST)]

Held = TypeVar("Held")
Moved = TypeVar("Moved", bound=Value)
FrameMap = Callable[[int], int]
"""Where a frame goes."""


class Time(Enum):
    """What a field says of time, all of it in frames."""

    AT = "the frame that something lies on, or begins at"
    LAST = "the last frame of a stretch that begins at its thing's `start`; 0 for the end of all there is"
    LENGTH = "how many frames a stretch has that begins at its thing's `start`"
    LASTS = "how long something takes, wherever it lies"
    FILED = "things by the frame that they lie on, or begin at"
    TRACK = "a recording: rows that begin with how long after its begin they were taken"
    BETWEEN = "where a stretch begins or ends, between the frame before and this one"
    EACH = "so much in every frame"


At = Annotated[int, Field(ge=0, lt=LONGEST), Time.AT]
Last = Annotated[int, Field(ge=0, lt=LONGEST), Time.LAST]


def nearest(frame: float | Fraction) -> int:
    """The frame nearest to where something lies between two; half way it is the later one."""
    return floor(Fraction(frame) + Fraction(1, 2))


@dataclass(frozen=True)
class Moving:
    """Where time goes: `place` is where what lies on a frame goes, `until` where a stretch ends that ended before a
    frame, and everything takes `part` times as long."""

    place: FrameMap
    until: FrameMap
    part: Fraction = Fraction(1)

    @classmethod
    def by(cls, place: FrameMap) -> Moving:
        """Frames put elsewhere: a stretch ends after its last frame, wherever that is."""
        return cls(place, lambda frame: place(frame - 1) + 1)

    @classmethod
    def put_in(cls, at: int, frames: int) -> Moving:
        """So many frames put in before one, or, with less than none, taken out from it on: what lies in those comes to lie
        after them."""

        def later(frame: int) -> int:
            return max(frame + frames, at) if frame >= at else frame

        return cls(later, lambda frame: max(frame + frames, at) if frame > at else frame)

    @classmethod
    def at_rate(cls, part: Fraction) -> Moving:
        """Everything in the same time at a frame rate `part` times as high."""

        def until(frame: int) -> int:
            return nearest(frame * part)

        return cls(lambda frame: min(until(frame), LONGEST - 1), until, part)

    def filed(self, held: Mapping[int, Held]) -> dict[int, Held]:
        """What is filed by frames, by those that it goes to. Of two that go to the same the one stays that lies nearer to
        it."""
        found: dict[int, tuple[Fraction, Held]] = {}
        for frame, value in sorted(held.items()):
            to = self.place(frame)
            off = abs(frame * self.part - to) if self.part != 1 else Fraction(0)
            if to not in found or off <= found[to][0]:
                found[to] = (off, value)
        return {frame: value for frame, (_, value) in sorted(found.items())}


@runtime_checkable
class Moves(Protocol):
    """What has more to move in time than its fields say, or moves it in its own way."""

    def moved(self, moving: Moving) -> Any:
        """It with all its times where they go."""


def moved(thing: Moved, moving: Moving) -> Moved:
    """A thing with all that it, and every part of it, says of time where that goes, as far as it allows such a number."""
    found: Moved = thing.moved(moving) if isinstance(thing, Moves) else fields_moved(thing, moving)
    return found


def fields_moved(thing: Moved, moving: Moving) -> Moved:
    """A thing with what its fields say of time, and all their parts, where that goes."""
    given: dict[str, Any] = {}
    times = times_of(type(thing))
    for name in type(thing).model_fields:
        held = getattr(thing, name)
        if name in times and held is not None:
            given[name] = allowed(type(thing), name, _moved(thing, held, times[name], moving))
        elif (parts := _parts_moved(held, moving)) is not held:
            given[name] = parts
    return thing.changed(**given) if given else thing


def _parts_moved(held: Any, moving: Moving) -> Any:
    """What a field holds with all things in it moved: itself, if nothing in it is a time."""
    match held:
        case Value():
            return moved(held, moving)
        case dict():
            found = {key: _parts_moved(part, moving) for key, part in held.items()}
            return found if any(found[key] is not part for key, part in held.items()) else held
        case (Value(), *_):
            parts = tuple(_parts_moved(part, moving) for part in held)
            return parts if any(one is not other for one, other in zip(parts, held, strict=True)) else held
    return held


def _moved(thing: Value, held: Any, mark: Time, moving: Moving) -> Any:
    match mark:
        case Time.AT:
            return moving.place(held)
        case Time.LAST:
            # A stretch whose beginning was put after its end is one frame long.
            begin: int = thing.start  # type: ignore[attr-defined]
            return held and max(moving.until(held + 1) - 1, moving.place(begin), 1)
        case Time.LENGTH:
            start: int = thing.start  # type: ignore[attr-defined]
            return moving.until(start + held) - moving.place(start)
        case Time.LASTS:
            longer = Fraction(held) * moving.part
            return nearest(longer) if isinstance(held, int) else float(longer)
        case Time.FILED:
            return moving.filed(held)
        case Time.BETWEEN:
            return moving.until(held)
        case Time.EACH:
            return float(Fraction(held) / moving.part)
        case Time.TRACK:
            return tuple((float(Fraction(row[0]) * moving.part), *row[1:]) for row in held)


@cache
def times_of(model: type[Value]) -> Mapping[str, Time]:
    """The fields of a model that are times, and what each means."""
    return {
        name: mark
        for name, field in model.model_fields.items()
        if (mark := next((m for m in (*field.metadata, *_metadata(field.annotation)) if isinstance(m, Time)), None))
    }


@cache
def _limits(model: type[Value], name: str) -> tuple[float, float]:
    """The least and the most that a field may hold, both included."""
    field = model.model_fields[name]
    least, most = -float("inf"), float("inf")
    for limit in (*field.metadata, *_metadata(field.annotation)):
        match limit:
            case Ge(ge=value):
                least = value  # type: ignore[assignment]
            case Gt(gt=value):
                least = value + 1e-6  # type: ignore[assignment, operator]
            case Le(le=value):
                most = value  # type: ignore[assignment]
            case Lt(lt=value):
                most = value - 1e-6  # type: ignore[assignment, operator]
    return least, most


def _metadata(annotation: Any) -> Iterator[Any]:
    """What an annotation says of a value, also where there may be none."""
    if get_origin(annotation) is Annotated:
        inner, *told = get_args(annotation)
        for each in told:
            yield from getattr(each, "metadata", [each])
        yield from _metadata(inner)
    elif get_origin(annotation) in (Union, types.UnionType):
        for each in get_args(annotation):
            yield from _metadata(each)


def allowed(model: type[Value], name: str, value: Any) -> Any:
    """A number as near to what it should be as the field of a model lets it."""
    if not isinstance(value, int | float):
        return value
    least, most = _limits(model, name)
    return type(value)(min(max(value, least), most))
