"""The conductor seen from all round: eight views on one dial, the second half the first in the mirror; and what she does
on it."""

from __future__ import annotations

import math

import numpy as np

from sorvan.core.change.drawings import GatherDrawings, SetDrawing
from sorvan.core.change.gathering import GatherViews
from sorvan.core.change.in_views import PlaceInView
from sorvan.core.change.keys import NewKey, SetKeys, SetOutside
from sorvan.core.change.pieces import SetPieces
from sorvan.core.change.poses import SetPose
from sorvan.core.change.production import AddMotion
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.views import FlipViews, KeepView
from sorvan.core.geometry import Point
from sorvan.core.model.channels import channel_id
from sorvan.core.model.ease import Even, Slow
from sorvan.core.model.recipe import Follow, Gait
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.turning import seen_from
from sorvan.core.rig.skeleton import rest_worlds
from sorvan.demo.builder import Builder
from sorvan.demo.conductor import PIVOTS
from sorvan.demo.conductor_views import (
    AT,
    BONES,
    FAR_LANTERN,
    PLACES,
    SIZES,
    STRAPS,
    UNSEEN,
    below,
    conductor_views_svg,
    cut_anew,
)

ME, TURN = "conductor", "turn"
RoundValues = dict[str, tuple[float, ...]]


def add_views(build: Builder, j: dict[str, str]) -> None:
    """Seven more views of the conductor. `j` are her joints by their names."""
    straps = build.more(ME, conductor_views_svg())
    build.do(GatherViews(puppet=ME, dial=TURN))
    for view, at in AT.items():
        _pose(build, j, view, at)
    build.do(FlipViews(puppet=ME, dial=TURN))
    _on_her_right(build, j, straps)


def _pose(build: Builder, j: dict[str, str], view: str, at: float) -> None:
    """Turn, size and place what is not cut anew for a view, and put away what is not seen there."""
    front = {name: rest_worlds(build.documents.puppet(ME))[j[name]].at for name in {*BONES, *BONES.values()}}
    # What is cut anew lies where it was cut, and turns about its own place.
    for name in cut_anew(view):
        _place(build, j[name], at, PLACES[view].get(name, PIVOTS[name]))
    tried: RoundValues = {channel_id(j[name], "opacity"): (0.0,) for name in UNSEEN[view]}
    tried |= {channel_id(j[name], "scale"): (wide, 1.0) for name, wide in SIZES[view].items()}
    turned: dict[str, float] = {}
    for name, end in BONES.items():
        turned[name] = _angle(PLACES[view][name], PLACES[view][end]) - _angle(front[name], front[end])
    for side in ("left", "right"):
        upper, lower = turned[f"{side} upper arm"], turned[f"{side} forearm"]
        thigh, shin = turned[f"{side} thigh"], turned[f"{side} shin"]
        tried |= {
            channel_id(j[f"{side} upper arm"], "turn"): (upper,),
            channel_id(j[f"{side} forearm"], "turn"): (lower - upper,),
        }
        tried |= {
            channel_id(j[f"{side} thigh"], "turn"): (thigh,),
            channel_id(j[f"{side} shin"], "turn"): (shin - thigh,),
        }
        # Shoes stand, and the lantern hangs, as they do.
        tried[channel_id(j[f"{side} shoe"], "turn")] = (-shin,)
    tried[channel_id(j["lantern"], "turn")] = (-turned["right forearm"] * SIZES[view].get("right hand", 1.0),)
    if view == "back":
        # Both arms hang over the coat.
        order = build.documents.puppet(ME).order
        tried[channel_id(j["left upper arm"], "order")] = (
            order.index(j["torso"]) + 0.5 - order.index(j["left upper arm"]),
        )
    _keep(build, at, tried)
    for name in below(view):
        _carry(build, j[name], at, PLACES[view][name])
    for side in ("left", "right"):
        _carry(build, f"{side}-ankle", at, PLACES[view][f"{side} shoe"])


def _keep(build: Builder, at: float, tried: RoundValues) -> None:
    build.do(KeepView(puppet=ME, dial=TURN, at=at, tried={c: tuple(round(x, 3) for x in v) for c, v in tried.items()}))


def _place(build: Builder, joint: str, at: float, place: Point) -> None:
    """Let a joint lie there in a view, its picture and what hangs on it staying."""
    build.do(PlaceInView(puppet=ME, dial=TURN, at=at, joint=joint, x=place[0], y=place[1]))


def _carry(build: Builder, joint: str, at: float, place: Point) -> None:
    """Move a joint there in a view, with its picture and what hangs on it."""
    puppet = seen_from(build.documents.puppet(ME), at)
    worlds, held = rest_worlds(puppet), puppet.joints[joint]
    away = (place[0] - worlds[joint].e, place[1] - worlds[joint].f)
    inward = worlds[held.parent].inverse() if held.parent and not held.world else None
    _keep(build, at, {channel_id(joint, "move"): inward.arrow(away) if inward else away})


def _angle(a: Point, b: Point) -> float:
    return math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))


def _on_her_right(build: Builder, j: dict[str, str], straps: dict[str, str]) -> None:
    """The satchel and the lantern stay on her right in the mirror too, where that is the far side."""
    satchel, lantern = j["satchel"], j["lantern"]
    build.do(SetPieces(puppet=ME, pieces=(satchel,), one_way=True))
    build.do(GatherDrawings(puppet=ME, piece=satchel, others=tuple(straps[name] for name, _ in STRAPS.values())))
    puppet = build.documents.puppet(ME)
    number = {d.name: d.number for d in puppet.pieces[satchel].drawings}
    for at, (name, _) in STRAPS.items():
        # Drawn where it is seen, and so not where the satchel is from the front.
        view = next(v for v, degrees in AT.items() if degrees == 360 - at)
        dx = PIVOTS["satchel"][0] - PLACES[view]["satchel"][0]
        drawing = next(d.id for d in puppet.pieces[satchel].drawings if d.name == name)
        build.do(SetDrawing(puppet=ME, piece=satchel, drawing=drawing, dx=dx))
    behind = puppet.order.index(j["left upper arm"]) - puppet.order.index(lantern) + 0.5
    for at, (name, _) in STRAPS.items():
        own: RoundValues = {
            channel_id(satchel, "show"): (float(number[name]),),
            channel_id(lantern, "order"): (behind,),
        }
        build.do(KeepView(puppet=ME, dial=TURN, at=at, tried=own))
        _carry(build, lantern, at, FAR_LANTERN[at])


def add_turning(build: Builder, j: dict[str, str]) -> None:
    """A walk that is planned from the side and plays from everywhere, and a turn all the way round."""
    do, soft = build.do, Slow(out=45, into=45)
    do(AddMotion(id="stroll", puppet=ME, name="Walk, seen from all sides", length=24, cycle=True))
    do(DoRecipe(motion="stroll", recipe=Gait(id="gait", name="Gait", arms=15, elbow=10)))
    do(DoRecipe(motion="stroll", recipe=Follow(
        id="satchel", name="Satchel", joints=(j["satchel"],), frequency=2.2, damping=0.3, pull=60,
    )))  # fmt: skip
    # The lantern hangs down from the hand that swings it, a little late.
    walk = Evaluation.full(build.documents.puppet(ME), build.documents.motion("stroll"))
    hand = walk.worlds[walk.rig.row[j["right hand"]]]
    angle = np.degrees(np.unwrap(np.arctan2(hand[1], hand[0])))
    still = math.degrees(math.atan2(*reversed(rest_worlds(walk.stance)[j["right hand"]][:2])))
    do(SetKeys(motion="stroll", keys=tuple(
        NewKey(joint=j["lantern"], kind="turn", frame=f, value=(round(-0.8 * float(angle[f - 2] - still), 2),),
               ease=Slow(out=40, into=40))
        for f in range(0, 24, 4)
    )))  # fmt: skip
    do(AddMotion(id="face", puppet=ME, name="Stop and turn to the front", length=42))
    do(SetKeys(motion="face", keys=(
        *(NewKey(joint=TURN, kind="dial", frame=f, value=(v,), ease=Even()) for f, v in ((0, 90.0), (12, 90.0), (22, 0.0))),
        # The head leads, and she blinks on the way.
        *(NewKey(joint=j["head"], kind="turn", frame=f, value=(v,), ease=soft)
          for f, v in ((0, 0.0), (10, 5.0), (16, -2.0), (24, -3.0), (32, 0.0))),
        *(NewKey(joint="blink", kind="dial", frame=f, value=(v,), ease=Even())
          for f, v in ((11, 0.0), (14, 100.0), (19, 100.0), (22, 0.0))),
        *(NewKey(joint=j["torso"], kind="move", frame=f, value=(0.0, v), ease=soft)
          for f, v in ((0, 0.0), (16, 1.6), (26, -0.5), (34, 0.0))),
        *(NewKey(joint=j["lantern"], kind="turn", frame=f, value=(v,), ease=soft)
          for f, v in ((0, 0.0), (14, -9.0), (22, 7.0), (30, -4.0), (38, 0.0))),
    )))  # fmt: skip
    do(AddMotion(id="round", puppet=ME, name="Turn round", length=48, cycle=True))
    steps = range(9)
    do(SetKeys(motion="round", keys=(NewKey(joint=TURN, kind="dial", frame=0, value=(0.0,), ease=Even()),)))
    do(SetOutside(motion="round", channels=(channel_id(TURN, "dial"),), outside="repeat-and-add"))
    keys = [NewKey(joint=TURN, kind="dial", frame=48, value=(360.0,), ease=Even())]
    # With every view she takes a small step: down as it comes, and up again.
    keys += [NewKey(joint=j["head"], kind="move", frame=6 * n + d, value=(0.0, y), ease=soft)
             for n in steps[:-1] for d, y in ((0, 0.0), (3, 2.5))]  # fmt: skip
    do(SetKeys(motion="round", keys=tuple(keys)))
    names = ("front", "three-quarter", "side", "three-quarter back", "back", "back again", "other side", "nearly there")
    for n, name in enumerate(names):
        do(SetPose(motion="round", frame=6 * n, text=name))
