"""Two changes made of the same thing, one not knowing of the other, both hold: whatever a panel sends says only what it
changes, and a step is so much more than what is there."""

from __future__ import annotations

from functools import cache
from itertools import combinations
from typing import Any

import pytest

from sorvan.core.change.commands import COMMAND
from sorvan.core.change.given import Given
from sorvan.core.change.writes import difference, disturbs, patched
from sorvan.core.errors import Refusal
from sorvan.core.model.channel import Channel
from sorvan.core.model.documents import Documents
from sorvan.demo.quay import build
from tests.core.worlds import do

ME, SHIP, RUN = {"puppet": "conductor"}, {"shot": "leaves"}, {"shot": "runs"}
LEG, SKIRT = "left-leg", "c-left-skirt"
HEM = "left-hem"


@cache
def quay() -> Documents:
    """The demo, with a sheet, a reference, a shape that was drawn, a plant and a way besides."""
    documents = DEMO
    whole: list[dict[str, Any]] = [
        {"do": "add-joints", "puppet": "gull", "joints": [{"id": "h", "name": "h", "at": [640, 300], "handle": True}]},
        {"do": "add-joints", "puppet": "gull", "joints": [{"id": "k", "name": "k", "at": [650, 300], "handle": True}]},
        {"do": "set-attach", "puppet": "gull", "piece": "g-body", "attach": {"kind": "sheet", "handles": ["h", "k"]}},
        {"do": "set-reference", **ME, "reference": {"pictures": ["a" * 64], "width": 40, "height": 30}},
        {"do": "draw-shape", **ME, "id": "own", "name": "own", **SHAPE},
        {"do": "set-joints", **ME, "joints": ["left-hem"], "limits": {"low": -20, "high": 20}},
        {"do": "plant-foot", "motion": "wave", "id": "p", "joint": "c-left-hand", "start": 4, "frames": 6},
        {"do": "set-masks", **ME, "pieces": [SKIRT], "masks": {"own": "inside"}},
        {"do": "begin-way", **RUN, "cast": "she"},
    ]
    for command in whole:
        documents = do(documents, command)
    return documents


SHAPE = {"kind": "polygon", "points": [[100, 100], [160, 100], [160, 150]], "fill": "#336699ff"}


def case(command: dict[str, Any], thing: str | None, *given: dict[str, Any]) -> Any:
    return pytest.param(
        command, thing, given, id=command["do"] + (f" {command[thing].get('kind', '')}" if thing else "")
    )


DEMO: Documents = build()[0]
SPAN = DEMO.shot("leaves").members()["gull"].spans
DRAWN = DEMO.puppet("steam").pieces["s-plume-1"].morphs["m0"]
MARK = next(iter(DRAWN.marks))
WORD = list(DEMO.voice("line-call").chart.words)[2]
BLACK = "#000011ff"
WHOLE = [
    case(
        {"do": "set-span", **SHIP, "cast": "gull", "span": {"id": list(SPAN)[1]}}, "span",
        {"motion": "glide"}, {"start": 60}, {"frames": 17}, {"row": 1}, {"first": 2.5}, {"stop": 20}, {"skip": 1},
        {"speed": 80}, {"reverse": True}, {"play": "once"}, {"blend": 3}, {"out": 4}, {"done": 1}, {"left": 1},
    ),
    case(
        {"do": "set-cast", **RUN, "cast": "she", "travel": {}}, "travel",
        {"way": [{"at": [0, 0]}, {"at": [5, 5]}]}, {"turning": False}, {"gone": 30},
    ),
    case(
        {"do": "set-shake", **RUN, "shake": {}}, "shake",
        {"size": 9}, {"turn": 2}, {"times": 5}, {"seed": 7}, {"start": 3}, {"frames": 20}, {"fade": 2},
    ),
    case({"do": "set-shot", **SHIP, "join": {}}, "join", {"kind": "fade"}, {"frames": 9}, {"colour": BLACK}),
    case({"do": "set-shot", **SHIP, "close": {}}, "close", {"frames": 9}, {"colour": BLACK}),
    case(
        {"do": "place-heard", **SHIP, "sound": {"id": "heard-0"}}, "sound",
        {"voice": "cry"}, {"at": 1.5}, {"level": -4}, {"fade_in": 0.3}, {"fade_out": 0.4}, {"mute": True}, {"row": 4},
    ),
    case(
        {"do": "place-sound", "motion": "call", "sound": {"id": "call"}}, "sound",
        {"voice": "cry"}, {"at": 1.5}, {"level": -4}, {"fade_in": 0.3}, {"fade_out": 0.4}, {"mute": True},
    ),
    case(
        {"do": "set-dial", **ME, "dial": {"id": "look"}}, "dial",
        {"name": "eyes"}, {"low": -120}, {"high": 120}, {"rest": 5}, {"stops": []}, {"between": "morph"},
    ),
    case(
        {"do": "set-look", **ME, "pieces": [SKIRT], "colour": {}}, "colour",
        {"brightness": 5}, {"contrast": 6}, {"gamma": 1.5}, {"tint": BLACK}, {"amount": 40},
    ),
    case({"do": "set-swatch", "swatch": {"id": "brass"}}, "swatch", {"name": "Gold"}, {"colour": BLACK}),
    case(
        {"do": "set-reference", **ME, "reference": {}}, "reference",
        {"pictures": ["b" * 64]}, {"width": 50}, {"height": 60}, {"x": 4}, {"y": 5}, {"scale": 2}, {"opacity": 0.3},
        {"hidden": True}, {"offset": 3},
    ),
    case(
        {"do": "set-mark", "puppet": "steam", "piece": "s-plume-1", "first": DRAWN.first, "second": DRAWN.second,
         "mark": {"id": MARK}}, "mark",
        {"first": [610, None]}, {"first": [None, 300]}, {"second": [615, None]}, {"second": [None, 310]}, {"stays": 20},
    ),
    case(
        {"do": "set-chain", **ME, "chain": {"id": LEG}}, "chain",
        {"name": "leg"}, {"joints": ["c-left-thigh", "c-left-shin"]}, {"handle": "left-heel"}, {"bend": "rest"},
        {"soft": 0.2}, {"stretch": 1.5}, {"follow": False},
    ),
    case(
        {"do": "set-attach", **ME, "piece": SKIRT, "attach": {"kind": "bend"}}, "attach",
        {"joints": [HEM, SKIRT]}, {"roundness": 0.4}, {"reach": {HEM: 30}}, {"reach": {SKIRT: 40}},
        {"dabs": [{"joint": HEM, "x": 1, "y": 2, "radius": 9, "amount": 0.4}]},
    ),
    case(
        {"do": "set-attach", "puppet": "gull", "piece": "g-body", "attach": {"kind": "sheet"}}, "attach",
        {"handles": ["k", "h"]}, {"triangles": 200}, {"margin": 9}, {"turning": {"h": 20}}, {"turning": {"k": 30}},
    ),
    case({"do": "set-joints", **ME, "joints": [HEM], "limits": {}}, "limits", {"low": -50}, {"high": 50}),
]  # fmt: skip
"""What a panel says of a thing that is there: the command, its part that says what is given, and what can be given."""

PARTS = [
    case(
        {"do": "set-cast", **RUN, "cast": "she"}, None,
        {"at": [4, None]}, {"at": [None, 5]}, {"scale": 2}, {"turn": 3}, {"mirror": True}, {"name": "She"}, {"hidden": True},
    ),
    case(
        {"do": "set-copies", **RUN, "cast": "steam"}, None,
        {"spread": [4, None]}, {"spread": [None, 5]}, {"count": 3}, {"size": 9}, {"turn": 8}, {"tint": BLACK},
    ),
    case(
        {"do": "set-way-point", **RUN, "cast": "she", "point": 1}, None,
        {"at": [400, None]}, {"at": [None, 50]}, {"smooth": False},
    ),
    case(
        {"do": "set-plant", "motion": "wave", "id": "p"}, None,
        {"place": [4, None]}, {"place": [None, 5]}, {"frames": 9}, {"flat": True}, {"fade": 4},
    ),
    case(
        {"do": "place-piece", **ME, "piece": "c-left-shoe"}, None,
        {"x": 600}, {"y": 500}, {"angle": 10}, {"sx": 1.5}, {"sy": 0.5},
    ),
    case({"do": "set-pivot", **ME, "piece": "own"}, None, {"x": 120}, {"y": 130}),
    case({"do": "place-joint", **ME, "joint": HEM}, None, {"at": [600, None]}, {"at": [None, 500]}),
    case({"do": "edit-shape", **ME, "piece": "own", "edit": "paint"}, None, {"fill": BLACK}, {"stroke": BLACK}, {"width": 9}),
    case({"do": "edit-shape", **ME, "piece": "own", "edit": "move", "point": 1}, None, {"at": [150, None]}, {"at": [None, 90]}),
    case({"do": "set-masks", **ME, "pieces": [SKIRT]}, None, {"masks": {"own": "outside"}}, {"masks": {"c-right-skirt": "inside"}}),
    case({"do": "set-voice", "voice": "line-call"}, None, {"spoken": {"nine": "N AY N"}}, {"spoken": {"quay": "K IY"}}, {"text": "So"}),
    case(
        {"do": "change-recipe", "motion": "call", "recipe": "mouths-call"}, None,
        {"given": {"moods": {"3": "plain"}}}, {"given": {"moods": {"9": "plain"}}},
    ),
]  # fmt: skip
"""The same of what says only what is given by itself."""


def together(one: Any, other: Any) -> Any:
    """What says what both say."""
    if isinstance(one, dict) and isinstance(other, dict):
        return one | {key: together(one[key], value) if key in one else value for key, value in other.items()}
    if isinstance(one, list) and isinstance(other, list):
        return [b if a is None else a for a, b in zip(one, other, strict=True)]
    return other


def told(command: dict[str, Any], thing: str | None, given: dict[str, Any]) -> dict[str, Any]:
    return command | ({thing: command[thing] | given} if thing else given)


def apart(one: dict[str, Any], other: dict[str, Any]) -> bool:
    """Whether two say nothing of the same."""
    return all(
        isinstance(one[k], dict) or (isinstance(one[k], list) and None in one[k]) for k in one.keys() & other.keys()
    )


def plain(documents: Documents) -> Any:
    """All there is, with numbers as far as they can be told apart after a matrix was taken apart and made again."""

    def told(value: Any) -> Any:
        if isinstance(value, dict):
            return {key: told(part) for key, part in value.items()}
        if isinstance(value, list | tuple):
            return [told(part) for part in value]
        return round(value, 6) + 0.0 if isinstance(value, float) else value

    return {id: told(d.model_dump()) for id, d in documents.by_id.items() if d is not quay().by_id.get(id)}


@pytest.mark.parametrize(("command", "thing", "given"), [*WHOLE, *PARTS])
def test_two_changes_made_of_what_was_seen_both_hold(
    command: dict[str, Any], thing: str | None, given: tuple[dict[str, Any], ...]
) -> None:
    documents = quay()
    each = [told(command, thing, g) for g in given]
    alone = [do(documents, c) for c in each]
    assert all(a.by_id != documents.by_id for a in alone), "each changes something"
    for (one, first, seen), (other, second, late) in combinations(zip(given, each, alone, strict=True), 2):
        assert apart(one, other)
        both = do(documents, told(command, thing, together(one, other)))
        assert plain(do(do(documents, first), second)) == plain(both) == plain(do(do(documents, second), first))
        # And from two windows: neither is in the other's way. Where both change art, a place or one list, one is
        # refused, and never lost.
        writes = difference(documents, seen), difference(documents, late)
        if not disturbs(*writes):
            assert plain(patched(patched(documents, writes[0]), writes[1])) == plain(both)


@pytest.mark.parametrize(("command", "thing", "given"), WHOLE)
def test_two_windows_change_different_fields_of_one_thing(
    command: dict[str, Any], thing: str, given: tuple[dict[str, Any], ...]
) -> None:
    documents = quay()
    alone = [(g, difference(documents, do(documents, told(command, thing, g)))) for g in given]
    for (one, first), (other, second) in combinations(alone, 2):
        if not one.keys() & other.keys():
            assert not disturbs(first, second), (one, other)


def test_of_every_kind_that_is_given_in_part_all_fields_were_tried() -> None:
    tried: dict[type[Given], set[str]] = {}
    for param in WHOLE:
        command, thing, given = param.values
        part = getattr(COMMAND.validate_python(told(command, thing, {})), thing)
        tried.setdefault(type(part), set()).update(*given)
    assert tried.keys() == set(Given.__subclasses__())
    for kind, fields in tried.items():
        left = {f for f in kind.model_fields if f not in fields} - {"id"}
        # What says which of its kind a thing is stays as long as the thing; a turnaround is made as one.
        assert left <= {"kind", "turns"}, kind


STEPS: list[tuple[dict[str, Any], Any]] = [
    ({"do": "nudge-cast", **RUN, "cast": "she", "by": [10, 4], "frame": 0}, lambda d: d.shot("runs").cast["she"].at),
    ({"do": "nudge-span", **RUN, "cast": "she", "span": "run-0", "end": "both", "by": 2},
     lambda d: d.shot("runs").cast["she"].spans["run-0"].start),
    ({"do": "nudge-span", **RUN, "cast": "she", "span": "run-0", "end": "end", "by": -2},
     lambda d: d.shot("runs").cast["she"].spans["run-0"].end),
    ({"do": "nudge-span", **RUN, "cast": "she", "span": "run-0", "end": "start", "by": 3},
     lambda d: (d.shot("runs").cast["she"].spans["run-0"].start, d.shot("runs").cast["she"].spans["run-0"].skip)),
    ({"do": "nudge-heard", **RUN, "sound": "heard-0", "by": 0.125}, lambda d: d.shot("runs").sounds["heard-0"].at),
    ({"do": "move-boundary", "voice": "line-call", "tier": "words", "entry": WORD, "by": 0.01},
     lambda d: d.voice("line-call").chart.words[WORD].start),
    ({"do": "nudge-sound", "motion": "call", "sound": "call", "by": 0.125}, lambda d: d.motion("call").sounds["call"].at),
    ({"do": "nudge-plant", "motion": "wave", "id": "p", "end": "both", "by": 2}, lambda d: d.motion("wave").plants["p"].start),
    ({"do": "nudge-plant", "motion": "wave", "id": "p", "end": "start", "by": 2},
     lambda d: (d.motion("wave").plants["p"].start, -d.motion("wave").plants["p"].frames)),
    ({"do": "nudge-plant", "motion": "wave", "id": "p", "end": "end", "by": 2}, lambda d: d.motion("wave").plants["p"].frames),
]  # fmt: skip


@pytest.mark.parametrize(
    ("command", "where"), STEPS, ids=lambda v: f"{v['do']} {v.get('end', '')}" if isinstance(v, dict) else ""
)
def test_two_steps_made_before_the_first_is_seen_go_twice_as_far(command: dict[str, Any], where: Any) -> None:
    def place(documents: Documents) -> list[float]:
        found = where(documents)
        return [*found] if isinstance(found, tuple) else [found]

    before = quay()
    once = do(before, command)
    twice = do(once, command)
    one, two = ([b - a for a, b in zip(place(before), place(after), strict=True)] for after in (once, twice))
    by = command["by"] if isinstance(command["by"], list) else [command["by"]] * len(one)
    assert one == pytest.approx(by) and two == pytest.approx([2 * b for b in by])


def test_what_is_planted_ends_where_it_did_when_it_begins_as_early_as_it_can() -> None:
    step = {"do": "nudge-plant", "motion": "wave", "id": "p", "end": "start", "by": -9}
    held = do(quay(), step).motion("wave").plants["p"]
    assert (held.start, held.frames) == (0, 10)
    short = do(quay(), {**step, "by": 9}).motion("wave").plants["p"]
    assert (short.start, short.frames) == (9, 1)


def test_a_place_that_is_keyed_is_stepped_where_it_is_keyed() -> None:
    step = {"do": "nudge-cast", **RUN, "cast": "ferry", "by": [10, 0], "frame": 20}
    member = quay().shot("runs").members()["ferry"]
    twice = do(do(quay(), step), step).shot("runs").members()["ferry"]
    assert twice.at == member.at
    held = twice.place["place.move"].keys[20]
    before, after = sorted(member.place["place.move"].keys)
    (ax, ay), (bx, by) = (member.place["place.move"].keys[f].value for f in (before, after))
    assert min(ax, bx) + 20 <= held.value[0] <= max(ax, bx) + 20 and min(ay, by) <= held.value[1] <= max(ay, by)
    # A new key of a place starts and stops softly; one that is there keeps its ease.
    assert held.ease.model_dump() == {"kind": "slow", "out": 50.0, "into": 50.0}


def test_of_a_key_typed_in_part_the_rest_is_what_is_seen() -> None:
    """Halfway between 0 and 40 across, and 0 and 20 down, as even gaps have it."""
    key = {"joint": "c-satchel", "kind": "move", "ease": {"kind": "even"}}
    ends = [key | {"frame": f, "value": v} for f, v in ((0, [0, 0]), (10, [40, 20]))]
    documents = do(quay(), {"do": "set-keys", "motion": "face", "keys": ends})
    for half in ([7, None], [None, 9]):
        documents = do(documents, {"do": "set-keys", "motion": "face", "keys": [key | {"frame": 5, "value": half}]})
    assert documents.motion("face").channels["c-satchel.move"].keys[5].value == (7, 9)
    half = do(quay(), {"do": "set-keys", "motion": "face", "keys": ends})
    half = do(half, {"do": "set-keys", "motion": "face", "keys": [key | {"frame": 5, "value": [7, None]}]})
    assert half.motion("face").channels["c-satchel.move"].keys[5].value == (7, pytest.approx(10))
    bare = do(
        quay(), {"do": "set-keys", "motion": "face", "keys": [key | {"frame": 0, "kind": "scale", "value": [2, None]}]}
    )
    assert bare.motion("face").channels["c-satchel.scale"].keys[0].value == (2, 1)


def test_of_many_keys_that_are_told_whole_their_channel_is_made_once(monkeypatch: pytest.MonkeyPatch) -> None:
    """However many come at once, as from a hand that was recorded."""
    made: list[int] = []
    changed = Channel.changed
    monkeypatch.setattr(Channel, "changed", lambda held, **given: made.append(1) or changed(held, **given))
    keys = [{"joint": "c-satchel", "kind": "move", "frame": f, "value": [f, 1]} for f in range(40)]
    do(quay(), {"do": "set-keys", "motion": "face", "keys": keys})
    assert len(made) == 1


def test_what_is_done_once_more_begins_where_it_ends() -> None:
    span = quay().shot("runs").members()["she"].spans["run-0"]
    again = do(quay(), {"do": "repeat-span", **RUN, "cast": "she", "span": "run-0", "id": "more"})
    assert again.shot("runs").members()["she"].spans["more"] == span.changed(id="more", start=span.end)


def test_a_piece_bends_over_one_joint_more_or_less_and_two_stay() -> None:
    over = {"do": "bend-over", **ME, "piece": SKIRT}
    painted = {"reach": {HEM: 30}, "dabs": [{"joint": HEM, "x": 1, "y": 2, "radius": 9, "amount": 0.4}]}
    documents = do(quay(), {"do": "set-attach", **ME, "piece": SKIRT, "attach": {"kind": "bend", **painted}})

    def bend(found: Documents) -> Any:
        return found.puppet("conductor").pieces[SKIRT].attach

    third = do(documents, {**over, "joint": "c-left-thigh", "bends": True})
    assert bend(third).joints == (SKIRT, HEM, "c-left-thigh") and bend(third).reach == {HEM: 30}
    assert bend(do(third, {**over, "joint": HEM, "bends": True})) == bend(third), "it did already"
    less = bend(do(third, {**over, "joint": HEM, "bends": False}))
    assert (less.joints, less.reach, less.dabs) == ((SKIRT, "c-left-thigh"), {}, ())
    with pytest.raises(Refusal):
        do(documents, {**over, "joint": HEM, "bends": False})
    with pytest.raises(Refusal, match="does not bend"):
        do(documents, {**over, "piece": "c-cap", "joint": HEM, "bends": True})


def test_a_shape_that_is_paired_takes_its_partner_from_another() -> None:
    pair = {"do": "pair-shapes", "puppet": "steam", "piece": "s-plume-1", "first": DRAWN.first, "second": DRAWN.second}
    documents = do(quay(), {"do": "set-morph", **{k: v for k, v in pair.items() if k != "do"}, "pairs": []})
    for shape, becomes in ((0, 1), (1, 0), (2, 1), (1, None)):
        documents = do(documents, {**pair, "shape": shape, "becomes": becomes})
    held = documents.puppet("steam").pieces["s-plume-1"].morphs["m0"]
    assert [(p.first, p.second) for p in held.pairs] == [(2, 1), (1, None)]


def test_what_is_gone_can_not_be_changed_in_part() -> None:
    for command in (
        {"do": "set-span", **RUN, "cast": "she", "span": {"id": "gone", "speed": 50}},
        {"do": "place-heard", **RUN, "sound": {"id": "gone", "at": 1}},
        {"do": "set-dial", **ME, "dial": {"id": "gone", "low": 1}},
        {"do": "set-swatch", "swatch": {"id": "gone", "colour": BLACK}},
        {"do": "set-reference", "puppet": "gull", "reference": {"x": 1}},
        {"do": "set-way-point", **RUN, "cast": "she", "point": 9, "smooth": True},
    ):
        with pytest.raises(Refusal) as refused:
            do(quay(), command)
        assert refused.value.kind == "missing", command
