"""The quay at dusk, and the whole demo production."""

from __future__ import annotations

from sqlalchemy import Engine

from sorvan.core.change.commands import AnyCommand
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.pieces import SetPivot
from sorvan.core.change.production import AddMotion, AddPuppet, SetProduction, SetPuppet
from sorvan.core.change.rig import LinkJoint
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import ChannelKind, Ease, Even, Hold, Slow
from sorvan.core.model.production import Production
from sorvan.core.model.puppet import ROOT
from sorvan.demo.conductor import LINKS, PIVOTS, conductor_svg
from sorvan.demo.paper import cut, dot, drawing, flat, limb, line, piece, ring
from sorvan.interchange.archive import Kept
from sorvan.interchange.imported import bring_in
from sorvan.interchange.svg.read import read_svg
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
    turns("head", (1, 0), (8, 7), (18, -7), (26, -3), (35, -7), (48, 0))
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
    # Knees give as she dips, and the shoes stay flat on the boards.
    for side, way in (("left", -1.0), ("right", 1.0)):
        turns(f"{side} thigh", (1, 0), (7, -5 + 9 * way), (16, 4 - 3 * way), (24, 2.5), (33, 4), (41, 2.5), (48, 0))
        turns(f"{side} shin", (1, 0), (7, -16 * way), (16, 4 * way), (24, 0), (48, 0))
        turns(f"{side} shoe", (1, 0), (7, 7 * way), (16, -1 * way), (24, 0), (48, 0))
    return keys


def build() -> tuple[Documents, Kept]:
    """The demo production's documents and art, made by the same commands a user's hand sends."""
    documents = Documents({"quay": Production(id="quay", name=NAME)})
    kept: Kept = {}

    def do(command: AnyCommand) -> None:
        nonlocal documents
        documents = command.apply(documents)

    for id, name, art in (("set", "Quay", quay_svg()), ("conductor", "Conductor", conductor_svg())):
        do(AddPuppet(id=id, name=name))
        found = read_svg(art, f"{id}.svg")
        do(bring_in(documents.production, id, [found]))
        kept |= found.assets
    by_name = {p.name: p.id for p in documents.puppet("conductor").pieces.values()}
    for name, (x, y) in PIVOTS.items():
        do(SetPivot(puppet="conductor", piece=by_name[name], x=x, y=y))
    for name, parent in LINKS.items():
        do(LinkJoint(puppet="conductor", joint=by_name[name], parent=by_name[parent]))
    do(SetPuppet(puppet="conductor", origin=(640, 642)))
    do(SetProduction(backdrop="set"))
    do(AddMotion(id="wave", puppet="conductor", name="Lift the lantern and wave", length=48))
    do(SetKeys(motion="wave", keys=tuple(_wave(by_name))))
    return documents, kept


def load_demo(engine: Engine) -> None:
    """Put the demo production into a database that has no production yet."""
    if log.listed(engine):
        return
    documents, kept = build()
    assets.put(engine, kept)
    log.create(engine, documents)
