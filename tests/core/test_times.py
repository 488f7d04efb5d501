"""What is at a time is where that time goes, whatever command moves it: keys, cards, plants, sounds, mouths, spans."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin

import numpy as np
import pytest
from annotated_types import Le, Lt
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from sorvan.core.errors import Refusal
from sorvan.core.model.base import Value
from sorvan.core.model.channel import Channel
from sorvan.core.model.documents import Document, Documents
from sorvan.core.model.shot import Member, Shake, Span
from sorvan.core.model.times import LONGEST, times_of
from sorvan.core.motion.cards import cards
from sorvan.core.timing.channels import evaluate
from tests.conftest import costly
from tests.core.speakers import mouths, speaker
from tests.core.worlds import do, piece

Place = Callable[[int], int | None]
"""Where what is on a frame should be after a command; None where it is gone, or drawn out."""

SPOKEN = (("M", 0.2), ("AA1", 0.3), ("F", 0.2), ("IY1", 0.4), ("", 0.3), ("P", 0.2), ("OW1", 0.4))


def keys_of(joint: str, kind: str, *keys: tuple[int, list[float]]) -> list[dict[str, Any]]:
    return [{"joint": joint, "kind": kind, "frame": f, "value": v} for f, v in keys]


@cache
def talking(said: int) -> Documents:
    """Somebody who says a line from a frame on: nods late between cards, goes along a smooth path, settles, stands for
    a while, and is on in a shot under a camera that pans and shakes."""
    documents = mouths(speaker(*SPOKEN, length=120, at=said / 24))
    documents = do(
        documents, {"do": "add-pieces", "puppet": "a", "pieces": [piece("arm", 30, 0), piece("hand", 60, 0)]}
    )
    documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": "hand", "parent": "arm"})
    made = [
        *keys_of("head", "turn", (0, [0.0]), (20, [10.0]), (50, [-20.0]), (90, [5.0])),
        *keys_of("arm", "turn", (0, [0.0]), (24, [0.0]), (30, [60.0]), (100, [0.0])),
        *keys_of("puppet", "move", (0, [0.0, 0.0]), (30, [80.0, -40.0]), (60, [160.0, 0.0]), (110, [90.0, 30.0])),
        *keys_of("arm", "opacity", (9, [100.0]), (44, [60.0]), (71, [80.0])),
    ]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": made})
    for frame in (0, 20, 50, 90):
        documents = do(documents, {"do": "set-pose", "motion": "m", "frame": frame, "text": f"card {frame}"})
    smooth = [{"channel": "puppet.move", "frame": f} for f in (0, 30, 60, 110)]
    documents = do(documents, {"do": "shape-path", "motion": "m", "keys": smooth, "tangents": {}})
    documents = do(documents, {"do": "set-delay", "motion": "m", "channels": ["head.turn"], "delay": 2.0})
    settle = {"kind": "settle", "id": "q", "name": "q", "channels": ["arm.turn"], "frame": 30, "frames": 4, "swings": 3}
    documents = do(documents, {"do": "do-recipe", "motion": "m", "recipe": settle})
    plant = {"id": "f", "joint": "hand", "start": 60, "frames": 12, "fade": 2, "flat": False}
    documents = do(documents, {"do": "plant-foot", "motion": "m", **plant})
    documents = do(documents, {"do": "add-shot", "id": "s", "name": "Along the quay", "length": 120})
    cast = {"kind": "member", "id": "c", "puppet": "a", "at": [200.0, 600.0]}
    documents = do(documents, {"do": "add-cast", "shot": "s", "cast": cast})
    for id, start, frames in (("one", 0, 40), ("two", 40, 30), ("three", 80, 40)):
        span = {"id": id, "motion": "m", "start": start, "frames": frames, "play": "once"}
        documents = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": span})
    pan = keys_of("camera", "move", (0, [0.0, 0.0]), (36, [120.0, 0.0]), (100, [40.0, 20.0]))
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "keys": pan})
    moved = keys_of("place", "move", (10, [0.0, 0.0]), (66, [50.0, 0.0]))
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "cast": "c", "keys": moved})
    shake = {"size": 5.0, "start": 24, "frames": 40, "fade": 6}
    documents = do(documents, {"do": "set-shake", "shot": "s", "shake": shake})
    heard = {"id": "h", "voice": "v", "at": said / 24}
    return do(documents, {"do": "place-heard", "shot": "s", "sound": heard})


def put_in(at: int, frames: int) -> Place:
    if frames > 0:
        return lambda f: f + frames if f >= at else f
    return lambda f: f if f < at else f + frames if f >= at - frames else None


def drawn_out(after: int, card: int, by: int) -> Place:
    """What comes from a frame on goes later; what lies between a card and that is drawn out."""
    return lambda f: f if f <= card else f + by if f >= after else None


@st.composite
def in_a_motion(draw: st.DrawFn, documents: Documents) -> tuple[dict[str, Any], Place, bool]:
    """A command, where it moves what is on a frame, and whether sounds go along."""
    card = draw(st.sampled_from(cards(documents.motion("m"))[:-1]))
    by = draw(st.integers(1, 15))
    at = draw(st.integers(1, 100))
    match draw(st.sampled_from(("in", "out", "hold", "retime", "duplicate"))):
        case "in":
            return {"do": "insert-time", "at": at, "frames": by}, put_in(at, by), True
        case "out":
            return {"do": "insert-time", "at": at, "frames": -by}, put_in(at, -by), True
        case "hold":
            command = {"do": "hold-pose", "frame": card.frame, "frames": by, "follow": True}
            return command, drawn_out(card.end, card.frame, by), False
        case "retime":
            command = {"do": "retime-pose", "frame": card.frame, "frames": card.frames + by, "follow": True}
            return command, drawn_out(card.end, card.frame, by), False
        case _:
            command = {"do": "duplicate-poses", "frames": [card.frame]}
            return command, drawn_out(card.end, card.frame, card.frames), False


def whole_gaps(channel: Channel, length: int, place: Place) -> Iterator[tuple[int, int]]:
    """The frames whose gap, and what is about them, all go equally far: each, and where it should be."""
    keys = sorted(channel.keys)
    late = abs(int(channel.delay)) + 1
    for frame in range(length):
        before = max((k for k in keys if k <= frame - channel.delay), default=0)
        after = min((k for k in keys if k > frame - channel.delay), default=frame)
        about = range(max(min(before, frame) - late, 0), min(max(after, frame) + late, length))
        # The way through a key takes the keys beyond its neighbours into account, as far as they lie.
        if channel.kind == "move":
            about = range(length)
        gone = {None if (to := place(f)) is None else to - f for f in about}
        if len(gone) == 1 and None not in gone:
            yield frame, frame + gone.pop()  # type: ignore[operator]


def said_at(documents: Documents) -> dict[float, float]:
    """The mouths of the line: which drawing from which second of it on."""
    motion, rate = documents.motion("m"), documents.production.rate
    keys = motion.channels["mouth.show"].keys
    own = {f: k.value[0] for f, k in keys.items() if k.recipe == "r"}
    seconds = {f * rate.denominator / rate.numerator - motion.sounds["s"].at: v for f, v in own.items()}
    return {round(at, 6): v for at, v in seconds.items()}


@given(st.data(), st.integers(0, 60))
def test_in_a_motion_what_is_at_a_time_is_where_that_went(data: st.DataObject, said: int) -> None:
    documents = talking(said)
    before = documents.motion("m")
    command, place, with_sounds = data.draw(in_a_motion(documents))
    out = command["frames"] if command["do"] == "insert-time" and command["frames"] < 0 else 0
    if out and command["at"] <= said < command["at"] - out:
        # A line can't be taken out in part.
        with pytest.raises(Refusal, match="A sound begins"):
            do(documents, {**command, "motion": "m"})
        return
    changed = do(documents, {**command, "motion": "m"})
    after = changed.motion("m")
    compared = 0
    for id, channel in before.channels.items():
        if id == "mouth.show":
            continue
        one, other = (evaluate(m.channels[id], m.length, False) for m in (before, after))
        for frame, to in whole_gaps(channel, before.length, place):
            np.testing.assert_allclose(other[:, to], one[:, frame], atol=1e-9, err_msg=f"{id} at {frame}")
            compared += 1
    assert compared
    for frame, pose in before.poses.items():
        if (to := place(frame)) is not None:
            assert after.poses[to].label == pose.label
    stood = [place(f) for f in range(60, 72)]
    stands = after.plants["f"]
    assert all(f is None or stands.start <= f < stands.start + stands.frames for f in stood)
    # The line is heard where it was, or where its beginning went; its mouths are where they were in it.
    to = place(said) if with_sounds else said
    assert to is not None and abs(after.sounds["s"].at - to / 24) < 1e-9
    # What would be before the first frame shows there.
    first = round(-to / 24, 6)
    assert said_at(changed) == {max(at, first): mouth for at, mouth in said_at(documents).items()}
    # What a recipe wrote it writes again.
    if len({None if (to := place(f)) is None else to - f for f in range(20, 60)}) == 1:
        again = do(changed, {"do": "do-recipe", "motion": "m", "recipe": after.recipes["q"].model_dump(mode="json")})
        assert again.motion("m").channels["arm.turn"] == after.channels["arm.turn"]


@given(st.integers(1, 104), st.integers(-15, 15).filter(bool), st.integers(0, 60))
def test_in_a_shot_what_is_at_a_time_is_where_that_went(at: int, by: int, said: int) -> None:
    documents = talking(said)
    command = {"do": "insert-shot-time", "shot": "s", "at": at, "frames": by}
    if by < 0 and at <= said < at - by:
        with pytest.raises(Refusal, match="A sound begins"):
            do(documents, command)
        return
    shot, place = documents.shot("s"), put_in(at, by)
    after = do(documents, command).shot("s")
    pans = [s.camera.channels["camera.move"] for s in (shot, after)]
    one, other = (evaluate(pan, 120, False) for pan in pans)
    for frame, to in whole_gaps(pans[0], 120, place):
        if to < 120:
            np.testing.assert_allclose(other[:, to], one[:, frame], atol=1e-9)
    first, second = shot.cast["c"], after.cast["c"]
    assert isinstance(first, Member) and isinstance(second, Member)
    for frame, key in first.place["place.move"].keys.items():
        if (to := place(frame)) is not None:
            assert second.place["place.move"].keys[to] == key
    # What each span, and the shake, was on for, it is on for.
    assert shot.camera.shake is not None and after.camera.shake is not None
    stretches: list[tuple[Span | Shake, Span | Shake | None]] = [(shot.camera.shake, after.camera.shake)]
    stretches += [(s, second.spans.get(id)) for id, s in first.spans.items()]
    for was, now in stretches:
        frames = [f for f in (place(f) for f in range(was.start, was.start + (was.frames or 0))) if f is not None]
        assert (now is None) == (not frames)
        if now is not None:
            assert (now.start, now.start + (now.frames or 0)) == (frames[0], frames[-1] + 1)
    heard = place(said)
    assert heard is not None and abs(after.sounds["h"].at - heard / 24) < 1e-9


@given(st.sampled_from((2, 3, 5)), st.integers(0, 60))
@costly(10)
def test_at_another_rate_what_is_at_a_time_is_where_that_went(times: int, said: int) -> None:
    documents = talking(said)
    finer = do(documents, {"do": "convert-rate", "rate": {"numerator": 24 * times, "denominator": 1}})
    before, after = documents.motion("m"), finer.motion("m")
    for id, channel in before.channels.items():
        one, other = (evaluate(m.channels[id], m.length, False) for m in (before, after))
        assert channel.id in after.channels
        np.testing.assert_allclose(other[:, ::times], one, atol=1e-9, err_msg=id)
    assert [(f * times, p.label) for f, p in before.poses.items()] == [(f, p.label) for f, p in after.poses.items()]
    assert said_at(finer) == said_at(documents)
    shot, other_shot = documents.shot("s"), finer.shot("s")
    one, other = (evaluate(s.camera.channels["camera.move"], s.length, False) for s in (shot, other_shot))
    np.testing.assert_allclose(other[:, ::times], one, atol=1e-9)
    assert other_shot.sounds == shot.sounds


def models(found: Any, seen: set[type[BaseModel]]) -> set[type[BaseModel]]:
    """All models that an annotation names, and those that their fields name."""
    if get_origin(found) is Annotated or get_origin(found) is not None:
        for each in get_args(found):
            models(each, seen)
    elif isinstance(found, type) and issubclass(found, Value) and found not in seen:
        seen.add(found)
        for field in found.model_fields.values():
            models(field.annotation, seen)
    return seen


def counts_frames(annotation: Any, told: list[Any]) -> bool:
    """Whether an annotation holds numbers or keys that are limited as frames are."""
    if any(getattr(m, "lt", getattr(m, "le", None)) == LONGEST for m in told if isinstance(m, Lt | Le)):
        return True
    if get_origin(annotation) is Annotated:
        inner, *more = get_args(annotation)
        return counts_frames(inner, [n for m in more for n in getattr(m, "metadata", [m])])
    return get_origin(annotation) is not None and any(counts_frames(a, []) for a in get_args(annotation))


MOVED_BY_OWN = {("Key", "slot"), ("Entry", "frames"), ("Entry", "keys"), ("Reference", "offset")}
"""What is moved by rules of its own, which are tested by themselves, and what counts pictures."""


def test_whatever_counts_frames_says_what_it_means() -> None:
    found = models(Union[Document], set())  # noqa: UP007
    assert len(found) > 40
    unsaid = {
        (m.__name__, name)
        for m in found
        for name, field in m.model_fields.items()
        if name not in times_of(m) and counts_frames(field.annotation, list(field.metadata))  # type: ignore[arg-type]
    }
    assert unsaid == MOVED_BY_OWN
