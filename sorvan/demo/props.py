"""Small things of the quay, cut from paper: a lantern that falls, and the ferry's pennant."""

from __future__ import annotations

from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.production import AddMotion, SetPuppet
from sorvan.core.change.reaching import BendGiven, SetAttach
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.rig import AddJoints, NewJoint
from sorvan.core.model.ease import Slow
from sorvan.core.model.puppet import Bend
from sorvan.core.model.recipe import Bounce, Follow, Squash
from sorvan.demo.builder import Builder
from sorvan.demo.conductor import BRASS, RUST, TEAL
from sorvan.demo.paper import cut, dot, drawing, flat, line, piece, ring

LANTERN_AT = (640.0, 600.0)
"""The middle of the lantern as it stands on the quay, in stage units; it squashes about its foot."""
FOOT = (640.0, 642.0)

POLE = (470.0, 600.0)
"""Where the pennant's pole is stepped, in stage units."""
FLAG = ((474.0, 246.0), (534.0, 252.0), (594.0, 258.0), (654.0, 262.0), (714.0, 266.0))
"""Where the pennant hangs on the pole, and where it gives, in stage units."""


def lantern_svg() -> bytes:
    """A lantern standing by itself."""
    flame = (
        '<radialGradient id="flame" cx=".5" cy=".55" r=".7"><stop offset="0" stop-color="#fffbe6"/>'
        '<stop offset=".5" stop-color="#ffd978"/><stop offset="1" stop-color="#f0a23c"/></radialGradient>'
    )
    return drawing(
        piece("handle", line("M618 566Q640 506 662 566", "#4a3730", 5)),
        piece(
            "lantern",
            flat(ring(640, 602, 76, 66), "#ffd678", 0.2),
            flat(ring(640, 602, 50, 50), "#ffe09a", 0.28),
            cut("M612 574L622 556H658L668 574Z", RUST, lift=2.5),
            '<path d="M615 574H665L660 630H620Z" fill="url(#flame)"/>',
            line("M627 574L631 630M653 574L649 630", "#7d3a2c", 3.6),
            cut("M608 628H672L666 642H614Z", RUST, lift=2.5),
            dot(640, 560, 4.5, BRASS),
        ),
        defs=flame,
    )


def pennant_svg() -> bytes:
    """The ferry's pennant on its pole."""
    flag = "M474 226Q534 224 594 236Q664 250 764 266Q664 284 594 282Q534 286 474 272Z"
    return drawing(
        piece("pennant", cut(flag, TEAL), flat("M474 240Q534 238 594 247Q634 254 680 262Q634 268 594 270Q534 270 474 258Z", "#f5e6c8", 0.9)),
        piece("pole", cut("M464 214H476L479 602H461Z", "#7d4f33", lift=2.5), cut(ring(470, 208, 9, 9), BRASS, lift=1.5)),
    )  # fmt: skip


def add_props(build: Builder) -> None:
    """The lantern that falls and bounces to rest, and the pennant that follows its pole."""
    lantern = build.bring(
        "lantern", "Lantern", lantern_svg(), {"lantern": FOOT, "handle": (640, 566)}, {"handle": "lantern"}
    )
    build.do(SetPuppet(puppet="lantern", origin=FOOT))
    build.do(AddMotion(id="drop", puppet="lantern", name="Dropped on the quay", length=48))
    me = lantern["lantern"]
    turns = ((0, -24.0), (9, -6.0), (17, 7.0), (24, -4.0), (30, 2.0), (36, 0.0))
    build.do(
        SetKeys(
            motion="drop",
            keys=tuple(
                NewKey(joint=me, kind="turn", frame=f, value=(v,), ease=Slow(out=20, into=20)) for f, v in turns
            ),
        )
    )
    for recipe in (
        Bounce(id="bounce", name="Bounce", joint=me, height=330, frames=9, keeps=55, bounces=4, across=150),
        Squash(id="squash", name="Squash and stretch", joint=me, squash=16, stretch=10),
        Follow(id="handle", name="Handle", joints=(lantern["handle"],), frequency=2.2, damping=0.18, pull=70),
    ):
        build.do(DoRecipe(motion="drop", recipe=recipe))

    pennant = build.bring("pennant", "Pennant", pennant_svg(), {"pole": POLE, "pennant": FLAG[0]}, {"pennant": "pole"})
    build.do(SetPuppet(puppet="pennant", origin=POLE))
    ids = tuple(f"flag-{n}" for n in range(1, len(FLAG)))
    chain = (pennant["pennant"], *ids)
    build.do(AddJoints(puppet="pennant", joints=tuple(
        NewJoint(id=id, name=f"pennant {n + 1}", at=at, parent=chain[n]) for n, (id, at) in enumerate(zip(ids, FLAG[1:], strict=True))
    )))  # fmt: skip
    build.do(SetAttach(puppet="pennant", piece=pennant["pennant"], attach=BendGiven.whole(Bend(joints=chain))))
    build.do(AddMotion(id="wind", puppet="pennant", name="Wind off the water", length=48, cycle=True))
    sway = ((0, -2.5), (12, 3.5), (24, -1.0), (34, 4.5))
    keys = [
        NewKey(joint=pennant["pole"], kind="turn", frame=f, value=(v,), ease=Slow(out=50, into=50)) for f, v in sway
    ]
    flaps = ((0, 10.0), (12, -9.0), (24, 8.0), (36, -10.0))
    keys += [NewKey(joint=chain[0], kind="turn", frame=f, value=(v,), ease=Slow(out=50, into=50)) for f, v in flaps]
    build.do(SetKeys(motion="wind", keys=tuple(keys)))
    build.do(
        DoRecipe(
            motion="wind",
            recipe=Follow(
                id="drag", name="Follow-through", joints=ids, frequency=1.9, damping=0.3, slower=1.06, pull=34
            ),
        )
    )
