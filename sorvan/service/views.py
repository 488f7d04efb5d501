"""What one window looks at: a puppet at rest or a motion, evaluated, and a hand upon it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from sorvan.core.change.commands import COMMAND
from sorvan.core.change.pieces import place_of
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.geometry import Floats
from sorvan.core.model.base import Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Channel, Motion, channel_id
from sorvan.core.model.puppet import Bend, Puppet
from sorvan.core.motion.hand import Grip, Pull, Tried, grip, joint_under, turning
from sorvan.core.plan.bending import weights_of
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plan import Item, items_of, points_of
from sorvan.core.rig.skeleton import piece
from sorvan.core.timing.channels import gaps
from sorvan.picture.studio import ART_MEDIA, Studio
from sorvan.service.rig_report import mesh_message, rig_message
from sorvan.service.rooms import Message


class Watch(Value):
    """What a window asks to see: a puppet at rest, or one of its motions."""

    puppet: str
    motion: str | None = None
    blocking: bool = False


class Hold(Value):
    """The hand closes on a joint at a stage point, with other values already tried.

    If it closes on a `piece`, the core says which joint is meant; `joint` is a first guess.
    """

    frame: int = 0
    joint: str
    piece: str | None = None
    pull: Pull
    at: tuple[float, float]
    tried: dict[str, tuple[float, ...]] = {}


class Drag(Value):
    """The hand moves."""

    n: int
    at: tuple[float, float]
    whole_steps: bool = False


class TryPose(Value):
    """Look at one frame with some channel values tried."""

    n: int
    frame: int = 0
    tried: dict[str, tuple[float, ...]] = {}


class LookAtMesh(Value):
    """Look at the mesh of a piece that bends, and at how much one joint moves each place of it."""

    piece: str
    joint: str | None = None


class TryCommand(Value):
    """Look at the puppet at rest as a command would leave it, without doing it."""

    n: int
    command: dict[str, Any]


def block(values: Floats) -> bytes:
    """`(things, 6, frames)` as little-endian float32 in the order frame, thing, number."""
    return np.ascontiguousarray(values.transpose(2, 0, 1), dtype="<f4").tobytes()


def item_message(item: Item, rest: int) -> Message:
    """One item of a plan, as sent; `rest` is the drawing that shows at rest."""
    return {
        "rest": rest,
        "puppet": item.puppet,
        "piece": item.piece,
        "arts": list(item.arts),
        "boxes": [list(b) for b in item.boxes],
        "hidden": item.hidden,
        "opacity": item.opacity,
        "masks": [list(m) for m in item.masks],
    }


def drawn_message(e: Evaluation, span: slice = slice(None)) -> Message:
    """The numbers that say what to draw in some frames. `shown` is left out where it is as at rest."""
    message: Message = {"matrices": block(e.pieces[:, :, span])}
    if np.any(e.shown[:, span] != e.rig.rest[:, None]):
        message["shown"] = np.ascontiguousarray(e.shown[:, span].T, dtype="<i2").tobytes()
    points = [
        {"item": item, "drawing": drawing, "count": found.shape[0], "data": block(found[:, :, span])}
        for (item, drawing), found in points_of(e).items()
        if found.shape[0]
    ]
    if points:
        message["points"] = points
    if e.reached:
        message["reached"] = {
            id: [_track(r.turned[:, span]), _track(r.reached[:, span]), _blend(e, id, span)]
            for id, r in e.reached.items()
        }
    return message


def _track(places: NDArray[np.complex128]) -> bytes:
    """Places `(joints, frames)` as float32 in the order frame, joint, x y."""
    both = np.stack([places.real, places.imag], axis=-1)
    return np.ascontiguousarray(both.transpose(1, 0, 2), dtype="<f4").tobytes()


def _blend(e: Evaluation, chain: str, span: slice) -> bytes:
    held = e.values.get(channel_id(chain, "reach"))
    percent = np.full(e.frames, 100.0) if held is None else np.clip(held[0], 0, 100)
    return np.ascontiguousarray(percent[span], dtype="<f4").tobytes()


@dataclass
class View:
    """The evaluation a window follows. Every method returns the messages to send."""

    documents: Documents
    watch: Watch
    seq: int
    studio: Studio
    evaluation: Evaluation | None = None
    spaced: dict[str, Channel] = field(default_factory=dict)
    ring: tuple[int, bool] = (0, False)
    held: Grip | None = None
    hold: Hold | None = None

    def _motion(self) -> Motion | None:
        return self.documents.motion(self.watch.motion) if self.watch.motion else None

    def start(self) -> list[Message]:
        """Evaluate everything and send it whole."""
        puppet, motion = self.documents.puppet(self.watch.puppet), self._motion()
        self.evaluation = Evaluation.full(puppet, motion, self.watch.blocking, self.documents.production, self.studio)
        self.spaced = {}
        return [self._plan(self.evaluation), *self._rig(), *self._spacing(motion)]

    def _rig(self) -> list[Message]:
        """What the program makes of the rig, for a window that looks at the puppet at rest."""
        if self.watch.motion or self.evaluation is None:
            return []
        return [rig_message(self.evaluation)]

    def follow(self, documents: Documents, seq: int) -> list[Message]:
        """Take up changed documents: send only the frames and spacing that they touch."""
        behind, before = self.documents.backdrop(), self.evaluation
        swatches = self.documents.production.swatches
        self.documents, self.seq = documents, seq
        if self.watch.puppet not in documents.by_id or (self.watch.motion and self.watch.motion not in documents.by_id):
            return [{"type": "gone", "seq": seq}]
        puppet, motion = documents.puppet(self.watch.puppet), self._motion()
        stage_kept = documents.backdrop() == behind and documents.production.swatches == swatches
        if before is None or not stage_kept or puppet is not before.puppet:
            return self.start()
        self.evaluation, touched = before.after(puppet, motion, documents.production)
        messages: list[Message] = []
        if self.evaluation.frames != before.frames:
            messages.append(self._plan(self.evaluation))
        elif touched.stop > touched.start:
            span = slice(touched.start, touched.stop)
            messages.append(
                {
                    "type": "part",
                    "seq": seq,
                    "start": touched.start,
                    "stop": touched.stop,
                    "worlds": block(self.evaluation.worlds[:, :, span]),
                }
                | drawn_message(self.evaluation, span)
            )
        return [*messages, *self._spacing(motion)]

    def _plan(self, evaluation: Evaluation) -> Message:
        message = self._pictured("plan", evaluation)
        message |= {"frames": evaluation.frames, "seq": self.seq, "watch": self.watch.model_dump()}
        behind = self.documents.backdrop() if self.watch.motion else None
        if behind is not None and behind.id != self.watch.puppet:
            still = self._at_rest(behind)
            message["behind"] = {"items": self._items(still), **drawn_message(still)}
        rest = evaluation if self.watch.motion is None else self._at_rest(evaluation.puppet)
        message["rest"] = {"worlds": block(rest.worlds), **drawn_message(rest)}
        return message

    def _at_rest(self, puppet: Puppet) -> Evaluation:
        return Evaluation.full(puppet, None, False, self.documents.production, self.studio)

    def _items(self, evaluation: Evaluation) -> list[Message]:
        found = items_of(evaluation.puppet, evaluation.production, self.studio, evaluation)
        return [item_message(i, int(rest)) for i, rest in zip(found, evaluation.rig.rest, strict=True)]

    def _pictured(self, kind: Literal["plan", "pose"], evaluation: Evaluation) -> Message:
        message = self._numbers(kind, evaluation)
        if evaluation.motion is None:
            puppet = evaluation.puppet
            message["places"] = {id: [round(v, 4) for v in place_of(puppet, id)] for id in puppet.pieces}
        return message | {"items": self._items(evaluation), "joints": list(evaluation.skeleton.ids)}

    def _numbers(self, kind: Literal["plan", "pose"], evaluation: Evaluation) -> Message:
        return {"type": kind, "worlds": block(evaluation.worlds), **drawn_message(evaluation)}

    def _spacing(self, motion: Motion | None) -> list[Message]:
        """Where the in-betweens of changed channels really fall, and their values at every frame."""
        if motion is None:
            return []
        key = (motion.length, motion.cycle)
        known, self.spaced = self.spaced, dict(motion.channels)
        same_ring, self.ring = self.ring == key, key
        wanted = {id: c for id, c in motion.channels.items() if not same_ring or known.get(id) is not c}
        gone = [id for id in known if id not in motion.channels]
        if not wanted and not gone:
            return []
        assert self.evaluation is not None
        spaced = {
            id: {
                "gaps": [[g.start, g.end, [round(float(p), 4) for p in g.progress]] for g in gaps(c, *key)],
                "values": np.ascontiguousarray(self.evaluation.keyed[id], dtype="<f4").tobytes(),
            }
            for id, c in wanted.items()
        }
        return [{"type": "spacing", "channels": spaced, "gone": gone}]

    def grab(self, hold: Hold) -> list[Message]:
        """Close the hand. Raises `Refusal` if the joint is gone."""
        pose = self._pose(hold.frame, hold.tried)
        joint = joint_under(pose, hold.piece, hold.at) if hold.piece else hold.joint
        if hold.pull == "turn":
            joint = turning(pose.puppet, joint)
        self.hold, self.held = hold, grip(pose, joint, hold.pull, hold.at)
        return [] if joint == hold.joint else [{"type": "grabbed", "joint": joint}]

    def drag(self, drag: Drag) -> list[Message]:
        """Move the hand and answer with the pose it makes."""
        if self.held is None or self.hold is None:
            return []
        tried = {**self.hold.tried, **self.held.at(drag.at, drag.whole_steps)}
        return self.try_pose(TryPose(n=drag.n, frame=self.hold.frame, tried=tried))

    def try_pose(self, wanted: TryPose) -> list[Message]:
        """One frame with these values tried."""
        pose = self._pose(wanted.frame, wanted.tried)
        # The page knows the items and joints from its plan; under a hand only the numbers count.
        message = self._numbers("pose", pose)
        return [
            message | {"n": wanted.n, "frame": wanted.frame, "tried": {k: list(v) for k, v in wanted.tried.items()}}
        ]

    def try_command(self, wanted: TryCommand) -> list[Message]:
        """The watched puppet at rest, as the command would leave it."""
        after = COMMAND.validate_python(wanted.command).apply(self.documents)
        for data in drawn_arts(after).values():
            self.studio.put(ART_MEDIA, data)
        puppet = after.puppet(self.watch.puppet)
        pose = Evaluation.full(puppet, None, False, after.production, self.studio)
        return [self._pictured("pose", pose) | {"n": wanted.n, "frame": 0, "tried": {}}]

    def _pose(self, frame: int, tried: Tried | dict[str, tuple[float, ...]]) -> Evaluation:
        if self.evaluation is None:
            self.start()
        assert self.evaluation is not None
        return self.evaluation.pose(max(0, min(frame, self.evaluation.frames - 1)), tried)

    def look_at_mesh(self, wanted: LookAtMesh) -> list[Message]:
        """The mesh of a bending piece, with one joint's weights."""
        puppet = self.documents.puppet(self.watch.puppet)
        held = piece(puppet, wanted.piece)
        weights = weights_of(puppet, held, held.shown(), self.studio) if isinstance(held.attach, Bend) else None
        assert self.evaluation is not None
        return mesh_message(self.evaluation, held, weights, wanted.joint)
