"""The conductor from the side: rigged like the front one, and walking, tired, and running for the ferry."""

from __future__ import annotations

from sorvan.core.change.dials import DialGiven, SetDial
from sorvan.core.change.keys import NewKey, SetKeys
from sorvan.core.change.looks import SetMasks
from sorvan.core.change.production import AddMotion, SetPuppet
from sorvan.core.change.reaching import BendGiven, SetAttach
from sorvan.core.change.recipes import DoRecipe
from sorvan.core.change.rig import AddJoints, LimitsGiven, NewJoint, SetJoints
from sorvan.core.model.channels import channel_id
from sorvan.core.model.puppet import Bend, Dial, DialStop, Limits
from sorvan.core.model.recipe import Follow, Gait, PresetName
from sorvan.demo.builder import Builder
from sorvan.demo.conductor_side import HEM, LINKS, PIVOTS, TAIL_BENDS, conductor_side_svg

ME = "conductor-side"


def add_side_view(build: Builder) -> None:
    """The conductor in side view with three gaits."""
    j = build.bring(ME, "Conductor from the side", conductor_side_svg(), PIVOTS, LINKS)
    build.do(SetPuppet(puppet=ME, origin=(640, 642)))
    _rig(build, j)
    for id, name, preset in (
        ("walk", "Walk to the ferry", "walk"),
        ("tired", "Tired after the last round", "tired"),
        ("run", "Run, it leaves at nine", "run"),
    ):
        _walk(build, j, id, name, preset)  # type: ignore[arg-type]


def _rig(build: Builder, j: dict[str, str]) -> None:
    """A coat skirt and a scarf that bend, an eye that blinks, roles for what is not named as a limb, limits."""
    tail, skirt = j["scarf tail"], j["skirt"]
    build.do(AddJoints(puppet=ME, joints=(
        NewJoint(id="hem", name="skirt hem", at=HEM, parent=skirt),
        NewJoint(id="tail-middle", name="scarf tail middle", at=TAIL_BENDS[0], parent=tail),
        NewJoint(id="tail-end", name="scarf tail end", at=TAIL_BENDS[1], parent="tail-middle"),
    )))  # fmt: skip
    build.do(SetAttach(puppet=ME, piece=skirt, attach=BendGiven.whole(Bend(joints=(skirt, "hem")))))
    build.do(SetAttach(puppet=ME, piece=tail, attach=BendGiven.whole(Bend(joints=(tail, "tail-middle", "tail-end")))))
    for part in ("pupil", "lid"):
        build.do(SetMasks(puppet=ME, pieces=(j[part],), masks={j["eye"]: "inside"}))
    lid: dict[str, tuple[float, ...]] = {channel_id(j["lid"], "move"): (0.0, 21.0)}
    build.do(
        SetDial(
            puppet=ME,
            dial=DialGiven.whole(Dial(id="blink", name="blink", stops=(DialStop(at=0), DialStop(at=100, values=lid)))),
        )
    )
    build.do(SetJoints(puppet=ME, joints=(j["hips"],), role="pelvis"))
    build.do(SetJoints(puppet=ME, joints=(j["torso"],), role="spine"))
    for side, which in (("near", "right"), ("far", "left")):
        for part, role in (("toe cap", "toe"), ("shoe", "foot")):
            build.do(SetJoints(puppet=ME, joints=(j[f"{side} {part}"],), role=role, side=which))  # type: ignore[arg-type]
        build.do(
            SetJoints(puppet=ME, joints=(j[f"{side} forearm"],), limits=LimitsGiven.whole(Limits(low=-140, high=4)))
        )
        build.do(SetJoints(puppet=ME, joints=(j[f"{side} shin"],), limits=LimitsGiven.whole(Limits(low=-4, high=140))))


def _walk(build: Builder, j: dict[str, str], id: str, name: str, preset: PresetName) -> None:
    """A planned gait, with the scarf, the coat and the satchel swinging after it."""
    build.do(AddMotion(id=id, puppet=ME, name=name, length=24, cycle=True))
    build.do(DoRecipe(motion=id, recipe=Gait(id="gait", name="Gait"), preset=preset))
    quick = preset == "run"
    for recipe in (
        Follow(id="scarf", name="Scarf", joints=(j["scarf tail"], "tail-middle", "tail-end"),
               frequency=2.2 if quick else 1.5, damping=0.22, slower=1.15, pull={"run": 120, "tired": 60}.get(preset, 220)),
        Follow(id="coat", name="Coat", joints=(j["skirt"], "hem"), frequency=2.8, damping=0.35, slower=1.3, pull=90),
        Follow(id="satchel", name="Satchel", joints=(j["satchel"],), frequency=2.2, damping=0.3, pull=90),
    ):  # fmt: skip
        build.do(DoRecipe(motion=id, recipe=recipe))
    if preset == "tired":
        # Heavy lids and a brow that hangs, all through.
        build.do(SetKeys(motion=id, keys=(
            NewKey(joint="blink", kind="dial", frame=0, value=(48.0,)),
            NewKey(joint=j["brow"], kind="turn", frame=0, value=(14.0,)),
        )))  # fmt: skip
