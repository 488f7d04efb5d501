"""What one window looks at: a puppet at rest or a motion, evaluated, and a hand upon it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sorvan.core.change.pieces import places_of
from sorvan.core.change.shapes import drawn_arts
from sorvan.core.errors import Refusal
from sorvan.core.geometry import Floats
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Channel, Motion, channel_id
from sorvan.core.model.puppet import Bend, Puppet
from sorvan.core.motion.hand import Grip, Tried, grip, joint_under, turning, typed
from sorvan.core.plan.bending import weights_of
from sorvan.core.plan.dials import kind_of
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.plan import Item, items_of, points_of
from sorvan.core.rig.skeleton import piece
from sorvan.core.timing.channels import gaps
from sorvan.picture.studio import ART_MEDIA, Studio
from sorvan.service.messages import (
    Behind,
    BentPoints,
    Drag,
    Gone,
    Grab,
    Grabbed,
    ItemView,
    LookAtMesh,
    Part,
    PlanLetter,
    Posed,
    PoseLetter,
    SpacedView,
    Spacing,
    ToPage,
    TryCommand,
    TryPose,
    Watch,
)
from sorvan.service.rig_report import mesh_letters, rig_letter


def block(values: Floats) -> bytes:
    """`(things, 6, frames)` as little-endian float32 in the order frame, thing, number."""
    return np.ascontiguousarray(values.transpose(2, 0, 1), dtype="<f4").tobytes()


def item_view(item: Item, rest: int) -> ItemView:
    """One item of a plan, as sent; `rest` is the drawing that shows at rest."""
    return ItemView(
        rest=rest,
        puppet=item.puppet,
        piece=item.piece,
        arts=item.arts,
        boxes=item.boxes,
        hidden=item.hidden,
        opacity=item.opacity,
        masks=item.masks,
    )


def drawn(e: Evaluation, span: slice = slice(None)) -> dict[str, Any]:
    """The fields of `Drawn` for some frames. `shown` is left out where it is as at rest."""
    fields: dict[str, Any] = {"matrices": block(e.pieces[:, :, span])}
    if np.any(e.shown[:, span] != e.rig.rest[:, None]):
        fields["shown"] = np.ascontiguousarray(e.shown[:, span].T, dtype="<i2").tobytes()
    points = [
        BentPoints(item=item, drawing=drawing, count=found.shape[0], data=block(found[:, :, span]))
        for (item, drawing), found in points_of(e).items()
        if found.shape[0]
    ]
    if points:
        fields["points"] = points
    if e.reached:
        fields["reached"] = {
            id: (_track(r.turned[:, span]), _track(r.reached[:, span]), _blend(e, id, span))
            for id, r in e.reached.items()
        }
    return fields


def posed(e: Evaluation, span: slice = slice(None)) -> dict[str, Any]:
    """The fields of `Posed` for some frames."""
    return {"worlds": block(e.worlds[:, :, span]), **drawn(e, span)}


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
    """The evaluation a window follows. Every method returns the letters to send."""

    documents: Documents
    watch: Watch
    seq: int
    studio: Studio
    evaluation: Evaluation | None = None
    spaced: dict[str, Channel] = field(default_factory=dict)
    ring: tuple[int, bool] = (0, False)
    held: Grip | None = None
    hand: Grab | None = None

    def _motion(self) -> Motion | None:
        return self.documents.motion(self.watch.motion) if self.watch.motion else None

    def start(self) -> list[ToPage]:
        """Evaluate everything and send it whole."""
        puppet, motion = self.documents.puppet(self.watch.puppet), self._motion()
        self.evaluation = Evaluation.full(puppet, motion, self.watch.blocking, self.documents.production, self.studio)
        self.spaced = {}
        return [self._plan(self.evaluation), *self._rig(), *self._spacing(motion)]

    def _rig(self) -> list[ToPage]:
        """What the program makes of the rig, for a window that looks at the puppet at rest."""
        if self.watch.motion or self.evaluation is None:
            return []
        return [rig_letter(self.evaluation)]

    def follow(self, documents: Documents, seq: int) -> list[ToPage]:
        """Take up changed documents: send only the frames and spacing that they touch."""
        behind, before = self.documents.backdrop(), self.evaluation
        swatches = self.documents.production.swatches
        self.documents, self.seq = documents, seq
        if self.watch.puppet not in documents.by_id or (self.watch.motion and self.watch.motion not in documents.by_id):
            self.evaluation = None
            return [Gone(seq=seq)]
        puppet, motion = documents.puppet(self.watch.puppet), self._motion()
        stage_kept = documents.backdrop() == behind and documents.production.swatches == swatches
        if before is None or not stage_kept or puppet is not before.puppet:
            return self.start()
        self.evaluation, touched = before.after(puppet, motion, documents.production)
        letters: list[ToPage] = []
        if self.evaluation.frames != before.frames:
            letters.append(self._plan(self.evaluation))
        elif touched.stop > touched.start:
            span = slice(touched.start, touched.stop)
            letters.append(Part(seq=seq, start=touched.start, stop=touched.stop, **posed(self.evaluation, span)))
        return [*letters, *self._spacing(motion)]

    def _plan(self, evaluation: Evaluation) -> PlanLetter:
        fields = posed(evaluation) | self._around(evaluation)
        behind = self.documents.backdrop() if self.watch.motion else None
        if behind is not None and behind.id != self.watch.puppet:
            still = self._at_rest(behind)
            fields["behind"] = Behind(items=self._items(still), **drawn(still))
        rest = evaluation if self.watch.motion is None else self._at_rest(evaluation.puppet)
        return PlanLetter(seq=self.seq, frames=evaluation.frames, watch=self.watch, rest=Posed(**posed(rest)), **fields)

    def _around(self, evaluation: Evaluation) -> dict[str, Any]:
        """What a plan says besides numbers: items, joints and, at rest, where the pivots are."""
        fields: dict[str, Any] = {"items": self._items(evaluation), "joints": evaluation.skeleton.ids}
        if evaluation.motion is None:
            fields["places"] = {id: tuple(round(v, 6) for v in at) for id, at in places_of(evaluation.puppet).items()}
        return fields

    def _at_rest(self, puppet: Puppet) -> Evaluation:
        return Evaluation.full(puppet, None, False, self.documents.production, self.studio)

    def _items(self, evaluation: Evaluation) -> tuple[ItemView, ...]:
        found = items_of(evaluation.puppet, evaluation.production, self.studio, evaluation)
        return tuple(item_view(i, int(rest)) for i, rest in zip(found, evaluation.rig.rest, strict=True))

    def _spacing(self, motion: Motion | None) -> list[ToPage]:
        """Where the in-betweens of changed channels really fall, and their values at every frame."""
        if motion is None:
            return []
        key = (motion.length, motion.cycle)
        known, self.spaced = self.spaced, dict(motion.channels)
        same_ring, self.ring = self.ring == key, key
        wanted = {id: c for id, c in motion.channels.items() if not same_ring or known.get(id) is not c}
        gone = tuple(id for id in known if id not in motion.channels)
        if not wanted and not gone:
            return []
        assert self.evaluation is not None
        keyed = self.evaluation.keyed
        return [Spacing(channels={id: _spaced(c, keyed[id], *key) for id, c in wanted.items()}, gone=gone)]

    def grab(self, hand: Grab) -> list[ToPage]:
        """Close the hand; whatever it held before, it holds no more. Raises `Refusal` if the joint is gone."""
        self.hand = self.held = None
        pose = self._pose(hand.frame, hand.tried)
        joint = joint_under(pose, hand.piece, hand.at) if hand.piece else hand.joint
        if hand.pull == "turn":
            joint = turning(pose.puppet, joint)
        self.held, self.hand = grip(pose, joint, hand.pull, hand.at), hand
        return [] if joint == hand.joint else [Grabbed(joint=joint)]

    def drag(self, drag: Drag) -> list[ToPage]:
        """Move the hand and answer with the pose it makes. Raises `Refusal` if it holds nothing."""
        if self.held is None or self.hand is None:
            raise Refusal("The hand holds nothing.", remedy="Take hold of it again.", kind="missing")
        tried = {**self.hand.tried, **self.held.at(drag.at, drag.whole_steps)}
        return self.try_pose(TryPose(n=drag.n, frame=self.hand.frame, tried=tried))

    def try_pose(self, wanted: TryPose) -> list[ToPage]:
        """One frame with these values tried. Raises `Refusal` if a value is not one of its channel's kind."""
        pose = self._pose(wanted.frame, wanted.tried)
        # The page knows the items and joints from its plan; under a hand only the numbers count.
        return [PoseLetter(n=wanted.n, frame=wanted.frame, tried=wanted.tried, **posed(pose))]

    def try_command(self, wanted: TryCommand) -> list[ToPage]:
        """The watched puppet at rest, as the command would leave it. Raises `Refusal` if it can't be."""
        after = wanted.command.apply(self.documents)
        changed = {id: d for id, d in after.by_id.items() if d is not self.documents.by_id.get(id)}
        for data in drawn_arts(Documents(changed)).values():
            self.studio.put(ART_MEDIA, data)
        puppet = after.puppet(self.watch.puppet)
        pose = Evaluation.full(puppet, None, False, after.production, self.studio)
        return [PoseLetter(n=wanted.n, frame=0, tried={}, **posed(pose), **self._around(pose))]

    def _pose(self, frame: int, tried: Tried | dict[str, tuple[float, ...]]) -> Evaluation:
        for channel, numbers in tried.items():
            typed(kind_of(channel), numbers)
        if self.evaluation is None:
            self.start()
        assert self.evaluation is not None
        return self.evaluation.pose(max(0, min(frame, self.evaluation.frames - 1)), tried)

    def look_at_mesh(self, wanted: LookAtMesh) -> list[ToPage]:
        """The mesh of a bending piece, with one joint's weights."""
        puppet = self.documents.puppet(self.watch.puppet)
        held = piece(puppet, wanted.piece)
        weights = weights_of(puppet, held, held.shown(), self.studio) if isinstance(held.attach, Bend) else None
        if self.evaluation is None:
            self.start()
        assert self.evaluation is not None
        return [*mesh_letters(self.evaluation, held, weights, wanted.joint)]


def _spaced(channel: Channel, values: Floats, length: int, cycle: bool) -> SpacedView:
    found = tuple((g.start, g.end, tuple(round(float(p), 4) for p in g.progress)) for g in gaps(channel, length, cycle))
    return SpacedView(gaps=found, values=np.ascontiguousarray(values, dtype="<f4").tobytes())
