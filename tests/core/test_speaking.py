"""The recipes of the voice: mouths, accents and blinks as keys that stay the hand's where it changed them."""

from __future__ import annotations

import json
import math
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from sorvan.core.checks.voice import findings
from sorvan.core.errors import Refusal
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.voice import Phone, Placed, Word
from sorvan.core.planning.speaking import moods_on, reasons, spoken
from sorvan.core.timing.channels import evaluate
from sorvan.core.voice.accents import accents, blink_times
from sorvan.core.voice.captions import cues, web_vtt
from sorvan.core.voice.mixing import SOUND_RATE, Cue, limited, mixed
from sorvan.core.voice.mouths import missing
from sorvan.core.voice.sheet import exposure_sheet
from tests.core.speakers import keyed, line, mouths, speaker
from tests.core.worlds import do

RATE = Fraction(24)
ROW = (
    ("", 0.5), ("M", 0.12), ("AA1", 0.2), ("P", 0.12), ("S", 0.1), ("IY1", 0.3), ("", 0.5), ("F", 0.1), ("AO1", 0.3),
    ("L", 0.12), ("UW1", 0.3), ("", 0.4),
)  # fmt: skip


def put(documents: Documents, frame: int, value: float) -> Documents:
    """A mouth by hand."""
    key = {"joint": "mouth", "kind": "show", "frame": frame, "value": [value], "ease": {"kind": "hold"}}
    return do(documents, {"do": "set-keys", "motion": "m", "keys": [key]})


def mended(documents: Documents) -> Documents:
    """What becomes of it when the first mistake that can be mended is."""
    motion = documents.motion("m")
    all_ = findings(documents.puppet("a"), motion, documents.lines_on(motion), RATE)
    mend = next(f.mend for f in all_ if f.mend is not None)
    return mend.apply(documents)


def found(documents: Documents, check: str | None = None) -> list[str]:
    motion = documents.motion("m")
    all_ = findings(documents.puppet("a"), motion, documents.lines_on(motion), RATE)
    return [f.text for f in all_ if check in (None, f.check)]


def test_mouths_are_held_keys_and_the_mouth_rests_before_and_after() -> None:
    documents = mouths(speaker(*ROW))
    keys = keyed(documents)
    assert keys[0] == 0 and keys[max(keys)] == 0 and set(keys.values()) >= {0, 1, 2, 7}
    channel = documents.motion("m").channels["mouth.show"]
    assert all(k.ease.kind == "hold" and k.recipe == "r" and not k.hand for k in channel.keys.values())
    pressed = next(f for f, v in keys.items() if v == 1)
    assert pressed in (10, 11)  # M is heard at half a second, frame 12; less 1.5 frames.
    assert not found(documents)


def test_two_mouths_put_in_by_hand_stay_when_text_and_timing_change() -> None:
    documents = mouths(speaker(*ROW))
    documents = put(put(documents, 20, 9), 34, 4)
    free = keyed(documents)
    slower = line(*((label, s * 1.15) for label, s in ROW)).chart.model_dump(mode="json")
    documents = mouths(do(documents, {"do": "set-chart", "voice": "v", "chart": slower}), lead=2.0)
    keys = keyed(documents)
    assert keys[20] == 9 and keys[34] == 4 and keys != free
    # What the recipe writes around them keeps their hold too.
    assert not {21, 35} & keys.keys()
    channel = documents.motion("m").channels["mouth.show"]
    assert all(channel.keys[f].recipe is None or channel.keys[f].hand for f in (20, 34))
    # Taken off, the recipe leaves just those.
    bare = do(documents, {"do": "remove-recipe", "motion": "m", "recipe": "r"})
    assert keyed(bare) == {20: 9, 34: 4}


def test_a_key_that_the_hand_took_away_stays_away() -> None:
    documents = mouths(speaker(*ROW))
    frame = sorted(keyed(documents))[3]
    documents = do(documents, {"do": "remove-keys", "motion": "m", "keys": [{"channel": "mouth.show", "frame": frame}]})
    assert frame not in keyed(mouths(documents))
    recipe = documents.motion("m").recipes["r"].model_dump(mode="json")
    afresh = do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe, "afresh": True})
    assert frame in keyed(afresh)


def test_moods_are_keyed_and_moving_mouths_show_their_drawings_in_turn() -> None:
    documents = mouths(speaker(*ROW), moods={"0": "plain", "28": "sad"})
    keys = keyed(documents)
    assert keys[max(keys)] == 10 and keys[0] == 0
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": "wide", "shows": [5, 6, 7]})
    keys = keyed(mouths(documents))
    start = next(f for f, v in keys.items() if v == 5)
    assert keys[start + 2] == 6 and keys[start + 4] == 7


def test_a_line_that_begins_later_takes_over() -> None:
    documents = mouths(speaker(("AA1", 2.0), length=120))
    documents = do(documents, {"do": "add-voice", "id": "w", "name": "Other", "motion": "m", "placed": "t", "at": 1.0})
    chart = line(("UW1", 0.6)).chart.model_dump(mode="json")
    documents = do(documents, {"do": "set-chart", "voice": "w", "chart": chart})
    documents = mouths(documents, "r2", sound="t")
    keys = keyed(documents)
    begins = min(f for f, k in documents.motion("m").channels["mouth.show"].keys.items() if k.recipe == "r2")
    assert begins in (22, 23) and all(
        documents.motion("m").channels["mouth.show"].keys[f].recipe == "r2" for f in keys if f >= begins
    )
    again = mouths(documents)
    assert keyed(again) == keys and not found(again)


def test_refusals_say_what_is_lacking() -> None:
    with pytest.raises(Refusal, match="no phoneme chart"):
        mouths(speaker())
    bare = do(speaker(*ROW), {"do": "set-mouths", "puppet": "a", "chart": None})
    with pytest.raises(Refusal, match="no mouth chart"):
        mouths(bare)
    with pytest.raises(Refusal, match="no line on this motion"):
        mouths(do(speaker(*ROW), {"do": "lift-sound", "motion": "m", "sound": "s"}))


def test_problems_are_found_with_their_frames() -> None:
    documents = mouths(speaker(*ROW))
    assert found(put(documents, 14, 7), "hold-short") == []  # the hand may
    lost = put(put(documents, 10, 7), 12, 7)
    assert found(lost, "closure-missed") == ["Lips do not meet for M."]
    assert found(put(documents, 36, 7), "open-in-silence") == ["“open” hangs open while nobody speaks."]
    moved = do(documents, {"do": "move-boundary", "voice": "v", "tier": "phones", "entry": "p2", "to": 0.75})
    assert found(moved, "mouths-old") and not found(mouths(moved))
    gone = do(documents, {"do": "remove-mouth", "puppet": "a", "mouth": "round-open"})
    # What a small set lacks is told beside the set, with what fills in; it is no mistake.
    assert not found(mouths(gone)) and "round open" in missing(gone.puppet("a").mouths)
    apart = do(documents, {"do": "link-joint", "puppet": "a", "joint": "mouth", "parent": None})
    assert found(apart, "mouth-off-head")
    odd = do(documents, {"do": "label-entry", "voice": "v", "tier": "phones", "entry": "p5", "called": "☂☂"})
    assert found(odd, "sound-unknown")
    short = do(documents, {"do": "set-motion", "motion": "m", "length": 60})
    assert found(short, "line-cut")
    # One press gives it the time that it needs; on a cycle, which stays as it is, a motion of its own.
    line, placed = next(iter(short.lines_on(short.motion("m")).values())), short.motion("m").sounds["s"]
    longer = mended(short)
    assert longer.motion("m").length == math.ceil((placed.at + line.seconds) * 24) + 6
    assert not found(longer, "line-cut")
    cycle = do(
        do(documents, {"do": "remove-recipe", "motion": "m", "recipe": "r"}),
        {"do": "set-motion", "motion": "m", "length": 60, "cycle": True},
    )
    apart = mended(cycle)
    (own,) = (d for d in apart.by_id.values() if isinstance(d, Motion) and d.id not in cycle.by_id)
    assert (own.puppet, own.cycle, own.length) == ("a", False, math.ceil(line.seconds * 24) + 6)
    assert own.sounds.keys() == {"s"} and own.sounds["s"].at == 0
    assert apart.motion("m") == cycle.motion("m").changed(sounds={})


def test_a_sound_that_is_longer_than_the_motion_is_said() -> None:
    documents = mouths(speaker(*ROW, length=40))
    assert any("after the motion has ended" in s for s in documents.motion("m").recipes["r"].said)


def test_every_run_has_its_reason_with_the_word() -> None:
    documents = speaker(*ROW)
    chart = documents.voice("v").chart.model_dump(mode="json")
    words = {
        "w0": {"start": 0.5, "text": "mops"},
        "w1": {"start": 1.34, "text": ""},
        "w2": {"start": 1.84, "text": "fall"},
    }
    documents = mouths(do(documents, {"do": "set-chart", "voice": "v", "chart": chart | {"words": words}}))
    motion = documents.motion("m")
    done = spoken(motion, documents.puppet("a"), motion.recipes["r"], RATE, documents.lines_on(motion))  # type: ignore[arg-type]
    assert done is not None
    told = {mouth: why for _, _, mouth, why in reversed(reasons(done))}
    assert told["pressed"].startswith("The lips must meet") and "“fall”" in told["tucked"]


def test_the_exposure_sheet_says_it_frame_by_frame() -> None:
    documents = mouths(speaker(*ROW))
    documents = do(documents, {"do": "set-pose", "motion": "m", "frame": 24, "text": "call"})
    sheet = exposure_sheet(
        documents.motion("m"), documents.lines_on(documents.motion("m")), documents.puppet("a").mouths, RATE
    )
    assert len(sheet) == 96 and sheet[24].pose == "call"
    assert sheet[12].phones == "M" and sheet[13].phones == "|" and sheet[0].phones == ""
    names = [row.mouth for row in sheet]
    assert names[0] == "rest" and "pressed" in names and names.count("|") > 40
    keys = keyed(documents)
    assert all(f in keys for f, name in enumerate(names) if name != "|")


def test_poses_are_retimed_without_the_mouths_and_time_is_put_in_with_them() -> None:
    documents = mouths(put(mouths(speaker(*ROW)), 34, 4), moods={"28": "sad"})
    turns = [{"joint": "head", "kind": "turn", "frame": f, "value": [f]} for f in (0, 20, 40)]
    documents = do(documents, {"do": "set-keys", "motion": "m", "keys": turns})
    for frame in (0, 20, 40):
        documents = do(documents, {"do": "set-pose", "motion": "m", "frame": frame, "text": "pose"})
    before = keyed(documents)
    # A pose is made longer: the later poses follow, and what is said stays where it is heard.
    retime = {"do": "retime-pose", "motion": "m", "frame": 0, "frames": 26}
    later = do(documents, retime | {"follow": True})
    assert keyed(later) == before and set(later.motion("m").channels["head.turn"].keys) == {0, 26, 46}
    # Time put in before the line moves all of it, and after that nothing of it is out of date.
    moved = do(documents, {"do": "insert-time", "motion": "m", "at": 0, "frames": 12})
    assert moved.motion("m").sounds["s"].at == 0.5 and set(keyed(moved)) == {f + 12 for f in before}
    assert list(moved.motion("m").recipes["r"].moods) == [40]  # type: ignore[union-attr]
    again = keyed(mouths(moved, moods={"40": "sad"}))
    assert {f: v for f, v in again.items() if f > 12} == {f + 12: v for f, v in before.items() if f}
    # A whole pose has no mouth in it.
    posed = do(documents, {"do": "key-pose", "motion": "m", "frame": 30, "tried": {}})
    assert keyed(posed) == before and 30 in posed.motion("m").channels["head.turn"].keys


def test_the_test_line_speaks_every_mouth_of_the_set_once() -> None:
    documents = do(speaker(*ROW, length=120), {"do": "lift-sound", "motion": "m", "sound": "s"})
    line_ = {"do": "add-voice", "id": "t", "name": "Test", "motion": "m", "placed": "s", "test": True}
    keys = keyed(mouths(do(documents, line_)))
    assert set(keys.values()) == set(map(float, range(10)))


def test_what_is_said_can_be_read_a_phrase_at_a_time() -> None:
    documents = speaker(*ROW, at=0.5)
    chart = documents.voice("v").chart.model_dump(mode="json")
    words = [(0.0, ""), (0.5, "mops"), (0.9, "& <pea>"), (1.34, ""), (1.84, "fall"), (2.7, "")]
    told = {f"w{n}": {"start": t, "text": text} for n, (t, text) in enumerate(words)}
    documents = do(documents, {"do": "set-chart", "voice": "v", "chart": chart | {"words": told}})
    motion = documents.motion("m")
    found = cues(map(Cue.of, motion.sounds.values()), documents.lines_on(motion))
    assert found == [(1.0, pytest.approx(1.84), "mops & <pea>"), (pytest.approx(2.34), pytest.approx(3.2), "fall")]
    assert web_vtt(found, 1.5) == (
        "WEBVTT\n\n00:00:00.000 --> 00:00:00.340\nmops &amp; &lt;pea&gt;\n\n00:00:00.840 --> 00:00:01.700\nfall\n"
    )
    mute = {"id": "s", "voice": "v", "mute": True}
    muted = do(documents, {"do": "place-sound", "motion": "m", "sound": mute}).motion("m")
    assert not cues(map(Cue.of, muted.sounds.values()), documents.lines_on(muted))


def accented(documents: Documents, **fields: Any) -> Documents:
    recipe = {"kind": "accents", "id": "x", "name": "Accents", "sound": "s", "head": "head", "nod": 6, **fields}
    return do(documents, {"do": "do-recipe", "motion": "m", "recipe": recipe})


def worded() -> Documents:
    row = (
        ("", 0.5),
        ("AH0", 0.06),
        ("G", 0.07),
        ("AH1", 0.2),
        ("L", 0.1),
        ("", 0.8),
        ("M", 0.1),
        ("UW1", 0.3),
        ("N", 0.1),
        ("", 0.5),
    )
    documents = speaker(*row)
    chart = documents.voice("v").chart.model_dump(mode="json")
    words = [(0.0, ""), (0.5, "a"), (0.56, "gull"), (0.93, ""), (1.73, "moon"), (2.23, "")]
    told = {f"w{n}": {"start": t, "text": text} for n, (t, text) in enumerate(words)}
    return do(documents, {"do": "set-chart", "voice": "v", "chart": chart | {"words": told}})


def test_accents_are_on_the_stressed_words_and_lead_them() -> None:
    documents = worded()
    marked = accents(documents.voice("v"))
    assert [a.word for a in marked] == ["gull", "moon"] and marked[0].at == pytest.approx(0.63)
    done = accented(documents, brows=["mouth"], lift=5)
    motion = done.motion("m")
    head = evaluate(motion.channels["head.turn"], motion.length, False)[0]
    assert (
        int(np.argmax(head[:30])) == round(0.63 * 24) - 3 and head.max() == pytest.approx(6, abs=2.5) and head[0] == 0
    )
    lifted = evaluate(motion.channels["mouth.move"], motion.length, False)[1]
    assert lifted.min() < -2 and lifted[0] == 0 and lifted[-1] == 0
    asked = accented(do(documents, {"do": "set-voice", "voice": "v", "text": "a gull moon?"})).motion("m")
    tilted = evaluate(asked.channels["head.turn"], asked.length, False)[0]
    assert tilted[30:].min() < -2 < 2 < tilted[:30].max(), "a question ends with the head tilted back"
    none = do(documents, {"do": "set-accent", "voice": "v", "entry": "w2", "accent": False})
    assert [a.word for a in accents(none.voice("v"))] == ["moon"]
    # It goes on from what the head does anyway.
    nodding = do(documents, {"do": "set-keys", "motion": "m", "keys": [
        {"joint": "head", "kind": "turn", "frame": 0, "value": [20]}]})  # fmt: skip
    motion = accented(nodding).motion("m")
    assert evaluate(motion.channels["head.turn"], motion.length, False)[0].min() == pytest.approx(20)


def test_who_speaks_blinks_at_pauses_and_seldom_and_the_seed_decides() -> None:
    voice = line(*((("AA1", 0.4),) * 12 + (("", 0.5),)) * 3)
    speaking = [blink_times(voice, 0, 0, 16, 2.0, 0.5, seed) for seed in range(40)]
    silent = [blink_times(None, 0, 0, 16, 2.0, 0.5, seed) for seed in range(40)]
    assert speaking[3] == blink_times(voice, 0, 0, 16, 2.0, 0.5, 3) and speaking[3] != speaking[4]
    assert sum(map(len, speaking)) < sum(map(len, silent))
    assert all(b - a >= 0.5 for row in speaking for a, b in pairwise(row))
    at_pauses = sum(any(abs(t - p) < 0.01 for p in (4.8, 10.1, 15.4)) for row in speaking for t in row)
    assert at_pauses > sum(map(len, speaking)) / 5


def test_sounds_are_mixed_to_the_sample() -> None:
    click = np.zeros((4800, 1), dtype=np.float32)
    click[0] = 0.5
    rate = Fraction(24000, 1001)
    for at in (0.0, 0.37, 12.000013, -0.05):
        placed = (Placed(id="s", voice="v", at=at, level=-6),)
        heard = mixed(map(Cue.of, placed), lambda _: click, 5, 400, rate)
        expected = round((Fraction(at) - 5 / rate) * 48000)
        if expected < 0:
            assert heard is None or not heard.any()
            continue
        assert heard is not None and len(heard) == round(395 / rate * 48000)
        assert int(np.argmax(np.abs(heard[:, 0]))) == expected
        assert heard[expected, 1] == pytest.approx(0.5 * 10 ** (-6 / 20))
    muted = (Placed(id="s", voice="v", mute=True),)
    assert mixed(map(Cue.of, muted), lambda _: click, 0, 24, rate) is None


def test_fades_begin_at_nothing_and_loud_mixes_never_pass_full_scale() -> None:
    tone = np.ones((48000, 2), dtype=np.float32) * 0.5
    faded = mixed([Cue.of(Placed(id="s", voice="v", fade_in=0.5, fade_out=0.25))], lambda _: tone, 0, 24, RATE)
    assert faded is not None and abs(faded[0, 0]) < 1e-4 and faded[12000, 0] == pytest.approx(0.25, abs=1e-3)
    assert faded[30000, 0] == 0.5 and abs(faded[-1, 0]) < 1e-4
    both = mixed([Cue.of(Placed(id=i, voice="v", level=6)) for i in "stu"], lambda _: tone, 0, 24, RATE)
    assert both is not None and np.abs(both).max() <= 1
    quiet = tone * 0.4
    assert np.array_equal(limited(quiet), quiet)


def test_old_documents_without_sounds_are_read_and_lines_that_are_gone_are_swept() -> None:
    from sorvan.core.model import stored

    documents = speaker(*ROW)
    bodies = [d.model_dump(mode="json") for d in documents.by_id.values()]
    for body in bodies:
        body.pop("mouths", None)
    without = stored.read([b for b in bodies if b["kind"] != "voice"])
    assert not without.motion("m").sounds
    assert Phone(start=1).label == "" and Word(start=0).accent is None


def test_a_line_is_heard_in_a_film_as_loud_as_the_page_plays_it() -> None:
    table = json.loads((Path(__file__).parents[2] / "web/src/session/heard.known.json").read_text())
    assert len(table) > 4
    for row in table:
        told = {name: row[name] for name in ("level", "fade_in", "fade_out")}
        cue = Cue.of(Placed(id="s", voice="v", at=0, **told))
        full = np.full((round(row["seconds"] * SOUND_RATE), 1), 0.5, dtype=np.float32)
        found = mixed([cue], lambda _, full=full: full, 0, round(row["seconds"] * 24), RATE)
        assert found is not None
        for at, gain in row["heard"]:
            assert abs(found[round(at * SOUND_RATE), 0] / 0.5 - gain) < 1e-4, (row["what"], at)


def test_making_mouths_gives_a_motion_the_length_of_its_line_and_goes_back_in_one_step() -> None:
    documents = speaker(*ROW, length=24)  # Its last mark is at 3.06 s, and that lasts a fifth of one.
    made = do(documents, {"do": "make-mouths", "motion": "m", "sound": "s", "id": "r"})
    assert made.motion("m").length == 79 + 6
    assert keyed(made) == keyed(mouths(do(documents, {"do": "set-motion", "motion": "m", "length": 85})))
    shorter = do(made, {"do": "set-motion", "motion": "m", "length": 60})
    again = do(shorter, {"do": "make-mouths", "motion": "m", "sound": "s", "id": "other"})
    assert set(again.motion("m").recipes) == {"r"} and again.motion("m").length == 60
    cycle = do(documents, {"do": "set-motion", "motion": "m", "cycle": True})
    assert do(cycle, {"do": "make-mouths", "motion": "m", "sound": "s", "id": "r"}).motion("m").length == 24


def test_a_mouth_put_in_looks_as_the_mood_has_it_that_holds_there() -> None:
    documents = do(speaker(*ROW), {"do": "set-mouth-set", "puppet": "a", "moods": ["plain", "sad"]})
    chart = documents.puppet("a").mouths
    assert chart is not None
    rest, other = list(chart.mouths)[:2]
    documents = do(documents, {"do": "set-mouth", "puppet": "a", "mouth": rest, "mood": "sad", "shows": [10]})
    documents = mouths(documents, moods={40: "sad"})

    def at(frame: int, **which: Any) -> float:
        return keyed(do(documents, {"do": "put-mouth", "motion": "m", "frame": frame, **which}))[frame]

    plain, seconds = (chart.mouths[m].shows["plain"][0] for m in (rest, other))
    assert at(39, mouth=rest) == plain and at(40, mouth=rest) == 10 and at(90, mouth=rest) == 10
    assert at(50, mouth=other) == seconds  # It has no sad look: the plain one.
    documents = do(documents, {"do": "put-mouth", "motion": "m", "frame": 30, "mouth": rest})
    assert at(30, by=1) == seconds and at(31, by=1) == seconds
    last = list(chart.mouths.values())[-1].shows["plain"][0]
    assert at(30, by=-1) == last
    with pytest.raises(Refusal, match="no mouth"):
        at(30, mouth="nobody")


def test_before_a_line_begins_its_mood_is_meant() -> None:
    documents = speaker(*ROW, at=2.0)
    assert moods_on(documents.motion("m"), RATE) == {}
    documents = mouths(documents, moods={0: "plain"})
    motion = documents.motion("m")
    # A fifth of a second before frame 48.
    assert list(moods_on(motion, RATE)) == [44]
