"""What one window looks at: a puppet at rest or a motion, evaluated, and a hand upon it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np

from sorvan.core.change.commands import COMMAND
from sorvan.core.change.pieces import place_of
from sorvan.core.geometry import Floats
from sorvan.core.model.base import Value
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Channel, Motion
from sorvan.core.motion.hand import Grip, Pull, Tried, grip
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plan import Item, items_of
from sorvan.core.timing.channels import gaps
from sorvan.service.rooms import Message


class Watch(Value):
    """What a window asks to see: a puppet at rest, or one of its motions."""

    puppet: str
    motion: str | None = None
    blocking: bool = False


class Hold(Value):
    """The hand closes on a joint at a stage point, with other values already tried."""

    frame: int = 0
    joint: str
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


class TryCommand(Value):
    """Look at the puppet at rest as a command would leave it, without doing it."""

    n: int
    command: dict[str, Any]


def block(values: Floats) -> bytes:
    """`(things, 6, frames)` as little-endian float32 in the order frame, thing, number."""
    return np.ascontiguousarray(values.transpose(2, 0, 1), dtype="<f4").tobytes()


def item_message(item: Item) -> Message:
    """One item of a plan, as sent."""
    return {"puppet": item.puppet, "piece": item.piece, "art": item.art, "hidden": item.hidden}


@dataclass
class View:
    """The evaluation a window follows. Every method returns the messages to send."""

    documents: Documents
    watch: Watch
    seq: int
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
        self.evaluation = Evaluation.full(puppet, motion, self.watch.blocking)
        self.spaced = {}
        return [self._plan(self.evaluation), *self._spacing(motion)]

    def follow(self, documents: Documents, seq: int) -> list[Message]:
        """Take up changed documents: send only the frames and spacing that they touch."""
        behind, before = self.documents.backdrop(), self.evaluation
        self.documents, self.seq = documents, seq
        if self.watch.puppet not in documents.by_id or (self.watch.motion and self.watch.motion not in documents.by_id):
            return [{"type": "gone", "seq": seq}]
        puppet, motion = documents.puppet(self.watch.puppet), self._motion()
        stage_kept = documents.backdrop() == behind
        if before is None or not stage_kept or puppet is not before.puppet:
            return self.start()
        self.evaluation, touched = before.after(puppet, motion)
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
                    "matrices": block(self.evaluation.pieces[:, :, span]),
                    "worlds": block(self.evaluation.worlds[:, :, span]),
                }
            )
        return [*messages, *self._spacing(motion)]

    def _plan(self, evaluation: Evaluation) -> Message:
        message = self._pictured("plan", evaluation)
        message |= {"frames": evaluation.frames, "seq": self.seq, "watch": self.watch.model_dump()}
        behind = self.documents.backdrop() if self.watch.motion else None
        if behind is not None and behind.id != self.watch.puppet:
            still = Evaluation.full(behind)
            message["behind"] = {"items": [item_message(i) for i in items_of(behind)], "matrices": block(still.pieces)}
        rest = evaluation if self.watch.motion is None else Evaluation.full(evaluation.puppet)
        message["rest"] = {"matrices": block(rest.pieces), "worlds": block(rest.worlds)}
        return message

    def _pictured(self, kind: Literal["plan", "pose"], evaluation: Evaluation) -> Message:
        message = self._numbers(kind, evaluation)
        if evaluation.motion is None:
            puppet = evaluation.puppet
            message["places"] = {id: [round(v, 4) for v in place_of(puppet, id)] for id in puppet.pieces}
        return message | {
            "items": [item_message(i) for i in items_of(evaluation.puppet)],
            "joints": list(evaluation.skeleton.ids),
        }

    def _numbers(self, kind: Literal["plan", "pose"], evaluation: Evaluation) -> Message:
        return {"type": kind, "matrices": block(evaluation.pieces), "worlds": block(evaluation.worlds)}

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
                "values": np.ascontiguousarray(self.evaluation.values[id], dtype="<f4").tobytes(),
            }
            for id, c in wanted.items()
        }
        return [{"type": "spacing", "channels": spaced, "gone": gone}]

    def grab(self, hold: Hold) -> None:
        """Close the hand. Raises `Refusal` if the joint is gone."""
        pose = self._pose(hold.frame, hold.tried)
        self.hold, self.held = hold, grip(pose, hold.joint, hold.pull, hold.at)

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
        pose = Evaluation.full(after.puppet(self.watch.puppet))
        return [self._pictured("pose", pose) | {"n": wanted.n, "frame": 0, "tried": {}}]

    def _pose(self, frame: int, tried: Tried | dict[str, tuple[float, ...]]) -> Evaluation:
        if self.evaluation is None:
            self.start()
        assert self.evaluation is not None
        return self.evaluation.pose(max(0, min(frame, self.evaluation.frames - 1)), tried)
