"""Exposure: which mouth shows on each frame, and that no other path is cheaper."""

from __future__ import annotations

from itertools import pairwise, product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorvan.core.model.puppet import MouthChart
from sorvan.core.model.voice import Voice, ends
from sorvan.core.voice.exposure import NO_WAY, Exposure, Problem, cost_of, expose, problem, unseen
from sorvan.core.voice.phonemes import sound
from sorvan.core.voice.reasons import why
from sorvan.core.voice.track import ExposureSettings
from tests.conftest import costly
from tests.core.speakers import line, lines, mouth_set, sets

ways = st.builds(
    ExposureSettings,
    lead=st.sampled_from([0.0, 1.0, 1.5, 2.0]),
    hold=st.integers(1, 4),
    twos=st.booleans(),
    strength=st.sampled_from([60.0, 100.0, 130.0]),
)


def exposed(
    voice: Voice, chart: MouthChart | None = None, how: ExposureSettings | None = None, **given: object
) -> Exposure:
    found = problem(voice, chart or mouth_set(), 0.5, 24.0, 600, how or ExposureSettings(), **given)  # type: ignore[arg-type]
    assert found is not None
    return expose(found)


def greedy(p: Problem) -> np.ndarray:
    """The best mouth of each frame by itself, each kept until it may go."""
    row, since = [], 0
    for f in range(p.frames):
        best = int(p.match[f].argmin())
        if row and (f - since < p.settings.hold or p.frames - f < p.settings.hold):
            best = row[-1]
        if not row or best != row[-1]:
            since = f
        row.append(best)
    return np.array(row)


def at_random(p: Problem, chance: np.random.Generator) -> np.ndarray:
    """A path that keeps the hold, of mouths that know nothing of the line."""
    row: list[int] = []
    while len(row) < p.frames:
        run = int(chance.integers(p.settings.hold, p.settings.hold + 6))
        if p.frames - len(row) - run < p.settings.hold:
            run = p.frames - len(row)
        row += [int(chance.integers(len(p.mouths)))] * run
    return np.array(row)


@given(lines, sets, ways)
def test_no_mouth_is_shorter_than_the_hold_and_the_length_is_kept(
    voice: Voice, chart: MouthChart, how: ExposureSettings
) -> None:
    done = exposed(voice, chart, how)
    p = done.problem
    assert len(done.path) == p.frames and done.runs()[0][0] == p.first and done.runs()[-1][1] == p.first + p.frames
    for n, (start, end, mouth) in enumerate(done.runs()):
        if end - start < how.hold <= p.frames:
            # Only lips that must be seen may be cut short, and only where no path keeps them all and the hold.
            assert p.seen[mouth], (n, start, end)
    assert done.cost == pytest.approx(cost_of(p, done.path)) and done.cost < NO_WAY


@given(lines, ways)
def test_lips_that_must_meet_or_touch_the_teeth_are_always_seen(voice: Voice, how: ExposureSettings) -> None:
    assert not unseen(exposed(voice, None, how))


@given(st.lists(st.tuples(st.sampled_from(["M", "B", "P", "F", "V"]), st.floats(0.05, 0.2)), min_size=1, max_size=12))
def test_between_vowels_lips_are_seen_in_their_own_sound_and_for_the_hold(row: list[tuple[str, float]]) -> None:
    voice = line(*(entry for label, s in row for entry in (("AA1", 0.2), (label, s))), ("AA1", 0.2))
    done = exposed(voice)
    by_name = {m.name: n for n, m in enumerate(done.problem.mouths)}
    for _, phone, end in ends(voice.chart.phones, voice.seconds):
        if sound(phone.label).seen:
            first = int(np.floor((0.5 + phone.start) * 24 - 1.5)) - done.problem.first
            last = int(np.ceil((0.5 + end) * 24 - 1.5)) - done.problem.first
            wanted = by_name["pressed" if phone.label in "MBP" else "tucked"]
            assert wanted in done.path[max(first, 0) : last]
    assert all(end - start >= 2 for start, end, _ in done.runs())


@given(lines, sets, ways)
def test_it_costs_no_more_than_a_greedy_choice_or_a_thousand_at_random(
    voice: Voice, chart: MouthChart, how: ExposureSettings
) -> None:
    done = exposed(voice, chart, how)
    chance = np.random.default_rng(7)
    assert done.cost <= cost_of(done.problem, greedy(done.problem)) + 1e-9
    for _ in range(1000):
        assert done.cost <= cost_of(done.problem, at_random(done.problem, chance)) + 1e-9


@costly(20)
@given(
    st.lists(st.tuples(st.sampled_from(["M", "AA1", "F", "S", ""]), st.floats(0.03, 0.15)), min_size=1, max_size=4),
    st.integers(1, 3),
)
def test_of_all_paths_there_are_it_is_the_cheapest(row: list[tuple[str, float]], hold: int) -> None:
    found = problem(line(*row), mouth_set("rest", "pressed", "open"), 0.1, 24.0, 9, ExposureSettings(1.0, hold))
    if found is None:
        return
    every = (cost_of(found, path) for path in product(range(3), repeat=found.frames))
    assert expose(found).cost == pytest.approx(min(every))


@given(
    lines,
    ways,
    st.lists(
        st.sampled_from(["narrow", "tongue up", "wide", "half open", "round open", "pucker"]), max_size=5, unique=True
    ),
)
def test_more_mouths_never_make_the_match_to_the_chart_worse(
    voice: Voice, how: ExposureSettings, more: list[str]
) -> None:
    few = exposed(voice, mouth_set("rest", "pressed", "tucked", "open"), how)
    many = exposed(voice, mouth_set("rest", "pressed", "tucked", "open", *more), how)  # type: ignore[arg-type]
    assert many.cost <= few.cost + 1e-9


def test_the_same_line_is_exposed_the_same_way_every_time() -> None:
    voice = line(("K", 0.08), ("AA1", 0.2), ("L", 0.07), ("Z", 0.1), ("", 0.4), ("M", 0.05), ("IY1", 0.2))
    assert [exposed(voice).runs() for _ in range(3)] == [exposed(voice).runs()] * 3


def test_a_word_as_an_animator_would_expose_it() -> None:
    # “mob”: lips meet, the mouth opens wide, lips meet again; it comes a frame and a half early.
    done = exposed(line(("", 0.5), ("M", 0.1), ("AA1", 0.25), ("B", 0.1)))
    names = [(a, b, done.problem.mouths[m].name) for a, b, m in done.runs()]
    assert [n for _, _, n in names if n not in ("half open", "narrow")] == [
        "rest",
        "pressed",
        "open",
        "pressed",
        "rest",
    ]
    start = next(a for a, _, n in names if n == "pressed")
    assert start in (22, 23)  # M is heard at 1.0 s, frame 24; less 1.5 frames.
    opened = next((a, b) for a, b, n in names if n == "open")
    assert 25 <= opened[0] <= 27 and opened[1] - opened[0] >= 3


def test_a_vowel_that_bears_the_stress_is_kept_and_one_that_does_not_goes_first() -> None:
    def shown(vowel: str, seconds: float) -> set[str]:
        done = exposed(line(("S", 0.12), (vowel, seconds), ("S", 0.12)))
        beat = next(b for b in done.problem.beats if b.label == vowel)
        inside = range(int(beat.start) - done.problem.first, int(np.ceil(beat.end)) - done.problem.first)
        return {done.problem.mouths[done.path[f]].name for f in inside}

    assert "open" in shown("AA1", 0.06) and "half open" in shown("AH1", 0.06)
    assert shown("AH0", 0.03) == {"narrow"}


def test_a_rounded_vowel_rounds_what_leads_to_it() -> None:
    chart = mouth_set()
    plain, rounded = (exposed(line(("", 0.3), ("S", 0.12), (v, 0.3))) for v in ("IY1", "UW1"))
    at = next(n for n, b in enumerate(plain.problem.beats) if b.label == "S")
    f = int(plain.problem.beats[at].end) - 1 - plain.problem.first
    assert rounded.problem.track[f][2] > plain.problem.track[f][2] + 0.2  # rounding
    assert rounded.problem.track[f][1] < plain.problem.track[f][1]  # width
    assert chart.mouths["pucker"].look[2] == 1
    # Lips that must meet are never overruled.
    closed = exposed(line(("AA1", 0.2), ("M", 0.12), ("UW1", 0.3)))
    m = next(b for b in closed.problem.beats if b.label == "M")
    middle = int((m.start + m.end) / 2) - closed.problem.first
    assert closed.problem.track[middle][0] == pytest.approx(0, abs=0.25)


def test_pauses_rest_and_short_ones_keep_the_mouth() -> None:
    names = lambda *row: [d.problem.mouths[m].name for d in (exposed(line(*row)),) for _, _, m in d.runs()]  # noqa: E731
    assert "rest" in names(("AA1", 0.3), ("", 0.6), ("AA1", 0.3))[1:-1]
    assert "rest" not in names(("AA1", 0.3), ("", 0.1), ("AA1", 0.3))[1:-1]


def test_a_large_jump_goes_by_a_mouth_between() -> None:
    done = exposed(line(("", 0.6), ("AA1", 0.5), ("UW1", 0.5)))
    for a, b in pairwise(done.path):
        names = {done.problem.mouths[a].name, done.problem.mouths[b].name}
        assert names != {"rest", "open"}


def test_on_twos_mouths_change_on_even_frames_unless_lips_would_be_lost() -> None:
    row = [(v, 0.11) for v in ("AA1", "S", "IY1", "L", "AO1", "K", "EH1", "T") * 3]
    assert all((a % 2) == 0 for a, _, _ in exposed(line(*row), None, ExposureSettings(twos=True)).runs()[1:])


def test_the_hands_mouths_stay_and_what_is_around_them_keeps_the_hold() -> None:
    voice = line(*((v, 0.1) for v in ("AA1", "S", "IY1", "L", "AO1", "K", "M", "EH1", "T") * 2))
    chart = mouth_set()
    free = exposed(voice, chart)
    pins = {30: chart.mouths["pucker"], 41: chart.mouths["rest"], 47: None}
    done = exposed(voice, chart, pinned=pins)
    shown = {a: m for a, _, m in done.runs()}
    assert done.problem.mouths[shown[30]].name == "pucker" and done.problem.mouths[shown[41]].name == "rest"
    assert shown[47] == len(done.problem.mouths)  # a drawing that is none of the set
    starts = [a for a, _, _ in done.runs()]
    for a, b in pairwise(starts):
        assert b - a >= 2 or b in pins
    assert done.cost == pytest.approx(cost_of(done.problem, done.path))
    assert free.runs() != done.runs()


def test_every_frame_says_why_in_a_sentence() -> None:
    voice = line(
        ("", 0.4), ("F", 0.09), ("EH1", 0.12), ("R", 0.05), ("IY0", 0.12), ("M", 0.03), ("P", 0.03), ("T", 0.05)
    )
    done = exposed(voice)
    said = {why(done, f) for f in range(done.problem.first, done.problem.first + done.problem.frames)}
    assert any(s.startswith("The lip must touch the teeth for F") for s in said)
    assert any(s.startswith("The lips must meet for") for s in said)
    assert "Nobody speaks: the mouth rests." in said
    assert all(s.endswith(".") and len(s) > 12 for s in said)
    assert why(done, 0) == "No line is heard here."
    spelled = dict.fromkeys(range(len(done.problem.beats)), "ferry")
    assert "of “ferry”" in why(done, done.runs()[1][0], spelled)


def test_of_a_set_of_three_the_nearest_mouths_are_taken() -> None:
    done = exposed(line(("M", 0.2), ("AA1", 0.3), ("S", 0.2), ("UW1", 0.3)), mouth_set("pressed", "half open", "open"))
    names = [done.problem.mouths[m].name for _, _, m in done.runs()]
    assert names[0] == "pressed" and "open" in names and len(done.problem.mouths) == 3
