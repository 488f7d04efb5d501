"""The hand on one of a shot's cast: what it pulls is tried at the frame that shows, and keyed by a command."""

from __future__ import annotations

from dataclasses import dataclass

from sorvan.core.errors import Refusal, missing
from sorvan.core.geometry import Affine, Point
from sorvan.core.model.channels import kind_of
from sorvan.core.model.shot import Copies
from sorvan.core.motion.hand import typed
from sorvan.core.motion.limb import Grasp, take
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.shot.scene import Acted, ShotScene
from sorvan.service.letters.messages import Drag, Grab, Grabbed, PoseLetter, ToPage, TriedChannels, TryPose
from sorvan.service.windows.drawn import posed


@dataclass
class ShotHand:
    """What a window's hand holds in a shot. Places are units of the picture, as the camera sees the shot."""

    held: Grasp | None = None
    hand: Grab | None = None

    def grab(self, scene: ShotScene, hand: Grab) -> list[ToPage]:
        """Close the hand; whatever it held before, it holds no more. Raises `Refusal` if what it means is gone."""
        self.hand = self.held = None
        acted = _acted(scene, hand.cast)
        pose = _pose(acted, hand.frame, hand.tried)
        at = _inward(scene, acted, hand.frame, hand.at)
        held = take(pose, hand.pull, hand.joint, hand.piece, at, begins=hand.begins)
        self.held, self.hand = held, hand
        return [] if held.joint == hand.joint else [Grabbed(joint=held.joint)]

    def drag(self, scene: ShotScene, drag: Drag) -> list[ToPage]:
        """Move the hand and answer with the pose it makes. Raises `Refusal` if it holds nothing."""
        if self.held is None or self.hand is None:
            raise Refusal("The hand holds nothing.", remedy="Take hold of it again.", kind="missing")
        at = _inward(scene, _acted(scene, self.hand.cast), self.hand.frame, drag.at)
        tried = {**self.hand.tried, **self.held.at(at, drag.whole_steps)}
        wanted = TryPose(n=drag.n, frame=self.hand.frame, tried=tried, cast=self.hand.cast)
        return self.try_pose(scene, wanted)

    def try_pose(self, scene: ShotScene, wanted: TryPose) -> list[ToPage]:
        """One of the cast at a frame with these values. Raises `Refusal` if a value is not one of its channel's kind."""
        pose = _pose(_acted(scene, wanted.cast), wanted.frame, wanted.tried)
        return [PoseLetter(n=wanted.n, frame=wanted.frame, tried=wanted.tried, cast=wanted.cast, **posed(pose))]


def _acted(scene: ShotScene, cast: str | None) -> Acted:
    found = next((a for a in scene.acted if a.cast.id == cast), None)
    if found is None:
        raise missing("cast member of the shot", cast or "nobody")
    if isinstance(found.cast, Copies):
        raise Refusal("What is copied has no poses of its own.", remedy="Change its motion.", where=found.cast.name)
    return found


def _pose(acted: Acted, frame: int, tried: TriedChannels) -> Evaluation:
    for channel, numbers in tried.items():
        typed(kind_of(channel), numbers)
    at = max(0, min(frame, acted.evaluation.frames - 1))
    return acted.evaluation.pose(at if acted.holds is None else int(acted.holds[at]), tried)


def _inward(scene: ShotScene, acted: Acted, frame: int, at: Point) -> Point:
    """A place of the picture in the space of one of the cast."""
    stage = scene.stage_of(acted)[:, max(0, min(frame, scene.frames - 1))]
    return Affine(*stage.tolist()).inverse().place(at)
