"""A motion as its checks see it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sorvan.core.change.keys import owner_name
from sorvan.core.checks.finding import Finding
from sorvan.core.geometry import Floats
from sorvan.core.model.channel import Channel
from sorvan.core.model.channels import channel_id
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.plan.evaluate import Evaluation
from sorvan.core.plan.ground_contact import Track, tracks
from sorvan.core.plan.plants import travel_of
from sorvan.core.plan.travel import ground_of
from sorvan.core.plan.values import PLANT
from sorvan.core.rig.anatomy import anatomy, has_legs
from sorvan.core.rig.skeleton import ancestors


@dataclass(frozen=True)
class MotionSeen:
    """A motion evaluated, with what the checks ask of it worked out once."""

    evaluation: Evaluation
    motion: Motion

    @property
    def puppet(self) -> Puppet:
        return self.evaluation.puppet

    def owner(self, channel: Channel) -> str:
        return f"“{owner_name(self.puppet, channel.joint, channel.kind)}”"

    def joint(self, id: str) -> str:
        return f"“{self.puppet.joints[id].name}”"

    def joints_of(self, channel: Channel) -> tuple[str, ...]:
        """The joint that a channel moves, if it is one's."""
        return (channel.joint,) if channel.joint in self.puppet.joints else ()

    def showing(self, owner: str) -> NDArray[np.bool_]:
        """In which frames something shows of what a joint or a piece moves or changes `(frames,)`. What else owns
        channels, and what limbs reach for, may change anything."""
        held = self.puppet.joints.get(owner)
        anything = owner not in self.puppet.pieces and (held is None or held.handle)
        return self._shown[ROOT if anything else owner]

    @cached_property
    def _shown(self) -> Mapping[str, NDArray[np.bool_]]:
        """The same by all that is shown something of, and of anything by the root."""
        puppet, count = self.puppet, self.motion.length
        found = defaultdict[str, NDArray[np.bool_]](lambda: np.zeros(count, dtype=bool))
        for piece in puppet.pieces.values():
            if puppet.unseen(piece):
                continue
            nodes = (piece.joint, *(piece.attach.nodes if piece.attach is not None else ()))
            opacity = self.evaluation.values.get(channel_id(piece.id, "opacity"))
            shows = (np.full(count, 100.0) if opacity is None else opacity[0]) * piece.opacity > 0
            for owner in {ROOT, piece.id, *nodes, *(a for n in nodes for a in ancestors(puppet.joints, n))}:
                found[owner] = found[owner] | shows
        return found

    @cached_property
    def ground(self) -> float:
        return ground_of(self.motion, self.puppet)

    @cached_property
    def feet(self) -> list[Track]:
        return tracks(self.evaluation, anatomy(self.evaluation.stance).legs) if has_legs(self.puppet) else []

    def slide(self, foot: Track) -> Floats:
        travel = travel_of(self.motion).real
        return foot.slide(self.ground, self.motion.ground.runs, self.motion.cycle, travel)

    def held(self, joint: str) -> NDArray[np.bool_]:
        """In which frames a joint is wholly planted."""
        found = self.evaluation.values.get(channel_id(joint, PLANT))
        return np.zeros(self.motion.length, dtype=bool) if found is None else found[0] >= 1

    def turned(self, joint: str) -> Floats:
        """How far a joint is turned from its rest in the end, after reaching and planting (degrees)."""
        local = self.evaluation.places.planted[self.evaluation.rig.row[joint]]
        way = np.where(local[0] ** 2 + local[1] ** 2 > 0, np.arctan2(local[1], local[0]), 0.0)
        # A size below nought turns the axis round, which is no turn.
        scale = self.evaluation.values.get(channel_id(joint, "scale"))
        if scale is not None:
            way = np.where(scale[0] < 0, way + np.pi, way)
        rest = self.puppet.joints[joint].rest
        way = way + (np.pi if rest.sx < 0 else 0.0) - np.deg2rad(rest.angle)
        found: Floats = np.rad2deg(np.unwrap(way))
        return found - 360.0 * float(np.round(found[0] / 360))


def frames_said(first: int, last: int) -> str:
    """Frames as they are counted on the screen; in a cycle they may lead over its end."""
    if first > last:
        return f"from frame {first + 1} over the end to frame {last + 1}"
    return f"at frame {first + 1}" if first == last else f"between frames {first + 1} and {last + 1}"


MotionCheck = Callable[[MotionSeen], Iterator[Finding]]
