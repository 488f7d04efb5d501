"""The film: how long it is, what shows and is heard when, and what is left to do in its shots."""

from __future__ import annotations

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.checks.shots import findings
from sorvan.core.errors import Refusal
from sorvan.core.film.film import film, heard_in_film
from sorvan.core.film.heard import heard
from sorvan.core.film.reel import Pace, Reel, alone, plan_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.production import Production
from sorvan.core.model.shot import Span
from sorvan.core.model.voice import Placed, Recording
from sorvan.core.shot.scene import InShot, ShotScene
from sorvan.core.shot.spans import motion_times
from sorvan.core.voice.mixing import SOUND_RATE, mixed
from tests.conftest import costly
from tests.core.staging import on_stage, strolling
from tests.core.test_shots import staged
from tests.core.walkers import key, planned, walker
from tests.core.worlds import do

joins = st.fixed_dictionaries(
    {"kind": st.sampled_from(["cut", "fade", "dissolve"]), "frames": st.integers(1, 30), "colour": st.just("#102030ff")}
)


def shots(*made: tuple[int, dict[str, object]]) -> Documents:
    """A production with empty shots of these lengths, joined so."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    for n, (length, join) in enumerate(made):
        documents = do(documents, {"do": "add-shot", "id": f"s{n}", "name": f"Shot {n}", "length": length})
        documents = do(documents, {"do": "set-shot", "shot": f"s{n}", "join": join})
    return documents


@given(st.lists(st.tuples(st.integers(1, 60), joins), min_size=1, max_size=6))
def test_a_film_lasts_as_long_as_its_shots_less_what_they_dissolve(made: list[tuple[int, dict[str, object]]]) -> None:
    whole = film(shots(*made))
    over = [p.over for p in whole.parts]
    assert whole.frames == sum(length for length, _ in made) - sum(over)
    for n, (part, (length, join)) in enumerate(zip(whole.parts, made, strict=True)):
        wanted = int(str(join["frames"])) if join["kind"] == "dissolve" and n else 0
        assert part.frames == length and part.over <= wanted
        if length > wanted + 1 and n and made[n - 1][0] > wanted + over[n - 1]:
            assert part.over == wanted
    for frame in range(whole.frames):
        showing = whole.at(frame)
        assert 1 <= len(showing) <= 2
        for part in showing:
            colour, amount = part.veil(frame)
            assert 0 <= part.there(frame) <= 1 and 0 <= amount <= 1 and len(colour) == 9
    # A dissolve goes evenly from one to the other, and never shows nothing but either for its whole length.
    for part in whole.parts:
        shares = [part.there(part.start + k) for k in range(part.over)]
        assert all(0 < a < 1 for a in shares) and shares == sorted(shares)


def test_a_fade_goes_into_its_colour_and_comes_out_of_it() -> None:
    whole = film(shots((10, {"kind": "cut"}), (10, {"kind": "fade", "frames": 4, "colour": "#405060ff"})))
    one, two = whole.parts
    assert whole.frames == 20
    assert [one.veil(f)[1] for f in range(5, 10)] == [0, 0.25, 0.5, 0.75, 1.0]
    assert [two.veil(f)[1] for f in range(10, 15)] == [0.75, 0.5, 0.25, 0, 0]
    assert one.veil(9)[0] == two.veil(10)[0] == "#405060ff"


def test_a_film_ends_in_a_colour_and_halves_of_a_shot_end_as_it_did() -> None:
    documents = shots((40, {"kind": "cut"}), (30, {"kind": "cut"}))
    closing = {"do": "set-shot", "shot": "s1", "close": {"frames": 10, "colour": "#00000080"}}
    documents = do(documents, closing)
    whole = film(documents)
    assert [whole.veil(f) for f in (59, 60, 64, 69)] == [
        ("#00000080", 0.0), ("#00000080", 0.1), ("#00000080", 0.5), ("#00000080", 1.0),
    ]  # fmt: skip
    assert whole.veil(39)[1] == 0
    # What the next one begins with goes before it.
    faded = do(documents, {"do": "set-shot", "shot": "s0", "close": {"frames": 4}})
    faded = do(faded, {"do": "set-shot", "shot": "s1", "join": {"kind": "fade", "frames": 8, "colour": "#ff0000ff"}})
    assert film(faded).veil(32) == ("#ff0000ff", 1 / 8)
    cut = do(documents, {"do": "split-shot", "shot": "s1", "at": 25, "id": "t"})
    assert cut.shot("s1").close is None and cut.shot("t").close == documents.shot("s1").close
    opened = do(documents, closing | {"close": None})
    assert film(opened).veil(69)[1] == 0


def test_only_the_frames_that_play_are_in_the_film() -> None:
    documents = shots((50, {"kind": "cut"}), (20, {"kind": "cut"}))
    documents = do(documents, {"do": "set-shot", "shot": "s0", "first": 10, "stop": 22})
    whole = film(documents)
    assert whole.frames == 32 and (whole.parts[0].first, whole.parts[0].frames) == (10, 12)
    with pytest.raises(Refusal, match="no shot"):
        film(Documents({"p": Production(id="p", name="Quay")}))


def test_a_reel_draws_the_shots_of_the_film_and_both_while_they_dissolve() -> None:
    documents = on_stage(strolling(), {})
    documents = do(documents, {"do": "duplicate-shot", "shot": "s", "id": "t"})
    documents = do(documents, {"do": "set-shot", "shot": "t", "join": {"kind": "dissolve", "frames": 10}})
    reel = Reel.of(documents, film(documents), _NoArt())  # type: ignore[arg-type]
    assert reel.frames == 96 + 96 - 10
    assert [(s.frame, s.opacity) for s in reel.sheets(85)] == [(85, 1.0)]
    below, above = reel.sheets(88)
    assert (below.frame, below.opacity, above.frame) == (88, 1.0, 2) and above.opacity == pytest.approx(3 / 11)
    assert [s.frame for s in reel.sheets(100)] == [14]
    blurred = Reel.of(documents, film(documents), _NoArt(), None, Pace(samples=4))  # type: ignore[arg-type]
    assert blurred.frames == 4 * reel.frames
    (sheet,) = blurred.sheets(4 * 100 + 3)
    assert sheet.frame == 4 * 14 + 3 and sheet.plan.frames == 4 * 96


@pytest.mark.parametrize("first", [0, 7])
@pytest.mark.parametrize("stage", ["final", "breakdown", "blocking"])
def test_at_another_rate_pictures_show_what_is_there_at_their_times(first: int, stage: str) -> None:
    """Half as many a second: every second frame; twice as many: those, and what lies between them."""
    documents = on_stage(strolling(), {}, travel={"way": []})
    documents = do(documents, {"do": "set-shot", "shot": "s", "stage": stage, "first": first})
    documents = do(documents, {"do": "duplicate-shot", "shot": "s", "id": "t"})
    documents = do(documents, {"do": "set-shot", "shot": "t", "join": {"kind": "dissolve", "frames": 9}})
    whole = film(documents)

    def places(pace: Pace) -> tuple[Reel, list[list[tuple[list[float], float]]]]:
        reel = Reel.of(documents, whole, _NoArt(), None, pace)  # type: ignore[arg-type]
        shown = []
        for n in range(reel.frames):
            sheets = reel.sheets(n)
            rows = [(s.plan.cels[0], s.frame, s.opacity) for s in sheets]
            shown.append(
                [
                    (np.asarray(c.matrices[:, :, c.at(f)]).ravel().tolist() + c.stage[:, f].tolist(), o)
                    for c, f, o in rows
                ]
            )  # type: ignore[index]
        return reel, shown

    def alike(one: list[tuple[list[float], float]], other: list[tuple[list[float], float]]) -> None:
        assert len(one) == len(other)
        for (m, o), (n, p) in zip(one, other, strict=True):
            np.testing.assert_allclose(m, n, atol=0.02)
            assert o == pytest.approx(p)

    plain, frames = places(Pace())
    half, twos = places(Pace(Fraction(2)))
    fine, halves = places(Pace(Fraction(1, 2)))
    assert (len(twos), len(halves)) == (math.ceil(whole.frames / 2), 2 * whole.frames)
    for n in range(len(twos)):
        alike(twos[n], frames[2 * n])
    for n in range(whole.frames):
        alike(halves[2 * n], frames[n])
    for n in range(fine.frames):
        assert fine.veil(n)[1] == 0
    blurred, blur = places(Pace(samples=4))
    for n in range(whole.frames):
        alike(blur[4 * n], frames[n])
    assert blurred.frames == 4 * whole.frames
    between = [abs(halves[2 * n + 1][0][0][-2] - frames[n][0][0][-2]) for n in range(20)]
    if stage == "blocking":
        assert max(between) < 1e-9, "poses are held over whole frames"
    else:
        assert min(between) > 0.1, "she goes on between frames"
    assert plain.frames == whole.frames and half.frames == len(twos) and fine.frames == len(halves)
    # At a rate that never meets the frames again, it ends with the last picture that begins in the film.
    odd = Pace(Fraction(24000, 1001) / 25)
    reel = Reel.of(documents, whole, _NoArt(), None, odd)  # type: ignore[arg-type]
    assert (reel.frames - 1) * odd.step < whole.frames <= reel.frames * odd.step
    assert all(0 <= s.frame < s.plan.frames for n in range(reel.frames) for s in reel.sheets(n))


class _NoArt:
    def __getattr__(self, name: str) -> object:
        raise AssertionError(f"no art is needed here: {name}")


def test_blurred_pictures_lie_where_the_shot_is_at_their_times() -> None:
    """At whole frames as always; between them a walker goes on, and its feet stay."""
    documents = on_stage(strolling(), {}, travel={"way": []})
    documents = do(documents, {"do": "set-shot", "shot": "s", "stage": "final"})
    times = Pace(samples=4, shutter=180).times(96)
    np.testing.assert_allclose(times[:6], [0, 0.125, 0.25, 0.375, 1, 1.125])
    plain = ShotScene.full(documents, InShot(shot="s")).acted[0]
    fine = ShotScene.full(documents, InShot(shot="s"), times=times).acted[0]
    assert plain.carried is not None and fine.carried is not None
    np.testing.assert_allclose(fine.carried.gone[::4], plain.carried.gone, atol=1e-6)
    assert np.all(np.diff(fine.carried.gone[:-3]) > 0)


def spoken() -> Documents:
    """A shot in which somebody says a line twice through a motion of two seconds, and a whistle blows."""
    documents = planned(walker(), gait="walk", step=150, frames=24)
    recording = Recording(asset="a" * 64, peaks="b" * 64, seconds=1.0).model_dump(mode="json")
    for id in ("line", "whistle"):
        documents = do(documents, {"do": "add-voice", "id": id, "name": id, "sound": recording})
    documents = do(documents, {"do": "add-motion", "id": "n", "puppet": "a", "name": "say", "length": 48})
    documents = do(documents, {"do": "place-sound", "motion": "n", "sound": {"id": "l", "voice": "line", "at": 0.5}})
    documents = do(documents, {"do": "add-shot", "id": "s", "name": "Say it", "length": 96})
    documents = do(documents, {"do": "place-heard", "shot": "s", "sound": {"id": "h", "voice": "whistle", "at": 3.5}})
    return on_stage(documents, {"motion": "n", "start": 12, "frames": 84})


def test_a_line_on_a_motion_is_heard_through_its_span_in_step_and_no_further() -> None:
    documents = spoken()
    found = sorted((c.placed.voice, c.at, c.begins, c.ends) for c in heard(documents, documents.shot("s")))
    # The motion begins half a second into the shot, and again two seconds later; the span ends with the shot.
    assert [(v, at) for v, at, *_ in found] == [("line", 1.0), ("line", 3.0), ("whistle", 3.5)]
    assert found[0][2:] == (0.5, 2.5) and found[1][3] == 4.0
    trimmed = do(
        documents,
        {
            "do": "set-span",
            "shot": "s",
            "cast": "c",
            "span": {"id": "p0", "motion": "n", "start": 12, "frames": 84, "first": 24, "play": "once"},
        },
    )
    (line, _) = sorted(heard(trimmed, trimmed.shot("s")), key=lambda c: c.placed.voice)
    # A second into the motion the line is half over: what is left of it is heard from the begin of the span.
    assert (line.at, line.begins) == (0.0, 0.5)
    for given_ in ({"speed": 50}, {"reverse": True}, {"play": "hold"}):
        span = {"id": "p0", "motion": "n", "start": 12, "frames": 84, **given_}
        changed = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": span})
        assert [c.placed.voice for c in heard(changed, changed.shot("s"))] == ["whistle"]
    hidden = do(documents, {"do": "set-cast", "shot": "s", "cast": "c", "hidden": True})
    assert [c.placed.voice for c in heard(hidden, hidden.shot("s"))] == ["whistle"]


def test_sound_goes_on_across_a_cut() -> None:
    documents = spoken()
    documents = do(documents, {"do": "add-shot", "id": "t", "name": "After", "length": 48})
    whole = film(documents)
    cues = heard_in_film(documents, whole)
    tone = np.full((SOUND_RATE, 1), 0.25, dtype=np.float32)
    rate = documents.production.rate
    samples = mixed(cues, lambda _: tone, 0, whole.frames, Fraction(rate.numerator))
    assert samples is not None and len(samples) == whole.frames * SOUND_RATE // 24
    second = SOUND_RATE
    # The whistle begins at 3.5 s, half a second before the cut, and lasts a second.
    assert abs(float(samples[int(4.25 * second), 0]) - 0.25) < 1e-6
    assert float(np.abs(samples[int(4.55 * second) :]).max()) == 0.0
    # Both are heard at once where both are.
    assert float(samples[int(3.75 * second), 0]) == pytest.approx(0.5)
    part = mixed(cues, lambda _: tone, 84, 108, Fraction(24))
    assert part is not None
    np.testing.assert_array_equal(part, samples[int(3.5 * second) : int(4.5 * second)])


def loud(documents: Documents) -> np.ndarray:
    """What is heard in the film, everything as one tone for a second."""
    whole = film(documents)
    tone = np.full((SOUND_RATE, 1), 0.05, dtype=np.float32)
    found = mixed(heard_in_film(documents, whole), lambda _: tone, 0, whole.frames, Fraction(24))
    return np.zeros((whole.frames * SOUND_RATE // 24, 1)) if found is None else found


def shown(documents: Documents) -> list[list[tuple[np.ndarray, ...]]]:
    """What is drawn of each of the cast in each frame of the film."""
    reel, found = Reel.of(documents, film(documents), _NoArt()), []  # type: ignore[arg-type]
    for n in range(reel.frames):
        (sheet,) = reel.sheets(n)
        cels = []
        for cel in sheet.plan.cels:
            own, fade = cel.at(sheet.frame), 1.0 if cel.fade is None else cel.fade[sheet.frame]
            stage = np.zeros(6) if cel.stage is None else cel.stage[:, sheet.frame]
            ahead = np.zeros(0) if cel.copies is None else (cel.copies.ahead + own) % cel.own
            cels.append((stage, cel.matrices[:, :, own], cel.shown[:, own], np.array(fade), ahead))
        found.append(cels)
    return found


@given(staged(), st.integers(0, 60), st.integers(2, 96), st.integers(0, 2**31), st.lists(st.floats(0, 3.9), max_size=3))
@costly(20)
def test_a_film_shows_and_sounds_after_a_cut_as_before(
    documents: Documents, first: int, frames: int, where: int, places: list[float]
) -> None:
    """Whoever is in it, whatever they do, and however the camera moves and shakes; also cut again, and of a shot that
    does not play whole."""
    for command in (
        {"do": "set-shake", "shot": "s"},
        {"do": "set-shot", "shot": "s", "stage": ("blocking", "breakdown", "final")[where % 3]},
        {"do": "add-voice", "id": "w", "name": "line"},
        {"do": "place-sound", "motion": "m", "sound": {"id": "l", "voice": "w", "at": 0.25}},
        {"do": "set-shot", "shot": "s", "first": first, "stop": min(first + frames, 96)},
    ):
        documents = do(documents, command)
    for n, at in enumerate(places):
        documents = do(documents, {"do": "place-heard", "shot": "s", "sound": {"id": f"x{n}", "voice": "v", "at": at}})
    cut = documents
    for n in range(2):
        begins, ends = cut.shot("s").played
        if ends - begins > 1:
            at = begins + 1 + where % (ends - begins - 1)
            cut = do(cut, {"do": "split-shot", "shot": "s", "at": at, "id": f"t{n}"})
            assert cut.production.shots[:2] == ("s", f"t{n}")
            assert (cut.shot("s").played, cut.shot(f"t{n}").played) == ((begins, at), (at, ends))
    np.testing.assert_allclose(loud(cut), loud(documents), atol=1e-6)
    for one, other in zip(shown(documents), shown(cut), strict=True):
        for cel, theirs in zip(one, other, strict=True):
            for a, b in zip(cel, theirs, strict=True):
                np.testing.assert_array_equal(a, b)


def test_a_shot_is_cut_where_something_of_it_plays_on_both_sides() -> None:
    documents = do(shots((40, {"kind": "cut"})), {"do": "set-shot", "shot": "s0", "first": 10, "stop": 20})
    for at in (0, 10, 20, 30):
        with pytest.raises(Refusal, match="can't be cut before frame") as refused:
            do(documents, {"do": "split-shot", "shot": "s0", "at": at, "id": "t"})
        assert "from 12 to 20" in str(refused.value.remedy)


def test_a_span_uses_something_of_its_motion_and_opens_however_short_that_becomes() -> None:
    documents = spoken()
    span = {"id": "p0", "motion": "n", "start": 12, "frames": 84, "first": 24, "stop": 24}
    with pytest.raises(Refusal, match="something of its motion"):
        do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": span})
    late = do(documents, {"do": "set-span", "shot": "s", "cast": "c", "span": {**span, "stop": None}})
    for length in (24, 12):
        short = do(late, {"do": "set-motion", "motion": "n", "length": length})
        assert [c.placed.voice for c in heard(short, short.shot("s"))] == ["whistle"]
        assert ShotScene.full(short, InShot(shot="s")).frames == 96


def kinds(documents: Documents, shot: str = "s") -> set[str]:
    return {f.check for f in findings(documents, documents.shot(shot))}


def test_what_is_left_to_do_in_a_shot_is_pointed_out() -> None:
    documents = strolling()
    assert kinds(documents) == {"nobody"}
    documents = on_stage(documents)
    assert "does-nothing" in kinds(documents)
    skating = on_stage(strolling(), {})
    assert "skates" in kinds(skating)
    carried = do(skating, {"do": "set-cast", "shot": "s", "cast": "c", "travel": {"way": []}})
    assert "skates" not in kinds(carried) and "stops" not in kinds(carried)
    short = do(
        carried,
        {"do": "set-span", "shot": "s", "cast": "c", "span": {"id": "p0", "motion": "m", "start": 0, "frames": 40}},
    )
    stops = [f for f in findings(short, short.shot("s")) if f.check == "stops"]
    assert [(f.cast, f.frame) for f in stops] == [("c", 40)]
    moved = do(
        skating,
        {
            "do": "key-in-shot",
            "shot": "s",
            "cast": "c",
            "keys": [key("place", "move", 0, 0, 0), key("place", "move", 90, 500, 0)],
        },
    )
    assert "slides" in kinds(moved)
    hidden = do(carried, {"do": "set-cast", "shot": "s", "cast": "c", "hidden": True})
    assert "hidden" in kinds(hidden)
    mute = do(documents, {"do": "add-voice", "id": "v", "name": "line", "text": "Last ferry at nine"})
    mute = do(mute, {"do": "place-heard", "shot": "s", "sound": {"id": "h", "voice": "v", "at": 1.0}})
    assert "unspoken" in kinds(mute)
    late = do(mute, {"do": "place-heard", "shot": "s", "sound": {"id": "h", "voice": "v", "at": 40.0}})
    assert "unheard" in kinds(late)


def test_copies_go_along_with_whom_they_are_on() -> None:
    documents = on_stage(strolling(), {}, travel={"way": []}, scale=0.5)
    copied = {"kind": "copies", "id": "e", "puppet": "a", "motion": "m", "at": [200, 300], "along": "c", "share": 60.0}
    documents = do(documents, {"do": "add-cast", "shot": "s", "cast": copied})
    documents = do(documents, {"do": "key-in-shot", "shot": "s", "keys": [key("camera", "scale", 0, 2.0, 2.0)]})
    scene = ShotScene.full(documents, InShot(shot="s", seen_as="final"))
    walker_, steam = scene.acted
    assert walker_.carried is not None
    stage = scene.cel(steam).stage
    assert stage is not None
    # The stage is seen at twice the size: it goes twice as far across the picture as on the stage.
    np.testing.assert_allclose(stage[4] - stage[4, 0], 2 * (walker_.carried.gone - walker_.carried.gone[0]), atol=1e-6)
    # Whoever goes leaves the copies where they are.
    gone = do(documents, {"do": "remove-cast", "shot": "s", "cast": ["c"]})
    still = ShotScene.full(gone, InShot(shot="s", seen_as="final"))
    assert np.ptp(still.cel(still.acted[0]).stage[4]) == 0  # type: ignore[index]
    with pytest.raises(Refusal, match="copied"):
        do(documents, {"do": "set-copies", "shot": "s", "cast": "e", "along": "e"})


@given(
    st.sampled_from(["loop", "once"]),
    st.booleans(),
    st.integers(0, 20),
    st.none() | st.integers(21, 30),
    st.integers(-40, 40),
    st.integers(0, 24),
)
def test_through_a_span_a_line_is_heard_as_the_picture_goes(
    play: str, cycle: bool, first: int, stop: int | None, skip: int, at: int
) -> None:
    """In each frame just that of it which belongs to the motion's frame there, and never twice at once."""
    documents = do(on_stage(strolling()), {"do": "set-motion", "motion": "m", "length": 30, "cycle": cycle})
    motion, shot = documents.motion("m"), documents.shot("s")
    motion = motion.changed(sounds={"l": Placed(id="l", voice="v", at=at / 24)})
    span = Span(id="p", motion="m", start=7, frames=90, play=play, first=first, stop=stop, skip=skip)
    shot = shot.changed(cast={"c": shot.members()["c"].changed(spans={"p": span})}, length=120)
    cues = heard(documents.with_(motion, shot), shot)
    times = motion_times(span, motion, np.arange(120.0))
    for t in range(span.start, span.end):
        going = play == "loop" or times[t + 1] != times[t]
        now = float(times[t]) % 30
        here = [(t + 0.5) / 24 - c.at for c in cues if max(c.begins, c.at) <= (t + 0.5) / 24 < c.ends]
        if going and (play == "loop" or t >= span.start - skip):
            assert here == ([pytest.approx((now + 0.5 - at) / 24)] if now >= at else [])


@pytest.mark.parametrize("cycle", [True, False])
def test_between_the_last_frame_of_a_cycle_and_its_first_it_goes_on(cycle: bool) -> None:
    documents = do(walker(), {"do": "set-motion", "motion": "m", "length": 24, "cycle": cycle})
    swing = [key("head", "turn", 0, 0.0), key("head", "turn", 12, 40.0)]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": swing})
    shot = alone(documents, documents.motion("m"), bare=True)
    plan = plan_of(documents, shot, _NoArt(), None, Pace(step=Fraction(1, 2)))  # type: ignore[arg-type]
    (cel,) = plan.cels
    assert plan.frames == 48
    one, last = cel.matrices[:, :, cel.at(1)], cel.matrices[:, :, cel.at(47)]
    # As long before the seam as the second picture is after it; what is no cycle stays as it ended.
    assert np.allclose(last, one if cycle else cel.matrices[:, :, cel.at(46)], atol=1e-9)
