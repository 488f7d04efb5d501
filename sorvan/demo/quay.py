"""The quay at dusk, and the whole demo production."""

from __future__ import annotations

import math
from collections.abc import Callable

from sqlalchemy import Engine

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.dials import DialGiven, SetDial
from sorvan.core.change.drawings import GatherDrawings, SetDrawing
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.looks import LinkSwatch, SetMasks, SetSwatch, SwatchGiven
from sorvan.core.change.pieces import SetPieces
from sorvan.core.change.poses import SetPose
from sorvan.core.change.production import AddMotion, SetProduction, SetPuppet
from sorvan.core.change.reaching import AddReach, BendGiven, ChainGiven, SetAttach, SetChain
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.retiming import SetDelay
from sorvan.core.change.rig import AddJoints, LimitsGiven, LinkJoint, NewJoint, SetJoints
from sorvan.core.model.channels import ChannelKind, channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Ease, Even, Hold, Slow
from sorvan.core.model.production import Production, Swatch
from sorvan.core.model.puppet import ROOT, Bend, Chain, Dial, DialStop, Limits
from sorvan.core.model.recipe import Capture
from sorvan.demo import gull
from sorvan.demo.builder import Builder
from sorvan.demo.conductor import LINKS, OPEN_HAND, PIVOTS, SWATCHES, conductor_svg, feet, hem
from sorvan.demo.conductor_round import add_turning, add_views
from sorvan.demo.film import add_film
from sorvan.demo.gull import bends, gull_svg
from sorvan.demo.mouths import NAMES
from sorvan.demo.mouths import PIECES as MOUTHS
from sorvan.demo.paper import cut, dot, drawing, flat, limb, line, piece, ring
from sorvan.demo.props import add_props
from sorvan.demo.steam import add_steam
from sorvan.demo.voices import add_voices
from sorvan.demo.walks import add_side_view
from sorvan.interchange.archive import KeptFiles
from sorvan.store import assets, log

NAME = "Last ferry at nine"


def quay_svg() -> bytes:
    """Sky, hills, sea, the ferry, the quay with its booth, lamp and pennant."""
    defs = (
        '<linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#5f8fa3"/>'
        '<stop offset=".55" stop-color="#e9c9a0"/><stop offset="1" stop-color="#f3b98b"/></linearGradient>'
        '<linearGradient id="sea" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#7aa6a8"/>'
        '<stop offset="1" stop-color="#3f7783"/></linearGradient>'
    )
    waves = "".join(
        line(f"M{x} {y}q14 -6 28 0t28 0", "#e9f0e4", 2.6, 0.45)
        for x, y in ((80, 470), (330, 500), (520, 460), (770, 488), (980, 466), (1120, 512), (210, 528), (880, 530))
    )
    planks = "".join(line(f"M{x} 566L{x - 26 + x // 28} 720", "#8a6a50", 2.4, 0.5) for x in range(40, 1280, 108))
    windows = "".join(dot(x, 396, 5, "#ffe2a0") for x in range(232, 372, 20))
    booth_boards = "".join(line(f"M{x} 342V584", "#a8452f", 2, 0.45) for x in (1040, 1066, 1158, 1184))
    return drawing(
        piece("sky", '<rect width="1280" height="470" fill="url(#sky)"/>'),
        piece("moon", flat(ring(1010, 118, 62, 62), "#fff3d0", 0.25), cut(ring(1010, 118, 42, 42), "#fff0c9", lift=1)),
        piece("clouds",
              flat("M80 150Q110 118 160 132Q190 104 240 126Q290 118 300 150Z", "#fdf3e2", 0.75),
              flat("M690 92Q716 68 756 80Q786 60 820 80Q856 78 862 102Z", "#fdf3e2", 0.6)),
        piece("hills",
              cut("M0 400Q140 330 300 372Q430 318 560 378Q700 340 820 386Q980 330 1280 392V460H0Z", "#7e9a8d", lift=0),
              flat("M0 424Q220 376 470 410Q740 378 980 416Q1130 394 1280 420V460H0Z", "#688a80")),
        piece("sea", '<rect y="440" width="1280" height="160" fill="url(#sea)"/>', waves),
        piece("ferry",
              cut("M176 408H440L410 452H206Z", "#c2523c", lift=2),
              cut("M206 380H396V410H206Z", "#f5e6c8", lift=2),
              cut("M236 352H340V382H236Z", "#f5e6c8", lift=2),
              cut("M300 304H326V354H300Z", "#203a56", lift=2),
              flat("M300 316H326V328H300Z", "#dca540"), windows,
              line("M176 408H440", "#f5e6c8", 4, 0.9), flat("M196 452Q320 462 420 452L408 466H214Z", "#ffffff", 0.25)),
        piece("quay", cut("M0 556H1280V720H0Z", "#b28a68", lift=-4), planks, line("M0 560H1280", "#e4c7a2", 6, 0.8)),
        piece("lamp",
              cut(limb(900, 300, 5, 900, 580, 7), "#2b4a6b"), cut("M880 576H920L926 594H874Z", "#203a56"),
              flat(ring(900, 282, 62, 62), "#ffe09a", 0.22), cut("M884 262H916L910 302H890Z", "#ffe6ad", lift=1),
              cut("M878 264L900 244L922 264Z", "#203a56", lift=1)),
        piece("booth",
              cut("M1016 336H1208V588H1016Z", "#c9614a"), booth_boards,
              cut("M994 340L1024 286H1200L1230 340Z", "#203a56"),
              cut("M1048 376H1176V462H1048Z", "#f9ecd2", lift=1), flat("M1056 384H1168V454H1056Z", "#ffdf9c"),
              cut("M1036 460H1188V476H1036Z", "#8a5a3b", lift=3), line("M1112 384V454", "#c98a4b", 3),
              cut(ring(1112, 314, 19, 19), "#f5e6c8", lift=1), line("M1112 314V301M1112 314L1102 314", "#203a56", 3)),
        piece("pennant pole", cut(limb(1216, 170, 3, 1216, 340, 4), "#5b4336", lift=2)),
        piece("pennant", cut("M1216 176Q1176 184 1150 204Q1178 210 1216 214Z", "#2f8b80", lift=2)),
        piece("bollard", cut("M92 540Q92 526 114 526Q136 526 136 540L132 600H96Z", "#203a56"),
              line("M94 556Q114 566 134 556", "#e9d3a8", 6)),
        defs=defs,
    )  # fmt: skip


def _key(joint: str, frame: int, *value: float, kind: ChannelKind = "turn", ease: Ease | None = None) -> NewKey:
    return NewKey(joint=joint, kind=kind, frame=frame - 1, value=value, ease=ease or Slow(out=45, into=55))


def _wave(j: dict[str, str]) -> list[NewKey]:
    """She dips, lifts the lantern, and waves; frames are counted from 1."""
    keys: list[NewKey] = []

    def turns(name: str, *pairs: tuple[int, float], ease: Ease | None = None) -> None:
        keys.extend(_key(j[name], frame, value, ease=ease) for frame, value in pairs)

    turns("torso", (1, 0), (7, 5), (16, -4), (24, -2.5), (33, -4), (41, -2.5), (48, 0))
    keys += [_key(ROOT, f, 0, y, kind="move") for f, y in ((1, 0), (7, 9), (16, -3), (24, 0), (48, 0))]
    turns("head", (1, 0), (7, 7), (18, -7), (26, -3), (35, -7), (48, 0))
    turns("right upper arm", (1, 0), (8, -14), (18, 96), (22, 90), (40, 92), (48, 0))
    turns("right forearm", (1, 0), (9, -10), (20, 40), (25, 30), (40, 33), (48, 0))
    turns("right hand", (1, 0), (20, 16), (40, 10), (48, 0))
    # The lantern hangs straight, swings past and settles a little later than the hand.
    turns("lantern", (1, 0), (9, 26), (14, -95), (20, -172), (25, -116), (30, -143), (36, -127), (41, -133), (48, 0))
    turns("left upper arm", (1, 0), (8, 10), (17, -128), (41, -128))
    keys.append(_key(j["left upper arm"], 48, 0))
    turns("left forearm", (1, 0), (9, 6), (19, -34), (24, 18), (29, -34), (34, 18), (39, -26), (48, 0))
    turns("left hand", (1, 0), (20, -18), (25, 16), (30, -18), (35, 16), (40, -10), (48, 0))
    turns("left skirt", (1, 0), (9, -5), (19, 5), (27, -1), (48, 0))
    turns("right skirt", (1, 0), (10, -3), (20, 6), (28, 1), (48, 0))
    turns("cap", (1, 0), (18, 0), (22, -5), (27, 0), ease=Even())
    keys.append(_key(j["cap"], 28, 0, ease=Hold()))
    turns("satchel", (1, 0), (10, -3), (20, 4), (27, -1), (34, 2), (48, 0))
    # The feet stay where they stand: their handles belong to the world, and the knees give.
    for heel, frame, value in (("left heel", 14, -6.0), ("left heel", 20, 0.0)):
        keys.append(_key(j[heel], frame, value))
    keys.append(_key(j["left heel"], 9, 0))
    turns("left skirt hem", (1, 0), (10, -8), (20, 9), (29, -4), (40, 2), (48, 0))
    turns("right skirt hem", (1, 0), (11, -6), (21, 10), (30, -4), (41, 2), (48, 0))
    keys += [
        _key("blink", f, v, kind="dial", ease=Even())
        for f, v in ((1, 0), (12, 0), (14, 100), (16, 0), (37, 0), (39, 100), (41, 0))
    ]
    keys += [_key("look", f, v, kind="dial") for f, v in ((1, 0), (10, -60), (20, 90), (44, 90), (48, 0))]
    keys += [
        _key("say", f, v, kind="dial", ease=Hold()) for f, v in ((1, 0), (17, 2), (21, 1), (26, 2), (30, 1), (35, 0))
    ]
    keys += [_key(j["left hand"], f, v, kind="show", ease=Hold()) for f, v in ((1, 0), (15, 1), (43, 0))]
    return keys


def _flap(j: dict[str, str]) -> tuple[list[NewKey], dict[str, float]]:
    """Sixteen frames of flight with two whole poses; and how late each part comes after them: the elbow
    follows the shoulder, and the wrist the elbow."""
    parts = (("", 0.0, 46.0, -34.0), (" elbow", 2.0, -22.0, 20.0), (" wrist", 4.0, -26.0, 30.0))
    swings = [
        (j[f"{wing}{part}"], late + behind, up, down)
        for wing, behind in (("near wing", 0.0), ("far wing", 1.0))
        for part, late, up, down in parts
    ]
    swings += [(j["body"], 2.0, -3.0, 3.0), (j["head"], 3.0, 4.0, -4.0), (j["tail"], 4.0, 6.0, -7.0)]
    keys = [_key(joint, f, v) for joint, _, up, down in swings for f, v in ((1, up), (9, down))]
    keys += [_key(ROOT, f, 0, y, kind="move") for f, y in ((1, 6), (9, -10))]
    return keys, {channel_id(joint, "turn"): late for joint, late, _, _ in swings if late}


def _glide(do: Do, j: dict[str, str]) -> None:
    """A glide drawn with the pointer: down in a long curve, up again on spread wings, and out over the water."""
    do(AddMotion(id="glide", puppet="gull", name="Glide home", length=60))
    samples: list[tuple[float, float, float]] = []
    for n in range(175):
        t = n / 3
        u = t / 58
        # A hand is never quite steady, and slows down where the way turns.
        along = u + 0.05 * math.sin(2 * math.pi * u)
        x, y = 180 + 800 * along, 170 + 240 * math.sin(math.pi * along) ** 1.4 - 90 * along
        tremble = 1.6 * math.sin(n * 1.7) + 1.1 * math.sin(n * 0.9 + 1)
        samples.append((round(t, 3), round(x + tremble, 2), round(y - tremble, 2)))
    do(SetKeys(motion="glide", keys=(NewKey(joint=ROOT, kind="move", frame=0, value=(-400.0, -90.0)),)))
    do(DoRecipe(motion="glide", recipe=Capture(
        id="hand", name="Drawn glide", joint=ROOT, samples=tuple(samples), smooth=2.0, tolerance=2.5,
    )))  # fmt: skip
    keys: list[NewKey] = []
    for name, pairs in (
        ("body", ((1, 6), (16, 20), (34, -4), (46, -20), (60, -6))),
        ("near wing", ((1, -8), (14, 10), (30, 16), (40, -16), (50, 6), (60, 0))),
        ("near wing elbow", ((1, 6), (16, -16), (32, -8), (42, 14), (52, -4), (60, 0))),
        ("near wing wrist", ((1, 8), (18, -20), (34, -6), (44, 20), (54, -6), (60, 0))),
        ("head", ((1, -4), (18, -14), (36, 6), (48, 14), (60, 4))),
        ("tail", ((1, 0), (20, -10), (38, 8), (50, 12), (60, 2))),
    ):
        keys += [_key(j[name], f, float(v)) for f, v in pairs]
        if name.startswith("near wing"):
            keys += [_key(j[name.replace("near", "far")], f, 0.9 * v) for f, v in pairs]
    do(SetKeys(motion="glide", keys=tuple(keys)))
    for wing in ("near wing", "far wing"):
        for part, late in (("", 0.0), (" elbow", 1.0), (" wrist", 2.0)):
            do(
                SetDelay(
                    motion="glide",
                    channels=(channel_id(j[wing + part], "turn"),),
                    delay=late + (wing == "far wing") * 0.5,
                )
            )


def _poses(do: Do, motion: str, labels: dict[int, str]) -> None:
    """Cards for poses, by their frames from 1."""
    for frame, label in labels.items():
        do(SetPose(motion=motion, frame=frame - 1, text=label))


Do = Callable[[AnyCommand], None]


def _dress(do: Do, puppet: str, by_name: dict[str, str], arts: dict[str, list[str]]) -> None:
    """Link every piece cut from a colour of the palette to its swatch."""
    for name, colour in SWATCHES.items():
        id = name.lower()
        do(SetSwatch(swatch=SwatchGiven.whole(Swatch(id=id, name=name, colour=f"{colour}ff"))))
        linked = tuple(p for n, p in by_name.items() if f"fill:{colour}ff" in arts[n])
        do(LinkSwatch(puppet=puppet, pieces=linked, which=f"fill:{colour}ff", swatch=id))


def _rig_conductor(do: Do, j: dict[str, str]) -> dict[str, str]:
    """Eyes that look and blink, a mouth and a hand with several drawings, coat skirts that bend,
    legs that reach with heel and toe. Returns what was made, by name."""
    me = "conductor"
    do(GatherDrawings(puppet=me, piece=j[MOUTHS[0]], others=tuple(j[m] for m in MOUTHS[1:])))
    do(SetPieces(puppet=me, pieces=(j[MOUTHS[0]],), name="mouth"))
    for i, mouth in enumerate(MOUTHS):
        drawing = "d" if i == 0 else f"{j[mouth]}-0"
        name = mouth.removeprefix("mouth ")
        do(SetDrawing(puppet=me, piece=j[MOUTHS[0]], drawing=drawing, name=name, guide=227.0))
    do(GatherDrawings(puppet=me, piece=j["left hand"], others=(j[OPEN_HAND],)))
    do(SetDrawing(puppet=me, piece=j["left hand"], drawing="d", name="at rest"))
    do(SetDrawing(puppet=me, piece=j["left hand"], drawing=f"{j[OPEN_HAND]}-0", name="spread"))
    made: dict[str, str] = {}
    for side in ("left", "right"):
        for part in ("pupil", "lid"):
            do(SetMasks(puppet=me, pieces=(j[f"{side} {part}"],), masks={j[f"{side} eye"]: "inside"}))
        skirt, hem_id = j[f"{side} skirt"], f"{side}-hem"
        do(AddJoints(puppet=me, joints=(NewJoint(id=hem_id, name=f"{side} skirt hem", at=hem(side), parent=skirt),)))
        do(SetAttach(puppet=me, piece=skirt, attach=BendGiven.whole(Bend(joints=(skirt, hem_id)))))
        made[f"{side} skirt hem"] = hem_id
        heel, toe, leg = f"{side}-heel", f"{side}-toe", f"{side}-leg"
        at_heel, at_toe = feet(side)
        do(AddJoints(puppet=me, joints=(
            NewJoint(id=heel, name=f"{side} heel", at=at_heel, handle=True, world=True),
            NewJoint(id=toe, name=f"{side} toe", at=at_toe, parent=heel, handle=True),
        )))  # fmt: skip
        do(AddReach(puppet=me, id=leg, name=f"{side} leg", anchor=j[f"{side} thigh"], end=j[f"{side} shoe"],
                    handle=f"{side}-ankle", follow=True))  # fmt: skip
        do(LinkJoint(puppet=me, joint=f"{side}-ankle", parent=toe))
        chain = Chain(id=leg, name=f"{side} leg", joints=tuple(j[f"{side} {p}"] for p in ("thigh", "shin", "shoe")),
                      handle=f"{side}-ankle", follow=True, bend="clockwise" if side == "left" else "counter-clockwise")  # fmt: skip
        do(SetChain(puppet=me, chain=ChainGiven.whole(chain)))
        made |= {f"{side} heel": heel, f"{side} toe": toe}
    for side, low, high in (("left", -140.0, 30.0), ("right", -30.0, 140.0)):
        do(SetJoints(puppet=me, joints=(j[f"{side} forearm"],), limits=LimitsGiven.whole(Limits(low=low, high=high))))
    lids: dict[str, tuple[float, ...]] = {channel_id(j[f"{s} lid"], "move"): (0.0, 21.0) for s in ("left", "right")}
    pupils = [channel_id(j[f"{s} pupil"], "move") for s in ("left", "right")]
    do(
        SetDial(
            puppet=me,
            dial=DialGiven.whole(Dial(id="blink", name="blink", stops=(DialStop(at=0), DialStop(at=100, values=lids)))),
        )
    )
    do(SetDial(puppet=me, dial=DialGiven.whole(Dial(id="look", name="look", low=-100, high=100, stops=(
        DialStop(at=-100, values=dict.fromkeys(pupils, (-4.0, 0.5))), DialStop(at=0),
        DialStop(at=100, values=dict.fromkeys(pupils, (4.0, 0.5))),
    )))))  # fmt: skip
    shown = ("rest", "open", "round open", "pressed")
    stops = tuple(
        DialStop(at=n, values={channel_id(j[MOUTHS[0]], "show"): (float(NAMES.index(name)),)})
        for n, name in enumerate(shown)
    )
    do(SetDial(puppet=me, dial=DialGiven.whole(Dial(id="say", name="say", low=0, high=3, stops=stops))))
    return made


def _rig_gull(do: Do, j: dict[str, str]) -> dict[str, str]:
    """Wings of one piece each, bending at elbow and wrist. Returns the joints made, by name."""
    made: dict[str, str] = {}
    for wing in ("near wing", "far wing"):
        ids = [f"{wing.split()[0]}-elbow", f"{wing.split()[0]}-wrist"]
        elbow, wrist = bends(wing)
        do(AddJoints(puppet="gull", joints=(
            NewJoint(id=ids[0], name=f"{wing} elbow", at=elbow, parent=j[wing]),
            NewJoint(id=ids[1], name=f"{wing} wrist", at=wrist, parent=ids[0]),
        )))  # fmt: skip
        do(SetAttach(puppet="gull", piece=j[wing], attach=BendGiven.whole(Bend(joints=(j[wing], *ids), roundness=0.7))))
        do(SetJoints(puppet="gull", joints=(j[wing], *ids), role="wing"))
        made |= {f"{wing} elbow": ids[0], f"{wing} wrist": ids[1]}
    return made


def build() -> tuple[Documents, KeptFiles]:
    """The demo production's documents and art, made by the same commands a user's hand sends."""
    made = Builder(Production(id="quay", name=NAME))
    do = made.do
    made.bring("set", "Quay", quay_svg(), {}, {})
    j = made.bring("conductor", "Conductor", conductor_svg(), PIVOTS, LINKS)
    _dress(do, "conductor", j, made.colours["conductor"])
    joints = j | _rig_conductor(do, j)
    do(SetPuppet(puppet="conductor", origin=(640, 642)))
    add_views(made, {**joints, "mouth": j[MOUTHS[0]]})
    do(SetProduction(backdrop="set"))
    do(AddMotion(id="wave", puppet="conductor", name="Lift the lantern and wave", length=48))
    do(SetKeys(motion="wave", keys=tuple(_wave(joints))))
    cards = {1: "at ease", 7: "dip", 18: "lantern up", 26: "wave", 35: "wave back", 41: "last wave", 48: "at ease"}
    _poses(do, "wave", cards)
    add_voices(made, joints, j[MOUTHS[0]])
    add_turning(made, joints)
    j = made.bring("gull", "Gull", gull_svg(), gull.PIVOTS, gull.LINKS)
    joints = j | _rig_gull(do, j)
    do(AddMotion(id="flap", puppet="gull", name="Fly over the quay", length=16, cycle=True))
    keys, late = _flap(joints)
    do(SetKeys(motion="flap", keys=tuple(keys)))
    for channel, frames in late.items():
        do(SetDelay(motion="flap", channels=(channel,), delay=frames))
    _poses(do, "flap", {1: "wings up", 9: "wings down"})
    _glide(do, joints)
    add_side_view(made)
    add_props(made)
    add_steam(made)
    add_film(made)
    return made.documents, made.kept


def load_demo(engine: Engine) -> bool:
    """Put the demo production into a database that has no production yet. Says whether it, or one of its name, is there."""
    if known := log.listed(engine):
        return any(production.name == NAME for production in known)
    documents, kept = build()
    assets.put(engine, kept)
    log.create(engine, documents)
    return True
