"""Made-up documents and changes for property tests, and a plain evaluator to hold the fast one against."""

from __future__ import annotations

import json
import math
from decimal import Decimal, localcontext
from itertools import pairwise
from typing import Any

import numpy as np
from hypothesis import strategies as st
from pydantic import ValidationError

from sorvan.core.change.commands import COMMAND
from sorvan.core.errors import Refusal, in_words
from sorvan.core.geometry import Affine
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import NEUTRAL
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Even, Family, Hold, Slow, SpacingChart
from sorvan.core.model.motion import Motion
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import ROOT, Puppet

numbers = st.floats(-500, 500).map(lambda v: round(v, 3))
small = st.floats(-200, 200).map(lambda v: round(v, 3))
sizes = st.floats(0.2, 3).map(lambda v: round(v, 3))
eases = st.one_of(
    st.just({"kind": "even"}),
    st.just({"kind": "hold"}),
    st.fixed_dictionaries({"kind": st.just("slow"), "out": st.integers(0, 100), "into": st.integers(0, 100)}),
    st.builds(lambda a, b, c, d: {"kind": "bezier", "x1": a, "y1": b, "x2": c, "y2": d}, *[st.floats(0, 1)] * 4),
    st.fixed_dictionaries(
        {
            "kind": st.just("family"),
            "family": st.sampled_from(
                ["quadratic", "cubic", "quartic", "sine", "circular", "back", "elastic", "bounce"]
            ),
            "slow": st.sampled_from(["out", "in", "both"]),
            "amount": st.sampled_from([None, 0.4, 2.5]),
        }
    ),
    st.lists(st.tuples(st.integers(1, 99), st.floats(-0.5, 1.5)), min_size=1, max_size=5, unique_by=lambda p: p[0]).map(
        lambda found: {"kind": "chart", "ticks": [(t / 100, p) for t, p in sorted(found)]}
    ),
)
tangents = st.one_of(
    st.none(),
    st.just({}),
    st.fixed_dictionaries({"before": st.tuples(small, small), "after": st.one_of(st.none(), st.tuples(small, small))}),
)


def do(documents: Documents, command: dict[str, Any]) -> Documents:
    """Apply a command given as plain data. Raises `Refusal` if it makes no sense or can't be."""
    try:
        made = COMMAND.validate_python(command)
    except ValidationError as error:
        raise in_words(error) from None
    return made.apply(documents)


def piece(id: str, x: float, y: float) -> dict[str, Any]:
    """A new piece as plain data."""
    drawing = {"id": "d", "name": id, "art": "0" * 64, "pivot": [3, 4], "bounds": [0, 0, 20, 10]}
    return {"id": id, "name": f"piece {id}", "drawing": drawing, "at": [x, y]}


@st.composite
def productions(draw: st.DrawFn, most: int = 7) -> Documents:
    """A production with one puppet of some pieces, linked at random, and one motion."""
    documents = Documents({"p": Production(id="p", name="Quay")})
    documents = do(documents, {"do": "add-puppet", "id": "a", "name": "Gull"})
    count = draw(st.integers(1, most))
    pieces = [piece(f"q{i}", draw(numbers), draw(numbers)) for i in range(count)]
    documents = do(documents, {"do": "add-pieces", "puppet": "a", "pieces": pieces})
    for i in range(count):
        x, y, angle, sx, sy = draw(numbers), draw(numbers), draw(small), draw(sizes), draw(sizes)
        place = {"piece": f"q{i}", "x": x, "y": y, "angle": angle, "sx": sx, "sy": -sy if i % 3 == 2 else sy}
        documents = do(documents, {"do": "place-piece", "puppet": "a", **place})
        if i and draw(st.booleans()):
            parent = f"q{draw(st.integers(0, i - 1))}"
            documents = do(documents, {"do": "link-joint", "puppet": "a", "joint": f"q{i}", "parent": parent})
    length = draw(st.integers(2, 40))
    return do(documents, {"do": "add-motion", "id": "m", "puppet": "a", "name": "flap", "length": length})


def some_command(draw: st.DrawFn, documents: Documents, tag: int) -> dict[str, Any]:
    """A command that fits these documents (though it may still be refused)."""
    puppet, motion = documents.puppet("a"), documents.motion("m")
    ids = sorted(puppet.pieces) or ["gone"]
    one = st.sampled_from(ids)
    some = st.lists(one, min_size=1, max_size=3, unique=True)
    held = [{"channel": c, "frame": f} for c, channel in motion.channels.items() for f in channel.keys]
    kinds = [
        "set",
        "set",
        "set",
        "link",
        "link",
        "shift",
        "place",
        "pivot",
        "order",
        "mirror",
        "hide",
        "group",
        "length",
        "remove",
        "add",
        "seen",
        "plants",
        "plants",
    ]
    if held:
        kinds += ["move", "ease", "outside", "unkey", "delay", "path", "sheet", "cards", "recipe"]
    match draw(st.sampled_from(kinds)):
        case "set":
            kind = draw(st.sampled_from(["turn", "move", "scale"]))
            value = [draw(sizes if kind == "scale" else small) for _ in NEUTRAL[kind]]
            key = {"joint": draw(st.sampled_from([*sorted(puppet.joints), ROOT])), "kind": kind, "value": value}
            key |= {"frame": draw(st.integers(0, motion.length - 1)), "ease": draw(st.one_of(st.none(), eases))}
            return {"do": "set-keys", "motion": "m", "keys": [key]}
        case "link":
            return {"do": "link-joint", "puppet": "a", "joint": draw(one), "parent": draw(st.one_of(st.none(), one))}
        case "shift":
            return {"do": "shift-pieces", "puppet": "a", "pieces": draw(some), "dx": draw(small), "dy": draw(small)}
        case "place":
            place = {"x": draw(numbers), "y": draw(numbers), "angle": draw(small), "sx": draw(sizes), "sy": draw(sizes)}
            return {"do": "place-piece", "puppet": "a", "piece": draw(one), **place}
        case "pivot":
            return {"do": "set-pivot", "puppet": "a", "piece": draw(one), "x": draw(numbers), "y": draw(numbers)}
        case "order":
            return {
                "do": "order-pieces",
                "puppet": "a",
                "pieces": draw(some),
                "in_front_of": draw(st.one_of(st.none(), one)),
            }
        case "mirror":
            return {"do": "mirror-pieces", "puppet": "a", "ids": {id: f"{id}x{tag}" for id in draw(some)}}
        case "hide":
            return {
                "do": "set-pieces",
                "puppet": "a",
                "pieces": draw(some),
                "hidden": draw(st.booleans()),
                "side": "left",
            }
        case "group":
            group = draw(st.one_of(st.none(), st.just(f"g{tag}")))
            return {"do": "group-pieces", "puppet": "a", "pieces": draw(some), "group": group}
        case "length":
            return {"do": "set-motion", "motion": "m", "length": draw(st.integers(1, 60)), "cycle": draw(st.booleans())}
        case "remove":
            return {"do": "remove-pieces", "puppet": "a", "pieces": draw(some)}
        case "add":
            return {"do": "add-pieces", "puppet": "a", "pieces": [piece(f"n{tag}", draw(numbers), draw(numbers))]}
        case "move":
            return {
                "do": "move-keys",
                "motion": "m",
                "keys": [draw(st.sampled_from(held))],
                "by": draw(st.integers(-9, 9)),
            }
        case "ease":
            return {"do": "ease-gaps", "motion": "m", "keys": [draw(st.sampled_from(held))], "ease": draw(eases)}
        case "outside":
            outside = st.sampled_from(["hold", "repeat", "repeat-and-add", "back-and-forth"])
            given = {"outside": draw(outside), "before": draw(st.one_of(st.none(), outside))}
            return {"do": "set-outside", "motion": "m", "channels": [draw(st.sampled_from(held))["channel"]], **given}
        case "seen":
            kind, frame = draw(st.sampled_from(["order", "opacity"])), draw(st.integers(0, motion.length - 1))
            if kind == "order" and draw(st.booleans()):
                given = {
                    "front": draw(st.booleans()),
                    "of": draw(st.one_of(st.none(), one)),
                    "back": draw(st.booleans()),
                }
                return {"do": "order-at", "motion": "m", "frame": frame, "pieces": draw(some), **given}
            value = [draw(st.sampled_from([-2.5, 0, 1, 3.5, 60, 140]))]
            key = {"joint": draw(one), "kind": kind, "frame": frame, "value": value}
            return {"do": "set-keys", "motion": "m", "keys": [key]}
        case "plants":
            return plant_command(draw, documents, tag)
        case "delay" | "path" | "sheet" | "cards" | "recipe" as subject:
            return motion_command(draw, documents, held, subject)
        case _:
            return {"do": "remove-keys", "motion": "m", "keys": [draw(st.sampled_from(held))]}


def plant_command(draw: st.DrawFn, documents: Documents, tag: int) -> dict[str, Any]:
    """A command on what is planted (though it may still be refused)."""
    puppet, motion = documents.puppet("a"), documents.motion("m")
    start, frames = draw(st.integers(0, motion.length - 1)), draw(st.integers(1, 12))
    plant = draw(st.sampled_from(sorted(motion.plants) or ["gone"]))
    joint = draw(st.sampled_from(sorted(puppet.joints) or ["gone"]))
    fade = draw(st.integers(0, 3))
    commands: list[dict[str, Any]] = [
        {"do": "plant-foot", "id": f"f{tag}", "joint": joint, "start": start, "frames": frames, "fade": fade, "flat": draw(st.booleans())},
        {"do": "plant-foot", "id": f"f{tag}", "joint": joint, "start": start, "frames": frames, "fade": fade, "place_at": 0},
        {"do": "set-plant", "id": plant, "start": start, "frames": frames, "place": [draw(small), draw(small)]},
        {"do": "set-plant", "id": plant, "start": draw(st.one_of(st.none(), st.just(start))), "fade": fade, "flat": draw(st.booleans())},
        {"do": "remove-plants", "ids": [plant]},
        {"do": "set-ground", "level": draw(st.one_of(st.none(), small)), "runs": draw(st.sampled_from([0, 3, -2.5]))},
        {"do": "keep-in-book", "id": f"e{tag % 3}", "name": "pose", "frame": start, "frames": draw(st.integers(1, 5))},
        {"do": "put-from-book", "entry": draw(st.sampled_from(sorted(puppet.book) or ["gone"])), "frame": start, "percent": draw(st.sampled_from([100, 40, -20])), "mirrored": draw(st.booleans())},
        {"do": "match-travel", "travel": draw(st.sampled_from(["spot", "forward"]))},
    ]  # fmt: skip
    return {"motion": "m", **draw(st.sampled_from(commands))}


def motion_command(draw: st.DrawFn, documents: Documents, held: list[dict[str, Any]], subject: str) -> dict[str, Any]:
    """A command on the timing of a motion that has keys (though it may still be refused)."""
    motion = documents.motion("m")
    if motion.length > 120:
        # Poses duplicated over and over would double it each time.
        return {"do": "set-motion", "motion": "m", "length": 24}
    channels = sorted(motion.channels)
    frame = st.integers(0, motion.length - 1)
    keys = draw(st.lists(st.sampled_from(held), min_size=1, max_size=4, unique_by=str))
    poses = sorted(motion.poses) or [0]
    one, part = draw(st.sampled_from(poses)), draw(st.integers(1, 9))
    start = draw(frame)
    stretch = {"channels": channels[:2], "start": start, "end": start + part}
    joint = channels[0].rpartition(".")[0]
    commands: dict[str, list[dict[str, Any]]] = {
        "delay": [
            {"do": "set-delay", "channels": channels, "delay": draw(st.sampled_from([0, 1, -2, 0.5, 1.25, 40])), "growing": draw(st.sampled_from([0, 1.5]))},
            {"do": "write-delay", "channels": channels},
        ],
        "path": [{"do": "shape-path", "keys": [k for k in held if k["channel"].endswith("move")] or held, "tangents": draw(tangents)}],
        "sheet": [
            {"do": "scale-keys", "keys": keys, "about": start, "factor": draw(st.sampled_from([0.5, 1.5, 2]))},
            {"do": "reverse-keys", "keys": keys},
            {"do": "wrap-keys", "keys": keys, "by": part, "start": 0, "end": motion.length - 1},
            {"do": "paste-keys", "source": "m", "keys": keys, "at": start, "reverse": draw(st.booleans()), "mirrored": draw(st.booleans())},
            {"do": "bake-keys", **stretch, "every": draw(st.integers(1, 4))},
            {"do": "thin-keys", **stretch, "tolerance": 2},
        ],
        "cards": [
            {"do": "key-pose", "frame": start},
            {"do": "key-joints", "frame": start, "joints": [joint]},
            {"do": "rest-joints", "frame": start},
            {"do": "mirror-joints", "frame": start, "joints": [joint], "swap": draw(st.booleans())},
            {"do": "set-pose", "frame": start, "text": "contact", "breakdown": draw(st.booleans())},
            {"do": "find-poses", "part": 20},
            {"do": "remove-poses", "frames": [one], "keep_keys": draw(st.booleans())},
            {"do": "retime-pose", "frame": one, "frames": part, "follow": draw(st.booleans())},
            {"do": "hold-pose", "frame": one, "frames": 2, "drift": draw(st.sampled_from([0, 10])), "follow": draw(st.booleans())},
            {"do": "order-poses", "frames": [one], "before": draw(st.sampled_from([None, *poses]))},
            {"do": "duplicate-poses", "frames": [one]},
            {"do": "paste-poses", "source": "m", "frames": [one], "at": start, "mirrored": draw(st.booleans()), "view": draw(st.sampled_from([None, "side", "front"]))},
            {"do": "mirror-poses", "frames": [one], "view": draw(st.sampled_from([None, "side", "front"]))},
            {"do": "mirror-half"},
            {"do": "break-down", "first": poses[0], "second": poses[-1], "at": start, "percent": draw(st.integers(-50, 150))},
            {"do": "flip-puppet"},
            {"do": "insert-time", "at": start, "frames": draw(st.integers(-3, 5))},
        ],
        "recipe": [
            {"do": "do-recipe", "recipe": {"kind": "settle", "id": "r1", "name": "settle", "channels": channels, "frame": keys[0]["frame"]}},
            {"do": "do-recipe", "recipe": {"kind": "anticipate", "id": "r2", "name": "wind-up", "channels": channels, "frame": keys[0]["frame"]}},
            {"do": "do-recipe", "recipe": {"kind": "bounce", "id": "r3", "name": "bounce", "joint": joint if joint in documents.puppet("a").joints else ROOT}},
            {"do": "do-recipe", "recipe": {"kind": "squash", "id": "r4", "name": "squash", "joint": ROOT}},
            {"do": "do-recipe", "recipe": {"kind": "capture", "id": "r5", "name": "capture", "joint": joint if joint in documents.puppet("a").joints else ROOT, "what": draw(st.sampled_from(["place", "turn"])), "samples": [[0, 1, 2], [3.5, 40, -9], [9, 5, 70]], "start": start}},
            {"do": "remove-recipe", "recipe": draw(st.sampled_from(["r1", "r2", "r3", "r4", "r5"]))},
        ],
    }  # fmt: skip
    return {"motion": "m", **draw(st.sampled_from(commands[subject]))}


def rig_command(draw: st.DrawFn, documents: Documents, tag: int) -> dict[str, Any]:
    """A command on the rig or the looks that fits these documents (though it may still be refused)."""
    puppet, motion = documents.puppet("a"), documents.motion("m")
    pieces, joints = sorted(puppet.pieces) or ["gone"], sorted(puppet.joints) or ["gone"]
    piece_, joint = draw(st.sampled_from(pieces)), draw(st.sampled_from(joints))
    other = draw(st.sampled_from(joints))
    held = puppet.pieces.get(piece_)
    drawings = [d.id for d in held.drawings] if held else ["d"]
    place = [draw(numbers), draw(numbers)]
    new = {"id": f"d{tag}", "name": "other", "art": "1" * 64, "pivot": [1, 2], "bounds": [0, 0, 9, 9]}
    made = {"id": f"j{tag}", "name": draw(st.sampled_from(["left elbow", "knee R", "joint"])), "at": place}
    stop = {"at": 10, "values": {f"{joint}.turn": [draw(small)], f"{piece_}.show": [1]}}
    dab = {"joint": joint, "x": 1, "y": 2, "radius": 5, "amount": 0.5}
    swatch = {"id": "navy", "name": "Navy", "colour": draw(st.sampled_from(["#112233ff", "#abcdefff"]))}
    channel = draw(
        st.sampled_from(
            [("show", piece_), *(("reach", c) for c in puppet.chains), *(("dial", d) for d in puppet.dials)]
        )
    )
    key = {
        "joint": channel[1],
        "kind": channel[0],
        "frame": draw(st.integers(0, motion.length - 1)),
        "value": [draw(st.integers(0, 2))],
    }
    commands: list[dict[str, Any]] = [
        {"do": "add-joints", "joints": [made | {"parent": draw(st.sampled_from([joint, None])), "handle": draw(st.booleans())}]},
        {"do": "add-joints", "joints": [made | {"handle": True, "world": True}]},
        {"do": "add-joints", "joints": [made | {"parent": joint, "handle": True}], "sheet": piece_},
        {"do": "add-reach", "id": f"c{tag}", "name": "limb", "anchor": joint, "end": other, "handle": f"h{tag}", "world": draw(st.booleans()), "follow": draw(st.booleans())},
        {"do": "set-joints", "joints": [joint], "limits": {"low": -40, "high": draw(st.integers(-39, 90))}},
        {"do": "set-joints", "joints": [joint], "role": draw(st.sampled_from([None, "thigh", "head"])), "side": "left"},
        {"do": "move-joints", "joints": [joint], "dx": draw(small), "dy": draw(small)},
        {"do": "insert-joint", "id": f"i{tag}", "name": "between", "above": joint},
        {"do": "remove-joints", "joints": [joint]},
        {"do": "ride-pieces", "pieces": [piece_], "joint": joint},
        {"do": "match-twin", "joint": joint},
        {"do": "set-attach", "piece": piece_, "attach": {"kind": "bend", "joints": sorted({joint, other})}} if joint != other else {"do": "set-attach", "piece": piece_},
        {"do": "paint-weights", "piece": piece_, "dabs": [dab]},
        {"do": "add-drawings", "piece": piece_, "drawings": [new]},
        {"do": "set-drawing", "piece": piece_, "drawing": drawings[0], "guide": draw(small), "upright": draw(small), "dx": 1, "dy": draw(small)},
        {"do": "order-drawings", "piece": piece_, "order": drawings[::-1]},
        {"do": "show-drawing", "piece": piece_, "drawing": drawings[-1]},
        {"do": "remove-drawings", "piece": piece_, "drawings": drawings[:1]},
        {"do": "share-drawings", "pieces": pieces[:2], "share": draw(st.booleans())},
        {"do": "gather-drawings", "piece": piece_, "others": [p for p in pieces if p != piece_][:1] or ["gone"]},
        {"do": "set-masks", "pieces": [piece_], "masks": {draw(st.sampled_from(pieces)): draw(st.sampled_from(["inside", "outside", None]))}},
        {"do": "set-look", "pieces": [piece_], "opacity": 0.5, "colour": {"gamma": 1.5}},
        {"do": "link-swatch", "pieces": [piece_], "which": "fill:#336699ff", "swatch": "navy"},
        {"do": "draw-shape", "id": f"s{tag}", "name": "box", "kind": "rectangle", "points": [[0, 0], [9, 9]]},
        {"do": "set-dial", "dial": {"id": "mood", "name": "mood", "stops": [{"at": 0}, stop]}},
        {"do": "remove-dial", "dial": "mood"},
        {"do": "set-reference", "reference": draw(st.sampled_from([None, {"pictures": ["2" * 64], "width": 4, "height": 4}]))},
        {"do": "set-swatch", "swatch": swatch},
        {"do": "remove-swatch", "swatch": "navy"},
        {"do": "set-keys", "motion": "m", "keys": [key]},
    ]  # fmt: skip
    command = draw(st.sampled_from(commands))
    of_all = command["do"] in ("set-swatch", "remove-swatch", "set-keys")
    return command if of_all else {"puppet": "a", **command}


def rigged(draw: st.DrawFn, documents: Documents, tag: int) -> Documents:
    """The documents after some command on the rig; as they are, if it was refused."""
    try:
        return do(documents, rig_command(draw, documents, tag))
    except Refusal:
        return documents


def changed(draw: st.DrawFn, documents: Documents, tag: int) -> Documents:
    """The documents after some command; as they are, if it was refused."""
    try:
        return do(documents, some_command(draw, documents, tag))
    except Refusal:
        return documents


def published(ease: Family, t: float) -> float:
    """The families as they are commonly printed, form by form."""
    power = {"quadratic": 2, "cubic": 3, "quartic": 4}.get(ease.family)
    s = ease.amount if ease.amount is not None else 1.70158
    p = ease.amount if ease.amount is not None else 0.3
    out, both = ease.slow == "out", ease.slow == "both"
    if power:
        if out:
            return t**power
        if both:
            return 2 ** (power - 1) * t**power if t < 0.5 else 1 - (-2 * t + 2) ** power / 2
        return 1 - (1 - t) ** power
    match ease.family:
        case "sine":
            if both:
                return -(math.cos(math.pi * t) - 1) / 2
            return 1 - math.cos(t * math.pi / 2) if out else math.sin(t * math.pi / 2)
        case "circular":
            if both:
                return (
                    (1 - math.sqrt(1 - (2 * t) ** 2)) / 2
                    if t < 0.5
                    else (math.sqrt(max(0.0, 1 - (-2 * t + 2) ** 2)) + 1) / 2
                )
            return 1 - math.sqrt(1 - t * t) if out else math.sqrt(1 - (t - 1) ** 2)
        case "back":
            if both:
                s *= 1.525
                if t < 0.5:
                    return ((2 * t) ** 2 * ((s + 1) * 2 * t - s)) / 2
                return ((2 * t - 2) ** 2 * ((s + 1) * (t * 2 - 2) + s) + 2) / 2
            return (s + 1) * t**3 - s * t**2 if out else 1 + (s + 1) * (t - 1) ** 3 + s * (t - 1) ** 2
        case "elastic":
            if both:
                p *= 1.5
                wave = math.sin((2 * t - 1 - p / 4) * 2 * math.pi / p)
                return -(2 ** (20 * t - 10) * wave) / 2 if t < 0.5 else 2 ** (-20 * t + 10) * wave / 2 + 1
            if out:
                return -(2 ** (10 * t - 10)) * math.sin((t - 1 - p / 4) * 2 * math.pi / p)
            return 2 ** (-10 * t) * math.sin((t - p / 4) * 2 * math.pi / p) + 1
        case _:

            def rebound(x: float) -> float:
                n, d = 7.5625, 2.75
                if x < 1 / d:
                    return n * x * x
                for start, low in ((1.5, 0.75), (2.25, 0.9375)):
                    if x < {1.5: 2, 2.25: 2.5}[start] / d:
                        return n * (x - start / d) ** 2 + low
                return n * (x - 2.625 / d) ** 2 + 0.984375

            if both:
                return (1 - rebound(1 - 2 * t)) / 2 if t < 0.5 else (1 + rebound(2 * t - 1)) / 2
            return 1 - rebound(1 - t) if out else rebound(t)


class Oracle:
    """Evaluates one frame at a time in plain arithmetic, sharing nothing with the fast evaluator."""

    def __init__(self, puppet: Puppet, motion: Motion) -> None:
        self.puppet, self.motion = puppet, motion

    def pieces(self, frame: int) -> dict[str, Affine]:
        values = {id: self.channel(c, frame) for id, c in self.motion.channels.items()}

        def world(id: str | None) -> Affine:
            if id is None:
                ox, oy = self.puppet.origin
                turn, move, scale = (values.get(f"{ROOT}.{k}", NEUTRAL[k]) for k in ("turn", "move", "scale"))
                m = self.local(ox + move[0], oy + move[1], turn[0], 0.0, scale[0], scale[1])
                return m @ Affine.shift(-ox, -oy)
            joint = self.puppet.joints[id]
            turn, move, scale = (values.get(f"{id}.{k}", NEUTRAL[k]) for k in ("turn", "move", "scale"))
            r = joint.rest
            local = self.local(
                r.x + move[0], r.y + move[1], r.angle + turn[0], r.skew, r.sx * scale[0], r.sy * scale[1]
            )
            return world(joint.parent) @ local

        return {p.id: world(p.joint) @ p.in_joint() for p in self.puppet.pieces.values()}

    @staticmethod
    def local(x: float, y: float, angle: float, skew: float, sx: float, sy: float) -> Affine:
        a = math.radians(angle)
        turn: Affine = (math.cos(a), math.sin(a), -math.sin(a), math.cos(a), 0, 0)
        return Affine.shift(x, y) @ turn @ (1, 0, math.tan(math.radians(skew)), 1, 0, 0) @ (sx, 0, 0, sy, 0, 0)

    def channel(self, channel: Channel, frame: float) -> tuple[float, ...]:
        length, cycle = self.motion.length, self.motion.cycle
        goes_on = cycle and channel.outside == "repeat-and-add" and 0 in channel.keys and length in channel.keys
        last = length if goes_on else length - 1
        keys = sorted((f, k) for f, k in channel.keys.items() if not cycle or f <= last)
        if not keys:
            return NEUTRAL[channel.kind]
        frame, first, added = frame - channel.delay, keys[0][0], 0.0
        if cycle and not goes_on:
            keys = [*keys, (first + length, keys[0][1])]
        period = keys[-1][0] - first
        outside = channel.outside if frame >= first else channel.before or channel.outside
        if goes_on:
            added, into = divmod(frame, period)
            frame = into
        elif cycle:
            frame = first + (frame - first) % length
        elif outside != "hold" and period and not first <= frame <= first + period:
            rounds, into = divmod(frame - first, period)
            if outside == "back-and-forth" and rounds % 2:
                into = period - into
            frame = first + into
            added = rounds if outside == "repeat-and-add" else 0
        whole = tuple(b - a for a, b in zip(keys[0][1].value, keys[-1][1].value, strict=True))
        value = self.between(channel, keys, frame, cycle and not goes_on)
        return tuple(v + added * w for v, w in zip(value, whole, strict=True))

    def between(self, channel: Channel, keys: list[Any], frame: float, ring: bool) -> tuple[float, ...]:
        if frame <= keys[0][0]:
            return keys[0][1].value
        for at, ((start, key), (end, following)) in enumerate(pairwise(keys)):
            if start <= frame < end:
                held = channel.kind in ("show", "order")
                p = 0.0 if held else self.progress(key.ease, (frame - start) / (end - start))
                if channel.kind == "move" and p and (key.tangents or following.tangents):
                    return self.along([k for _, k in keys], at, p, ring)
                return tuple(a + p * (b - a) for a, b in zip(key.value, following.value, strict=True))
        return keys[-1][1].value

    def along(self, keys: list[Any], at: int, part: float, ring: bool) -> tuple[float, ...]:
        """So far along the curve from one key to the next, walked in forty thousand small straight steps."""
        a, d = (complex(*keys[i].value) for i in (at, at + 1))
        b, c = a + self.handle(keys, at, 1, ring), d + self.handle(keys, at + 1, -1, ring)
        u = np.linspace(0, 1, 40_001)
        places = (1 - u) ** 3 * a + 3 * (1 - u) ** 2 * u * b + 3 * (1 - u) * u**2 * c + u**3 * d
        walked = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(places)))])
        length = float(walked[-1])
        if length < 1e-9:
            place = a + part * (d - a)
        elif 0 <= part <= 1:
            place = complex(np.interp(part * length, walked, places))
        else:
            end, others = (a, (b, c, d)) if part < 0 else (d, (c, b, a))
            inner = next((q for q in others if abs(q - end) > 1e-12), end)
            beyond = -part if part < 0 else part - 1
            place = end + (end - inner) / max(abs(end - inner), 1e-12) * length * beyond
        return place.real, place.imag

    def handle(self, keys: list[Any], i: int, way: int, ring: bool) -> complex:
        """Where the handle before (-1) or after (1) a key lies, seen from the key."""
        held, last = keys[i].tangents, len(keys) - 1
        if held is None:
            return 0j
        given = held.after if way > 0 else held.before
        if given is not None:
            return complex(*given)
        here = complex(*keys[i].value)
        if not ring and i in (0, last):
            if last == 0 or (i == 0) == (way < 0):
                return 0j
            beside = keys[i + way].tangents
            lone = last == 1 and (beside is None or (beside.after if way < 0 else beside.before) is None)
            over_there = 0j if lone else self.handle(keys, i + way, -way, ring)
            return (complex(*keys[i + way].value) + over_there - here) / 2
        before = complex(*keys[i - 1 if i else last - 1].value)
        after = complex(*keys[i + 1 if i < last else 1].value)
        along = after - before
        if abs(along) <= 1e-12:
            return 0j
        return way * along / abs(along) * abs((after if way > 0 else before) - here) / 3

    @staticmethod
    def progress(ease: Any, time: float) -> float:
        if isinstance(ease, Even) or time <= 0:
            return time
        if isinstance(ease, Hold):
            return 0.0
        if isinstance(ease, SpacingChart):
            points = [(0.0, 0.0), *ease.ticks, (1.0, 1.0)]
            (t, p), (u, q) = next(pair for pair in pairwise(points) if pair[0][0] <= time <= pair[1][0])
            return p + (time - t) / (u - t) * (q - p)
        if isinstance(ease, Family):
            return published(ease, time)
        x1, y1, x2, y2 = (  # type: ignore[assignment]
            (ease.out / 100, 0.0, 1 - ease.into / 100, 1.0)
            if isinstance(ease, Slow)
            else (ease.x1, ease.y1, ease.x2, ease.y2)
        )

        # Fifty digits, since some of these curves stand still in the middle.
        with localcontext(prec=50):
            x1, y1, x2, y2, time = (Decimal(v) for v in (x1, y1, x2, y2, time))

            def at(s: Decimal, p: Decimal, q: Decimal) -> Decimal:
                return 3 * p * s * (1 - s) ** 2 + 3 * q * s * s * (1 - s) + s**3

            low, high = Decimal(0), Decimal(1)
            for _ in range(130):
                middle = (low + high) / 2
                low, high = (middle, high) if at(middle, x1, x2) < time else (low, middle)
            return float(at((low + high) / 2, y1, y2))


def strained(draw: st.DrawFn, documents: Documents, tag: int) -> Documents:
    """The documents after some command that reaches for the limits; as they are, if it was refused."""
    puppet = documents.puppet("a")
    pieces, joints = sorted(puppet.pieces) or ["gone"], sorted(puppet.joints) or ["gone"]
    some = draw(st.sampled_from(pieces))
    joint, other = draw(st.sampled_from(joints)), draw(st.sampled_from(joints))
    far = st.sampled_from([-1e6, -5e5, 5e5, 999_999.999, 1e6])
    long = draw(st.sampled_from(["x" * 120, "left " + "y" * 115, "R" + " z" * 59, "é" * 120]))
    many = [
        {"id": f"m{tag}-{i}", "name": long, "at": [draw(far), i], "handle": True}
        for i in range(draw(st.sampled_from([1, 60, 65])))
    ]
    commands: list[dict[str, Any]] = [
        {"do": "set-pieces", "pieces": [some], "name": long, "side": draw(st.sampled_from(["left", "right", "centre"]))},
        {"do": "mirror-pieces", "ids": {some: f"{some[:30]}y{tag}"}, "line": draw(far)},
        {"do": "set-pivot", "piece": some, "x": draw(far), "y": draw(far)},
        {"do": "shift-pieces", "pieces": [some], "dx": draw(far), "dy": draw(far)},
        {"do": "place-piece", "piece": some, "x": draw(far), "y": draw(far), "angle": draw(far), "sx": 100, "sy": -0.01},
        {"do": "move-joints", "joints": [joint], "dx": draw(far), "dy": draw(far)},
        {"do": "add-joints", "joints": many, "sheet": some},
        {"do": "add-pieces", "pieces": [piece(f"p{tag}", draw(far), draw(far)) | {"name": long, "group": draw(st.sampled_from([None, "nowhere"]))}]},
        {"do": "link-joint", "joint": joint, "parent": draw(st.sampled_from([None, other])), "world": draw(st.booleans())},
        {"do": "insert-joint", "id": f"k{tag}", "name": long, "above": joint},
        {"do": "add-reach", "id": f"r{tag}", "name": long, "anchor": joint, "end": other, "handle": f"t{tag}"},
        {"do": "set-attach", "piece": some, "attach": {"kind": "bend", "joints": list(dict.fromkeys(joints))[:33]}},
        {"do": "group-pieces", "pieces": [some], "group": f"g{tag}", "name": long},
        {"do": "set-masks", "pieces": [some], "masks": dict.fromkeys(pieces[:17], "inside")},
        {"do": "draw-shape", "id": f"f{tag}", "name": long, "kind": "ellipse", "points": [[draw(far), 0], [0, draw(far)]]},
        {"do": "set-keys", "motion": "m", "keys": [{"joint": joint, "kind": "move", "frame": 0, "value": [draw(far), draw(far)]}]},
        {"do": "set-motion", "motion": "m", "length": 20_000, "name": long},
        {"do": "remove-joints", "joints": [joint]},
        {"do": "remove-pieces", "pieces": pieces[: draw(st.integers(1, 3))]},
    ]  # fmt: skip
    command = draw(st.sampled_from(commands))
    if command["do"] not in ("set-keys", "set-motion"):
        command = {"puppet": "a", **command}
    try:
        return do(documents, command)
    except Refusal:
        return documents


def in_order(documents: Documents) -> list[Any]:
    """All that is in documents, also in which order."""
    return [json.loads(d.model_dump_json(), object_pairs_hook=list) for d in documents.by_id.values()]
