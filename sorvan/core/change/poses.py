"""Commands on the poses of a motion: the cards of the pose strip."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import Command, MotionCommand, Tried, reached, several
from sorvan.core.change.posing import PosingCommand
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import channel_id
from sorvan.core.model.documents import Documents
from sorvan.core.model.ease import Even
from sorvan.core.model.motion import Motion, Pose
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.times import LONGEST, Frame, Moving
from sorvan.core.motion import cards
from sorvan.core.motion.kept_poses import poses_kept
from sorvan.core.motion.keying import keyed
from sorvan.core.motion.posed import posed
from sorvan.core.motion.retime import Bound, retimed
from sorvan.core.motion.round import turned_round
from sorvan.core.rig.facing import Facing, view_of
from sorvan.core.timing.channels import travels
from sorvan.core.timing.rates import per_second
from sorvan.core.voice.placing import put_off

PoseFrames = Annotated[tuple[Frame, ...], Field(min_length=1, max_length=2000)]
CardText = Annotated[str, Field(max_length=40)]


def pose_name(motion: Motion, frame: int) -> str:
    """What a pose is called in a sentence."""
    label = motion.poses[frame].label if frame in motion.poses else ""
    return f"“{label}”" if label else f"the pose at frame {frame + 1}"


class KeyPose(PosingCommand):
    """Key the whole pose at a frame, and give it a card: every joint's turn, where handles and the puppet are, every
    channel that has keys anywhere, each at what it holds there, and whatever is tried. Mouths to words are no part of a
    pose."""

    do: Literal["key-pose"] = "key-pose"
    tried: Tried = {}

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        after = super().on(motion, puppet)
        return after.changed(poses={self.frame: Pose()} | after.poses)

    def values(self, motion: Motion, puppet: Puppet) -> Tried:
        fresh = [channel_id(id, "move" if joint.handle else "turn") for id, joint in puppet.joints.items()]
        whole = [channel_id(ROOT, "move"), channel_id(ROOT, "turn")]
        return posed(motion, puppet, self.frame, dict.fromkeys((*whole, *fresh, *motion.channels))) | self.tried

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        threads = len(self.values(motion, documents.puppet(motion.puppet)))
        return f"Key the whole pose at frame {self.frame + 1}: {several(threads, 'thread')}"


def _ring(motion: Motion) -> tuple[int, bool]:
    return motion.length, motion.cycle


class SetPose(MotionCommand):
    """Give a frame a card on the pose strip, or change what its card says; only what is given changes."""

    do: Literal["set-pose"] = "set-pose"
    frame: Frame
    text: CardText | None = None
    breakdown: bool | None = None
    note: Annotated[str, Field(max_length=400)] | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        reached(motion, self.frame)
        given = {"label": self.text, "breakdown": self.breakdown, "note": self.note}
        told = {k: v for k, v in given.items() if v is not None}
        # A card that the hand describes is the hand's, as a key would be.
        pose = motion.poses.get(self.frame, Pose()).changed(**told, recipe=None)
        return motion.changed(poses=motion.poses | {self.frame: pose})

    def label(self, documents: Documents) -> str:
        if self.text:
            return f"Call the pose at frame {self.frame + 1} “{self.text}”"
        return f"Describe {pose_name(documents.motion(self.motion), self.frame)}"


class FindPoses(MotionCommand):
    """Give a card to every frame at which at least a part (percent) of all channels has keys."""

    do: Literal["find-poses"] = "find-poses"
    part: Annotated[float, Field(ge=1, le=100)] = 50.0

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        counts: dict[int, int] = {}
        for channel in motion.channels.values():
            for frame in channel.keys:
                counts[frame] = counts.get(frame, 0) + 1
        enough = max(1.0, len(motion.channels) * self.part / 100)
        found = {f: Pose() for f, n in counts.items() if n >= enough and f < motion.length}
        if not found:
            raise Refusal(
                f"No frame has keys on {self.part:g} % of the channels.",
                where=motion.name,
                remedy="Key a whole pose first, or ask for a smaller part.",
            )
        return motion.changed(poses=found | motion.poses)

    def label(self, documents: Documents) -> str:
        return "Make cards of the poses that are keyed"


class PoseCommand(MotionCommand):
    """A command on some poses."""

    frames: PoseFrames

    def named(self, documents: Documents) -> str:
        """What they are called in the list of changes."""
        motion = documents.motion(self.motion)
        return pose_name(motion, self.frames[0]) if len(self.frames) == 1 else f"{len(self.frames)} poses"


class RemovePoses(PoseCommand):
    """Take poses away, with all keys at their frames unless only the cards are to go."""

    do: Literal["remove-poses"] = "remove-poses"
    keep_keys: bool = False

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for f in self.frames:
            cards.card(motion, f)
        if self.keep_keys:
            return motion.changed(poses={f: p for f, p in motion.poses.items() if f not in self.frames})
        return cards.without(motion, set(self.frames))

    def label(self, documents: Documents) -> str:
        if self.keep_keys:
            return f"Take the card from {self.named(documents)}"
        motion = documents.motion(self.motion)
        found = [len(cards.frames_of(c).intersection(self.frames)) for c in motion.channels.values()]
        keyed_on = sum(1 for n in found if n)
        keys = f"{several(sum(found), 'key')} on {several(keyed_on, 'channel')}"
        return f"Remove {self.named(documents)} with {keys}"


class RetimePose(MotionCommand):
    """Make a pose last so many frames: later poses `follow`, or the next one gives way."""

    do: Literal["retime-pose"] = "retime-pose"
    frame: Frame
    frames: Annotated[int, Field(ge=1, le=LONGEST)]
    follow: bool = True

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return cards.with_length(motion, self.frame, self.frames, self.follow)

    def label(self, documents: Documents) -> str:
        return f"Let {pose_name(documents.motion(self.motion), self.frame)} last {several(self.frames, 'frame')}"


class HoldPose(MotionCommand):
    """Hold a pose for exactly so many frames, and then go on to the next as before.

    With a `drift` (percent of the way to the next pose) it creeps on meanwhile and never stops dead.
    Later poses `follow` by as many frames, or the way to the next pose is shorter.
    """

    do: Literal["hold-pose"] = "hold-pose"
    frame: Frame
    frames: Annotated[int, Field(ge=1, le=LONGEST)]
    drift: Annotated[float, Field(ge=0, le=50)] = 0.0
    follow: bool = False

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        held = cards.card(motion, self.frame)
        if self.follow:
            motion = cards.with_length(motion, self.frame, held.frames + self.frames, follow=True)
            held = cards.card(motion, self.frame)
        until = self.frame + self.frames
        if until >= held.end:
            raise Refusal(
                f"{pose_name(motion, self.frame)[:1].upper()}{pose_name(motion, self.frame)[1:]} lasts only"
                f" {several(held.frames, 'frame')} until the next.",
                remedy="Hold it for less, or let later poses follow.",
            )
        bound = Bound.of(motion).channels
        moving = {id for id, c in motion.channels.items() if id not in bound and not travels(c, *_ring(motion))}
        here = cards.mixed(motion, self.frame, held.end, 0.0, moving)
        drifted = cards.mixed(motion, self.frame, held.end, self.drift, moving)
        channels: list[Channel] = []
        for id in moving:
            channel = motion.channels[id]
            keys = {f: k for f, k in channel.keys.items() if not self.frame < f <= until}
            own = channel.keys.get(self.frame) or keyed(keys, self.frame, channel.kind, here[id].value)
            keys[until] = own.changed(value=drifted[id].value, recipe=None, slot=None, hand=False)
            keys[self.frame] = own.by_hand(ease=Even())
            channels.append(channel.changed(keys=keys))
        return motion.with_channels(*channels)

    def label(self, documents: Documents) -> str:
        return f"Hold {pose_name(documents.motion(self.motion), self.frame)} for {several(self.frames, 'frame')}"


class OrderPoses(PoseCommand):
    """Put poses before another pose, or at the end; each keeps its length."""

    do: Literal["order-poses"] = "order-poses"
    before: Frame | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return cards.reordered(motion, set(self.frames), self.before)

    def label(self, documents: Documents) -> str:
        where = (
            "to the end" if self.before is None else f"before {pose_name(documents.motion(self.motion), self.before)}"
        )
        return f"Put {self.named(documents)} {where}"


class DuplicatePoses(PoseCommand):
    """Put copies of poses right after them; what follows goes on later."""

    do: Literal["duplicate-poses"] = "duplicate-poses"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return cards.duplicated(motion, set(self.frames))

    def label(self, documents: Documents) -> str:
        return f"Duplicate {self.named(documents)}"


class PastePoses(Command):
    """Put copies of a motion's poses down from a frame on: the first there, the others as far after it
    as they were. Keys at those frames are replaced. `mirrored` swaps their sides."""

    do: Literal["paste-poses"] = "paste-poses"
    motion: Id
    source: Id
    frames: PoseFrames
    at: Frame
    mirrored: bool = False
    view: Facing | None = None

    def result(self, documents: Documents) -> Documents:
        motion, source = documents.motion(self.motion), documents.motion(self.source)
        if motion.puppet != source.puppet:
            raise Refusal("Those poses are another puppet's.", where=source.name, remedy="Copy a pose of this puppet.")
        puppet = documents.puppet(motion.puppet)
        view = self.view or view_of(puppet)
        first = min(self.frames)
        if max(self.frames) - first + self.at >= motion.length:
            raise Refusal(
                f"The poses would leave the motion's {motion.length} frames.",
                where=motion.name,
                remedy="Paste them earlier, or make the motion longer first.",
            )
        before = motion
        for f in sorted(self.frames):
            cards.card(source, f)
            at = f - first + self.at
            motion = cards.with_copies(motion, source, f, f + 1, at, puppet if self.mirrored else None, view)
        return documents.with_(poses_kept(before, motion, puppet, motion.channels))

    def label(self, documents: Documents) -> str:
        how = " mirrored" if self.mirrored else ""
        return f"Paste {several(len(self.frames), 'pose')}{how} at frame {self.at + 1}"


class MirrorPoses(PoseCommand):
    """Swap the sides of poses. Seen from the `side` both sides swap their values; from the `front` they
    are mirror images. Twice is as before."""

    do: Literal["mirror-poses"] = "mirror-poses"
    view: Facing | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for f in self.frames:
            cards.card(motion, f)
            motion = cards.mirrored_at(motion, puppet, f, self.view or view_of(puppet))
        return motion

    def label(self, documents: Documents) -> str:
        return f"Mirror {self.named(documents)}"


class MirrorHalf(MotionCommand):
    """Make the second half of a cycle from its first: sides swapped, half a cycle later."""

    do: Literal["mirror-half"] = "mirror-half"
    view: Facing | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return cards.half_mirrored(motion, puppet, self.view or view_of(puppet))

    def label(self, documents: Documents) -> str:
        return f"Make the second half of “{documents.motion(self.motion).name}” from its first"


class BreakDown(MotionCommand):
    """Put a breakdown between two poses: a mix of both (percent of the way, beyond 0…100 too) at a frame.

    On some channels only, or on all that have keys at either pose.
    """

    do: Literal["break-down"] = "break-down"
    first: Frame
    second: Annotated[int, Field(ge=0, le=LONGEST)]
    at: Frame
    percent: Annotated[float, Field(ge=-50, le=150)] = 50.0
    channels: tuple[str, ...] | None = None

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        for frame in (self.first, self.at, self.second - motion.cycle):
            reached(motion, frame)
        end = self.second if self.second > self.first else self.second + motion.length
        if not self.first < self.at < end:
            raise Refusal(
                "A breakdown lies between its two poses.",
                where=f"frame {self.at + 1}",
                remedy="Leave at least one frame between them.",
            )
        found: list[Channel] = []
        for id, key in cards.mixed(motion, self.first, self.second, self.percent, self.channels).items():
            channel = motion.channels[id]
            if travels(channel, *_ring(motion)):
                continue
            keys = dict(channel.keys)
            keys[self.at] = keyed(keys, self.at, channel.kind, key.value)
            found.append(channel.changed(keys=keys))
        if not found:
            raise Refusal("There is nothing to mix: neither pose has keys.", where=motion.name)
        pose = motion.poses.get(self.at, Pose(breakdown=True))
        return motion.with_channels(*found).changed(poses=motion.poses | {self.at: pose})

    def label(self, documents: Documents) -> str:
        return f"Break down at frame {self.at + 1}, {self.percent:g} % of the way"


class FlipPuppet(MotionCommand):
    """Turn the whole puppet round where it stands at frame 0: from then on it looks and goes the other way."""

    do: Literal["flip-puppet"] = "flip-puppet"

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return turned_round(motion, puppet)

    def label(self, documents: Documents) -> str:
        return f"Turn the puppet round in “{documents.motion(self.motion).name}”"


class InsertTime(Command):
    """Put frames in from a frame on, or, with less than none, take frames out; keys there go. Sounds that begin
    there or later are moved along."""

    do: Literal["insert-time"] = "insert-time"
    motion: Id
    at: Frame
    frames: Annotated[int, Field(ge=-LONGEST, le=LONGEST)]

    def result(self, documents: Documents) -> Documents:
        motion = documents.motion(self.motion)
        rate = per_second(documents.production.rate)
        lasts = {id: voice.seconds for id, voice in documents.lines_on(motion).items()}
        sounds = put_off(motion.sounds, float(self.at / rate), float(self.frames / rate), lasts)
        along = {id: self.frames for id, s in sounds.items() if s is not motion.sounds[id]}
        motion = motion.changed(sounds=sounds)
        if self.frames < 0:
            motion = cards.without(motion, set(range(self.at, self.at - self.frames)))
            if self.at == 0:
                motion = _begun_again(motion, -self.frames)
        place = Moving.put_in(self.at, self.frames).place
        return documents.with_(retimed(motion, place, motion.length + self.frames, along))

    def label(self, documents: Documents) -> str:
        what = several(abs(self.frames), "frame")
        return f"{'Put in' if self.frames > 0 else 'Take out'} {what} at frame {self.at + 1}"


def _begun_again(motion: Motion, frame: int) -> Motion:
    """The motion begun at a frame: how far it goes on counts from what is keyed there, if that is."""
    late = [c for c in motion.channels.values() if frame in c.keys and travels(c, *_ring(motion))]
    return motion.with_channels(*(c.changed(keys={f: k for f, k in c.keys.items() if f}) for c in late))


CardCommand = (
    KeyPose | SetPose | FindPoses | RemovePoses | RetimePose | HoldPose | OrderPoses | DuplicatePoses | PastePoses
    | MirrorPoses | MirrorHalf | BreakDown | FlipPuppet | InsertTime
)  # fmt: skip
