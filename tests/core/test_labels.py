"""What commands are called where they are undone: in the words of what they do, with what they do it to."""

from __future__ import annotations

from functools import cache
from typing import Any

import pytest

from sorvan.core.change.commands import COMMAND
from sorvan.core.model.documents import Documents
from tests.core.speakers import mouths, speaker
from tests.core.worlds import do

A, M, S = {"puppet": "a"}, {"motion": "m"}, {"shot": "s"}
HEAD_TURN = {"channel": "head.turn", "frame": 0}
KEYS = [HEAD_TURN, {"channel": "head.turn", "frame": 24}]


@cache
def quay() -> Documents:
    """The conductor with a mouth, who calls in a shot on the quay, and a bit of everything that has a name."""
    documents = mouths(speaker(("M", 0.3), ("AA1", 0.3)))
    whole: list[dict[str, Any]] = [
        {"do": "set-keys", **M, "keys": [{"joint": "head", "kind": "turn", "frame": f, "value": [f]} for f in (0, 24)]},
        {"do": "set-pose", **M, "frame": 24, "text": "calls"},
        {"do": "keep-in-book", **M, "id": "e", "name": "nod", "frame": 24},
        {"do": "set-dial", **A, "dial": {"id": "blink", "name": "blink"}},
        {"do": "set-swatch", "swatch": {"id": "brass", "name": "Brass", "colour": "#c9a36aff"}},
        {"do": "add-shot", "id": "s", "name": "Dusk", "length": 96},
        {"do": "add-cast", **S, "cast": {"kind": "member", "id": "c", "puppet": "a", "name": "Guard", "at": [9, 9]}},
        {"do": "place-heard", **S, "sound": {"id": "h", "voice": "v", "at": 1}},
    ]
    for command in whole:
        documents = do(documents, command)
    return documents


ART = {"id": "late", "name": "late", "art": "f" * 64, "pivot": [0, 0], "bounds": [0, 0, 20, 10]}
ONE = {"pieces": ["head"]}
BOTH = {"pieces": ["head", "mouth"]}
CAST = {"do": "set-cast", **S, "cast": "c"}
SPAN = {"id": "x", "motion": "m", "start": 11, "frames": 5}
NAMED: list[tuple[dict[str, Any], str]] = [
    ({"do": "keep-in-book", **M, "id": "f", "name": "call", "frame": 0}, "Keep “call” in the pose book"),
    ({"do": "put-from-book", **M, "entry": "e", "frame": 4}, "Put “nod” at frame 5"),
    ({"do": "hold-throughout", **M, "keys": [HEAD_TURN]}, "Hold 1 channel throughout"),
    ({"do": "bring-on", **S, "id": "d", "puppet": "a"}, "Put “Conductor” into “Dusk”"),
    ({"do": "bring-on", **S, "id": "d", "puppet": "a", "copies": True}, "Put copies of “Conductor” into “Dusk”"),
    ({"do": "make-mouths", **M, "id": "t", "sound": "s"}, "Make the mouths of “Line” again"),
    ({"do": "put-mouth", **M, "frame": 4, "by": 1}, "Put in a mouth at frame 5"),
    (
        {"do": "put-from-book", **M, "entry": "e", "frame": 4, "percent": 50, "mirrored": True},
        "Put “nod” mirrored by 50 % at frame 5",
    ),
    ({"do": "put-from-book", **M, "entry": "gone", "frame": 4}, "Put “a pose” at frame 5"),
    ({"do": "name-in-book", **A, "entry": "e", "name": "yes"}, "Call a pose of the book “yes”"),
    ({"do": "remove-from-book", **A, "entry": "e"}, "Take “nod” out of the pose book"),
    ({**CAST, "name": "Anna"}, "Rename “Guard”"),
    ({**CAST, "at": [1, 2]}, "Place “Guard”"),
    ({**CAST, "scale": 2}, "Scale “Guard”"),
    ({**CAST, "turn": 2}, "Turn “Guard”"),
    ({**CAST, "mirror": True}, "Mirror “Guard”"),
    ({**CAST, "share": 20}, "Set the depth of “Guard”"),
    ({**CAST, "hidden": True}, "Hide “Guard”"),
    ({**CAST, "hidden": False}, "Show “Guard”"),
    ({**CAST, "travel": {}}, "Set the way of “Guard”"),
    (CAST, "Leave “Guard”"),
    ({**CAST, "cast": "gone", "turn": 1}, "Turn “gone”"),
    ({"do": "set-copies", **S, "cast": "c", "count": 3}, "Set the copies of “Guard”"),
    ({"do": "remove-cast", **S, "cast": ["c"]}, "Take “Guard” out of “Dusk”"),
    ({"do": "remove-cast", **S, "cast": ["c", "d"]}, "Take 2 cast members out of “Dusk”"),
    ({"do": "order-cast", **S, "cast": "c"}, "Put “Guard” elsewhere in depth"),
    ({"do": "duplicate-cast", **S, "cast": "c", "id": "d"}, "Duplicate “Guard”"),
    ({"do": "set-shake", **S, "shake": None}, "Hold the camera still in “Dusk”"),
    ({"do": "set-shake", **S, "shake": {}}, "Let the camera shake in “Dusk”"),
    *(
        ({"do": "set-chart", "voice": "v", "chart": {"source": source}}, f"{said} “Line”")
        for source, said in (
            ("text", "Find the sounds of"),
            ("voice", "Find the sounds of"),
            ("loudness", "Find loudness in"),
            ("file", "Read the chart of"),
            ("hand", "Set the chart of"),
            ("none", "Empty the chart of"),
        )
    ),
    ({"do": "move-boundary", "voice": "v", "tier": "phones", "entry": "p0", "to": 1}, "Move where “M” begins"),
    ({"do": "move-boundary", "voice": "v", "tier": "phones", "entry": "end", "to": 1}, "Move where “a pause” begins"),
    ({"do": "split-entry", "voice": "v", "tier": "words", "entry": "p", "new": "q", "at": 1}, "Split a word of “Line”"),
    ({"do": "split-entry", "voice": "v", "tier": "phones", "entry": "p", "new": "q", "at": 1}, "Split a sound of “Line”"),
    ({"do": "merge-entry", "voice": "v", "tier": "words", "entry": "p"}, "Merge two words of “Line”"),
    ({"do": "merge-entry", "voice": "v", "tier": "phones", "entry": "p"}, "Merge two sounds of “Line”"),
    ({"do": "label-entry", "voice": "v", "tier": "words", "entry": "p", "called": "nine"}, "Call a word “nine”"),
    ({"do": "label-entry", "voice": "v", "tier": "phones", "entry": "p", "called": ""}, "Call a sound “pause”"),
    ({"do": "put-entry", "voice": "v", "tier": "phones", "entry": "p", "at": 1, "called": "AA"}, "Tap “AA” into “Line”"),
    ({"do": "put-entry", "voice": "v", "tier": "phones", "entry": "p", "at": 1}, "Tap “pause” into “Line”"),
    ({"do": "set-accent", "voice": "v", "entry": "p", "accent": True}, "Stress a word of “Line”"),
    ({"do": "set-accent", "voice": "v", "entry": "p", "accent": False}, "Do not stress a word of “Line”"),
    ({"do": "convert-rate", "rate": {"numerator": 30000, "denominator": 1001}}, "Convert to 29.97 frames a second"),
    ({"do": "set-dial", **A, "dial": {"id": "blink", "name": "lids"}}, "Change dial “lids”"),
    ({"do": "set-dial", **A, "dial": {"id": "look", "name": "look"}}, "Make dial “look”"),
    ({"do": "remove-dial", **A, "dial": "blink"}, "Remove dial “blink”"),
    ({"do": "keep-stop", **A, "dial": "blink", "at": 0.5}, "Keep a pose on dial “blink”"),
    ({"do": "remove-stop", **A, "dial": "blink", "at": 0.5}, "Take a stop off dial “blink”"),
    ({"do": "add-drawings", **A, "piece": "mouth", "drawings": [ART]}, "Add “late” to “mouth”"),
    ({"do": "add-drawings", **A, "piece": "mouth", "drawings": [ART, ART]}, "Add 2 drawings to “mouth”"),
    ({"do": "gather-drawings", **A, "piece": "mouth", "others": ["head"]}, "Gather 1 piece as drawings of “mouth”"),
    ({"do": "set-drawing", **A, "piece": "head", "drawing": "d0", "name": "hat"}, "Rename drawing “head”"),
    ({"do": "set-drawing", **A, "piece": "head", "drawing": "d0", "dx": 2}, "Line up drawing “head”"),
    ({"do": "set-drawing", **A, "piece": "head", "drawing": "d0", "guide": 2}, "Set the guides of drawing “head”"),
    ({"do": "nudge-guide", **A, "piece": "head", "drawing": "d0", "line": "upright"}, "Set the guides of drawing “head”"),
    ({"do": "order-drawings", **A, "piece": "mouth", "order": ["d0"]}, "Reorder the drawings of “mouth”"),
    ({"do": "show-drawing", **A, "piece": "head", "drawing": "d0"}, "Show “head” on “head”"),
    ({"do": "remove-drawings", **A, "piece": "head", "drawings": ["d0"]}, "Remove “head”"),
    ({"do": "register-drawings", **A, "piece": "head", "to": "d0", "by": "guide"}, "Line up the drawings of “head” by their guide lines"),
    ({"do": "register-drawings", **A, "piece": "head", "to": "d0", "by": "middle"}, "Line up the drawings of “head” by their middles"),
    ({"do": "register-drawings", **A, "piece": "head", "to": "d0", "by": "top"}, "Line up the drawings of “head” by their top edges"),
    ({"do": "share-drawings", **A, **BOTH, "share": True}, "Share the drawings of “head”"),
    ({"do": "share-drawings", **A, **ONE, "share": False}, "Give own drawings to “head”"),
    ({"do": "remove-keys", **M, "keys": KEYS}, "Remove 2 keys on 1 channel"),
    ({"do": "ease-gaps", **M, "keys": KEYS, "ease": {"kind": "even"}}, "Even out 2 gaps"),
    ({"do": "ease-gaps", **M, "keys": KEYS, "ease": {"kind": "hold"}}, "Hold 2 gaps"),
    ({"do": "ease-gaps", **M, "keys": KEYS[:1], "ease": {"kind": "chart", "ticks": [[0.5, 0.3]]}}, "Chart 1 gap"),
    ({"do": "ease-gaps", **M, "keys": KEYS, "ease": {"kind": "slow"}}, "Ease 2 gaps"),
    *(
        ({"do": "set-outside", **M, "channels": ["head.turn"], "outside": outside}, said)
        for outside, said in (
            ("hold", "Let 1 channel hold outside the keys"),
            ("repeat", "Repeat 1 channel"),
            ("repeat-and-add", "Repeat and add 1 channel"),
            ("back-and-forth", "Play 1 channel back and forth"),
        )
    ),
    ({"do": "pull-limit", **A, "joint": "head", "end": "low", "hand": [1, 1]}, "Limit the turn of “head”"),
    ({"do": "set-masks", **A, **ONE, "masks": {"mouth": "inside"}}, "Mask “head”"),
    ({"do": "set-masks", **A, **BOTH, "masks": {"mouth": None}}, "Unmask 2 pieces"),
    ({"do": "set-look", **A, **ONE, "opacity": 0.5}, "Fade “head”"),
    ({"do": "link-swatch", **A, **ONE, "which": "fill:#112233ff", "swatch": "brass"}, "Link a colour of “head” to “Brass”"),
    ({"do": "link-swatch", **A, **ONE, "which": "fill:#112233ff"}, "Unlink a colour of “head”"),
    ({"do": "set-swatch", "swatch": {"id": "brass", "name": "Gold", "colour": "#c9a36aff"}}, "Change swatch “Gold”"),
    ({"do": "set-swatch", "swatch": {"id": "coat", "name": "Coat", "colour": "#c9a36aff"}}, "Add swatch “Coat”"),
    ({"do": "remove-swatch", "swatch": "brass"}, "Remove swatch “Brass”"),
    ({"do": "set-reference", **A, "reference": None}, "Take the reference away"),
    ({"do": "propose-mouths", **A, "piece": "mouth"}, "Make a mouth chart of “mouth”"),
    ({"do": "propose-mouths", **A, "dial": "blink"}, "Make a mouth chart of “blink”"),
    ({"do": "set-mouths", **A, "chart": None}, "Remove the mouth chart of “Conductor”"),
    ({"do": "set-mouth", **A, "mouth": "new", "name": "yawn"}, "Add mouth “yawn”"),
    ({"do": "remove-mouth", **A, "mouth": "gone"}, "Remove mouth “gone”"),
    ({"do": "give-sounds", **A, "labels": ["M", "P"], "mouth": None}, "Give M, P back their usual mouth"),
    ({"do": "set-mouth-set", **A, "moods": ["sad"]}, "Set the moods of the mouths"),
    ({"do": "set-mouth-set", **A, "every": 2}, "Set how mouths are shown"),
    ({"do": "order-at", **M, "frame": 4, **ONE}, "Put “head” in front of everything at frame 5"),
    ({"do": "order-at", **M, "frame": 4, **ONE, "front": False, "of": "mouth"}, "Put “head” behind “mouth” at frame 5"),
    ({"do": "order-at", **M, "frame": 4, **ONE, "back": True}, "Put “head” back in its place at frame 5"),
    ({"do": "show-at", **M, "frame": 4, "piece": "mouth", "drawing": 0}, "Show “rest” of “mouth” from frame 5 on"),
    ({"do": "set-pieces", **A, **ONE, "name": "hat"}, "Rename “head”"),
    ({"do": "set-pieces", **A, **BOTH, "hidden": True}, "Hide 2 pieces"),
    ({"do": "set-pieces", **A, **ONE, "hidden": False}, "Show “head”"),
    ({"do": "set-pieces", **A, **ONE, "locked": True}, "Lock “head”"),
    ({"do": "set-pieces", **A, **ONE, "locked": False}, "Unlock “head”"),
    ({"do": "set-pieces", **A, **ONE, "one_way": True}, "Never mirror “head”"),
    ({"do": "set-pieces", **A, **ONE, "one_way": False}, "Do mirror “head”"),
    ({"do": "set-pieces", **A, **ONE, "side": "left"}, "Put “head” on the left side"),
    ({"do": "set-pieces", **A, **ONE, "side": "centre"}, "Put “head” in the centre"),
    ({"do": "shift-pieces", **A, **BOTH, "dx": 1, "dy": 0}, "Move 2 pieces"),
    ({"do": "set-production", "name": "Pier", "width": 800, "height": 600}, "Set name and stage size"),
    ({"do": "set-puppet", **A, "name": "Guard"}, "Rename “Conductor”"),
    ({"do": "set-puppet", **A, "origin": [1, 1]}, "Set the standing place of “Conductor”"),
    ({"do": "set-puppet", **A, "axis": 640}, "Set the axis of the other side of “Conductor”"),
    ({"do": "set-puppet", **A, "axis": "middle"}, "Set the axis of the other side of “Conductor”"),
    ({"do": "copy-drawing", **A, "piece": "mouth", "drawing": "d0", "id": "x"}, "Copy the drawing “rest” of “mouth”"),
    ({"do": "copy-pieces", **A, "ids": {"head": "head-2"}}, "Copy “head”"),
    ({"do": "fill-stage", **A, "piece": "head", "how": "cover"}, "Let “head” cover the stage"),
    ({"do": "fill-stage", **A, "piece": "head", "how": "fit"}, "Show “head” whole on the stage"),
    ({"do": "remove-puppet", **A}, "Remove puppet “Conductor”"),
    ({"do": "set-motion", **M, "length": 40}, "Make “Call” 40 frames long"),
    ({"do": "set-motion", **M, "cycle": True}, "Make “Call” a cycle"),
    ({"do": "set-motion", **M, "cycle": False}, "Make “Call” play once"),
    ({"do": "set-motion", **M, "seen": 45}, "Make “Call” for the view at 45°"),
    ({"do": "set-motion", **M, "seen": None}, "Make “Call” for any view"),
    ({"do": "set-motion", **M, "name": "Shout"}, "Rename “Call”"),
    ({"do": "remove-motion", **M}, "Remove motion “Call”"),
    ({"do": "remove-recipe", **M, "recipe": "r"}, "Take off Mouths"),
    ({"do": "move-keys", **M, "keys": KEYS, "by": 1}, "Move 2 keys by +1 frame"),
    ({"do": "move-keys", **M, "keys": KEYS[:1], "by": -2}, "Move 1 key by -2 frames"),
    ({"do": "scale-keys", **M, "keys": KEYS, "about": 0, "factor": 1.5}, "Scale 2 keys to 150 % of their time"),
    ({"do": "reverse-keys", **M, "keys": KEYS}, "Reverse 2 keys"),
    ({"do": "wrap-keys", **M, "keys": KEYS, "by": -3, "start": 0, "end": 30}, "Shift 2 keys round by 3 frames"),
    ({"do": "paste-keys", **M, "source": "m", "keys": KEYS, "at": 4}, "Paste 2 keys at frame 5"),
    (
        {"do": "paste-keys", **M, "source": "m", "keys": KEYS, "at": 4, "onto": ["head", "body"], "later": 2},
        "Paste 2 keys onto 2 joints at frame 5",
    ),
    ({"do": "paste-keys", **M, "source": "m", "keys": KEYS, "at": 4, "mirrored": True}, "Paste 2 keys mirrored at frame 5"),
    ({"do": "paste-keys", **M, "source": "m", "keys": KEYS, "at": 4, "reverse": True}, "Paste 2 keys reversed at frame 5"),
    ({"do": "set-delay", **M, "channels": ["head.turn"], "delay": 1}, "Let 1 channel come 1 frame late"),
    (
        {"do": "set-delay", **M, "channels": ["head.turn"], "delay": 2.5, "growing": 1},
        "Let 1 channel come 2.5 frames late and later down the chain",
    ),
    ({"do": "write-delay", **M, "channels": ["head.turn"]}, "Write the delay of 1 channel into the keys"),
    ({"do": "bake-keys", **M, "channels": ["head.turn"], "start": 0, "end": 9, "every": 1}, "Key 1 channel on every frame"),
    ({"do": "bake-keys", **M, "channels": ["head.turn"], "start": 0, "end": 9, "every": 2}, "Key 1 channel on every 2 frames"),
    ({"do": "thin-keys", **M, "channels": ["head.turn"], "start": 0, "end": 9}, "Thin 1 channel to within 0.5"),
    ({"do": "shape-path", **M, "keys": KEYS}, "Make the path sharp at 2 keys"),
    ({"do": "shape-path", **M, "keys": KEYS[:1], "tangents": {}}, "Make the path smooth at 1 key"),
    ({"do": "link-joint", **A, "joint": "head"}, "Unlink “head”"),
    ({"do": "link-joint", **A, "joint": "head", "world": True}, "Leave “head” to the world"),
    ({"do": "link-joint", **A, "joint": "head", "parent": "mouth"}, "Link “head” to “mouth”"),
    ({"do": "set-joints", **A, "joints": ["head"], "name": "hat"}, "Rename “head”"),
    ({"do": "set-joints", **A, "joints": ["head"], "limits": None}, "Let turn freely: “head”"),
    ({"do": "set-joints", **A, "joints": ["head", "mouth"], "role": None}, "Leave the role of 2 joints to be guessed"),
    ({"do": "set-joints", **A, "joints": ["head"], "side": "left"}, "Put “head” on the left side"),
    ({"do": "match-twin", **A, "joint": "head"}, "Match the twin of “head”"),
    ({"do": "unkey-in-shot", **S, "keys": KEYS[:1]}, "Remove 1 key from “Dusk”"),
    ({"do": "move-shot-keys", **S, "keys": KEYS[:1], "by": -2}, "Move 1 key of “Dusk” by 2 frames"),
    ({"do": "ease-shot-gaps", **S, "keys": KEYS[:1]}, "Ease 1 gap of “Dusk”"),
    ({"do": "set-shot", **S, "name": "Night"}, "Rename “Dusk”"),
    ({"do": "set-shot", **S, "note": "late"}, "Note on “Dusk”"),
    ({"do": "set-shot", **S, "join": {"kind": "fade"}}, "Set how to begin “Dusk”"),
    ({"do": "set-shot", **S, "close": None}, "Set how to end “Dusk”"),
    ({"do": "set-shot", **S, "stop": 40}, "Set what plays of “Dusk”"),
    ({"do": "set-shot", **S, "stage": "final"}, "Take “Dusk” to its final pass"),
    ({"do": "set-pass", "shots": ["s"], "stage": "final"}, "Take “Dusk” to the final pass"),
    ({"do": "remove-shots", "shots": ["s"]}, "Remove shot “Dusk”"),
    ({"do": "split-shot", **S, "at": 40, "id": "t"}, "Cut “Dusk” in two at frame 41"),
    ({"do": "insert-shot-time", **S, "at": 40, "frames": 1}, "Put in 1 frame at frame 41 of “Dusk”"),
    ({"do": "insert-shot-time", **S, "at": 40, "frames": -2}, "Take out 2 frames at frame 41 of “Dusk”"),
    ({"do": "place-heard", **S, "sound": {"id": "h", "voice": "v", "at": 2}}, "Set a sound in “Dusk”"),
    ({"do": "place-heard", **S, "sound": {"id": "i", "voice": "v", "at": 2}}, "Place a sound in “Dusk”"),
    ({"do": "lift-heard", **S, "sounds": ["h"]}, "Take 1 sound out of “Dusk”"),
    ({"do": "set-span", **S, "cast": "c", "span": SPAN}, "Set what “Guard” does from frame 12"),
    ({"do": "remove-spans", **S, "cast": "c", "spans": ["x"]}, "Remove 1 span of “Guard”"),
    ({"do": "split-span", **S, "cast": "c", "span": "x", "at": 4, "id": "y"}, "Cut what “Guard” does at frame 5"),
    ({"do": "nudge-cast", **S, "cast": "c", "by": [1, 2], "frame": 0}, "Place “Guard”"),
    ({"do": "begin-way", **S, "cast": "c"}, "Set the way of “Guard”"),
    ({"do": "nudge-heard", **S, "sound": "h", "by": 1}, "Move a sound in “Dusk”"),
    ({"do": "add-span", **S, "cast": "c", "id": "y", "motion": "m", "frame": 3}, "Let “Guard” do “Call”"),
    ({"do": "set-voice", "voice": "v", "name": "Shout"}, "Rename “Line”"),
    ({"do": "set-voice", "voice": "v", "text": "At nine"}, "Set the text of “Line”"),
    ({"do": "set-voice", "voice": "v", "language": "de"}, "Set the language of “Line”"),
    ({"do": "remove-voice", "voice": "v"}, "Remove line “Line”"),
    ({"do": "place-sound", **M, "sound": {"id": "t", "voice": "v", "at": 1}}, "Place “Line”"),
    ({"do": "place-sound", **M, "sound": {"id": "s", "voice": "v", "at": 1}}, "Move “Line”"),
    ({"do": "place-sound", **M, "sound": {"id": "s", "voice": "v", "at": 0, "level": -3}}, "Set the level of “Line”"),
    ({"do": "place-sound", **M, "sound": {"id": "s", "voice": "v", "at": 0, "mute": True}}, "Mute “Line”"),
    ({"do": "lift-sound", **M, "sound": "s"}, "Take a line off “Call”"),
    ({"do": "insert-time", **M, "at": 4, "frames": 3}, "Put in 3 frames at frame 5"),
    ({"do": "insert-time", **M, "at": 4, "frames": -1}, "Take out 1 frame at frame 5"),
]  # fmt: skip


@pytest.mark.parametrize(("command", "label"), NAMED, ids=[f"{n}: {c['do']}" for n, (c, _) in enumerate(NAMED)])
def test_a_command_is_called_by_what_it_does_and_to_what(command: dict[str, Any], label: str) -> None:
    assert COMMAND.validate_python(command).label(quay()) == label
