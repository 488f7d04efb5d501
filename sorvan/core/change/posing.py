"""Commands on what joints in hand hold at a frame: keyed, put back to rest, given to the other side."""

from __future__ import annotations

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from sorvan.core.change.command import MotionCommand, Tried, several
from sorvan.core.change.keys import NewKey, SetKeys, owner_name
from sorvan.core.errors import Refusal
from sorvan.core.model.base import Id
from sorvan.core.model.channel import Key
from sorvan.core.model.channels import channel_id, kind_of, owner_of
from sorvan.core.model.documents import Documents
from sorvan.core.model.motion import Motion
from sorvan.core.model.puppet import ROOT, Puppet
from sorvan.core.model.times import Frame
from sorvan.core.motion.mirror import counterparts, mirrored_key
from sorvan.core.motion.posed import at_rest, of_joints, owned, posed
from sorvan.core.rig.facing import Facing, view_of

InHand = Annotated[tuple[Id, ...], Field(min_length=1, max_length=2000)]


def values_keyed(motion: Motion, puppet: Puppet, frame: int, values: Tried) -> Motion:
    """The motion with values, by channel, keyed at a frame."""
    keys = tuple(NewKey(joint=owner_of(id), kind=kind_of(id), frame=frame, value=value) for id, value in values.items())
    return SetKeys(motion=motion.id, keys=keys).on(motion, puppet) if keys else motion


class PosingCommand(MotionCommand):
    """A command that keys what some joints hold at a frame."""

    frame: Frame

    def on(self, motion: Motion, puppet: Puppet) -> Motion:
        return values_keyed(motion, puppet, self.frame, self.values(motion, puppet))

    @abstractmethod
    def values(self, motion: Motion, puppet: Puppet) -> Tried:
        """What is keyed, by channel."""


class KeyJoints(PosingCommand):
    """Key joints in all that they can do: turn and place, whatever else of them and of the pieces on them has keys, each at
    what it holds there, and whatever is tried."""

    do: Literal["key-joints"] = "key-joints"
    joints: InHand
    tried: Tried = {}

    def values(self, motion: Motion, puppet: Puppet) -> Tried:
        wanted = [channel_id(joint, kind) for joint in self.joints for kind in ("turn", "move")]
        own = owned(puppet, self.joints)
        wanted += [id for id, c in motion.channels.items() if c.joint in own]
        return posed(motion, puppet, self.frame, dict.fromkeys(wanted)) | self.tried

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        threads = several(len(self.values(motion, documents.puppet(motion.puppet))), "thread")
        return f"Key {named(documents, motion, self.joints)} at frame {self.frame + 1}: {threads}"


class RestJoints(PosingCommand):
    """Put joints back to rest at a frame, in turn, place and size; or, without joints, everything that is posed there
    except where the puppet as a whole is. What is at rest already gets no key."""

    do: Literal["rest-joints"] = "rest-joints"
    joints: InHand | None = None

    def values(self, motion: Motion, puppet: Puppet) -> Tried:
        every = [id for id, c in motion.channels.items() if c.joint != ROOT]
        mine = every if self.joints is None else [id for id in of_joints(self.joints) if id in motion.channels]
        held = posed(motion, puppet, self.frame, mine)
        return {id: rest for id, value in held.items() if value != (rest := at_rest(motion, puppet, id))}

    def label(self, documents: Documents) -> str:
        motion = documents.motion(self.motion)
        what = "everything" if self.joints is None else named(documents, motion, self.joints)
        return f"Put {what} back to rest at frame {self.frame + 1}"


class MirrorJoints(PosingCommand):
    """Swap what joints hold at a frame with the other side, or only give it to the other side; what is in the middle is
    mirrored where it is. Seen from the `side` both sides hold the same values; from the `front` mirror images."""

    do: Literal["mirror-joints"] = "mirror-joints"
    joints: InHand
    swap: bool = False
    view: Facing | None = None

    def values(self, motion: Motion, puppet: Puppet) -> Tried:
        other = counterparts(puppet)
        mine = owned(puppet, self.joints)
        mine |= {other[owner] for owner in mine if self.swap and owner in other}
        # What only the other side has keys of is at rest on this one, and goes over as that.
        both = {
            channel_id(owner, c.kind)
            for c in motion.channels.values()
            for owner in (c.joint, other.get(c.joint, c.joint))
        }
        wanted = sorted(id for id in both if owner_of(id) in mine)
        view = self.view or view_of(puppet)
        found: Tried = {}
        for id, value in posed(motion, puppet, self.frame, wanted).items():
            owner, kind = owner_of(id), kind_of(id)
            given = mirrored_key(puppet, owner, kind, Key(value=value), view).value
            found[channel_id(other.get(owner, owner), kind)] = given
        if not found:
            raise Refusal(
                "There is nothing to mirror: no keys on either side.",
                where=f"frame {self.frame + 1}",
                remedy="Pose one side first.",
            )
        return found

    def label(self, documents: Documents) -> str:
        who = named(documents, documents.motion(self.motion), self.joints)
        what = f"Swap {who} with the other side" if self.swap else f"Give the other side what {who} holds"
        return f"{what} at frame {self.frame + 1}"


def named(documents: Documents, motion: Motion, joints: tuple[str, ...]) -> str:
    """Joints in a sentence."""
    return several(len(joints), "joint", owner_name(documents.puppet(motion.puppet), joints[0], "turn"))


PosingCommands = KeyJoints | RestJoints | MirrorJoints
